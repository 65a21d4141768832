package land

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// typist is a key that types a character, in the held layer or outside, and the landing that has it do so, -1 for
// none.
type typist struct {
	key   keys.Key
	layer bool
	by    int
}

// keysThatTypeAlike are the keys of a layer for one press on Windows, where it is a dead key, which goes by what the
// next key types: so a key has no meaning of its own there if another types the same.
func keysThatTypeAlike(b *Landed) (list []strike) {
	if _, once := b.Machine.LayerOf(intent.DeadState); !once || b.Machine.System != machine.Windows {
		return nil
	}
	for _, l := range b.Machine.Layouts {
		typed := b.typists(l)
		for i := range b.Landings {
			at := &b.Landings[i]
			c := at.Binding.Chord
			if _, is := b.Machine.LayerState(at.Binding.Layer); is != intent.DeadState || !at.at(mechanism.Layout) {
				continue
			}
			for _, mods := range []keys.Mods{0, keys.Shift} {
				text, _ := l.Type(keys.TypeState{}, c.Key, mods)
				n := slices.IndexFunc(typed[text], func(t typist) bool {
					return (t.layer || t.key != c.Key) && !b.sameInLayer(at, t.key)
				})
				if text != "" && n >= 0 && !slices.ContainsFunc(list, func(s strike) bool { return s.at == i }) {
					o := typed[text][n]
					list = append(list, strike{at: i, why: reason.WindowsDeadAlike.Of(o.key, text), by: o.by})
				}
			}
		}
	}
	return list
}

// sameInLayer says whether a key does the same in a layer as another one.
func (b *Landed) sameInLayer(l *Landing, k keys.Key) bool {
	return slices.ContainsFunc(b.Landings, func(o Landing) bool {
		return o.Binding.Layer == l.Binding.Layer && o.Binding.Chord.Key == k && k != l.Binding.Chord.Key &&
			o.Mechanism == l.Mechanism && o.Binding.Effect.Equal(l.Binding.Effect)
	})
}

// typists are the keys that type each character under a layout and what landed in it.
func (b *Landed) typists(l *keys.Layout) map[string][]typist {
	typed := map[string][]typist{}
	add := func(text string, t typist) {
		if text != "" {
			typed[text] = append(typed[text], t)
		}
	}
	changed := map[behaviour.Place]bool{}
	held, _ := b.Machine.LayerOf(intent.BitState)
	for i := range b.Landings {
		at := &b.Landings[i]
		layer := at.Binding.Layer != "" && at.Binding.Layer == held.Layer
		if !at.at(mechanism.Layout) || at.Binding.Layer != "" && !layer {
			continue
		}
		changed[at.Binding.Place()] = true
		t := typist{at.Binding.Chord.Key, layer, i}
		switch e := at.Written().Effect; e.Kind {
		case behaviour.Types:
			add(e.Text, t)
		case behaviour.Becomes:
			for _, mods := range []keys.Mods{0, keys.Shift} {
				text, _ := l.Type(keys.TypeState{}, e.Key, mods)
				add(text, t)
			}
		default: // it types nothing
		}
	}
	for _, k := range keys.All() {
		if k.Section() != keys.Writing && k.String() != "Space" {
			continue
		}
		for _, mods := range []keys.Mods{0, keys.Shift, keys.AltGr, keys.AltGr | keys.Shift} {
			plain := behaviour.Place{Level: behaviour.Position, Chord: keys.Chord{Key: k}}
			chord := behaviour.Place{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods, Key: k}}
			if changed[chord] || changed[plain] && !mods.Has(keys.AltGr) {
				continue
			}
			text, _ := l.Type(keys.TypeState{}, k, mods)
			add(text, typist{key: k, by: -1})
		}
	}
	return typed
}
