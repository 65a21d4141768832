// Package drawing makes files of pictures: SVG (Scalable Vector Graphics 2), PNG (ISO/IEC 15948) and PDF (ISO 32000), with
// the font in them, so that they look the same everywhere. Same picture, same bytes.
package drawing

import (
	"bytes"
	"fmt"
	"image/color"
	"path"
	"strings"

	"leitstand/core/picture"
	"leitstand/core/picture/scene"
)

// Formats are those of the files that can be made, by the ends of their names.
var Formats = []string{"svg", "png", "pdf"}

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
	var list []scene.Scene
	for _, b := range boards {
		list = append(list, scene.Board(b, Font{}))
	}
	return Draw(format, list, Theme(dark))
}

// Compared makes a file of boards beside each other.
func Compared(format string, pairs []*picture.Compared, dark bool) ([]byte, error) {
	var list []scene.Scene
	for _, c := range pairs {
		list = append(list, scene.Compared(c, Font{}))
	}
	return Draw(format, list, Theme(dark))
}

// Moving makes a file of boards with the caps where they go.
func Moving(format string, boards []*picture.Board, dark bool) ([]byte, error) {
	var list []scene.Scene
	for _, b := range boards {
		list = append(list, scene.Moving(picture.Caps(b), Font{}))
	}
	return Draw(format, list, Theme(dark))
}

// Theme is that of a light or a dark ground.
func Theme(dark bool) scene.Theme {
	if dark {
		return scene.Dark
	}
	return scene.Light
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

// colour is that of a part, which the theme writes as #rrggbb.
func colour(theme scene.Theme, part scene.Part) color.RGBA {
	c := color.RGBA{A: 0xFF}
	if _, err := fmt.Sscanf(theme[part], "#%02x%02x%02x", &c.R, &c.G, &c.B); err != nil {
		panic(fmt.Sprintf("the theme has no colour for %q: %v", part, err))
	}
	return c
}
