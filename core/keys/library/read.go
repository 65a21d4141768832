package library

import (
	"bytes"
	"debug/pe"
	"errors"
	"fmt"
	"unicode/utf16"
)

// most is how many entries all tables together are read to; no layout has as many.
const most = 500_000

// memory is a library's sections, as they lie in memory, and what went wrong in reading them.
type memory struct {
	base     uint64
	sections []*pe.Section
	data     [][]byte
	entries  int // read so far
	err      error
}

// at is n bytes at an address; zeros where there are none, and then err is set.
func (m *memory) at(address uint64, n int) []byte {
	rva := address - m.base
	for i, s := range m.sections {
		if from := rva - uint64(s.VirtualAddress); rva >= uint64(s.VirtualAddress) && from < uint64(len(m.data[i])) &&
			uint64(n) <= uint64(len(m.data[i]))-from {
			return m.data[i][from : from+uint64(n)]
		}
	}
	if m.err == nil {
		m.err = fmt.Errorf("a table leads out of the file, to %X", address)
	}
	return make([]byte, n)
}

func (m *memory) byte(address uint64) byte      { return m.at(address, 1)[0] }
func (m *memory) word(address uint64) uint16    { return le.Uint16(m.at(address, 2)) }
func (m *memory) dword(address uint64) uint32   { return le.Uint32(m.at(address, 4)) }
func (m *memory) pointer(address uint64) uint64 { return le.Uint64(m.at(address, 8)) }
func (m *memory) text(address uint64) string {
	var units []uint16
	for m.counts() {
		u := m.word(address + 2*uint64(len(units)))
		if u == 0 {
			break
		}
		units = append(units, u)
	}
	return string(utf16.Decode(units))
}

// each calls for each entry of a table of entries of a size, until there is none or something is wrong.
func (m *memory) each(address, size uint64, entry func(at uint64) bool) {
	for i := uint64(0); m.counts() && entry(address+i*size); i++ {
	}
}

// counts counts one more entry; false where something is wrong, or there are too many.
func (m *memory) counts() bool {
	if m.entries++; m.entries > most {
		m.fail("its tables have no end")
	}
	return m.err == nil
}

// Open reads the tables of a library. Nothing of the file is run, and nothing in it is trusted: what leads out
// of it is an error.
func Open(file []byte) (*Library, Machine, error) {
	f, err := pe.NewFile(bytes.NewReader(file))
	if err != nil {
		return nil, 0, err
	}
	optional, ok := f.OptionalHeader.(*pe.OptionalHeader64)
	machine := Machine(f.Machine)
	if !ok || machine != AMD64 && machine != ARM64 {
		return nil, 0, errors.New("no library of 64-bit Windows")
	}
	m := &memory{base: optional.ImageBase, sections: f.Sections}
	for _, s := range f.Sections {
		data, err := s.Data()
		if err != nil {
			return nil, 0, err
		}
		m.data = append(m.data, data)
	}
	tables := m.descriptor(machine, optional.DataDirectory[0].VirtualAddress)
	l := m.library(tables)
	return l, machine, m.err
}

// descriptor is the address of the tables, by the code of the function that gives it.
func (m *memory) descriptor(machine Machine, exports uint32) uint64 {
	directory := m.base + uint64(exports)
	if exports == 0 {
		m.err = errors.New("it exports nothing")
		return m.base
	}
	code := m.base + uint64(m.dword(m.base+uint64(m.dword(directory+28)))) // of the first number
	if machine == AMD64 {
		if lea := m.at(code, 8); !bytes.Equal(lea[:3], []byte{0x48, 0x8D, 0x05}) || lea[7] != 0xC3 {
			m.fail("its first function is none that gives an address")
		}
		return code + 7 + uint64(int64(int32(m.dword(code+3))))
	}
	adrp, add := m.dword(code), m.dword(code+4)
	if adrp&0x9F00001F != 0x90000000 || add&0xFFC003FF != 0x91000000 || m.dword(code+8) != 0xD65F03C0 {
		m.fail("its first function is none that gives an address")
	}
	pages := int32((adrp>>29&3|adrp>>5&0x7FFFF<<2)<<11) >> 11
	return code&^0xFFF + uint64(int64(pages)<<12) + uint64(add>>10&0xFFF)
}

func (m *memory) fail(why string) {
	if m.err == nil {
		m.err = errors.New(why)
	}
}

