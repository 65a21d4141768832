package station

import (
	"cmp"
	"slices"

	"leitstand/core/behaviour"
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
func Modifiers(mp *mapping.Mapping, stations []*Station, text string) ([]keys.Mods, error) {
	own := mp.ModifierNames("")
	s, err := keys.ParseChord(text+"+F1", own, diag.Nearest)
	if err != nil {
		return nil, spellingError(err)
	}
	list := make([]keys.Mods, len(stations))
	for i, st := range stations {
		c, err := intent.Chord(mp, st.build.Intent, s)
		if err != nil {
			return nil, err
		}
		list[i] = c.Mods
	}
	return list, nil
}

// Chords lists the chords with these modifiers, 0 for all on a machine, that some machine does something
// with: by the mapping, or by the desktop as it comes.
func Chords(stations []*Station, mods []keys.Mods) []Taken {
	found := map[keys.Chord][]By{}
	note := func(c keys.Chord, machine int, by By) {
		if mods[machine] != 0 && !c.Overlaps(keys.Chord{Mods: mods[machine], Key: c.Key}) {
			return
		}
		if found[c] == nil {
			found[c] = make([]By, len(stations))
		}
		if found[c][machine].Words == "" {
			found[c][machine] = by
		}
	}
	for i, s := range stations {
		for _, e := range s.all().entries {
			if e.Level == behaviour.Hotkey && len(e.Then) == 0 {
				note(e.Chord, i, By{e.Effect.String(), e.Landing != nil})
			}
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
func Gaps(stations []*Station) []string {
	var list []string
	for _, s := range stations {
		if gap := desktop.Gap(s.machine); gap != "" {
			list = append(list, s.machine.Name+" ("+s.machine.Place()+"): "+gap)
		}
	}
	return list
}

// UsualMods are the modifiers that hotkeys are made with, where none are named.
var UsualMods = []keys.Mods{keys.Meta, keys.Ctrl | keys.Alt, keys.Shift | keys.Meta, keys.Ctrl | keys.Meta, keys.Hyper}

// Free lists the keys that make a chord with these modifiers which no machine does
// anything with.
func Free(stations []*Station, mods []keys.Mods) []keys.Key {
	taken := map[keys.Key]bool{}
	for _, t := range Chords(stations, mods) {
		for i, by := range t.By {
			if by.Words != "" && t.Chord.Overlaps(keys.Chord{Mods: mods[i], Key: t.Chord.Key}) {
				taken[t.Chord.Key] = true
			}
		}
	}
	return slices.DeleteFunc(desktop.Pressable(), func(k keys.Key) bool { return taken[k] })
}
