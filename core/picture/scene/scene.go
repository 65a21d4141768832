// Package scene has pictures as values: shapes and texts with a place, a size and a part that each plays, from which all
// drawings are made. A point is 1/96 inch, from the upper left corner, down and to the right. What colour a part has is the
// theme's; how wide a text is, the font's.
package scene

import "strings"

// Scene is a picture.
type Scene struct {
	Title         string // in a sentence, for who cannot see it
	Width, Height float64
	Shapes        []Shape
	Texts         []Text
}

// Point is a place.
type Point struct{ X, Y float64 }

// Shape is a closed polygon, or an open line.
type Shape struct {
	Points []Point
	Fill   Part    // "" for none
	Line   Part    // "" for none
	Wide   float64 // of the line
	Dashed bool
	Open   bool // a line, not a polygon
}

// Text is a line of text.
type Text struct {
	At     Point // on the baseline: where it begins, or its middle, or its end
	Size   float64
	Bold   bool
	Anchor Anchor
	Part   Part
	Words  string
	// Room is the space from left to right that the text has; it is within it by the font's measure.
	Room float64
}

// Anchor says which point of a text is placed.
type Anchor uint8

// The anchors.
const (
	Start Anchor = iota
	Middle
	End
)

// Part is what a shape or a text is in a picture.
type Part string

// The parts that are no kind of effect.
const (
	Paper Part = "paper" // behind all
	Cap   Part = "cap"   // a key
	Edge  Part = "edge"  // its outline
	Ink   Part = "ink"   // what is read
	Muted Part = "muted" // what is read last
	Mark  Part = "mark"  // what differs
)

// Of is the part of a strip that says what a key does, by the kind of it.
func Of(kind string) Part { return Part("strip-" + strings.ReplaceAll(kind, " ", "-")) }

// Font is what texts are written in.
type Font interface {
	// Width is how wide a text is in a size, in points.
	Width(text string, size float64, bold bool) float64
	// Has says whether there is a character for it.
	Has(r rune) bool
}

// Theme has the colour of each part, as #rrggbb. Texts on strips are ink.
type Theme map[Part]string

// Light and Dark are the themes. Each text has a contrast of 4.5 to what it stands on, or more (WCAG 2.2, 1.4.3).
var (
	Light = Theme{
		Paper: "#f6f4ee", Cap: "#fffefa", Edge: "#66727a", Ink: "#14212a", Muted: "#56636c", Mark: "#a3320b",
		"strip-key": "#c9dcec", "strip-modifier": "#f4d99d", "strip-types": "#d3e5bf", "strip-layer": "#e3d0f0",
		"strip-starts": "#b5e0da", "strip-does": "#d3dae0", "strip-off": "#e2e2df", "strip-two": "#f3d4c0",
		"strip-waits": "#ebe3a6", "strip-by-itself": "#fffefa", "strip-lost": "#f7d2cd",
	}
	Dark = Theme{
		Paper: "#12191e", Cap: "#1d272e", Edge: "#8a979f", Ink: "#eef2f3", Muted: "#a9b5bc", Mark: "#ffab85",
		"strip-key": "#2c4a63", "strip-modifier": "#6a4d10", "strip-types": "#3a5a24", "strip-layer": "#543a6b",
		"strip-starts": "#135952", "strip-does": "#42505b", "strip-off": "#3b3f42", "strip-two": "#6b3d22",
		"strip-waits": "#57501a", "strip-by-itself": "#1d272e", "strip-lost": "#6e2b24",
	}
)

// Stack puts pictures one below the other.
func Stack(list []Scene) Scene {
	if len(list) == 1 {
		return list[0]
	}
	var all Scene
	var titles []string
	for _, s := range list {
		s = s.moved(0, all.Height)
		all.Shapes, all.Texts = append(all.Shapes, s.Shapes...), append(all.Texts, s.Texts...)
		all.Width, all.Height = max(all.Width, s.Width), all.Height+s.Height
		titles = append(titles, s.Title)
	}
	all.Title = strings.Join(titles, "; ")
	ground := Shape{Points: rectangle(0, 0, all.Width, all.Height), Fill: Paper} // where one is narrower
	all.Shapes = append([]Shape{ground}, all.Shapes...)
	return all
}

// Beside puts a picture beside another.
func Beside(left, right Scene) Scene {
	right = right.moved(left.Width, 0)
	return Scene{
		Title: left.Title + "; " + right.Title, Width: left.Width + right.Width, Height: max(left.Height, right.Height),
		Shapes: append(left.Shapes, right.Shapes...), Texts: append(left.Texts, right.Texts...),
	}
}

// moved is a picture further to the right and down.
func (s Scene) moved(x, y float64) Scene {
	shapes := make([]Shape, len(s.Shapes))
	for i, sh := range s.Shapes {
		points := make([]Point, len(sh.Points))
		for j, p := range sh.Points {
			points[j] = Point{p.X + x, p.Y + y}
		}
		sh.Points = points
		shapes[i] = sh
	}
	texts := make([]Text, len(s.Texts))
	for i, t := range s.Texts {
		t.At = Point{t.At.X + x, t.At.Y + y}
		texts[i] = t
	}
	s.Shapes, s.Texts = shapes, texts
	return s
}
