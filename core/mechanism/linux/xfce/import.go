package xfce

import (
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
)

// For is a machine with Xfce.
func (Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Linux, Desktop: "xfce"}
}

var channels = mechanism.Pattern(`<channel\s[^>]*name="(xfce4-keyboard-shortcuts|keyboards)"`)

// Knows says whether a text is one of the two channels.
func (t Mechanism) Knows(_ string, text []byte) bool { return channels().Match(text) }

// Import reads a channel file as Xfce keeps it: what is bound otherwise than the desktop's
// own defaults, and how fast keys repeat.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	root, err := parse(text)
	if err != nil {
		return got, err
	}
	if root.Name == "keyboards" {
		for _, p := range root.child("Default").child("KeyRepeat").Nodes {
			n, err := strconv.Atoi(p.Value)
			if b, ok := repeated(p.Name, n); ok && err == nil && n > 0 {
				got.Bindings = append(got.Bindings, b)
			} else {
				got.Leave(0, p.Name+" = "+p.Value, "it is no setting that we know")
			}
		}
		return got, nil
	}
	var found behaviour.Found
	alone := map[string]behaviour.Effect{}
	for _, group := range []struct {
		name string
		does func(string) behaviour.Effect
	}{{"commands", effect}, {"xfwm4", managed}} {
		for _, p := range root.child(group.name).child("custom").Nodes {
			if p.Type != "string" || p.Name == "override" || p.Value == "" {
				continue
			}
			if desktop.Spells(m, p.Name, strings.TrimSuffix(p.Value, "_key")) {
				continue
			}
			if isModifierAlone(p.Name) && group.name == "commands" {
				if e := group.does(p.Value); desktop.Since(m, whenReleased) && e.Kind != behaviour.Other {
					alone[p.Name] = e
				} else {
					got.Leave(0, p.Name, fmt.Sprintf("has Xfce do %q, before %s as soon as the modifier is pressed", p.Value, whenReleased))
				}
				continue
			}
			chords, err := accelerator.ParseTranslated(m.Layouts, p.Name)
			if err != nil {
				got.Leave(0, p.Name, err.Error())
				continue
			}
			e := group.does(p.Value)
			stock := slices.ContainsFunc(desktop.Stock(m), func(u desktop.Use) bool {
				return u.Chord.Overlaps(chords[0]) && u.Name == strings.TrimSuffix(p.Value, "_key")
			})
			switch {
			case stock:
			case e.Kind == behaviour.Other:
				got.Leave(0, p.Name, fmt.Sprintf("has Xfce do %q", p.Value))
			default:
				for _, c := range chords {
					found.Add(
						mechanism.Binding{
							Level:      behaviour.Hotkey,
							Chord:      c,
							Effect:     e,
							Provenance: behaviour.AnyOf(chords),
						},
						"does one thing or another",
					)
				}
			}
		}
	}
	released(&found, alone)
	got.Bindings = append(got.Bindings, found.List()...)
	return got, nil
}
