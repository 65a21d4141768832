package drawing

import (
	"io"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"leitstand/core/picture/scene"
)

// perInch is how many of a PDF's points make one of a scene.
const perInch = 72.0 / 96

func drawPDF(w io.Writer, list []scene.Scene, theme scene.Theme) error {
	out := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt"})
	out.SetCatalogSort(true)
	out.SetCreationDate(time.Unix(0, 0).UTC()) // same picture, same bytes
	out.SetModificationDate(time.Unix(0, 0).UTC())
	out.SetTitle(scene.Stack(list).Title, true)
	out.SetAutoPageBreak(false, 0)
	out.AddUTF8FontFromBytes(family, "", files[0])
	out.AddUTF8FontFromBytes(family, "B", files[1])
	for _, s := range list {
		out.AddPageFormat("", fpdf.SizeType{Wd: s.Width * perInch, Ht: s.Height * perInch})
		for _, shape := range s.Shapes {
			polygon(out, shape, theme)
		}
		for _, t := range s.Texts {
			style := ""
			if t.Bold {
				style = "B"
			}
			c := colour(theme, t.Part)
			out.SetFont(family, style, t.Size*perInch)
			out.SetTextColor(int(c.R), int(c.G), int(c.B))
			out.Text(left(t)*perInch, t.At.Y*perInch, t.Words)
		}
	}
	return out.Output(w)
}

func polygon(out *fpdf.Fpdf, shape scene.Shape, theme scene.Theme) {
	style := ""
	if shape.Fill != "" {
		c := colour(theme, shape.Fill)
		out.SetFillColor(int(c.R), int(c.G), int(c.B))
		style = "F"
	}
	if shape.Line != "" {
		c := colour(theme, shape.Line)
		out.SetDrawColor(int(c.R), int(c.G), int(c.B))
		out.SetLineWidth(shape.Wide * perInch)
		style = "D" + style
	}
	if shape.Dashed {
		out.SetDashPattern([]float64{3 * perInch, 2 * perInch}, 0)
	} else {
		out.SetDashPattern([]float64{}, 0)
	}
	for i, p := range shape.Points {
		if i == 0 {
			out.MoveTo(p.X*perInch, p.Y*perInch)
		} else {
			out.LineTo(p.X*perInch, p.Y*perInch)
		}
	}
	if !shape.Open {
		out.ClosePath()
	}
	out.DrawPath(style)
}
