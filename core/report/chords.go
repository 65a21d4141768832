package report

import (
	"slices"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/station"
)

// Free is what chords --free says.
type Free struct {
	Version  int        `json:"version"`
	Free     []FreeKeys `json:"free"`
	Machines []string   `json:"machines"`
	Unknown  []string   `json:"unknown,omitempty"` // where the list is not whole, in words
}

// FreeKeys are the keys with which modifiers make a chord that no machine uses.
type FreeKeys struct {
	Modifiers string   `json:"modifiers"`
	Keys      []string `json:"keys"`
}

// Chords is what chords says.
type Chords struct {
	Version  int      `json:"version"`
	Chords   []Chord  `json:"chords"`
	Machines []string `json:"machines"`
	Unknown  []string `json:"unknown,omitempty"` // where the list is not whole, in words
}

// Chord is a chord that is taken, and by what, by machine.
type Chord struct {
	Chord   string            `json:"chord"`
	By      map[string]string `json:"by"`
	Mapping []string          `json:"mapping,omitempty"` // the machines on which the mapping says it
}

// TakenChords are the chords that machines do something with.
func TakenChords(machines []*station.Station, mods []keys.Mods) Chords {
	said := Chords{Version: Version, Chords: []Chord{}, Machines: names(machines), Unknown: station.Gaps(machines)}
	for _, t := range station.Chords(machines, mods) {
		c := Chord{Chord: t.Chord.String(), By: map[string]string{}}
		for i, by := range t.By {
			if by.Words == "" {
				continue
			}
			c.By[machines[i].Name()] = by.Words
			if by.Mapping {
				c.Mapping = append(c.Mapping, machines[i].Name())
			}
		}
		said.Chords = append(said.Chords, c)
	}
	return said
}

// FreeChords are the keys that are free on all machines with modifiers, given for each machine as it has
// them and as the user named them; with the usual ones where none are named.
func FreeChords(machines []*station.Station, mods []keys.Mods, named string) Free {
	said := Free{Version: Version, Free: []FreeKeys{}, Machines: names(machines), Unknown: station.Gaps(machines)}
	with := func(mods []keys.Mods, named string) {
		free := FreeKeys{Modifiers: named, Keys: []string{}}
		for _, k := range station.Free(machines, mods) {
			free.Keys = append(free.Keys, k.String())
		}
		said.Free = append(said.Free, free)
	}
	if named != "" {
		with(mods, named)
		return said
	}
	for _, m := range station.UsualMods {
		with(slices.Repeat([]keys.Mods{m}, len(machines)), strings.Join(m.Names(), "+"))
	}
	return said
}

func names(machines []*station.Station) []string {
	list := []string{}
	for _, m := range machines {
		list = append(list, m.Name())
	}
	return list
}
