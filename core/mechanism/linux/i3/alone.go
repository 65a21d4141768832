package i3

import (
	"fmt"
	"maps"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
)

// A modifier alone is bound by its release, and acts when no other key was pressed in between.

// releases is what a binding needs that is for the release of a key.
const releases = "--release "

// alone names the keys of a modifier, none for what is not one.
func alone(mods keys.Mods) []string {
	for _, a := range accelerator.ModifierKeys {
		switch mods {
		case a.Mod:
			return a.Keysyms
		case 0:
		case a.Left:
			return a.Keysyms[:1]
		case a.Right:
			return a.Keysyms[1:]
		}
	}
	return nil
}

// released finds what modifiers do alone: either side where both do the same.
func (r *reader) released() error {
	for _, a := range accelerator.ModifierKeys {
		var found []string // by side
		for _, sym := range a.Keysyms {
			found = append(found, r.alone[sym])
			delete(r.alone, sym)
		}
		sides := []keys.Mods{a.Left, a.Right}
		if !slices.ContainsFunc(found, func(s string) bool { return s != found[0] }) {
			found, sides = found[:1], []keys.Mods{a.Mod}
		}
		for i, does := range found {
			if does != "" {
				r.found.Add(
					mechanism.Binding{
						Level:  behaviour.Hotkey,
						Chord:  keys.Chord{Mods: sides[i]},
						Effect: r.effect(does),
					},
					"does one thing or another",
				)
			}
		}
	}
	for _, sym := range slices.Sorted(maps.Keys(r.alone)) {
		return fmt.Errorf("%q is no modifier", sym)
	}
	return nil
}
