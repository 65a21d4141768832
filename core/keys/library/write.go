package library

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"unicode/utf16"
)

// The file's form. (PE Format)
const (
	imageBase    = 0x5FFF0000
	dataAt       = 0x1000 // where the only section of content begins in memory
	headersSize  = 0x200
	sectionAlign = 0x1000
	fileAlign    = 0x200
	relocDir64   = 10
)

var le = binary.LittleEndian

// content is the section of tables, in which pointers are relocated.
type content struct {
	data     []byte
	pointers []int // where in data a pointer stands
}

// align fills up to a multiple.
func (c *content) align(n int) {
	for len(c.data)%n != 0 {
		c.data = append(c.data, 0)
	}
}

// put adds bytes at a multiple of eight, and says where they are.
func (c *content) put(data []byte) int {
	c.align(8)
	at := len(c.data)
	c.data = append(c.data, data...)
	return at
}

// point writes a pointer at a place; none where it leads nowhere.
func (c *content) point(at, to int) {
	if to >= 0 {
		le.PutUint64(c.data[at:], uint64(imageBase+dataAt+to))
		c.pointers = append(c.pointers, at)
	}
}

// text adds a text with its end.
func (c *content) text(s string) int {
	var data []byte
	for _, u := range append(utf16.Encode([]rune(s)), 0) {
		data = le.AppendUint16(data, u)
	}
	return c.put(data)
}

// Build makes the file. The error says what no library can hold.
func (l *Library) Build(m Machine) ([]byte, error) {
	if err := l.check(); err != nil {
		return nil, err
	}
	c := &content{}
	tables := c.put(make([]byte, 104))
	c.point(tables, l.modifiers(c))
	c.point(tables+8, l.rows(c))
	c.point(tables+16, l.dead(c))
	c.point(tables+24, names(c, l.Names))
	c.point(tables+32, names(c, l.E0Names))
	c.point(tables+40, l.accents(c))
	var codes []byte
	for _, vk := range l.Scancodes {
		codes = le.AppendUint16(codes, vk)
	}
	c.point(tables+48, c.put(codes))
	c.data[tables+56] = byte(len(l.Scancodes))
	c.point(tables+64, prefixed(c, l.E0))
	c.point(tables+72, prefixed(c, l.E1))
	flags := uint32(1 << 16) // version 1
	if l.AltGr {
		flags |= altGrFlag
	}
	le.PutUint32(c.data[tables+80:], flags)
	if len(l.Ligatures) > 0 {
		most := 0
		for _, g := range l.Ligatures {
			most = max(most, len(g.Units))
		}
		c.data[tables+84], c.data[tables+85] = byte(most), byte(4+2*most)
		c.point(tables+88, l.ligatures(c, most))
	}
	code := c.put(descriptor(m, len(c.data)+(8-len(c.data)%8)%8, tables))
	return image(m, c, code), nil
}

// check says what the tables' numbers have no room for.
func (l *Library) check() error {
	for _, r := range l.Rows {
		if len(r.Cells) == 0 || len(r.Cells) > 100 {
			return fmt.Errorf("the virtual key %02X has %d columns", r.VK, len(r.Cells))
		}
	}
	for _, g := range l.Ligatures {
		if len(g.Units) > MostUnits {
			return fmt.Errorf("a key types %d units at most, not %d", MostUnits, len(g.Units))
		}
	}
	if len(l.Scancodes) > 0x7F {
		return fmt.Errorf("there are no %d scan codes", len(l.Scancodes))
	}
	return nil
}

func (l *Library) modifiers(c *content) int {
	var bits []byte
	for _, m := range l.Modifiers {
		bits = append(bits, m.VK, m.Bit)
	}
	list := c.put(append(bits, 0, 0))
	data := le.AppendUint16(make([]byte, 8), uint16(len(l.Columns)-1))
	at := c.put(append(data, l.Columns...))
	c.point(at, list)
	return at
}

