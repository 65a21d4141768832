package menukeys

import (
	"bytes"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/equivalent"
)

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is an export of preferences with chords of menus.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte("NSUserKeyEquivalents"))
}

// Import reads an export of a domain: for all programs. Items are known by their titles in any of the
// languages; others are left, and said.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	var of struct {
		Keys map[string]string `plist:"NSUserKeyEquivalents"`
	}
	if _, err := plist.Unmarshal(text, &of); err != nil {
		return got, err
	}
	titles := make([]string, 0, len(of.Keys))
	for title := range of.Keys {
		titles = append(titles, title)
	}
	slices.Sort(titles)
	for _, title := range titles {
		spelled := of.Keys[title]
		shown := strings.ReplaceAll(strings.TrimPrefix(title, "\x1b"), "\x1b", ", ")
		i := slices.IndexFunc(
			desktop.InMenus(m),
			func(u desktop.Use) bool { return slices.Contains(titlesOf(u), title) },
		)
		if i < 0 {
			if c, ok := equivalent.Read(m, spelled); ok && spelled != "@~^$\uf71a" && title != "" {
				got.Bindings = append(
					got.Bindings,
					mechanism.Binding{Level: behaviour.Hotkey, Chord: c, Effect: chosen(title)},
				)
			} else {
				got.Leave(0, fmt.Sprintf("%s = %q", shown, spelled), "the language has no word for this chord")
			}
			continue
		}
		u := desktop.InMenus(m)[i]
		b := mechanism.Binding{
			Level:  behaviour.Hotkey,
			Chord:  u.Chord,
			Effect: behaviour.Effect{Kind: behaviour.Nothing},
		}
		if spelled != "@~^$\uf71a" {
			c, ok := equivalent.Read(m, spelled)
			if b.Chord, b.Effect = c, effectOf(u); !ok || b.Effect.Kind == behaviour.Other {
				got.Leave(
					0,
					fmt.Sprintf("%s = %q", shown, spelled),
					"the language has no word for this item or its chord",
				)
				continue
			}
		}
		if !slices.ContainsFunc(got.Bindings, func(o mechanism.Binding) bool { return o.Place() == b.Place() }) {
			got.Bindings = append(got.Bindings, b)
		}
	}
	behaviour.Sort(got.Bindings)
	return got, nil
}
