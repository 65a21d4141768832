package keymap_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/internal/sample"
)

// Locks stay, latches last for one key, and letting a key go undoes what it did.
func TestState(t *testing.T) {
	l, ok := keys.FindLayout("de(T3)") // AltRight with Shift latches a fifth level
	require.True(t, ok)
	k := keymap.Build([]*keys.Layout{l}, nil, nil)
	s := k.NewState()
	key := func(code string) *keymap.Key {
		found, ok := k.KeyOf(sample.Key(code))
		require.True(t, ok, code)
		return found
	}
	tap := func(code string) string {
		given := s.Get(key(code)).Keysym
		s.Press(key(code))
		s.Release(key(code))
		return given
	}
	assert.Equal(t, "a", tap("KeyA"))
	tap("CapsLock")
	assert.Equal(t, "A", tap("KeyA"))
	assert.Equal(t, "A", tap("KeyA"), "a lock stays")
	tap("CapsLock")
	assert.Equal(t, "a", tap("KeyA"))

	s.Press(key("ShiftLeft"))
	s.Press(key("ShiftRight"))
	s.Release(key("ShiftLeft"))
	assert.Equal(t, "A", tap("KeyA"), "the other Shift is still held")
	s.Release(key("ShiftRight"))
	assert.Zero(t, s.Mods())

	s.Press(key("ShiftLeft"))
	tap("AltRight")
	s.Release(key("ShiftLeft"))
	assert.NotZero(t, s.Mods(), "the latch waits for a key")
	fifth := tap("Backquote")
	assert.NotEqual(t, fifth, tap("Backquote"), "and is gone after it")
	assert.Zero(t, s.Mods())
}

// A group latched by a tap serves the next key; held, it holds.
func TestGroupLatch(t *testing.T) {
	de, _ := keys.FindLayout("de")
	change := keymap.Change{Steps: []keymap.GroupStep{{How: "once", By: 1}, {How: "once", By: 1}}}
	for range 2 {
		change.Groups = append(change.Groups, keymap.GroupOf("ONE_LEVEL", []string{"VoidSymbol"}))
	}
	other := keymap.Change{
		Groups: []keymap.Group{
			keymap.GroupOf("ONE_LEVEL", []string{"h"}),
			keymap.GroupOf("ONE_LEVEL", []string{"Left"}),
		},
	}
	k := keymap.Build([]*keys.Layout{de}, map[string]keymap.Change{"RCTL": change, "AC06": other}, nil)
	s := k.NewState()
	press := func(name string) string { got := s.Get(k.Keys[name]).Keysym; s.Press(k.Keys[name]); return got }
	tap := func(name string) string { got := press(name); s.Release(k.Keys[name]); return got }
	tap("RCTL")
	tap("LFSH")
	assert.Equal(t, []string{"Left", "h"}, []string{tap("AC06"), tap("AC06")})
	press("RCTL")
	assert.Equal(t, []string{"Left", "Left"}, []string{tap("AC06"), tap("AC06")})
	s.Release(k.Keys["RCTL"])
	assert.Equal(t, "h", tap("AC06"), "it was held, not tapped")
}

func TestMaskNames(t *testing.T) {
	assert.Equal(t, []string{"Shift", "Mod4"}, (keymap.Shift | keymap.Mod4).Names())
}

// What a key gives goes by the modifiers that it watches; the others are left over.
func TestWatches(t *testing.T) {
	for _, name := range []string{"de", "us", "de(T3)", "fr(oss)", "gb"} {
		l, ok := keys.FindLayout(name)
		require.True(t, ok)
		k := keymap.Build([]*keys.Layout{l}, nil, nil)
		for _, key := range k.Keys {
			for on := range keymap.Masks {
				on := keymap.Mask(on)
				want := k.At(key, on&key.Watches(), 0)
				want.Left |= on &^ key.Watches()
				require.Equal(t, want, k.At(key, on, 0), "%s: %s with %v", name, key.Name, on.Names())
			}
		}
	}
}
