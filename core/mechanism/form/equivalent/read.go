package equivalent

import (
	"unicode/utf8"

	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// Read is the chord that a machine has for a key equivalent; false if no key of its has it.
func Read(m *mechanism.Machine, text string) (c keys.Chord, ok bool) {
	signs := map[byte]keys.Mods{'@': keys.Meta, '~': keys.Alt, '^': keys.Ctrl, '$': keys.Shift}
	for len(text) > 1 && signs[text[0]] != 0 {
		c.Mods |= signs[text[0]]
		text = text[1:]
	}
	r, size := utf8.DecodeRuneInString(text)
	if size == 0 || size != len(text) {
		return c, false
	}
	for name, own := range characters {
		if own == r {
			c.Key, ok = keys.ByCode(name)
			return c, ok
		}
	}
	place, ok := m.Layouts[0].FindExact(r)
	c.Key = place.Key
	c.Mods |= place.Mods // a capital is its key with Shift
	return c, ok && place.Mods&^keys.Shift == 0
}
