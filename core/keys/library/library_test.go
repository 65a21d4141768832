package library_test

import (
	"bytes"
	"debug/pe"
	"encoding/binary"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/keys/library"
	"leitstand/internal/realtest"
)

// anyLibrary draws tables.
func anyLibrary(t *rapid.T) *library.Library {
	unit := rapid.Uint16Range(1, 0xD7FF)
	l := &library.Library{
		Modifiers: []library.Modifier{{VK: 0x10, Bit: 1}, {VK: 0x11, Bit: 2}, {VK: 0x12, Bit: 4}, {VK: 0xDF, Bit: 8}},
		Columns:   []byte{0, 1, 2, library.NoColumn, library.NoColumn, library.NoColumn, 3, 4, 5},
		Names:     map[byte]string{1: "ESC", 0x1D: "Süderhaff"}, E0Names: map[byte]string{0x45: "Num"},
		Accents: map[uint16]string{},
		AltGr:   rapid.Bool().Draw(t, "AltGr"),
		E0: []library.Prefixed{
			{Code: 0x1D, VK: 0x1A3},
			{Code: 0x38, VK: 0x1A5},
		}, E1: []library.Prefixed{{Code: 0x1D, VK: 0x13}},
	}
	if rapid.Bool().Draw(t, "a second modifier of its own") {
		l.Modifiers = append(l.Modifiers, library.Modifier{VK: 0x97, Bit: 0x10})
		l.Columns = append(l.Columns, bytes.Repeat([]byte{library.NoColumn}, 0x12-len(l.Columns))...)
		l.Columns[0x10], l.Columns[0x11] = 3, 4
	}
	for range rapid.IntRange(1, 0x7F).Draw(t, "scan codes") {
		l.Scancodes = append(l.Scancodes, rapid.Uint16Range(0, 0xFFF).Draw(t, "virtual key"))
	}
	for i, n := range []int{6, 6, 2, 2, 1}[:rapid.IntRange(1, 5).Draw(t, "rows")] {
		r := library.Row{VK: byte(0x41 + i), Attributes: rapid.ByteRange(0, 5).Draw(t, "attributes")}
		for c := range n {
			cell := library.Cell{Unit: unit.Draw(t, "unit")}
			switch rapid.IntRange(0, 5).Draw(t, "kind") {
			case 0:
				cell = library.Cell{}
			case 1:
				cell = library.Cell{Accent: unit.Draw(t, "accent")}
				l.Accents[cell.Accent] = "accent"
				l.Dead = append(
					l.Dead,
					library.Dead{
						Accent: cell.Accent,
						Base:   unit.Draw(t, "base"),
						Result: unit.Draw(t, "result"),
						Again:  rapid.Bool().Draw(t, "again"),
					},
				)
			case 2:
				cell = library.Cell{Ligature: true}
				l.Ligatures = append(
					l.Ligatures,
					library.Ligature{
						VK:     r.VK,
						Column: c,
						Units:  rapid.SliceOfN(unit, 2, library.MostUnits).Draw(t, "units"),
					},
				)
			}
			r.Cells = append(r.Cells, cell)
		}
		l.Rows = append(l.Rows, r)
	}
	return l
}

// What is built is opened as it was, on both processors; it is a PE file to another reader, and the same again.
func TestOpensWhatItBuilds(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		l := anyLibrary(r)
		for _, m := range []library.Machine{library.AMD64, library.ARM64} {
			file, err := l.Build(m)
			require.NoError(r, err)
			again, err := l.Build(m)
			require.NoError(r, err)
			require.Equal(r, file, again)
			got, machine, err := library.Open(file)
			require.NoError(r, err)
			require.Equal(r, m, machine)
			require.Equal(r, l, got)
			f, err := pe.NewFile(bytes.NewReader(file))
			require.NoError(r, err)
			require.Len(r, f.Sections, 2)
		}
	})
}

// The system loads it, twice, the second time elsewhere in memory (so one of the two is not where the file
// asks to be), finds the function by name and by number, and the tables there are those that were meant.
func TestLoadedByWine(t *testing.T) {
	wine := realtest.NewWine(t)
	build := exec.Command("go", "build", "-o", wine.Path("walk.exe"), "./testdata/walk")
	build.Env = append(os.Environ(), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)
	for i := range 3 {
		l := rapid.Custom(anyLibrary).Example(i)
		file, err := l.Build(library.AMD64)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(wine.Path("one.dll"), file, 0o600))
		require.NoError(t, os.WriteFile(wine.Path("two.dll"), file, 0o600))
		said := strings.ReplaceAll(wine.Run(`C:\walk.exe`, `C:\one.dll`, `C:\two.dll`), "\r", "")
		want := walked(l)
		assert.Equal(
			t,
			"functions <nil> true elsewhere false\n"+want+"functions <nil> true elsewhere true\n"+want,
			said,
		)
	}
}

