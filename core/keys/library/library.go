// Package library writes and reads keyboard layout libraries of 64-bit Windows: tables in a file of the form of
// a program, which the window manager's part of the kernel reads. The file exports one function,
// KbdLayerDescriptor, of the number 1, which gives the address of a structure KBDTABLES; of that, pointers lead
// to all else. Nothing else in it is run.
//
// A scan code has a virtual key, and a virtual key has characters, one for each set of modifiers that is
// numbered: what stands in a cell is a UTF-16 unit, none, a dead accent, or a ligature of several units. An
// accent and a character that follows have a result, which may be an accent again. Any virtual key can be a
// modifier, which no program sees.
//
// Sources: Microsoft, the header kbd.h and the samples of keyboard layouts in the Windows driver kit; "PE
// Format".
package library

// Machine is the processor that a library is for.
type Machine uint16

// The processors, as PE files name them. (PE Format: Machine Types)
const (
	AMD64 Machine = 0x8664
	ARM64 Machine = 0xAA64
)

// Library is what a layout library says.
type Library struct {
	Modifiers []Modifier
	// Columns are those of the rows by the bits of the modifiers that are held; NoColumn where those type
	// nothing.
	Columns []byte
	Rows    []Row
	Dead    []Dead
	// Scancodes are virtual keys with their flags by scan code, None for no key; E0 and E1 those behind a prefix.
	Scancodes []uint16
	E0, E1    []Prefixed
	Ligatures []Ligature
	// Names are those of keys that programs show, by scan code, and of keys behind the prefix E0; NumLock is one of these,
	// as messages have it.
	Names, E0Names map[byte]string
	Accents        map[uint16]string // names of dead accents
	AltGr          bool              // the right Alt is Ctrl and Alt together
}

// Modifier is a virtual key and its bit.
type Modifier struct{ VK, Bit byte }

// The modifiers' bits. (kbd.h: KBDSHIFT …)
const (
	ShiftBit = 1
	CtrlBit  = 2
	AltBit   = 4
	KanaBit  = 8
)

// Row is what a virtual key types.
type Row struct {
	VK         byte
	Attributes byte // as below
	Cells      []Cell
}

// What CapsLock does to a row. (kbd.h: CAPLOK …)
const (
	CapsLock      = 1 // exchanges the characters with and without Shift
	CapsLockAltGr = 4 // those with AltGr as well
)

// Cell is what is typed under one set of modifiers: a unit, an accent that waits, or several units, which
// Ligatures has; nothing where all are zero.
type Cell struct {
	Unit     uint16
	Accent   uint16
	Ligature bool
}

// Dead is what an accent and a unit behind it give: a unit, or an accent that waits again.
type Dead struct {
	Accent, Base, Result uint16
	Again                bool
}

// Ligature is several units that a key types in a column.
type Ligature struct {
	VK     byte
	Column int
	Units  []uint16
}

// Prefixed is a scan code behind a prefix, and its virtual key with flags.
type Prefixed struct {
	Code byte
	VK   uint16
}

// NoColumn is the number of no column, None the virtual key of no key. (kbd.h: SHFT_INVALID, VK__none_)
const (
	NoColumn = 0x0F
	None     = 0xFF
)

// What cells hold instead of a unit. (kbd.h: WCH_NONE, WCH_DEAD, WCH_LGTR)
const (
	noUnit   = 0xF000
	dead     = 0xF001
	ligature = 0xF002
)

// MostUnits is how many units a ligature has at most, for certain.
const MostUnits = 4

// altGrFlag says that the right Alt is Ctrl and Alt together. (kbd.h: KLLF_ALTGR)
const altGrFlag = 1
