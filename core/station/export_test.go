package station

import "leitstand/core/keys"

// Natural is the modifier that a key is under the machine's layout and options.
func (s *Station) Natural(k keys.Key) keys.Mods { return s.natural(k) }
