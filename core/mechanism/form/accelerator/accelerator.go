// Package accelerator spells chords for the desktops whose shortcuts name a keysym
// and its modifiers, and reads such spellings. A keysym is what a layout gives a
// key, so a chord may need a name for each of the machine's layouts.
//
// Sources: GTK's documentation of accelerator names; the X protocol's of keysyms.
package accelerator

import (
	"slices"
	"strings"
	"unicode"

	"leitstand/core/keys"
)

// Names are the keysyms that mean a chord's key: under each layout those that give
// lists. A name that is another key's under another layout would take that key,
// too; the layouts left without one are returned beside. The names are not to be changed.
func Names(layouts []*keys.Layout, c keys.Chord, give Giver) (names, missing []string) {
	for i, l := range layouts {
		given := give(l, c)
		for at, name := range given {
			if slices.Contains(names, name) {
				continue
			}
			others := layouts
			if len(names) == 0 { // a first name is looked for in the order of the layouts
				others = layouts[:i]
			}
			if Elsewhere(others, c, name, give) != keys.None {
				if len(missing) == 0 || missing[len(missing)-1] != l.Name {
					missing = append(missing, l.Name)
				}
				continue
			}
			if names == nil {
				names = given[at : at+1 : at+1]
			} else {
				names = append(names, name)
			}
		}
	}
	return names, missing
}

// Giver lists the names of a chord's key under a layout.
type Giver func(l *keys.Layout, c keys.Chord) []string

// Plain names a key by what it gives without modifiers: two keysyms on the numpad,
// where NumLock decides.
func Plain(l *keys.Layout, c keys.Chord) []string {
	s, ok := l.Symbols(c.Key)
	switch {
	case !ok || s.Level[0] == "NoSymbol":
		return nil
	case strings.Contains(s.Type, "KEYPAD"):
		return s.Level[:min(2, len(s.Level))]
	}
	return s.Level[:1]
}

// Translated names a key by what it gives with the chord's Shift, lower case for a
// letter: the name for programs that compare the keysym of a press.
func Translated(l *keys.Layout, c keys.Chord) []string {
	names := Plain(l, c)
	if len(names) != 1 || !c.Mods.Has(keys.Shift) || c.Key.Section() != keys.Writing {
		return names
	}
	s, _ := l.Symbols(c.Key)
	if len(s.Level) < 2 {
		return names
	}
	if lower, ok := keys.KeysymRune(s.Level[0]); ok {
		if upper, ok := keys.KeysymRune(s.Level[1]); ok && unicode.ToLower(upper) == lower {
			return names
		}
	}
	if _, types := keys.KeysymRune(s.Level[1]); !types && !strings.HasPrefix(s.Level[1], "dead_") {
		return names // Kanji of a Japanese board, which Alt leads to and not Shift
	}
	return s.Level[1:2]
}

// Elsewhere is another key that a name means under any of the layouts, None if
// there is no such key.
func Elsewhere(layouts []*keys.Layout, c keys.Chord, name string, give Giver) keys.Key {
	for _, l := range layouts {
		// A name stands on one of the first two levels, whoever gives it.
		for level := range 2 {
			for _, k := range l.Giving(name, level) {
				if k != c.Key && slices.Contains(give(l, keys.Chord{Mods: c.Mods, Key: k}), name) {
					return k
				}
			}
		}
	}
	return keys.None
}

// Tag is how a desktop spells a modifier.
type Tag struct {
	Mod  keys.Mods
	Text string
}

// Spell is the tags of a chord's modifiers, and the modifiers that have none.
func Spell(tags []Tag, mods keys.Mods) (text string, left keys.Mods) {
	for _, t := range tags {
		if mods.Has(t.Mod) {
			text += t.Text
			mods &^= t.Mod
		}
	}
	return text, mods
}
