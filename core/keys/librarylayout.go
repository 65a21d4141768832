package keys

import (
	"unicode/utf16"

	"leitstand/core/keys/library"
)

// LibraryLayout is a library of Windows that was read, for a board whose keys have the scan codes of the table of keys:
// what they type is worked out as the system does it.
type LibraryLayout struct {
	*library.Library
	rows   map[byte]*library.Row
	dead   map[[2]uint16]library.Dead
	codes  map[Key]uint16
	bits   map[byte]byte
	holder Key  // as Modifier has it
	third  byte // the modifier of its own that the right Alt is, 0 where it is AltGr or Alt
}

// NewLibraryLayout makes a layout of a library's tables.
func NewLibraryLayout(of *library.Library) *LibraryLayout {
	l := &LibraryLayout{
		Library: of,
		rows:    map[byte]*library.Row{},
		dead:    map[[2]uint16]library.Dead{},
		codes:   map[Key]uint16{},
		bits:    map[byte]byte{},
	}
	for i := range of.Rows {
		if r := &of.Rows[i]; l.rows[r.VK] == nil {
			l.rows[r.VK] = r
		}
	}
	for _, d := range of.Dead {
		if at := [2]uint16{d.Accent, d.Base}; l.dead[at] == (library.Dead{}) {
			l.dead[at] = d
		}
	}
	for _, m := range of.Modifiers {
		l.bits[m.VK] = m.Bit
	}
	for _, k := range All() {
		if code, has := k.Scancode(); has {
			if vk, ok := l.code(code); ok {
				l.codes[k] = vk
			}
		}
		if b := l.bits[byte(l.codes[k])]; k.String() == "AltRight" && b&^(ordinary|library.KanaBit) != 0 {
			l.third = b
		}
	}
	l.holder = l.modifier()
	return l
}

// code is the virtual key of a scan code with its flags; not ok where it has none.
func (l *LibraryLayout) code(code int) (vk uint16, ok bool) {
	if code&0xFF00 == 0xE000 {
		for _, p := range l.E0 {
			if int(p.Code) == code&0xFF {
				vk, ok = p.VK, true
			}
		}
		return vk, ok
	}
	if code >= len(l.Scancodes) || l.Scancodes[code]&0xFF == library.None {
		return 0, false
	}
	return l.Scancodes[code], true
}

// Virtual is the virtual key of a key with its flags; not ok where it has none.
func (l *LibraryLayout) Virtual(k Key) (vk uint16, ok bool) {
	if k.String() != "Pause" {
		vk, ok = l.codes[k]
		return vk, ok
	}
	for _, p := range l.E1 { // whose first byte is a prefix, and whose second this
		if p.Code == 0x1D && p.VK != library.None {
			return p.VK, true
		}
	}
	return 0, false
}

// ordinary are the bits of Shift, Ctrl and Alt.
const ordinary = library.ShiftBit | library.CtrlBit | library.AltBit

// Modifier is the key that is a modifier of the layout's own, none that Windows has, but for the right Alt.
func (l *LibraryLayout) Modifier() Key { return l.holder }

func (l *LibraryLayout) modifier() Key {
	for _, k := range All() {
		if vk, ok := l.codes[k]; ok && l.bits[byte(vk)]&^ordinary != 0 && (l.third == 0 || k.String() != "AltRight") {
			return k
		}
	}
	return None
}

// cell is what a virtual key has under the modifiers that are held.
func (l *LibraryLayout) cell(vk, bits byte, caps bool) (cell library.Cell, row *library.Row, column int) {
	if row = l.rows[vk]; row == nil {
		return cell, nil, 0
	}
	const ctrlAlt = library.CtrlBit | library.AltBit
	switch {
	case caps && bits&^library.ShiftBit == 0 && row.Attributes&library.CapsLock != 0,
		caps && bits&^library.ShiftBit == ctrlAlt && row.Attributes&library.CapsLockAltGr != 0:
		bits ^= library.ShiftBit
	}
	if int(bits) >= len(l.Columns) || int(l.Columns[bits]) >= len(row.Cells) {
		return cell, row, 0
	}
	column = int(l.Columns[bits])
	return row.Cells[column], row, column
}

