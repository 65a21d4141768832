package accelerator

import (
	"slices"

	"leitstand/core/keys"
)

// ModifierKeys are the keysyms of the keys that hold a modifier and nothing else, the left side
// first, by which a desktop knows a modifier that is pressed alone.
var ModifierKeys = []ModifierKey{
	{keys.Ctrl, keys.CtrlLeft, keys.CtrlRight, []string{"Control_L", "Control_R"}},
	{keys.Alt, keys.AltLeft, keys.AltRight, []string{"Alt_L", "Alt_R"}},
	{keys.Shift, keys.ShiftLeft, keys.ShiftRight, []string{"Shift_L", "Shift_R"}},
	{keys.Meta, keys.MetaLeft, keys.MetaRight, []string{"Super_L", "Super_R"}},
	{keys.Hyper, 0, 0, []string{"Hyper_L"}},
}

// IsModifier says whether a keysym is one of these.
func IsModifier(keysym string) bool {
	return slices.ContainsFunc(ModifierKeys, func(l ModifierKey) bool { return slices.Contains(l.Keysyms, keysym) })
}

// ModifierKey is a modifier by either side and by one.
type ModifierKey struct {
	Mod, Left, Right keys.Mods
	Keysyms          []string
}

// Sides are the modifiers that the keysyms stand for, in their order.
func (l ModifierKey) Sides() []keys.Mods {
	if len(l.Keysyms) == 1 {
		return []keys.Mods{l.Mod}
	}
	return []keys.Mods{l.Left, l.Right}
}
