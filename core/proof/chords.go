package proof

import (
	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mechanism/linux/xkb/keymap"
)

// chordMods are the modifiers that make one chord another: all but locks.
const chordMods = keymap.Shift | keymap.Control | keymap.Mod1 | keymap.Mod3 | keymap.Mod4 | keymap.Mod5

// chords compares a key of which some chords are to be other chords.
func (p *prover) chords(written, bare *keymap.Keymap, k keys.Key, list []land.Landing) {
	key, _ := written.KeyOf(k)
	model, _ := bare.KeyOf(k)
	p.compare(k, key.Watches()|model.Watches()|chordMods, func(on keymap.Mask, g int) (keymap.Outcome, keymap.Outcome) {
		want, got := bare.At(model, on, g), written.At(key, on, g)
		for _, l := range list {
			to := l.Binding.Effect.Chord
			if l.Binding.Effect.Kind == behaviour.Becomes {
				to = keys.Chord{Key: l.Binding.Effect.Key}
			}
			if from := l.Binding.Chord.Mods; on&chordMods == written.Held(from) {
				want.To, _ = to.Key.XKB()
				want.Adds, want.Clears = written.Held(to.Mods&^from), written.Held(from&^to.Mods)
				want.Keysym = got.Keysym // which nobody sees: the other key's is looked up
			}
		}
		return want, got
	}, list[0])
}

// sent is the key that is pressed in place of a press's own, if there is one.
func sent(l land.Landing) (keys.Key, bool) {
	switch e := l.Binding.Effect; {
	case e.Kind == behaviour.Sends:
		return e.Chord.Key, true
	case e.Kind == behaviour.Becomes && l.Binding.Level == behaviour.Hotkey:
		return e.Key, true
	}
	return keys.None, false
}
