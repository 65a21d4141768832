package behaviour_test

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/internal/sample"
)

func TestCompare(t *testing.T) {
	start := behaviour.Launch{Command: []string{"tidegauge", "a b"}}
	before := []behaviour.Binding{
		sample.Becomes("CapsLock", "Escape"), sample.Nothing("Insert"), sample.Launch(keys.Ctrl, "KeyT", start),
		sample.On("wheelhouse", sample.Nothing("Insert")), // says no more than the one for every board
	}
	after := []behaviour.Binding{
		sample.Launch(keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"tidegauge", "a", "b"}}),
		sample.Becomes("CapsLock", "Escape"), sample.On("wheelhouse", sample.Becomes("Pause", "F13")),
	}
	var got []string
	for _, c := range behaviour.Compare(before, after) {
		got = append(got, fmt.Sprintf("%s: %v, %v", c.Press, c.Before, c.After))
	}
	assert.Equal(t, []string{
		"Insert: does nothing, <nil>",
		"Pause on wheelhouse: <nil>, acts as F13",
		`Ctrl+KeyT: runs tidegauge "a b", runs tidegauge a b`,
	}, got)
	assert.Empty(t, behaviour.Compare(before, before))
}

func TestWords(t *testing.T) {
	b := sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Open: "https://tides.example", Dir: "/log", Confirm: true})
	b.Then = []keys.Chord{{Key: sample.Key("KeyW")}}
	b.Apps = []string{"terminal"}
	assert.Equal(t, "Hyper+KeyT, KeyW in terminal opens https://tides.example in /log, after asking", b.String())
}

// Two effects that differ in any field are not equal.
func TestEffectsDifferInAnyField(t *testing.T) {
	var e behaviour.Effect
	differInAnyField(t, reflect.ValueOf(&e).Elem(), func() bool { return e.Equal(behaviour.Effect{}) })
	var l behaviour.Launch
	nothing := behaviour.Launching(behaviour.Launch{})
	for _, o := range []behaviour.Effect{
		behaviour.Choosing([]string{"File"}), behaviour.Playing([]behaviour.Step{{Type: "x"}}),
	} {
		o.Kind = nothing.Kind
		assert.False(t, nothing.Equal(o))
	}
	differInAnyField(t, reflect.ValueOf(&l).Elem(), func() bool {
		started := behaviour.Launching(l)
		assert.True(t, started.Equal(behaviour.Launching(l)))
		return nothing.Equal(started)
	})
}

// differInAnyField sets the fields of a struct, one after the other, and has each make a difference.
func differInAnyField(t *testing.T, v reflect.Value, equal func() bool) {
	for i := range v.NumField() {
		f, name := v.Field(i), v.Type().Field(i).Name
		require.True(t, equal())
		switch {
		case name == "rest": // which has functions of its own
			continue
		case f.Type() == reflect.TypeFor[keys.Chord]():
			differInAnyField(t, f, equal)
			continue
		case f.Kind() == reflect.String:
			f.SetString("x")
		case f.Kind() == reflect.Bool:
			f.SetBool(true)
		case f.Kind() == reflect.Slice:
			f.Set(reflect.MakeSlice(f.Type(), 1, 1))
		case f.Kind() == reflect.Pointer:
			f.Set(reflect.New(f.Type().Elem()))
		case f.Kind() == reflect.Int64:
			f.SetInt(1)
		case f.Kind() == reflect.Interface:
			f.Set(reflect.ValueOf(behaviour.Words{"x"}))
		default:
			f.SetUint(1)
		}
		assert.False(t, equal(), name)
		f.SetZero()
	}
}

// Bindings come to lie as a stable sort by their places has them.
func TestSort(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var list, want []behaviour.Binding
		for i := range rapid.IntRange(0, 12).Draw(t, "bindings") {
			b := sample.Becomes(rapid.SampledFrom([]string{"KeyA", "KeyB", "KeyC", "F7"}).Draw(t, "key"), "F13")
			b.Board, b.Effect.Text = rapid.SampledFrom([]string{"", "wheelhouse"}).Draw(t, "board"), fmt.Sprint(i)
			list = append(list, b)
		}
		want = slices.Clone(list)
		slices.SortStableFunc(want, func(a, b behaviour.Binding) int {
			return cmp.Or(cmp.Compare(a.Board, b.Board), cmp.Compare(a.Chord.Key, b.Chord.Key))
		})
		behaviour.Sort(list)
		require.Equal(t, want, list)
	})
}
