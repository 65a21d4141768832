package hotkeys

import (
	"bytes"
	"fmt"
	"io/fs"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is an export of the system's shortcuts.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte("AppleSymbolicHotKeys"))
}

// Import reads an export of the preferences com.apple.symbolichotkeys, in any of the forms of property
// lists. Chords that the system has by itself say nothing, and of a number that is not known, the user
// is told what it has.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	all, err := shortcuts(m, text)
	if err != nil {
		return got, err
	}
	names := map[string]desktop.Use{}
	for _, u := range desktop.Numbered(m) {
		names[u.Key] = u
	}
	for _, s := range all {
		u, known := names[desktop.NumberedKeys+s.number]
		if s.alone != 0 {
			words := u.Words
			if !known {
				words = "what the system does by this number is not known"
			}
			got.Leave(0, fmt.Sprintf("shortcut %s on %s alone, or twice", s.number, strings.Join(s.alone.Names(), "+")),
				words+"; a modifier alone is not written yet for macOS")
			continue
		}
		if !known && s.on && len(s.keys) > 0 {
			b := mechanism.Binding{Level: behaviour.Hotkey}
			b.Chord.Mods, b.Chord.Key = s.mods, s.keys[0]
			got.Leave(
				0,
				fmt.Sprintf("shortcut %s on %s", s.number, b.Press()),
				"what the system does by this number is not known",
			)
		}
		if known && (!s.on || !s.has(u.Chord)) {
			for _, b := range s.does(u, nil, all) {
				if b.Kept && b.Alike == keys.None {
					continue
				}
				b.Kept, b.Alike = false, keys.None
				if b.Effect.Kind == behaviour.Other {
					got.Leave(0, b.Press(), b.Effect.Words)
					continue
				}
				got.Bindings = append(got.Bindings, b)
				break // of keys with one code, one is meant
			}
		}
	}
	behaviour.Sort(got.Bindings)
	return got, nil
}
