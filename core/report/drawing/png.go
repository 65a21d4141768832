package drawing

import (
	"fmt"
	"image/png"
	"io"
	"sync"

	"git.sr.ht/~sbinet/gg"
	"github.com/golang/freetype/truetype"
	"golang.org/x/image/font"

	"leitstand/core/picture/scene"
)

// perPoint are the dots of a raster in a point of a scene: sharp on a screen of twice the density.
const perPoint = 2

// outlines are the fonts as a raster needs them.
var outlines = sync.OnceValue(func() (list [2]*truetype.Font) {
	for i, data := range files {
		f, err := truetype.Parse(data)
		if err != nil {
			panic(fmt.Sprintf("a font that is part of the program cannot be read: %v", err))
		}
		list[i] = f
	}
	return list
})

func drawPNG(w io.Writer, s scene.Scene, theme scene.Theme) error {
	dc := gg.NewContext(int(s.Width*perPoint), int(s.Height*perPoint))
	for _, shape := range s.Shapes {
		for i, p := range shape.Points {
			if i == 0 {
				dc.MoveTo(p.X*perPoint, p.Y*perPoint)
			} else {
				dc.LineTo(p.X*perPoint, p.Y*perPoint)
			}
		}
		if !shape.Open {
			dc.ClosePath()
		}
		if shape.Fill != "" {
			dc.SetColor(colour(theme, shape.Fill))
			dc.FillPreserve()
		}
		if shape.Line != "" {
			dc.SetColor(colour(theme, shape.Line))
			dc.SetLineWidth(shape.Wide * perPoint)
			dc.SetLineCapButt()
			if dc.SetDash(); shape.Dashed {
				dc.SetDash(3*perPoint, 2*perPoint)
			}
			dc.StrokePreserve()
		}
		dc.ClearPath()
	}
	faces := map[scene.Text]font.Face{} // by size and weight
	for _, t := range s.Texts {
		of := scene.Text{Size: t.Size, Bold: t.Bold}
		if faces[of] == nil {
			faces[of] = truetype.NewFace(
				outlines()[weight(t.Bold)], &truetype.Options{Size: t.Size * perPoint, Hinting: font.HintingNone},
			)
		}
		dc.SetFontFace(faces[of])
		dc.SetColor(colour(theme, t.Part))
		dc.DrawString(t.Words, left(t)*perPoint, t.At.Y*perPoint)
	}
	return png.Encode(w, dc.Image())
}

// left is where a text begins.
func left(t scene.Text) float64 {
	wide := Font{}.Width(t.Words, t.Size, t.Bold)
	switch t.Anchor {
	case scene.Middle:
		return t.At.X - wide/2
	case scene.End:
		return t.At.X - wide
	case scene.Start:
	}
	return t.At.X
}