// rows makes a table for each number of columns, that of one column at last, as the numpad's digits want it.
func (l *Library) rows(c *content) int {
	byWidth := map[int][]Row{}
	for _, r := range l.Rows {
		byWidth[len(r.Cells)] = append(byWidth[len(r.Cells)], r)
	}
	widths := slices.Sorted(maps.Keys(byWidth))
	slices.Reverse(widths)
	var tables []int
	for _, n := range widths {
		var data []byte
		for _, r := range byWidth[n] {
			data = append(data, r.VK, r.Attributes)
			accents, waits := []byte{0xFF, 0}, false
			for _, cell := range r.Cells {
				unit, accent := cell.Unit, uint16(noUnit)
				switch {
				case cell.Ligature:
					unit = ligature
				case cell.Accent != 0:
					unit, accent, waits = dead, cell.Accent, true
				case unit == 0:
					unit = noUnit
				}
				data, accents = le.AppendUint16(data, unit), le.AppendUint16(accents, accent)
			}
			if waits {
				data = append(data, accents...)
			}
		}
		tables = append(tables, c.put(append(data, make([]byte, 2+2*n)...)))
	}
	at := c.put(make([]byte, 16*(len(tables)+1)))
	for i, t := range tables {
		c.point(at+16*i, t)
		c.data[at+16*i+8], c.data[at+16*i+9] = byte(widths[i]), byte(2+2*widths[i])
	}
	return at
}

func (l *Library) dead(c *content) int {
	if len(l.Dead) == 0 {
		return -1
	}
	var data []byte
	for _, d := range l.Dead {
		again := uint16(0)
		if d.Again {
			again = 1
		}
		for _, v := range []uint16{d.Base, d.Accent, d.Result, again} {
			data = le.AppendUint16(data, v)
		}
	}
	return c.put(append(data, make([]byte, 8)...))
}

func names(c *content, of map[byte]string) int {
	codes := slices.Sorted(maps.Keys(of))
	at := c.put(make([]byte, 16*(len(codes)+1)))
	for i, code := range codes {
		c.data[at+16*i] = code
		c.point(at+16*i+8, c.text(of[code]))
	}
	return at
}

func (l *Library) accents(c *content) int {
	if len(l.Accents) == 0 {
		return -1
	}
	list := slices.Sorted(maps.Keys(l.Accents))
	at := c.put(make([]byte, 8*(len(list)+1)))
	for i, a := range list {
		c.point(at+8*i, c.text(string(rune(a))+l.Accents[a]))
	}
	return at
}

func prefixed(c *content, list []Prefixed) int {
	var data []byte
	for _, p := range list {
		data = le.AppendUint16(append(data, p.Code, 0), p.VK)
	}
	return c.put(append(data, 0, 0, 0, 0))
}

func (l *Library) ligatures(c *content, most int) int {
	var data []byte
	for _, g := range l.Ligatures {
		data = le.AppendUint16(append(data, g.VK, 0), uint16(g.Column))
		for i := range most {
			unit := uint16(noUnit)
			if i < len(g.Units) {
				unit = g.Units[i]
			}
			data = le.AppendUint16(data, unit)
		}
	}
	return c.put(append(data, make([]byte, 4+2*most)...))
}

// descriptor is the function that gives the address of the tables: code at a place for one behind it.
func descriptor(m Machine, at, tables int) []byte {
	if m == AMD64 { // lea rax, [rip+tables]; ret
		return append(le.AppendUint32([]byte{0x48, 0x8D, 0x05}, uint32(int32(tables-at-7))), 0xC3)
	}
	here, there := (imageBase+dataAt+at)>>12, (imageBase+dataAt+tables)>>12
	pages := uint32(there-here) & 0x1FFFFF
	code := le.AppendUint32(nil, 0x90000000|pages&3<<29|pages>>2<<5)                     // adrp x0, page
	code = le.AppendUint32(code, 0x91000000|uint32((imageBase+dataAt+tables)&0xFFF)<<10) // add x0, x0, #offset
	return le.AppendUint32(code, 0xD65F03C0)                                             // ret
}

