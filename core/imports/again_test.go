package imports

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
)

// Of keys that a file cannot tell apart one is taken over: the one that more boards have. The others say
// nothing new where they do the same, in the same place.
func TestAgain(t *testing.T) {
	k, _ := keys.ByCode("NumpadComma")
	decimal, _ := keys.ByCode("NumpadDecimal")
	with := func(mods keys.Mods, key keys.Key, more func(*behaviour.Binding)) behaviour.Binding {
		b := behaviour.Binding{
			Level:      behaviour.Hotkey,
			Chord:      keys.Chord{Mods: mods, Key: key},
			Effect:     behaviour.Effect{Kind: behaviour.Nothing},
			Provenance: behaviour.Provenance{Kept: true, Alike: k},
		}
		if more != nil {
			more(&b)
		}
		return b
	}
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
		"as the system does":  {with(keys.Alt, k, func(b *behaviour.Binding) { b.Alike = keys.None }), true},
		"of other twins":      {with(keys.Ctrl, k, func(b *behaviour.Binding) { b.Alike = decimal }), false},
	} {
		list := []behaviour.Binding{c.b, with(keys.Ctrl, decimal, nil)}
		assert.Equal(t, c.want, again(list, 0), name)
		assert.False(t, again(list, 1), name)
	}
}
