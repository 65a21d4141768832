package drawing_test

import (
	"bytes"
	"encoding/xml"
	"flag"
	"image/png"
	"io"
	"os"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/tdewolff/font"

	"leitstand/core/picture/scene"
	"leitstand/core/report/drawing"
)

var update = flag.Bool("update", false, "write the pictures; look at them before committing")

// Same picture, same bytes, whenever it is drawn.
func TestSameBytes(t *testing.T) {
	list := boards(t)
	for _, format := range drawing.Formats {
		first, err := drawing.Boards(format, list[:1], false)
		require.NoError(t, err)
		synctest.Test(t, func(t *testing.T) { // whose time is another
			time.Sleep(time.Hour)
			again, err := drawing.Boards(format, list[:1], false)
			require.NoError(t, err)
			assert.True(t, bytes.Equal(first, again), format)
		})
		dark, err := drawing.Boards(format, list[:1], true)
		require.NoError(t, err)
		assert.False(t, bytes.Equal(first, dark), "%s: dark is as light", format)
	}
}

// A font in a picture is one, with the checksums that it should have, and all the characters of the texts.
func TestSubset(t *testing.T) {
	const text = "Ä ß λ Ж € ← ◌´"
	data, err := drawing.Subset([]string{text}, true)
	require.NoError(t, err)
	f, err := font.ParseSFNT(data, 0)
	require.NoError(t, err)
	for _, r := range text {
		assert.NotZero(t, f.GlyphIndex(r), "%c", r)
	}
	assert.Less(t, len(data), 40_000)
}

// What is written is what it is called.
func TestFormats(t *testing.T) {
	list := boards(t)
	data, err := drawing.Boards("svg", list[:1], false)
	require.NoError(t, err)
	for d := xml.NewDecoder(bytes.NewReader(data)); ; {
		_, err := d.Token()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
	}
	data, err = drawing.Boards("png", list[:1], false)
	require.NoError(t, err)
	image, err := png.Decode(bytes.NewReader(data))
	require.NoError(t, err)
	s := scene.Board(list[0], drawing.Font{})
	assert.InDelta(t, 2*s.Width, image.Bounds().Dx(), 1)
	data, err = drawing.Boards("pdf", list, false)
	require.NoError(t, err)
	assert.Equal(t, len(list), bytes.Count(data, []byte("/Type /Page\n")))
	for name, format := range map[string]string{"a.svg": "svg", "b.PNG": "png", "c.d.pdf": "pdf"} {
		is, err := drawing.Format(name)
		require.NoError(t, err)
		assert.Equal(t, format, is)
	}
	_, err = drawing.Format("svg")
	assert.ErrorContains(t, err, ".svg, .png, .pdf")
}

// Two boards of the example as elements of a page: a change of what is drawn shows here.
func TestGolden(t *testing.T) {
	for _, b := range boards(t) {
		if b.Machine != "vessel" {
			continue
		}
		at := "testdata/" + b.Name + ".svg"
		drawn := []byte("<!-- " + scene.Title(b) + " -->\n" + drawing.Inline(scene.Board(b, drawing.Font{})))
		drawn = bytes.ReplaceAll(drawn, []byte("><"), []byte(">\n<"))
		if *update {
			require.NoError(t, os.WriteFile(at, drawn, 0o644))
		}
		known, err := os.ReadFile(at)
		require.NoError(t, err)
		assert.Equal(t, string(known), string(drawn))
	}
}