// Type presses a key. Chords type nothing here.
func (l *LibraryLayout) Type(s TypeState, k Key, held Mods) (string, TypeState) {
	if k.String() == "CapsLock" && byte(l.codes[k]) == 0x14 {
		s.CapsLock = !s.CapsLock
		return "", s
	}
	vk, ok := l.codes[k]
	if !ok || held&^(shifts|AltGr) != 0 {
		return "", s
	}
	return l.typeVK(s, byte(vk), held)
}

const shifts = Shift | ShiftLeft | ShiftRight

// Press presses a key. Where a row has no character for a letter with Ctrl, the system gives the letter's control
// character. (Microsoft, ToUnicodeEx)
func (l *LibraryLayout) Press(s TypeState, k Key, held Mods) (Stroke, TypeState) {
	vk, ok := l.Virtual(k)
	if code, sent := SentTogether(k, held); sent {
		vk, ok = l.code(code)
	}
	if !ok {
		return Stroke{}, s
	}
	if vk&NumpadVK != 0 && s.NumLock && held&shifts == 0 {
		for on, off := range withoutNumLock {
			if byte(off) == byte(vk) {
				vk = uint16(on)
			}
		}
	}
	stroke := Stroke{VK: seenVK(vk)}
	if l.bits[byte(vk)] != 0 || byte(vk) == 0x14 {
		return stroke, s
	}
	waiting := s
	stroke.Text, s = l.typeVK(s, byte(vk), held)
	if c := byte(vk); stroke.Text == "" && s == waiting && held&^shifts == Ctrl && c >= 'A' && c <= 'Z' {
		stroke.Text = string(rune(c - 'A' + 1))
	}
	return stroke, s
}

// The virtual keys of Shift, Ctrl and Alt, whichever side is held. (winuser.h: VK_SHIFT, VK_CONTROL, VK_MENU)
const shiftVK, ctrlVK, altVK = 0x10, 0x11, 0x12

// typeVK is what a virtual key types with Shift, AltGr, Ctrl and Alt.
func (l *LibraryLayout) typeVK(s TypeState, vk byte, held Mods) (string, TypeState) {
	bits := byte(0)
	if held&shifts != 0 {
		bits |= l.bits[shiftVK]
	}
	switch {
	case held.Has(Ctrl):
		bits |= l.bits[ctrlVK]
	case held.Has(Alt):
		bits |= l.bits[altVK]
	case !held.Has(AltGr):
	case l.third != 0:
		bits |= l.third
	case !l.AltGr:
		return "", s
	default:
		bits |= l.bits[ctrlVK] | l.bits[altVK]
	}
	if s.Layer {
		bits |= l.bits[byte(l.codes[l.Modifier()])]
	}
	cell, row, column := l.cell(vk, bits, s.CapsLock)
	var units []uint16
	switch {
	case cell.Ligature:
		for _, g := range l.Ligatures {
			if g.VK == row.VK && g.Column == column {
				units = g.Units
			}
		}
	case cell.Accent != 0:
		return l.accent(s, cell.Accent)
	case cell.Unit == 0:
		return "", s
	default:
		units = []uint16{cell.Unit}
	}
	waits := []rune(s.Waits)
	s.Waits = ""
	if len(waits) == 1 && len(units) == 1 {
		if d, ok := l.dead[[2]uint16{uint16(waits[0]), units[0]}]; ok {
			if d.Again {
				s.Waits = string(rune(d.Result))
				return "", s
			}
			units, waits = []uint16{d.Result}, nil
		}
	}
	return string(waits) + string(utf16.Decode(units)), s
}

// accent is a dead key: it waits, or joins the one that waits, or both stand by themselves.
func (l *LibraryLayout) accent(s TypeState, accent uint16) (string, TypeState) {
	waits := []rune(s.Waits)
	if len(waits) == 0 {
		s.Waits = string(rune(accent))
		return "", s
	}
	d, ok := l.dead[[2]uint16{uint16(waits[0]), accent}]
	if s.Waits = ""; ok && d.Again {
		s.Waits = string(rune(d.Result))
		return "", s
	} else if ok {
		return string(rune(d.Result)), s
	}
	return string(waits) + string(rune(accent)), s
}
