package keys_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
	"leitstand/core/keys/library"
)

// Whatever stands in a library, a layout is made of it or it is told why not.
func FuzzLayoutOfLibrary(f *testing.F) {
	scancodes := make([]uint16, 0x7F)
	scancodes[0x10], scancodes[0x0D] = 'Q', 0xBB
	l := library.Library{
		Modifiers: []library.Modifier{{VK: 0x10, Bit: 1}, {VK: 0x11, Bit: 2}, {VK: 0x12, Bit: 4}},
		Columns:   []byte{0, 1, library.NoColumn}, Scancodes: scancodes,
		Rows: []library.Row{
			{VK: 'Q', Attributes: 1, Cells: []library.Cell{{Unit: 'q'}, {Unit: 'Q'}}},
			{VK: 0xBB, Cells: []library.Cell{{Accent: '´'}, {Accent: '`'}}},
		},
		Dead: []library.Dead{{Accent: '´', Base: 'q', Result: 'x'}},
	}
	file, err := l.Build(library.AMD64)
	require.NoError(f, err)
	_, err = keys.LayoutOfLibrary("de", file)
	require.NoError(f, err)
	f.Add(file)
	f.Fuzz(func(_ *testing.T, data []byte) { _, _ = keys.LayoutOfLibrary("de", data) })
}
