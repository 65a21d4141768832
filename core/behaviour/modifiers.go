package behaviour

import "leitstand/core/keys"

// modifierCodes are the modifiers that are keys, by side.
var modifierCodes = []struct {
	code      string
	mod, bare keys.Mods
}{
	{"ControlLeft", keys.CtrlLeft, keys.Ctrl}, {"ControlRight", keys.CtrlRight, keys.Ctrl},
	{"AltLeft", keys.AltLeft, keys.Alt}, {"AltRight", keys.AltRight, keys.Alt},
	{"ShiftLeft", keys.ShiftLeft, keys.Shift}, {"ShiftRight", keys.ShiftRight, keys.Shift},
	{"MetaLeft", keys.MetaLeft, keys.Meta}, {"MetaRight", keys.MetaRight, keys.Meta},
	{"Fn", keys.Fn, keys.Fn}, {"AltRight", keys.AltGr, keys.AltGr},
}

// ModifierOf is the modifier that a key is by its code, with its side; 0 for none.
func ModifierOf(k keys.Key) keys.Mods {
	for _, m := range modifierCodes {
		if m.code == k.String() {
			return m.mod
		}
	}
	return 0
}

// modKeys are keys that hold modifiers, the left ones of bare names. Hyper has none.
func modKeys(mods keys.Mods) []keys.Key {
	var list []keys.Key
	var done keys.Mods
	for _, m := range modifierCodes {
		if mods&m.mod != 0 || mods&m.bare != 0 && done&m.bare == 0 {
			k, _ := keys.ByCode(m.code)
			list = append(list, k)
			done |= m.bare
		}
	}
	return list
}

// matches says whether held modifiers are those a chord wants: a bare one on either
// side, one with a side on that, and no others.
func matches(want, have keys.Mods) bool {
	return keys.Chord{Mods: want}.Overlaps(keys.Chord{Mods: have})
}
