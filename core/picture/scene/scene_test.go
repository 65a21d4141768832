package scene_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/go-fonts/dejavu/dejavusanscondensed"
	"github.com/go-fonts/dejavu/dejavusanscondensedbold"
	"github.com/golang/freetype/truetype"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/math/fixed"
	"pgregory.net/rapid"

	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/core/picture"
	"leitstand/core/picture/scene"
	"leitstand/core/report/drawing"
	"leitstand/core/station"
	"leitstand/internal/sample"
)

// advances are the fonts, as another library reads them.
var advances = sync.OnceValue(func() (list [2]*truetype.Font) {
	for i, data := range [][]byte{dejavusanscondensed.TTF, dejavusanscondensedbold.TTF} {
		f, err := truetype.Parse(data)
		if err != nil {
			panic(err)
		}
		list[i] = f
	}
	return list
})

// box is what a text covers, as it is drawn.
func box(t scene.Text) (x0, x1, y0, y1 float64) {
	f := advances()[0]
	if t.Bold {
		f = advances()[1]
	}
	em, units := fixed.Int26_6(f.FUnitsPerEm()), 0.0
	for _, r := range t.Words {
		units += float64(f.HMetric(em, f.Index(r)).AdvanceWidth)
	}
	wide := units * t.Size / float64(em)
	switch x0 = t.At.X; t.Anchor {
	case scene.Middle:
		x0 -= wide / 2
	case scene.End:
		x0 -= wide
	case scene.Start:
	}
	return x0, x0 + wide, t.At.Y - t.Size*0.72, t.At.Y + t.Size*0.2
}

// requireLegible holds a picture's texts against the font: each has room, and is where nothing else is written.
func requireLegible(t require.TestingT, s scene.Scene) {
	type placed struct {
		text           scene.Text
		x0, x1, y0, y1 float64
	}
	var list []placed
	for _, text := range s.Texts {
		x0, x1, y0, y1 := box(text)
		require.LessOrEqual(t, x1-x0, text.Room+0.01, "%q is wider than its room", text.Words)
		require.True(t, x0 >= 0 && y0 >= 0 && x1 <= s.Width && y1 <= s.Height, "%q is beyond the picture", text.Words)
		list = append(list, placed{text, x0, x1, y0, y1})
	}
	slices.SortFunc(list, func(a, b placed) int { return int(a.y0 - b.y0) })
	for i, a := range list {
		for _, b := range list[i+1:] {
			if b.y0 > a.y1+1 {
				break
			}
			require.False(t, a.x0 < b.x1-0.01 && b.x0 < a.x1-0.01 && a.y0 < b.y1-0.5 && b.y0 < a.y1-0.5,
				"%q lies over %q in %s", a.text.Words, b.text.Words, s.Title)
		}
	}
	for _, shape := range s.Shapes {
		for _, p := range shape.Points {
			require.True(t, p.X >= 0 && p.Y >= 0 && p.X <= s.Width && p.Y <= s.Height, "%v is beyond the picture", p)
		}
	}
}

// Boards of each shape, with a note of each kind, long words and short ones, are legible.
func TestBoardsAreLegible(t *testing.T) {
	words := []string{
		"€",
		"off",
		"Ctrl+Shift+PgDn",
		"a word",
		"Supercalibrationless",
		"two long sentences of many words",
		"無変換",
	}
	rapid.Check(t, func(t *rapid.T) {
		b := &picture.Board{
			Machine: rapid.SampledFrom([]string{"gauge", strings.Repeat("long", 60)}).Draw(t, "machine"),
			Place:   "Linux with i3", Layout: "de",
			Shape: machine.Shape{
				Kind:  rapid.SampledFrom(machine.Kinds).Draw(t, "kind"),
				Form:  rapid.SampledFrom(append([]string{""}, machine.Forms...)).Draw(t, "form"),
				Split: rapid.Bool().Draw(t, "split"), Mac: rapid.Bool().Draw(t, "mac"),
			},
		}
		for i, k := range picture.Kinds {
			b.Notes = append(b.Notes, picture.Note{
				Number: i + 1, Kind: k.Kind, Short: rapid.SampledFrom(words).Draw(t, "short"),
				Does:  strings.Repeat(rapid.SampledFrom(words).Draw(t, "does"), rapid.IntRange(1, 9).Draw(t, "times")),
				Rules: []string{"remap A = B"},
			})
		}
		for _, c := range b.Shape.Caps() {
			cap := picture.Cap{
				Cap: c, Printed: rapid.SampledFrom([]string{"A", "Shift", "NumpadMemoryClear", "ßß"}).Draw(t, "printed"),
				Shifted: rapid.SampledFrom([]string{"", "!"}).Draw(t, "shifted"), Dead: rapid.Bool().Draw(t, "dead"),
				Broken: rapid.Bool().Draw(t, "broken"), Free: rapid.Bool().Draw(t, "free"),
				Note: rapid.IntRange(0, len(b.Notes)).Draw(t, "note"),
			}
			b.Caps = append(b.Caps, cap)
		}
		requireLegible(t, scene.Board(b, drawing.Font{}))
	})
}

