package behaviour_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

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
		`Ctrl+KeyT: run tidegauge "a b", run tidegauge a b`,
	}, got)
	assert.Empty(t, behaviour.Compare(before, before))
}

func TestWords(t *testing.T) {
	b := sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Open: "https://tides.example", Dir: "/log", Confirm: true})
	b.Then = []keys.Chord{{Key: sample.Key("KeyW")}}
	b.Apps = []string{"terminal"}
	assert.Equal(t, "Hyper+KeyT, KeyW in terminal open https://tides.example in /log, after a question", b.String())
}
