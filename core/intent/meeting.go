package intent

import (
	"fmt"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/mapping"
)

// meeting says what two rules have in common that claim one press, and how to tell them
// apart.
func (r *resolver) meeting(a, b *Entry, nested bool) (summary, advice string) {
	summary = fmt.Sprintf("two rules claim %s", claimed(a.Binding))
	short, long := a.Binding, b.Binding
	if len(short.Then) > len(long.Then) {
		short, long = long, short
	}
	switch {
	case len(short.Then) < len(long.Then):
		return fmt.Sprintf("%s begins %s", claimed(short), claimed(long)),
			"what waits for the next stroke cannot act on the first: begin one of them by another chord"
	case r.sameByHyper(a, b):
		return fmt.Sprintf("%s: Hyper holds %s on %s", summary, strings.Join(r.HyperMods.Names(), "+"), r.Machine.Name),
			"modifiers that Hyper holds make no difference there: use another key for one of them, or let Hyper " +
				"stand for fewer with as"
	}
	if text, ok := otherSide(a.Binding.Chord, b.Binding.Chord); ok {
		return summary, text
	}
	if text, ok := otherSide(b.Binding.Chord, a.Binding.Chord); ok {
		return summary, text
	}
	if !nested {
		return summary, "neither scope is part of the other; a third rule, nested in both scopes, says which is " +
			"meant where both hold"
	}
	return summary, "take one of them out, or scope one more narrowly, inside the other's scope"
}

// sameByHyper says whether two chords are one because of the modifiers that Hyper holds.
func (r *resolver) sameByHyper(a, b *Entry) bool {
	return r.HyperMods != keys.Hyper && r.HasHyper && a.Binding.Chord == b.Binding.Chord &&
		a.Binding.Chord.Mods.Has(r.HyperMods) &&
		mapping.Subject(a.Rule) != mapping.Subject(b.Rule)
}

// otherSide proposes the side that a chord for either could name, where another chord names
// one.
func otherSide(either, one keys.Chord) (string, bool) {
	for _, side := range []struct{ bare, left, right keys.Mods }{
		{keys.Ctrl, keys.CtrlLeft, keys.CtrlRight}, {keys.Alt, keys.AltLeft, keys.AltRight},
		{keys.Shift, keys.ShiftLeft, keys.ShiftRight}, {keys.Meta, keys.MetaLeft, keys.MetaRight},
	} {
		if !either.Mods.Has(side.bare) || one.Mods&(side.left|side.right) == 0 {
			continue
		}
		free := side.left
		if one.Mods.Has(side.left) {
			free = side.right
		}
		said := either
		said.Mods = either.Mods&^side.bare | free
		return fmt.Sprintf("%s is for either side: say %s in it, and the two are apart", either, said), true
	}
	return "", false
}
