// Package equivalent spells chords as macOS spells the key equivalents of menus and services, and the
// keys of its text system: signs for the modifiers, and the character that the key types by itself.
//
//	@ Command   ~ Option   ^ Control   $ Shift   # the numeric keypad, in the text system only
//
// Keys that type none have a character of their own in the range that Apple sets aside for function
// keys. What is compared is a character: of two keys that type the same, both are meant. Letters are
// compared without regard to case; a sign that needs Shift has no certain spelling.
//
// What writes and what reads it share the table of characters alone.
//
// Sources: Apple, "Text System Defaults and Key Bindings"; AppKit's NSEvent.h (function keys).
package equivalent

import (
	"strings"
	"unicode"

	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// characters are those of keys that type none.
var characters = func() map[string]rune {
	all := map[string]rune{
		"ArrowUp": 0xF700, "ArrowDown": 0xF701, "ArrowLeft": 0xF702, "ArrowRight": 0xF703, "Insert": 0xF727,
		"Delete": 0xF728, "Home": 0xF729, "End": 0xF72B, "PageUp": 0xF72C, "PageDown": 0xF72D,
		"Enter": '\r', "Tab": '\t', "Space": ' ', // Backspace and Escape are none that a property list holds
	}
	names := strings.Fields("F1 F2 F3 F4 F5 F6 F7 F8 F9 F10 F11 F12 F13 F14 F15 F16 F17 F18 F19 F20")
	for i, name := range names {
		all[name] = rune(0xF704 + i)
	}
	return all
}()

// can are the modifiers, in the order of their signs.
var can = []struct {
	mod  keys.Mods
	sign string
}{{keys.Meta, "@"}, {keys.Alt, "~"}, {keys.Ctrl, "^"}, {keys.Shift, "$"}}

// Spell spells a chord for a machine, or says why it has no spelling.
func Spell(m *mechanism.Machine, c keys.Chord) (string, reason.List) {
	var w strings.Builder
	left := c.Mods
	for _, x := range can {
		if c.Mods.Has(x.mod) {
			w.WriteString(x.sign)
		}
		left &^= x.mod
	}
	if left != 0 {
		return "", reason.MacMenuModifiers.Of(strings.Join(left.Names(), ", "))
	}
	r, ok := characters[c.Key.String()]
	if !ok {
		if r, ok = typed(m, c.Key); !ok {
			return "", reason.MacNoCharacter.Of(c.Key)
		}
		if c.Mods.Has(keys.Shift) && !unicode.IsLetter(r) {
			return "", reason.MacShiftedSign.Of(c)
		}
	}
	w.WriteRune(r)
	return w.String(), nil
}

// WithFn says whether a chord has a key that does something else on a board of Apple's, unless Fn is held or
// the settings have function keys as such: F1 to F12.
func WithFn(c keys.Chord) bool {
	r := characters[c.Key.String()]
	return r >= 0xF704 && r <= 0xF70F
}

// typed is what a key types by itself under the machine's first layout, where no other key does.
func typed(m *mechanism.Machine, k keys.Key) (rune, bool) {
	of := m.Layouts[0].Characters(k)
	if len(of) == 0 || of[0] <= ' ' || !unicode.IsPrint(of[0]) || strings.ContainsRune("@~^$#", of[0]) {
		return 0, false
	}
	r := unicode.ToLower(of[0])
	place, ok := m.Layouts[0].FindExact(r)
	return r, ok && place.Key == k && place.Mods == 0
}
