package keymap

import (
	"slices"

	"leitstand/core/keys"
)

// Outcome is all that a press of a key does in one state of the modifiers: what
// it gives, and what it does to the state while it is held.
type Outcome struct {
	Given
	Sets   Mask // modifiers that are on while the key is held
	Locks  Mask // modifiers that stay on
	Latch  Mask // modifiers that are on for the next key
	Group  int  // what it does to the group
	Action string
	Redirect
}

// Redirect is a press of another key in place of one's own, with modifiers switched on
// and off for it; To is "" for no such thing.
type Redirect struct {
	To           string
	Adds, Clears Mask
}

// Masks is how many states of the modifiers there are.
const Masks = 256

// At says what a press of the key does with the modifiers on and the group in use.
func (k *Keymap) At(key *Key, on Mask, group int) Outcome {
	level, used := k.level(key, on, group)
	o := Outcome{Given: given(key, level, on, used)}
	if level == nil {
		return o
	}
	switch a := level.does(); a.kind {
	case setMods:
		o.Sets = a.mask
	case lockMods:
		o.Locks = a.mask
	case latchMods:
		o.Latch = a.mask
	case redirectKey:
		o.Redirect = Redirect{a.to, a.mask, a.cleared}
	case setGroup, lockGroup, latchGroup:
		o.Action, o.Group = [...]string{"holds group", "locks group", "latches group"}[a.kind-setGroup], a.group
	}
	return o
}

// Like says whether two keys of two keymaps do the same in every state, told from
// their definitions alone.
func (k *Keymap) Like(key *Key, o *Keymap, other *Key) bool {
	if key == other {
		return true // shared
	}
	if key.Repeats != other.Repeats || len(key.Groups) != len(other.Groups) {
		return false
	}
	for g := range key.Groups {
		a, b := &key.Groups[g], &other.Groups[g]
		if a.Type != b.Type || len(a.Levels) != len(b.Levels) || !sameType(k.types[a.Type], o.types[b.Type]) {
			return false
		}
		for l := range a.Levels {
			x, y := a.Levels[l].does(), b.Levels[l].does()
			if !slices.Equal(a.Levels[l].Syms, b.Levels[l].Syms) || x.kind != y.kind || x.mask != y.mask ||
				x.group != y.group ||
				x.relative != y.relative || x.clearLocks != y.clearLocks || x.to != y.to ||
				x.cleared != y.cleared {
				return false
			}
		}
	}
	return true
}

func sameType(a, b *keyType) bool {
	if a == nil || b == nil {
		return a == b
	}
	if a.mask != b.mask || len(a.entries) != len(b.entries) {
		return false
	}
	for i := range a.entries {
		x, y := &a.entries[i], &b.entries[i]
		if x.mask != y.mask || x.preserved != y.preserved || x.level != y.level || x.dead != y.dead {
			return false
		}
	}
	return true
}

// Held is the real modifiers that a chord's modifiers are in this keymap, sides
// put aside.
func (k *Keymap) Held(mods keys.Mods) Mask {
	var m Mask
	for _, h := range heldMods {
		if mods.Has(h.mod) {
			m |= h.real | k.vmods[h.virtual]
		}
	}
	return m
}

// heldMods are the modifiers of chords, as real or as virtual ones.
var heldMods = []struct {
	mod     keys.Mods
	real    Mask
	virtual string
}{{keys.Shift, Shift, ""}, {keys.Ctrl, Control, ""}, {keys.Alt, 0, "Alt"}, {keys.Meta, 0, "Super"}, {keys.AltGr, 0, "LevelThree"}, {keys.Hyper, 0, "Hyper"}}

// Virtual is the real modifiers of a virtual one.
func (k *Keymap) Virtual(name string) Mask { return k.vmods[name] }

// Watches is every modifier that a press of the key goes by; another that is on is
// left over, and that is all.
func (key *Key) Watches() Mask {
	m := Lock // capitals
	for g := range key.Groups {
		if t := key.Groups[g].typ; t != nil {
			m |= t.mask
		}
	}
	return m
}

// Reach is every modifier that a key can turn on.
func (key *Key) Reach() Mask {
	var m Mask
	for g := range key.Groups {
		for l := range key.Groups[g].Levels {
			switch a := key.Groups[g].Levels[l].does(); a.kind {
			case setMods, lockMods, latchMods:
				m |= a.mask
			}
		}
	}
	return m
}
