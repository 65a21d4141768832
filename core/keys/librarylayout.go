package keys

import (
	"unicode/utf16"

	"leitstand/core/keys/library"
)

// LibraryLayout is a library of Windows that was read, for a board whose keys have the scan codes of the table of keys:
// what they type is worked out as the system does it.
type LibraryLayout struct {
	*library.Library
	rows  map[byte]*library.Row
	dead  map[[2]uint16]library.Dead
	codes map[Key]uint16
	bits  map[byte]byte
	third byte // the modifier of its own that the right Alt is, 0 where it is AltGr or Alt
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
		code, has := k.Scancode()
		switch {
		case !has:
		case code&0xFF00 == 0xE000:
			for _, p := range of.E0 {
				if int(p.Code) == code&0xFF {
					l.codes[k] = p.VK
				}
			}
		case code < len(of.Scancodes) && of.Scancodes[code]&0xFF != library.None:
			l.codes[k] = of.Scancodes[code]
		}
		if b := l.bits[byte(l.codes[k])]; k.String() == "AltRight" && b&^(ordinary|library.KanaBit) != 0 {
			l.third = b
		}
	}
	return l
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
func (l *LibraryLayout) Modifier() Key {
	for _, k := range All() {
		if vk, ok := l.codes[k]; ok && l.bits[byte(vk)]&^ordinary != 0 && (l.third == 0 || k.String() != "AltRight") {
			return k
		}
	}
	return None
}

// cell is what a key has under the modifiers that are held.
func (l *LibraryLayout) cell(k Key, bits byte, caps bool) (cell library.Cell, row *library.Row, column int) {
	vk, ok := l.codes[k]
	if row = l.rows[byte(vk)]; !ok || row == nil {
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
	const shifts = Shift | ShiftLeft | ShiftRight
	if k.String() == "CapsLock" && byte(l.codes[k]) == 0x14 {
		s.CapsLock = !s.CapsLock
		return "", s
	}
	if held&^(shifts|AltGr) != 0 {
		return "", s
	}
	bits := byte(0)
	if held&shifts != 0 {
		bits |= library.ShiftBit
	}
	switch {
	case !held.Has(AltGr):
	case l.third != 0:
		bits |= l.third
	case !l.AltGr:
		return "", s
	default:
		bits |= library.CtrlBit | library.AltBit
	}
	if s.Layer {
		bits |= library.KanaBit
	}
	cell, row, column := l.cell(k, bits, s.CapsLock)
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