// image is the file around the content.
func image(m Machine, c *content, code int) []byte {
	exportAt := c.put(exports(len(c.data)+(8-len(c.data)%8)%8, code))
	size := len(c.data)
	c.align(fileAlign)
	relocs := relocations(c.pointers)
	relocAt := dataAt + (size+sectionAlign-1)/sectionAlign*sectionAlign

	h := make([]byte, headersSize)
	copy(h, "MZ")
	le.PutUint32(h[0x3C:], 0x40)
	w := h[0x40:]
	put := func(at, n int, v uint64) {
		for i := range n {
			w[at+i] = byte(v >> (8 * i))
		}
	}
	copy(w, "PE\x00\x00")
	put(4, 2, uint64(m))
	put(6, 2, 2)       // sections
	put(20, 2, 240)    // size of what follows
	put(22, 2, 0x2022) // a library of large addresses
	for _, f := range []struct {
		at, n int
		v     uint64
	}{
		{0, 2, 0x20B}, {2, 1, 14}, {8, 4, uint64(len(c.data) + len(relocs))}, {20, 4, dataAt}, {24, 8, imageBase},
		{32, 4, sectionAlign}, {36, 4, fileAlign}, {40, 2, 6}, {48, 2, 6}, // of Windows 6 on
		{56, 4, uint64(relocAt + sectionAlign)}, {60, 4, headersSize}, {68, 2, 1}, {70, 2, 0x160}, // native; moves
		{72, 8, 0x40000}, {80, 8, 0x1000}, {88, 8, 0x100000}, {96, 8, 0x1000}, {108, 4, 16},
		{112, 4, uint64(dataAt + exportAt)}, {116, 4, uint64(size - exportAt)},
		{112 + 5*8, 4, uint64(relocAt)}, {116 + 5*8, 4, uint64(relocSize(c.pointers))},
	} {
		put(24+f.at, f.n, f.v)
	}
	section := func(i int, name string, size, at, raw, file int, flags uint64) {
		o := 24 + 240 + 40*i
		copy(w[o:], name)
		put(o+8, 4, uint64(size))
		put(o+12, 4, uint64(at))
		put(o+16, 4, uint64(raw))
		put(o+20, 4, uint64(file))
		put(o+36, 4, flags)
	}
	section(0, ".data", size, dataAt, len(c.data), headersSize, 0x60000040) // read and run, as the kernel wants it
	section(1, ".reloc", relocSize(c.pointers), relocAt, len(relocs), headersSize+len(c.data), 0x42000040)
	file := slices.Concat(h, c.data, relocs)
	le.PutUint32(file[0x40+24+64:], checksum(file))
	return file
}

// exports is the directory of what the file exports, at a place: one function, by name and by the number 1.
func exports(at, code int) []byte {
	rva := func(offset int) uint32 { return uint32(dataAt + at + offset) }
	data := make([]byte, 54)
	for offset, v := range map[int]uint32{
		12: rva(54), 16: 1, 20: 1, 24: 1, 28: rva(40), 32: rva(44), 36: rva(48),
		40: uint32(dataAt + code), 44: rva(54 + len("layout.dll") + 1),
	} {
		le.PutUint32(data[offset:], v)
	}
	return append(append(data, "layout.dll\x00"...), "KbdLayerDescriptor\x00"...)
}

// relocations are the blocks that say where pointers stand, one for each page of memory.
func relocations(pointers []int) []byte {
	pages := map[int][]int{}
	for _, p := range pointers {
		pages[p/sectionAlign] = append(pages[p/sectionAlign], p%sectionAlign)
	}
	var data []byte
	for _, page := range slices.Sorted(maps.Keys(pages)) {
		list := pages[page]
		slices.Sort(list)
		size := 8 + 2*(len(list)+len(list)%2)
		data = le.AppendUint32(data, uint32(dataAt+page*sectionAlign))
		data = le.AppendUint32(data, uint32(size))
		for _, offset := range list {
			data = le.AppendUint16(data, uint16(relocDir64<<12|offset))
		}
		if len(list)%2 != 0 {
			data = le.AppendUint16(data, 0)
		}
	}
	for len(data)%fileAlign != 0 {
		data = append(data, 0)
	}
	return data
}

// relocSize is the size of the blocks themselves.
func relocSize(pointers []int) int {
	pages := map[int]int{}
	for _, p := range pointers {
		pages[p/sectionAlign]++
	}
	size := 0
	for _, n := range pages {
		size += 8 + 2*(n+n%2)
	}
	return size
}

// checksum is that of a file whose field for it is zero. (PE Format: CheckSum; ImageHlp's algorithm)
func checksum(file []byte) uint32 {
	sum := uint32(0)
	for i := 0; i < len(file); i += 2 {
		sum += uint32(le.Uint16(file[i:]))
		sum = sum>>16 + sum&0xFFFF
	}
	return sum + uint32(len(file))
}
