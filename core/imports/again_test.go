package imports

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
)

// A second key that a file cannot tell from the first says nothing new where the first one
// does the same for the same press, in the same place.
func TestAgain(t *testing.T) {
	k, _ := keys.ByCode("NumpadEnter")
	enter, _ := keys.ByCode("Enter")
	with := func(mods keys.Mods, key keys.Key, more func(*behaviour.Binding)) behaviour.Binding {
		b := behaviour.Binding{
			Level:      behaviour.Hotkey,
			Chord:      keys.Chord{Mods: mods, Key: key},
			Effect:     behaviour.Effect{Kind: behaviour.Nothing},
			Provenance: behaviour.Provenance{Kept: true, Alike: true},
		}
		if more != nil {
			more(&b)
		}
		return b
	}
	s := Source{Bindings: []behaviour.Binding{with(keys.Ctrl, enter, nil)}}
	for name, c := range map[string]struct {
		b    behaviour.Binding
		want bool
	}{
		"its twin":            {with(keys.Ctrl, k, nil), true},
		"with Shift":          {with(keys.Ctrl|keys.Shift, k, nil), true},
		"other modifiers":     {with(keys.Alt, k, nil), false},
		"of another level":    {with(keys.Ctrl, k, func(b *behaviour.Binding) { b.Level = behaviour.Position }), false},
		"in a layer":          {with(keys.Ctrl, k, func(b *behaviour.Binding) { b.Layer = "nav" }), false},
		"with another effect": {with(keys.Ctrl, k, func(b *behaviour.Binding) { b.Effect.Kind = behaviour.Composes }), false},
		"as the system does":  {with(keys.Alt, k, func(b *behaviour.Binding) { b.Alike = false }), true},
	} {
		assert.Equal(t, c.want, again(s, c.b), name)
	}
}
