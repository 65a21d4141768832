package keys

import (
	"crypto/sha256"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"

	"leitstand/core/keys/library"
)

// plainRow is the type of a row that CapsLock leaves alone.
const plainRow = "TWO_LEVEL"

// mostLibrary is how large a library with a layout may be, in bytes: the system's have some ten thousand.
const mostLibrary = 1 << 20

// OpenLayout reads a layout of a file with a library of the system's own, as LayoutOfLibrary does, and what is in the
// file.
func OpenLayout(fsys fs.FS, at, name string) (*Layout, []byte, error) {
	info, err := fs.Stat(fsys, at)
	if err != nil {
		return nil, nil, err
	}
	if info.Size() > mostLibrary {
		return nil, nil, fmt.Errorf("it is larger than %d kB", mostLibrary>>10)
	}
	text, err := fs.ReadFile(fsys, at)
	if err != nil {
		return nil, nil, err
	}
	l, err := LayoutOfLibrary(name, text)
	return l, text, err
}

// LayoutOfLibrary is a layout as a library of the system's own has it, by the XKB name of the layout that it is
// one of. What the two have no words for is told: ligatures, dead keys behind one another, modifiers of the
// layout's own, and CapsLock as a layer.
func LayoutOfLibrary(name string, file []byte) (*Layout, error) {
	of, _, err := library.Open(file)
	if err != nil {
		return nil, err
	}
	layoutMu.Lock()
	defer layoutMu.Unlock()
	sum := sha256.Sum256(file)
	id := fmt.Sprintf("%s %s of %x", LayoutsOfWindows, name, sum[:8])
	if l, cached := layoutCache[id]; cached {
		return l, nil
	}
	base, ok := findLayout(name)
	_, after, known := strings.Cut(systemData, "\nlayout "+LayoutsOfWindows+" "+name+" ")
	if !ok || !known {
		return nil, fmt.Errorf("no layout of Windows called %q is known", name)
	}
	number, _, _ := strings.Cut(after, "\n")
	l := &Layout{
		Name: name, ID: id, keys: base.keys, third: AltGr, joins: true, virtual: map[Key]string{},
		SystemName: number, names: [2]map[byte]string{of.Names, of.E0Names}, spacing: map[rune]rune{}, results: map[[2]rune]rune{}, control: map[Key]rune{},
		keypad: map[Key]string{},
	}
	if err := l.read(base, of); err != nil {
		return nil, err
	}
	l.index()
	if press := l.differs(NewLibraryLayout(of)); press != "" {
		return nil, fmt.Errorf("what %s types is more than is known of a layout", press)
	}
	layoutCache[id] = l
	return l, nil
}

// differs names a press of the writing keys by which the library types something else, in any state and behind
// each accent; "" where it types the same.
func (l *Layout) differs(theirs *LibraryLayout) string {
	type pair struct {
		theirs, ours TypeState
		after        string
	}
	pairs := []pair{{}}
	for at := 0; at < len(pairs); at++ {
		for _, k := range All() {
			if k.Section() != Writing && k.String() != "Space" {
				continue
			}
			for _, mods := range []Mods{0, Shift, AltGr, Shift | AltGr} {
				for _, caps := range []bool{false, true} {
					now := pairs[at]
					now.theirs.CapsLock, now.ours.CapsLock = caps, caps
					text, x := theirs.Type(now.theirs, k, mods)
					ours, y := l.Type(now.ours, k, mods)
					press := now.after + Chord{Mods: mods, Key: k}.String()
					if text != ours || (x.Waits == "") != (y.Accents == "") {
						return press
					}
					if at == 0 && !caps && x.Waits != "" {
						pairs = append(pairs, pair{x, y, press + ", "})
					}
				}
			}
		}
	}
	return ""
}

// numpad is what the virtual keys of the numpad type under every layout but for the one of the decimal sign.
var numpad = []rune("0123456789*+\x00-./")

const decimalVK = 0x6E

// Own says whether the layout was read of a library of the system's own.
func (l *Layout) Own() bool { return l.results != nil }

// Result is what an accent that waits makes of a character in a layout read of a library.
func (l *Layout) Result(waits string, base rune) (rune, bool) {
	accent := []rune(waits)
	if len(accent) != 1 {
		return 0, false
	}
	r, ok := l.results[[2]rune{accent[0], base}]
	return r, ok
}

// Control is the control character that a key types with Ctrl under a layout of Windows, but for letters; 0 for none.
func (l *Layout) Control(k Key) rune { return l.control[k] }

// KeyNames are what a library calls keys by their scan codes, and those behind the prefix E0; nothing where the layout
// was read of none.
func (l *Layout) KeyNames() (names, e0 map[byte]string) { return l.names[0], l.names[1] }

