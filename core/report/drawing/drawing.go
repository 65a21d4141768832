// Package drawing makes files of pictures: SVG (Scalable Vector Graphics 2), PNG (ISO/IEC 15948) and PDF (ISO 32000), with
// the font in them, so that they look the same everywhere. Same picture, same bytes.
package drawing

import (
	"bytes"
	"fmt"
	"image/color"
	"image/png"
	"io"
	"path"
	"strings"
	"sync"

	"github.com/go-fonts/dejavu/dejavusanscondensed"
	"github.com/go-fonts/dejavu/dejavusanscondensedbold"
	"github.com/tdewolff/canvas"
	"github.com/tdewolff/canvas/renderers/pdf"
	"github.com/tdewolff/canvas/renderers/rasterizer"
	"github.com/tdewolff/canvas/renderers/svg"
	"github.com/tdewolff/font"

	"leitstand/core/picture"
	"leitstand/core/picture/scene"
)

// Formats are those of the files that can be made, by the ends of their names.
var Formats = []string{"svg", "png", "pdf"}

// millimetres are in a point of a scene, of 1/96 inch.
const millimetres = 25.4 / 96

// typographic points are in a millimetre of a canvas.
const typographic = 72 / 25.4

// perPoint are the dots of a raster in a point of a scene: sharp on a screen of twice the density.
const perPoint = 2

// fonts are those that drawings have in them, read when they are first wanted.
var fonts = sync.OnceValue(func() *canvas.FontFamily {
	f := canvas.NewFontFamily("board")
	for style, data := range map[canvas.FontStyle][]byte{
		canvas.FontRegular: dejavusanscondensed.TTF, canvas.FontBold: dejavusanscondensedbold.TTF,
	} {
		if err := f.LoadFont(data, 0, style); err != nil {
			panic(fmt.Sprintf("a font that is part of the program cannot be read: %v", err))
		}
	}
	return f
})

// face is a font in a size of a canvas's millimetres.
func face(size float64, bold bool, of color.Color) *canvas.FontFace {
	style := canvas.FontRegular
	if bold {
		style = canvas.FontBold
	}
	return fonts().Face(size*typographic, of, style)
}

// read are the tables of the fonts: of the regular one and the bold.
var read = sync.OnceValue(func() [2]*font.SFNT {
	return [2]*font.SFNT{face(1, false, canvas.Black).Font.SFNT, face(1, true, canvas.Black).Font.SFNT}
})

// Font is that of drawings.
type Font struct{}

// Width is how wide a text is at most, character by character; two that are drawn nearer to each other make it less.
func (Font) Width(text string, size float64, bold bool) float64 {
	f, units := read()[0], 0
	if bold {
		f = read()[1]
	}
	for _, r := range text {
		units += int(f.GlyphAdvance(f.GlyphIndex(r)))
	}
	return float64(units) * size / float64(f.Head.UnitsPerEm)
}

// Has says whether the font has a character.
func (Font) Has(r rune) bool {
	return read()[0].GlyphIndex(r) != 0 && read()[1].GlyphIndex(r) != 0
}

// Format is the format of a file, by the end of its name. The error names those that there are.
func Format(name string) (string, error) {
	end := strings.ToLower(strings.TrimPrefix(path.Ext(name), "."))
	for _, f := range Formats {
		if f == end {
			return f, nil
		}
	}
	return "", fmt.Errorf("%s: a picture's name ends in .%s", name, strings.Join(Formats, ", ."))
}

// Boards makes a file of boards.
func Boards(format string, boards []*picture.Board, dark bool) ([]byte, error) {
	theme := scene.Light
	if dark {
		theme = scene.Dark
	}
	var list []scene.Scene
	for _, b := range boards {
		list = append(list, scene.Board(b, Font{}))
	}
	return Draw(format, list, theme)
}

// Draw makes a file of pictures: one below the other, of a PDF each on a page.
func Draw(format string, list []scene.Scene, theme scene.Theme) ([]byte, error) {
	var w bytes.Buffer
	var err error
	switch format {
	case "svg":
		err = drawSVG(&w, scene.Stack(list), theme)
	case "png":
		err = drawPNG(&w, scene.Stack(list), theme)
	case "pdf":
		err = drawPDF(&w, list, theme)
	default:
		err = fmt.Errorf("%q is no format of a picture", format)
	}
	return w.Bytes(), err
}

func drawSVG(w io.Writer, s scene.Scene, theme scene.Theme) error {
	c := render(s, theme, 1) // whose numbers are an SVG's
	options := svg.Options{EmbedFonts: true, SubsetFonts: true}
	r := svg.New(w, c.W, c.H, &options)
	c.RenderTo(r)
	return r.Close()
}

func drawPNG(w io.Writer, s scene.Scene, theme scene.Theme) error {
	c := render(s, theme, millimetres)
	return png.Encode(w, rasterizer.Draw(c, canvas.DPMM(perPoint/millimetres), canvas.DefaultColorSpace))
}

func drawPDF(w io.Writer, list []scene.Scene, theme scene.Theme) error {
	var out *pdf.PDF
	for i, s := range list {
		c := render(s, theme, millimetres)
		if i == 0 {
			out = pdf.New(w, c.W, c.H, nil)
			out.SetInfo(scene.Stack(list).Title, "", "", "", "leitstand")
		} else {
			out.NewPage(c.W, c.H)
		}
		c.RenderTo(out)
	}
	return out.Close()
}

// render puts a scene onto a canvas, on which a point is so wide.
func render(s scene.Scene, theme scene.Theme, point float64) *canvas.Canvas {
	c := canvas.New(s.Width*point, s.Height*point)
	ctx := canvas.NewContext(c)
	ctx.SetCoordSystem(canvas.CartesianIV) // from the upper left corner
	ctx.SetStrokeJoiner(canvas.MiterJoin)
	for _, shape := range s.Shapes {
		p := &canvas.Path{}
		for i, at := range shape.Points {
			if i == 0 {
				p.MoveTo(at.X*point, at.Y*point)
			} else {
				p.LineTo(at.X*point, at.Y*point)
			}
		}
		if !shape.Open {
			p.Close()
		}
		ctx.SetFillColor(colour(theme, shape.Fill))
		ctx.SetStrokeColor(colour(theme, shape.Line))
		ctx.SetStrokeWidth(shape.Wide * point)
		if shape.Dashed {
			ctx.SetDashes(0, 3*point, 2*point)
		} else {
			ctx.SetDashes(0)
		}
		ctx.DrawPath(0, 0, p)
	}
	anchors := map[scene.Anchor]canvas.TextAlign{scene.Start: canvas.Left, scene.Middle: canvas.Center, scene.End: canvas.Right}
	for _, t := range s.Texts {
		f := face(t.Size*point, t.Bold, colour(theme, t.Part))
		ctx.DrawText(t.At.X*point, t.At.Y*point, canvas.NewTextLine(f, t.Words, anchors[t.Anchor]))
	}
	return c
}

// colour is that of a part, which the theme writes as #rrggbb; nothing has none.
func colour(theme scene.Theme, part scene.Part) color.RGBA {
	if part == "" {
		return canvas.Transparent
	}
	return canvas.Hex(theme[part])
}
