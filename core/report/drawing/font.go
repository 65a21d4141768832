package drawing

import (
	"encoding/binary"
	"fmt"
	"slices"
	"sync"

	"github.com/go-fonts/dejavu/dejavusanscondensed"
	"github.com/go-fonts/dejavu/dejavusanscondensedbold"
	"github.com/tdewolff/font"
)

// files are the fonts that drawings have in them: the regular one and the bold.
var files = [2][]byte{dejavusanscondensed.TTF, dejavusanscondensedbold.TTF}

// tables are those of the fonts, read when they are first wanted.
var tables = sync.OnceValue(func() (list [2]*font.SFNT) {
	for i, data := range files {
		f, err := font.ParseSFNT(data, 0)
		if err != nil {
			panic(fmt.Sprintf("a font that is part of the program cannot be read: %v", err))
		}
		list[i] = f
	}
	return list
})

// weight is the place of a font in a list of two.
func weight(bold bool) int {
	if bold {
		return 1
	}
	return 0
}

// Font is that of drawings.
type Font struct{}

// Width is how wide a text is, character by character.
func (Font) Width(text string, size float64, bold bool) float64 {
	f, units := tables()[weight(bold)], 0
	for _, r := range text {
		units += int(f.GlyphAdvance(f.GlyphIndex(r)))
	}
	return float64(units) * size / float64(f.Head.UnitsPerEm)
}

// Has says whether the font has a character.
func (Font) Has(r rune) bool {
	return tables()[0].GlyphIndex(r) != 0 && tables()[1].GlyphIndex(r) != 0
}

// Subset is a font (OpenType) of the characters of some texts.
func Subset(texts []string, bold bool) ([]byte, error) {
	f := tables()[weight(bold)]
	ids := []uint16{0} // what stands for all that are not there
	for _, text := range texts {
		for _, r := range text {
			ids = append(ids, f.GlyphIndex(r))
		}
	}
	slices.Sort(ids)
	small, err := f.Subset(slices.Compact(ids), font.SubsetOptions{Tables: font.KeepMinTables})
	if err != nil {
		return nil, err
	}
	data := small.Write()
	unmodified(data, f.Tables["head"])
	return data, nil
}

// unmodified gives a font the time that another one's head has for its last change, and not that of now: same texts, same
// bytes. (OpenType 1.9, "head" and the calculation of checksums.)
func unmodified(data, head []byte) {
	const record, adjustment, modified = 16, 8, 28
	sum := func(b []byte) (sum uint32) {
		for ; len(b) >= 4; b = b[4:] {
			sum += binary.BigEndian.Uint32(b)
		}
		return sum
	}
	for at := 12; at < 12+record*int(binary.BigEndian.Uint16(data[4:])); at += record {
		if string(data[at:at+4]) != "head" {
			continue
		}
		from := binary.BigEndian.Uint32(data[at+8:])
		to := from + (binary.BigEndian.Uint32(data[at+12:])+3)/4*4
		copy(data[from+modified:], head[modified:modified+8])
		binary.BigEndian.PutUint32(data[from+adjustment:], 0)
		binary.BigEndian.PutUint32(data[at+4:], sum(data[from:to]))
		binary.BigEndian.PutUint32(data[from+adjustment:], 0xB1B0AFBA-sum(data))
	}
}
