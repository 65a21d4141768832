package station

import (
	"slices"

	"leitstand/core/keys"
)

// Natural is the modifier that a key is under the machine's layout and options.
func (s *Station) Natural(k keys.Key) keys.Mods { return s.natural(k) }

// Meant are the presses that the mapping asks for and the machine has.
func (s *Station) Meant() []Entry {
	return slices.DeleteFunc(slices.Clone(s.own().entries), func(e Entry) bool { return e.Landing == nil })
}