// read takes what keys type, and what accents make of it, from a library.
func (l *Layout) read(base *Layout, of *library.Library) error {
	usual := map[byte]byte{0x10: library.ShiftBit, 0x11: library.CtrlBit, 0x12: library.AltBit}
	for _, m := range of.Modifiers {
		if usual[m.VK] != m.Bit && slices.ContainsFunc(of.Scancodes, func(vk uint16) bool { return byte(vk) == m.VK }) {
			return fmt.Errorf("it has a modifier of its own, the virtual key %#02X", m.VK)
		}
	}
	names := map[byte]string{}
	for name, code := range virtualCodes {
		names[code] = name
	}
	rows := map[byte]library.Row{}
	for _, r := range of.Rows {
		rows[r.VK] = r
	}
	for _, k := range All() {
		code, has := k.Scancode()
		if !has || code >= len(of.Scancodes) || k.Section() != Writing && k.String() != "Space" {
			continue
		}
		vk := byte(of.Scancodes[code])
		row, typed := rows[vk]
		if !typed || vk == library.None {
			l.keys[k] = layoutKey{}
			continue
		}
		if l.virtual[k] = names[vk]; vk >= '0' && vk <= '9' || vk >= 'A' && vk <= 'Z' {
			l.virtual[k] = string(rune(vk))
		}
		if l.virtual[k] == "" {
			return fmt.Errorf("%s has the virtual key %#02X, which no layout of a known name has", k, vk)
		}
		if err := l.row(k, base, of, row); err != nil {
			return fmt.Errorf("%s: %w", k, err)
		}
	}
	l.abntComma(of, rows)
	for vk, r := range rows {
		if vk >= 0x60 && vk <= 0x6F {
			c := cellOf(of, r, 0)
			if vk == decimalVK && (c.Unit == '.' || c.Unit == ',') {
				l.decimal = rune(c.Unit)
			} else if want := numpad[vk-0x60]; rune(c.Unit) != want {
				return fmt.Errorf("the virtual key %#02X of the numpad does not type %q", vk, want)
			}
		}
		if names[vk] == "" && !(vk >= '0' && vk <= '9' || vk >= 'A' && vk <= 'Z' || vk >= 0x60 && vk <= 0x6F) &&
			!slices.Contains([]byte{0x03, 0x08, 0x09, 0x0D, 0x1B, 0x20}, vk) {
			return fmt.Errorf("the virtual key %#02X types something, of a key that types nothing elsewhere", vk)
		}
	}
	for _, d := range of.Dead {
		accent, known := deadKeysym(rune(d.Accent))
		switch {
		case !known:
			continue // no key of the board has it
		case d.Again:
			return fmt.Errorf("the dead key %q is followed by another one", rune(d.Accent))
		}
		l.results[[2]rune{deadKeys[accent], rune(d.Base)}] = rune(d.Result)
	}
	return nil
}

// abntComma takes what the second key of a Brazilian board's keypad types.
func (l *Layout) abntComma(of *library.Library, rows map[byte]library.Row) {
	k, _ := ByCode("NumpadComma")
	code, _ := k.Scancode()
	if code < len(of.Scancodes) && byte(of.Scancodes[code]) == virtualCodes["ABNT_C2"] {
		l.virtual[k] = "ABNT_C2"
		if c := cellOf(of, rows[virtualCodes["ABNT_C2"]], 0); c.Unit != 0 {
			l.keypad[k] = string(rune(c.Unit))
		}
	}
}

// row gives a key what a row has: plain, with Shift, with AltGr and with both.
func (l *Layout) row(k Key, base *Layout, of *library.Library, row library.Row) error {
	var typed []rune
	dead := 0
	for level, bits := range []int{0, library.ShiftBit, library.CtrlBit | library.AltBit, library.ShiftBit | library.CtrlBit | library.AltBit} {
		c, r := cellOf(of, row, bits), noCharacter
		switch {
		case c.Ligature:
			return fmt.Errorf("it types several characters at once")
		case c.Accent != 0:
			if _, known := deadKeysym(rune(c.Accent)); !known {
				return fmt.Errorf("it is a dead key %q, which no layout of a known name has", rune(c.Accent))
			}
			r, dead = rune(c.Accent), dead|1<<level
		case utf16.IsSurrogate(rune(c.Unit)):
			return fmt.Errorf("it types half a character")
		case c.Unit != 0 && (level < 2 || of.AltGr):
			r = rune(c.Unit)
		}
		typed = append(typed, r)
	}
	if c := cellOf(of, row, library.CtrlBit); c.Unit != 0 {
		l.control[k] = rune(c.Unit)
	}
	l.set(k, base, string(typed), strconv.Itoa(dead))
	switch {
	case row.Attributes&^(library.CapsLock|library.CapsLockAltGr) != 0:
		return fmt.Errorf("CapsLock is more to it than Shift")
	case row.Attributes == 0:
		l.keys[k].Type = plainRow
	case row.Attributes == library.CapsLock|library.CapsLockAltGr:
		l.keys[k].Type = "FOUR_LEVEL_ALPHABETIC"
	case row.Attributes == library.CapsLock:
		l.keys[k].Type = "FOUR_LEVEL_SEMIALPHABETIC"
	default:
		return fmt.Errorf("CapsLock changes what it types with AltGr alone")
	}
	return nil
}

// cellOf is what a row has under modifiers.
func cellOf(of *library.Library, row library.Row, bits int) library.Cell {
	if bits >= len(of.Columns) || int(of.Columns[bits]) >= len(row.Cells) {
		return library.Cell{}
	}
	return row.Cells[of.Columns[bits]]
}
