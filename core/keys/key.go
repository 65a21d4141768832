// Package keys holds the one table of physical keys: each key's W3C UI Events
// code beside the number or name every other system knows it by. It also spells
// and reads chords, and knows which characters the keys type under a layout.
//
// A key is a position on a board, not a letter: KeyZ is the key left of X on a
// US board, whatever its cap says.
package keys

import (
	"slices"
	"strings"
	"sync"
)

// Key is one physical key, by its place in the table. The zero Key is no key.
type Key uint8

// None is the absent key.
const None Key = 0

// Section is the part of a board where a key is found, after the sections of
// the W3C UI Events code specification.
type Section uint8

// The sections of a board.
const (
	Writing Section = iota
	Functional
	International
	ControlPad
	ArrowPad
	Numpad
	Function
	Media
	System
	Editing
	Mouse
)

var sectionNames = [...]string{
	"writing area", "functional", "international", "control pad", "arrows",
	"numpad", "function", "media and launch", "power", "editing", "mouse",
}

// String names the section in words.
func (s Section) String() string { return sectionNames[s] }

// All lists every key in the order of the table.
func All() []Key {
	all := make([]Key, len(table))
	for i := range table {
		all[i] = Key(i + 1)
	}
	return all
}

func (k Key) row() *row {
	if i := int(k) - 1 - len(table); i >= 0 {
		return &buttons[i]
	}
	return &table[k-1]
}

// String is the key's W3C code, in the standard's spelling.
func (k Key) String() string {
	if k == None {
		return "none"
	}
	return k.row().code
}

// Section says where on a board the key is found.
func (k Key) Section() Section { return k.row().group }

// HID is the usage of the USB HID Usage Tables as page<<16 | id.
func (k Key) HID() (usage int, ok bool) { return present(k.row().hid) }

// Evdev is the Linux input event code (KEY_…).
func (k Key) Evdev() (code int, ok bool) { return present(k.row().evdev) }

// XKB is the name of the key in xkeyboard-config's evdev keycodes, without the
// angle brackets.
func (k Key) XKB() (name string, ok bool) { return k.row().xkb, k.row().xkb != "" }

// Scancode is the PC set 1 make code; keys with the E0 prefix are 0xE0xx.
func (k Key) Scancode() (code int, ok bool) { return present(k.row().scan) }

// VK is the Windows virtual key under the US layout. Other layouts move the
// virtual keys of the writing area.
func (k Key) VK() (code int, ok bool) { return present(k.row().vk) }

// Mac is the macOS virtual keycode of an ANSI board. An ISO board exchanges
// those of Backquote and IntlBackslash.
func (k Key) Mac() (code int, ok bool) { return present(k.row().mac) }

// MacFn says whether the events of a key carry the modifier Fn on macOS, held or not: arrows, function
// keys and those beside them. (AppKit: NSEventModifierFlagFunction)
func (k Key) MacFn() bool {
	switch k.Section() {
	case ArrowPad:
		return true
	case Function:
		return k.String() != "Escape"
	default:
		return slices.Contains([]string{"Home", "End", "PageUp", "PageDown", "Insert", "Help", "Delete"}, k.String())
	}
}

func present(v int) (int, bool) { return v, v != no }

// index is every way to find a key by one of its names. Where two keys share a
// number (macOS has one keycode for Insert and Help), the first in the table is
// the answer.
type index struct {
	code map[string]Key
	xkb  map[string]Key
	hid  map[int]Key
	ev   map[int]Key
	scan map[int]Key
}

var indexed = sync.OnceValue(func() *index {
	ix := &index{
		code: make(map[string]Key, len(table)),
		xkb:  make(map[string]Key, len(table)),
		hid:  make(map[int]Key, len(table)),
		ev:   make(map[int]Key, len(table)),
		scan: make(map[int]Key, len(table)),
	}
	for i := len(table) + len(buttons) - 1; i >= 0; i-- {
		k := Key(i + 1)
		r := k.row()
		ix.code[strings.ToLower(r.code)] = k
		ix.xkb[r.xkb] = k
		ix.hid[r.hid] = k
		ix.ev[r.evdev] = k
		ix.scan[r.scan] = k
	}
	delete(ix.xkb, "")
	for _, m := range []map[int]Key{ix.hid, ix.ev, ix.scan} {
		delete(m, no)
	}
	return ix
})

// ByCode finds a key by its W3C code, without regard to case.
func ByCode(code string) (Key, bool) {
	k, ok := indexed().code[strings.ToLower(code)]
	return k, ok
}

// ByXKB finds a key by its XKB name, without the angle brackets.
func ByXKB(name string) (Key, bool) { k, ok := indexed().xkb[name]; return k, ok }

// ByHID finds a key by its HID usage, page<<16 | id.
func ByHID(usage int) (Key, bool) { k, ok := indexed().hid[usage]; return k, ok }

// ByEvdev finds a key by its Linux input event code.
func ByEvdev(code int) (Key, bool) { k, ok := indexed().ev[code]; return k, ok }

// ByScancode finds a key by its set 1 make code, 0xE0xx with the E0 prefix.
func ByScancode(code int) (Key, bool) { k, ok := indexed().scan[code]; return k, ok }

// Codes lists the code of every key and button, in the order of the tables.
func Codes() []string {
	codes := make([]string, 0, len(table)+len(buttons))
	for _, r := range table {
		codes = append(codes, r.code)
	}
	for _, r := range buttons {
		codes = append(codes, r.code)
	}
	return codes
}

// space is the one key outside the writing area that types a character.
func space() Key { k, _ := ByCode("Space"); return k }