func (m *memory) library(tables uint64) *Library {
	l := &Library{
		Names: map[byte]string{}, E0Names: map[byte]string{}, Accents: map[uint16]string{},
		AltGr: m.dword(tables+80)&altGrFlag != 0,
	}
	mods := m.pointer(tables)
	m.each(m.pointer(mods), 2, func(at uint64) bool {
		vk := m.byte(at)
		if vk != 0 {
			l.Modifiers = append(l.Modifiers, Modifier{vk, m.byte(at + 1)})
		}
		return vk != 0
	})
	if n := m.word(mods + 8); n < 256 {
		l.Columns = append(l.Columns, m.at(mods+10, int(n)+1)...)
	} else {
		m.fail("too many sets of modifiers")
	}
	m.each(m.pointer(tables+8), 16, func(at uint64) bool {
		rows := m.pointer(at)
		if rows != 0 {
			m.rows(l, rows, int(m.byte(at+8)), uint64(m.byte(at+9)))
		}
		return rows != 0
	})
	if dead := m.pointer(tables + 16); dead != 0 {
		m.each(dead, 8, func(at uint64) bool {
			if m.dword(at) == 0 {
				return false
			}
			l.Dead = append(
				l.Dead,
				Dead{Base: m.word(at), Accent: m.word(at + 2), Result: m.word(at + 4), Again: m.word(at+6)&1 != 0},
			)
			return true
		})
	}
	m.names(l.Names, m.pointer(tables+24))
	m.names(l.E0Names, m.pointer(tables+32))
	if accents := m.pointer(tables + 40); accents != 0 {
		m.each(accents, 8, func(at uint64) bool {
			to := m.pointer(at)
			if to != 0 {
				l.Accents[m.word(to)] = m.text(to + 2)
			}
			return to != 0
		})
	}
	codes := m.pointer(tables + 48)
	for i := range uint64(m.byte(tables + 56)) {
		l.Scancodes = append(l.Scancodes, m.word(codes+2*i))
	}
	l.E0, l.E1 = m.prefixed(m.pointer(tables+64)), m.prefixed(m.pointer(tables+72))
	m.ligatures(l, m.pointer(tables+88), int(m.byte(tables+84)), uint64(m.byte(tables+85)))
	return l
}

// names reads a list of keys' names.
func (m *memory) names(into map[byte]string, list uint64) {
	if list == 0 {
		return
	}
	m.each(list, 16, func(at uint64) bool {
		code := m.byte(at)
		if code != 0 {
			into[code] = m.text(m.pointer(at + 8))
		}
		return code != 0
	})
}

// rows reads a table of rows of one number of columns.
func (m *memory) rows(l *Library, rows uint64, columns int, size uint64) {
	if size < uint64(2+2*columns) {
		m.fail("rows of characters are too short")
		return
	}
	m.each(rows, size, func(at uint64) bool {
		vk := m.byte(at)
		if vk == 0 {
			return false
		}
		if vk == 0xFF { // the accents of the row before
			for i := range columns {
				if n := len(l.Rows); n > 0 && i < len(l.Rows[n-1].Cells) && l.Rows[n-1].Cells[i].Unit == dead {
					l.Rows[n-1].Cells[i] = Cell{Accent: m.word(at + 2 + 2*uint64(i))}
				}
			}
			return true
		}
		r := Row{VK: vk, Attributes: m.byte(at + 1)}
		for i := range columns {
			switch unit := m.word(at + 2 + 2*uint64(i)); unit {
			case noUnit:
				r.Cells = append(r.Cells, Cell{})
			case ligature:
				r.Cells = append(r.Cells, Cell{Ligature: true})
			default: // an accent's comes in the next row
				r.Cells = append(r.Cells, Cell{Unit: unit})
			}
		}
		l.Rows = append(l.Rows, r)
		return true
	})
}

func (m *memory) prefixed(list uint64) (found []Prefixed) {
	if list == 0 {
		return nil
	}
	m.each(list, 4, func(at uint64) bool {
		code := m.byte(at)
		if code != 0 {
			found = append(found, Prefixed{code, m.word(at + 2)})
		}
		return code != 0
	})
	return found
}

func (m *memory) ligatures(l *Library, list uint64, units int, size uint64) {
	if list == 0 {
		return
	}
	if size < uint64(4+2*units) {
		m.fail("ligatures are too short")
		return
	}
	m.each(list, size, func(at uint64) bool {
		vk := m.byte(at)
		if vk == 0 {
			return false
		}
		g := Ligature{VK: vk, Column: int(m.word(at + 2))}
		for i := range units {
			if u := m.word(at + 4 + 2*uint64(i)); u != noUnit {
				g.Units = append(g.Units, u)
			}
		}
		l.Ligatures = append(l.Ligatures, g)
		return true
	})
}