// walked is what the walker should print.
func walked(l *library.Library) string {
	var w strings.Builder
	for _, m := range l.Modifiers {
		fmt.Fprintf(&w, "modifier %02X %d\n", m.VK, m.Bit)
	}
	for i, c := range l.Columns {
		fmt.Fprintf(&w, "column %d %d\n", i, c)
	}
	for _, r := range l.Rows {
		fmt.Fprintf(&w, "row %02X %d", r.VK, r.Attributes)
		accents, waits := fmt.Sprintf("row FF 0"), false
		for _, c := range r.Cells {
			unit, accent := c.Unit, uint16(0xF000)
			switch {
			case c.Ligature:
				unit = 0xF002
			case c.Accent != 0:
				unit, accent, waits = 0xF001, c.Accent, true
			case unit == 0:
				unit = 0xF000
			}
			fmt.Fprintf(&w, " %04X", unit)
			accents += fmt.Sprintf(" %04X", accent)
		}
		if w.WriteByte('\n'); waits {
			w.WriteString(accents + "\n")
		}
	}
	for _, d := range l.Dead {
		again := 0
		if d.Again {
			again = 1
		}
		fmt.Fprintf(&w, "dead %04X %04X %04X %d\n", d.Accent, d.Base, d.Result, again)
	}
	for i, names := range []map[byte]string{l.Names, l.E0Names} {
		for _, code := range slices.Sorted(maps.Keys(names)) {
			fmt.Fprintf(&w, "name %d %02X %s\n", i, code, names[code])
		}
	}
	for i, vk := range l.Scancodes {
		fmt.Fprintf(&w, "code %02X %04X\n", i, vk)
	}
	for i, list := range [][]library.Prefixed{l.E0, l.E1} {
		for _, p := range list {
			fmt.Fprintf(&w, "code E%d %02X %04X\n", i, p.Code, p.VK)
		}
	}
	flags := 0x10000
	if l.AltGr {
		flags++
	}
	fmt.Fprintf(&w, "flags %08X\n", flags)
	most := 0
	for _, g := range l.Ligatures {
		most = max(most, len(g.Units))
	}
	for _, g := range l.Ligatures {
		fmt.Fprintf(&w, "ligature %02X %d", g.VK, g.Column)
		for i := range most {
			unit := uint16(0xF000)
			if i < len(g.Units) {
				unit = g.Units[i]
			}
			fmt.Fprintf(&w, " %04X", unit)
		}
		w.WriteByte('\n')
	}
	return w.String()
}

// What is cut off, or leads out of the file or in a ring, is told, and nothing breaks off.
func TestOpenTrustsNothing(t *testing.T) {
	file, err := rapid.Custom(anyLibrary).Example(1).Build(library.AMD64)
	require.NoError(t, err)
	for n := range len(file) {
		_, _, _ = library.Open(file[:n])
		other := bytes.Clone(file)
		other[n] ^= 0xFF
		_, _, _ = library.Open(other)
	}
	for at, want := range map[int]string{0x200: "leads out of the file", 0x40 + 4: "unrecognized PE machine"} {
		other := bytes.Clone(file)
		copy(other[at:], "\xFF\xFF\xFF\xFF\xFF\xFF\xFF\xFF")
		_, _, err := library.Open(other)
		assert.ErrorContains(t, err, want)
	}
}

func FuzzOpen(f *testing.F) {
	for _, m := range []library.Machine{library.AMD64, library.ARM64} {
		file, err := rapid.Custom(anyLibrary).Example(2).Build(m)
		require.NoError(f, err)
		f.Add(file)
	}
	f.Fuzz(func(t *testing.T, file []byte) { _, _, _ = library.Open(file) })
}

// An object dumper agrees on what the file is: its processor, its one function by name and number, and that each
// pointer that it has moves with it.
func TestDumped(t *testing.T) {
	realtest.Need(t, "llvm-readobj", "llvm")
	for machine, named := range map[library.Machine]string{
		library.AMD64: "IMAGE_FILE_MACHINE_AMD64", library.ARM64: "IMAGE_FILE_MACHINE_ARM64",
	} {
		l := rapid.Custom(anyLibrary).Example(1)
		file, err := l.Build(machine)
		require.NoError(t, err)
		path := filepath.Join(t.TempDir(), "one.dll")
		require.NoError(t, os.WriteFile(path, file, 0o600))
		out, err := exec.Command(
			"llvm-readobj", "--file-headers", "--sections", "--coff-exports", "--coff-basereloc", path,
		).CombinedOutput()
		require.NoError(t, err, "%s", out)
		said := regexp.MustCompile(`\s+`).ReplaceAllString(string(out), " ")
		for _, want := range []string{
			"Machine: " + named, "Subsystem: IMAGE_SUBSYSTEM_NATIVE", "IMAGE_FILE_DLL", "AddressOfEntryPoint: 0x0",
			"Export { Ordinal: 1 Name: KbdLayerDescriptor RVA:", "Name: .data", "Name: .reloc",
		} {
			assert.Contains(t, said, want)
		}
		assert.Equal(t, 1, strings.Count(said, "Export {"))
		f, err := pe.NewFile(bytes.NewReader(file))
		require.NoError(t, err)
		data, err := f.Section(".data").Data()
		require.NoError(t, err)
		base := f.OptionalHeader.(*pe.OptionalHeader64).ImageBase
		pointers := 0
		for at := 0; at+8 <= len(data); at++ {
			p := binary.LittleEndian.Uint64(data[at:])
			if p >= base && p < base+uint64(f.OptionalHeader.(*pe.OptionalHeader64).SizeOfImage) {
				pointers++
			}
		}
		assert.Equal(t, pointers, strings.Count(said, "Type: DIR64"))
	}
}
