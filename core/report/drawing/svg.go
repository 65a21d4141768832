package drawing

import (
	"encoding/base64"
	"encoding/xml"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/picture/scene"
)

// family is what the font is called in files.
const family = "leitstand"

// drawSVG writes a picture that needs nothing beside it.
func drawSVG(w io.Writer, s scene.Scene, theme scene.Theme) error {
	faces, err := FontFaces([]scene.Scene{s})
	if err != nil {
		return err
	}
	_, err = io.WriteString(w, element(s, "<style>"+faces+Style(theme)+"</style>"))
	return err
}

// FontFaces is the style sheet's part that has the fonts in it, as far as pictures need them. (CSS Fonts 4, @font-face.)
func FontFaces(list []scene.Scene) (string, error) {
	var texts [2][]string
	for _, s := range list {
		for _, t := range s.Texts {
			texts[weight(t.Bold)] = append(texts[weight(t.Bold)], t.Words)
		}
	}
	var w strings.Builder
	for i, name := range []string{"400", "700"} {
		data, err := Subset(texts[i], i == 1)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&w, "@font-face{font-family:%s;font-weight:%s;src:url(data:font/ttf;base64,%s)format('truetype')}",
			family, name, base64.StdEncoding.EncodeToString(data))
	}
	return w.String(), nil
}

// Style is the style sheet of pictures in a theme.
func Style(theme scene.Theme) string {
	var w strings.Builder
	fmt.Fprintf(&w, ".board text{font-family:%s,sans-serif;font-kerning:none}.board .b{font-weight:700}", family)
	w.WriteString(".board path{fill:none}")
	for _, part := range slices.Sorted(maps.Keys(theme)) {
		fmt.Fprintf(&w, ".board .f-%[1]s{fill:%[2]s}.board .l-%[1]s{stroke:%[2]s}", part, theme[part])
	}
	return w.String()
}

// Inline is a picture as an element of a page that has its style.
func Inline(s scene.Scene) string { return element(s, "") }

func element(s scene.Scene, style string) string {
	var w strings.Builder
	fmt.Fprintf(
		&w,
		`<svg xmlns="http://www.w3.org/2000/svg" class="board" role="img" width="%[1]s" height="%[2]s" viewBox="0 0 %[1]s %[2]s">`,
		number(s.Width),
		number(s.Height),
	)
	w.WriteString("<title>" + escaped(s.Title) + "</title>" + style)
	for _, shape := range s.Shapes {
		w.WriteString(`<path d="`)
		for i, p := range shape.Points {
			w.WriteString(map[bool]string{true: "M", false: "L"}[i == 0] + number(p.X) + " " + number(p.Y))
		}
		if !shape.Open {
			w.WriteString("Z")
		}
		w.WriteString(`"`)
		var classes []string
		if shape.Fill != "" {
			classes = append(classes, "f-"+string(shape.Fill))
		}
		if shape.Line != "" {
			classes = append(classes, "l-"+string(shape.Line))
		}
		fmt.Fprintf(&w, ` class="%s"`, strings.Join(classes, " "))
		if shape.Line != "" && shape.Wide != 1 {
			fmt.Fprintf(&w, ` stroke-width="%s"`, number(shape.Wide))
		}
		if shape.Dashed {
			w.WriteString(` stroke-dasharray="3 2"`)
		}
		w.WriteString("/>")
	}
	for _, t := range s.Texts {
		fmt.Fprintf(&w, `<text x="%s" y="%s" font-size="%s"`, number(t.At.X), number(t.At.Y), number(t.Size))
		switch t.Anchor {
		case scene.Middle:
			w.WriteString(` text-anchor="middle"`)
		case scene.End:
			w.WriteString(` text-anchor="end"`)
		case scene.Start:
		}
		class := "f-" + string(t.Part)
		if t.Bold {
			class += " b"
		}
		fmt.Fprintf(&w, ` class="%s">%s</text>`, class, escaped(t.Words))
	}
	w.WriteString("</svg>\n")
	return w.String()
}

// number is a length in as few digits as a picture needs.
func number(v float64) string {
	text := strconv.FormatFloat(v, 'f', 2, 64)
	return strings.TrimRight(strings.TrimRight(text, "0"), ".")
}

func escaped(text string) string {
	var w strings.Builder
	if err := xml.EscapeText(&w, []byte(text)); err != nil {
		panic(err) // a builder takes all
	}
	return w.String()
}
