package layout

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// A Hyper key is the right Alt to Windows, which is Ctrl and Alt together under a layout that says so. The right Alt itself
// then leads to its characters by a modifier of the layout's own, or is the left one where it has none. (kbd.h:
// KLLF_ALTGR, KBDEXT; VK_RMENU, VK_LMENU; winuser.h has nothing at 0x97)
const (
	rightAlt = 0x1A5
	leftAlt  = 0x1A4
	thirdVK  = 0x97
	thirdBit = 0x10
)

// ofHyper is a key that is Ctrl and Alt together; nil for others.
func ofHyper(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	e := b.Effect
	if !m.OwnAltGr || b.Level != behaviour.Position || b.Layer != "" || e.Kind != behaviour.Modifier ||
		e.Mods != keys.Ctrl|keys.Alt {
		return nil, nil
	}
	k := b.Chord.Key
	if on, held := m.LayerOf(intent.BitState); held && on.Key == right() {
		return nil, nil
	}
	if !silent(k) || isPause(k) || k == right() || entry(standardOf(m.Layouts[0]), k) == nil ||
		slices.ContainsFunc(m.Layouts, capitalsByAltGr) {
		return nil, nil
	}
	return &plan{hyper: true}, beside(m).And(reason.WindowsOwnAltGr.Of()...).And(reason.LayoutKeepsScanCode.Of()...)
}

// capitalsByAltGr says whether CapsLock makes capitals of what a layout types by AltGr. A modifier of our own has none.
func capitalsByAltGr(l *keys.Layout) bool {
	return slices.ContainsFunc(keys.All(), func(k keys.Key) bool {
		s, ok := l.Symbols(k)
		return ok && types(k) && len(s.Level) > 2 && strings.Contains(s.Type, "ALPHABETIC") && !strings.Contains(s.Type, "SEMI")
	})
}

// partAltGr parts the right Alt from Ctrl and Alt together.
func (t *maker) partAltGr() {
	alt := entry(t.Library, right())
	if *alt = leftAlt; t.AltGr {
		*alt = 0x100 | thirdVK
		t.Modifiers = append(t.Modifiers, library.Modifier{VK: thirdVK, Bit: thirdBit})
		t.Columns = slices.Concat(t.Columns, slices.Repeat([]byte{library.NoColumn}, thirdBit+2-len(t.Columns)))
		for _, shift := range []int{0, library.ShiftBit} {
			const both = library.CtrlBit | library.AltBit
			t.Columns[thirdBit|shift], t.Columns[both|shift] = t.Columns[both|shift], library.NoColumn
		}
	}
	t.AltGr = true
}

func right() keys.Key {
	k, _ := keys.ByCode("AltRight")
	return k
}