// Pictures of random mappings are legible, and every character in them is in the font.
func TestPicturesOfMappingsAreLegible(t *testing.T) {
	sample.Anew(t, 25)
	rapid.Check(t, func(t *rapid.T) {
		mp := sample.Valid(t).Mapping
		builds, diags, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		if diags.HasErrors() {
			return
		}
		list, err := station.All(mp, builds)
		require.NoError(t, err)
		boards, err := picture.Every(list, picture.Asked{Layers: true})
		require.NoError(t, err)
		for _, b := range boards {
			requireLegible(t, scene.Board(b, drawing.Font{}))
		}
	})
}

// Each kind has a form of its own, seen without colours, in both themes, whose colours have contrast enough.
func TestKindsAreToldApart(t *testing.T) {
	forms := map[string]picture.Kind{}
	for _, k := range picture.Kinds {
		b := &picture.Board{
			Notes: []picture.Note{{Number: 1, Kind: k.Kind, Does: "x"}},
			Shape: machine.Shape{Kind: "iso"},
		}
		for _, c := range b.Shape.Caps() {
			b.Caps = append(b.Caps, picture.Cap{Cap: c, Note: 1})
		}
		s := scene.Board(b, drawing.Font{})
		form := ""
		for _, shape := range s.Shapes[:12] { // of the first keys
			form += fmt.Sprintf("%v %v %v %v;", shape.Points, shape.Wide, shape.Dashed, shape.Line)
		}
		assert.Empty(t, forms[form], "%s looks as another kind does", k.Kind)
		forms[form] = k.Kind
	}
	for name, theme := range map[string]scene.Theme{"light": scene.Light, "dark": scene.Dark} {
		for _, ground := range []scene.Part{scene.Paper, scene.Cap} {
			for _, text := range []scene.Part{scene.Ink, scene.Muted} {
				assert.GreaterOrEqual(
					t,
					contrast(t, theme[text], theme[ground]),
					4.5,
					"%s: %s on %s",
					name,
					text,
					ground,
				)
			}
		}
		for _, k := range picture.Kinds {
			ground := theme[scene.Of(string(k.Kind))]
			require.NotEmpty(t, ground, "%s: %s has no colour", name, k.Kind)
			assert.GreaterOrEqual(t, contrast(t, theme[scene.Ink], ground), 4.5, "%s: %s", name, k.Kind)
		}
		assert.GreaterOrEqual(t, contrast(t, theme[scene.Edge], theme[scene.Paper]), 3.0, name)
	}
}

// contrast is that of two colours. (WCAG 2.2, relative luminance and contrast ratio.)
func contrast(t *testing.T, a, b string) float64 {
	light := func(colour string) float64 {
		var r, g, bl int
		_, err := fmt.Sscanf(colour, "#%02x%02x%02x", &r, &g, &bl)
		require.NoError(t, err)
		part := func(v int) float64 {
			c := float64(v) / 255
			if c <= 0.04045 {
				return c / 12.92
			}
			return math.Pow((c+0.055)/1.055, 2.4)
		}
		return 0.2126*part(r) + 0.7152*part(g) + 0.0722*part(bl)
	}
	x, y := light(a)+0.05, light(b)+0.05
	return max(x, y) / min(x, y)
}

// What is put below or beside another picture is there as it was, moved.
func TestStackAndBeside(t *testing.T) {
	s := scene.Scene{
		Title: "one", Width: 30, Height: 20,
		Shapes: []scene.Shape{{Points: []scene.Point{{X: 1, Y: 2}, {X: 3, Y: 4}}, Fill: scene.Cap}},
		Texts:  []scene.Text{{At: scene.Point{X: 5, Y: 6}, Words: "a"}},
	}
	below, beside := scene.Stack([]scene.Scene{s, s}), scene.Beside(s, s)
	assert.Equal(t, "30 40, 60 20", fmt.Sprintf("%v %v, %v %v", below.Width, below.Height, beside.Width, beside.Height))
	assert.Equal(t, []scene.Point{{X: 1, Y: 22}, {X: 3, Y: 24}}, below.Shapes[2].Points)
	assert.Equal(t, scene.Point{X: 5, Y: 26}, below.Texts[1].At)
	assert.Equal(t, []scene.Point{{X: 31, Y: 2}, {X: 33, Y: 4}}, beside.Shapes[1].Points)
	assert.Equal(t, s.Shapes[0], below.Shapes[1], "the first stays where it is")
}
