package press

import (
	"cmp"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
)

// Taken is a chord and what each machine does with it, "" for nothing.
type Taken struct {
	Chord keys.Chord
	By    []By // in the order of the machines
}

// By is what one machine does with a chord, and whether the mapping says so.
type By struct {
	Words   string
	Mapping bool
}

// Modifiers reads modifiers, Primary and the mapping's own names among them, as they are on
// each machine.
func Modifiers(mp *mapping.Mapping, builds []*compile.Build, text string) ([]keys.Mods, error) {
	own := mp.ModifierNames("")
	s, err := keys.ParseChord(text+"+F1", own, diag.Nearest)
	if err != nil {
		return nil, spellingError(err)
	}
	list := make([]keys.Mods, len(builds))
	for i, b := range builds {
		c, err := intent.Chord(mp, b.Intent, s)
		if err != nil {
			return nil, err
		}
		list[i] = c.Mods
	}
	return list, nil
}

// Chords lists the chords with these modifiers, 0 for all on a machine, that some machine does something
// with: by the mapping, or by the desktop as it comes.
func Chords(builds []*compile.Build, mods []keys.Mods) []Taken {
	found := map[keys.Chord][]By{}
	note := func(c keys.Chord, machine int, by By) {
		if mods[machine] != 0 && !c.Overlaps(keys.Chord{Mods: mods[machine], Key: c.Key}) {
			return
		}
		if found[c] == nil {
			found[c] = make([]By, len(builds))
		}
		if found[c][machine].Words == "" {
			found[c][machine] = by
		}
	}
	for i, b := range builds {
		for _, l := range b.Landings {
			if l.Binding.Level == behaviour.Hotkey && l.Target != nil && len(l.Binding.Then) == 0 {
				note(l.Binding.Chord, i, By{l.Binding.Effect.String(), true})
			}
		}
		for _, u := range desktop.Uses(b.Machine) {
			note(u.Chord, i, By{u.Words, false})
		}
	}
	var list []Taken
	for c, by := range found {
		list = append(list, Taken{c, by})
	}
	slices.SortFunc(list, func(a, b Taken) int {
		return cmp.Or(cmp.Compare(a.Chord.Mods, b.Chord.Mods), cmp.Compare(a.Chord.Key, b.Chord.Key))
	})
	return list
}

// Gaps says of which machines we do not know all the chords that the desktop uses.
func Gaps(builds []*compile.Build) []string {
	var list []string
	for _, b := range builds {
		if gap := desktop.Gap(b.Machine); gap != "" {
			list = append(list, b.Machine.Name+" ("+b.Machine.Place()+"): "+gap)
		}
	}
	return list
}

// UsualMods are the modifiers that hotkeys are made with, where none are named.
var UsualMods = []keys.Mods{keys.Meta, keys.Ctrl | keys.Alt, keys.Shift | keys.Meta, keys.Ctrl | keys.Meta, keys.Hyper}

// Free lists the keys that make a chord with these modifiers which no machine does
// anything with.
func Free(builds []*compile.Build, mods []keys.Mods) []keys.Key {
	taken := map[keys.Key]bool{}
	for _, t := range Chords(builds, mods) {
		for i, by := range t.By {
			if by.Words != "" && t.Chord.Overlaps(keys.Chord{Mods: mods[i], Key: t.Chord.Key}) {
				taken[t.Chord.Key] = true
			}
		}
	}
	return slices.DeleteFunc(desktop.Pressable(), func(k keys.Key) bool { return taken[k] })
}
