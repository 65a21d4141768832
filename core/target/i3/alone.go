package i3

import (
	"fmt"
	"maps"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/target"
)

// aloneKeys are the keysyms of the keys that hold a modifier and nothing else, the left
// side first. They are bound by their release, and act when no other key was pressed in between.
var aloneKeys = []aloneKey{
	{keys.Ctrl, keys.CtrlLeft, keys.CtrlRight, []string{"Control_L", "Control_R"}},
	{keys.Alt, keys.AltLeft, keys.AltRight, []string{"Alt_L", "Alt_R"}},
	{keys.Shift, keys.ShiftLeft, keys.ShiftRight, []string{"Shift_L", "Shift_R"}},
	{keys.Meta, keys.MetaLeft, keys.MetaRight, []string{"Super_L", "Super_R"}},
	{keys.Hyper, 0, 0, []string{"Hyper_L"}},
}

type aloneKey struct {
	mod, left, right keys.Mods
	keysyms          []string
}

// releases is what a binding needs that is for the release of a key.
const releases = "--release "

// alone names the keys of a modifier, none for what is not one.
func alone(mods keys.Mods) []string {
	for _, a := range aloneKeys {
		switch mods {
		case a.mod:
			return a.keysyms
		case 0:
		case a.left:
			return a.keysyms[:1]
		case a.right:
			return a.keysyms[1:]
		}
	}
	return nil
}

// released finds what modifiers do alone: either side where both do the same.
func (r *reader) released() error {
	for _, a := range aloneKeys {
		var found []string // by side
		for _, sym := range a.keysyms {
			found = append(found, r.alone[sym])
			delete(r.alone, sym)
		}
		sides := []keys.Mods{a.left, a.right}
		if !slices.ContainsFunc(found, func(s string) bool { return s != found[0] }) {
			found, sides = found[:1], []keys.Mods{a.mod}
		}
		for i, does := range found {
			if does != "" {
				r.found.Add(target.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: sides[i]}, Effect: r.effect(does)}, "does one thing or another")
			}
		}
	}
	for _, sym := range slices.Sorted(maps.Keys(r.alone)) {
		return fmt.Errorf("%q is no modifier", sym)
	}
	return nil
}
