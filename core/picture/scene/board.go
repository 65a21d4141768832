package scene

import (
	"cmp"
	"fmt"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/picture"
)

// The measures of a board, in points.
const (
	quarter = 13.5 // of the width of a letter's key
	pitch   = 57.0 // from row to row
	behind  = 9.0  // more, below the function keys of a board that has a gap there
	inset   = 1.5  // of a key, from its place
	cut     = 6.0  // of its lower right corner
	margin  = 20.0
	header  = 58.0
)

// Board draws a board: its title, its keys, and what the numbers on them mean.
func Board(b *picture.Board, font Font) Scene {
	return draw(b, font, nil)
}

// Keys draws the keys of a board alone.
func Keys(b *picture.Board, font Font) Scene {
	d := &drawing{board: b, font: font, notes: map[int]picture.Note{}, top: margin}
	d.fill()
	d.Title = b.Machine + ": " + Title(b)
	return d.finished()
}

// draw draws a board; the keys that are marked differ from something.
func draw(b *picture.Board, font Font, marked map[string]bool) Scene {
	d := newDrawing(b, font, marked)
	d.legend()
	return d.finished()
}

// newDrawing draws the title and the keys.
func newDrawing(b *picture.Board, font Font, marked map[string]bool) *drawing {
	d := &drawing{board: b, font: font, notes: map[int]picture.Note{}, marked: marked, top: header}
	d.fill()
	d.header()
	d.Height += 14
	return d
}

// fill draws the keys.
func (d *drawing) fill() {
	for _, n := range d.board.Notes {
		d.notes[n.Number] = n
	}
	wide, rows := 0, 0
	for _, c := range d.board.Caps {
		wide, rows = max(wide, c.From+c.Width), max(rows, c.Row+c.Rows)
	}
	d.Width = 2*margin + float64(wide)*quarter
	d.keys()
	d.Height = d.y(rows)
}

// finished is the picture on its ground.
func (d *drawing) finished() Scene {
	d.Height += margin
	d.Shapes = append([]Shape{{Points: rectangle(0, 0, d.Width, d.Height), Fill: Paper}}, d.Shapes...)
	return d.Scene
}

// drawing is a board that is being drawn.
type drawing struct {
	Scene
	board  *picture.Board
	font   Font
	notes  map[int]picture.Note
	marked map[string]bool
	top    float64 // where the keys begin
	lacks  bool    // the font lacks a character that is written
}

// Title says in a line which board is seen, and how.
func Title(b *picture.Board) string {
	of := "every board"
	if b.Name != "" {
		of = b.Name
	}
	shape := b.Shape.Kind
	if b.Guessed {
		shape += " (shape assumed)"
	}
	if b.From != "" {
		of += " by " + b.From
	}
	parts := []string{of, shape, cmp.Or(b.Shape.Form, "full")}
	if b.Shape.Split {
		parts = append(parts, "split")
	}
	parts = append(parts, "layout "+b.Layout)
	if b.Layer != "" {
		parts = append(parts, "with layer "+b.Layer)
	}
	if b.Hold != "" {
		parts = append(parts, "with "+b.Hold+" held")
	}
	return strings.Join(parts, ", ")
}

func (d *drawing) header() {
	d.Title = d.board.Machine + ": " + Title(d.board)
	d.text(
		Text{At: Point{margin, 30}, Size: 19, Bold: true, Part: Ink, Words: d.board.Machine, Room: d.Width - 2*margin},
	)
	after := d.font.Width(d.board.Machine, 19, true) + 12
	d.text(Text{
		At: Point{margin + after, 30}, Size: 13, Part: Muted, Words: d.board.Place, Room: d.Width - 2*margin - after,
	})
	d.text(Text{At: Point{margin, 48}, Size: 13, Part: Ink, Words: Title(d.board), Room: d.Width - 2*margin})
}

// missing stands for a character that the font does not have.
const missing = '▯'

// legible is a text with what the font has.
func (d *drawing) legible(text string) string {
	return strings.Map(func(r rune) rune {
		if d.font.Has(r) {
			return r
		}
		d.lacks = true
		return missing
	}, text)
}

// text writes a line, cut to its room; where not even a character has room, nothing.
func (d *drawing) text(t Text) {
	t.Words = Cut(d.font, d.legible(t.Words), t.Room, t.Size, t.Bold)
	if t.Words != "" && d.font.Width(t.Words, t.Size, t.Bold) <= t.Room {
		d.Texts = append(d.Texts, t)
	}
}

func (d *drawing) y(row int) float64 {
	y := d.top + float64(row)*pitch
	if row > 0 && d.board.Shape.Form != "compact" && d.board.Shape.Form != "laptop" {
		y += behind
	}
	return y
}

// box is a rectangle.
type box struct{ x, y, w, h float64 }

func (d *drawing) box(c machine.Cap) box {
	b := box{margin + float64(c.From)*quarter + inset, d.y(c.Row) + inset, float64(c.Width)*quarter - 2*inset, 0}
	b.h = float64(c.Rows)*pitch - 2*inset
	switch c.Half {
	case 1:
		b.h = b.h/2 - inset/2
	case 2:
		b.y, b.h = b.y+b.h/2+inset/2, b.h/2-inset/2
	}
	return b
}

func (d *drawing) keys() {
	upper := map[string]picture.Cap{}
	for i, c := range d.board.Caps {
		name, in := c.Key.String(), d.box(c.Cap)
		above, twice := upper[name]
		upper[name] = c
		switch {
		case twice && above.Row < c.Row: // the lower piece of a key, drawn with the upper one
		case hasLower(d.board.Caps[i+1:], c):
			d.key(c, in, d.inTwoPieces(c))
		default:
			d.key(c, in, tab(in, cut))
		}
	}
}

// hasLower says whether a key goes on in the row below.
func hasLower(rest []picture.Cap, c picture.Cap) bool {
	for _, o := range rest {
		if o.Key == c.Key && o.Row == c.Row+1 {
			return true
		}
	}
	return false
}

// inTwoPieces is the outline of a key that goes on in the row below.
func (d *drawing) inTwoPieces(c picture.Cap) []Point {
	for _, o := range d.board.Caps {
		if o.Key == c.Key && o.Row == c.Row+1 {
			a, b := d.box(c.Cap), d.box(o.Cap)
			right, foot := a.x+a.w, b.y+b.h
			return []Point{
				{a.x, a.y}, {right, a.y}, {right, foot - cut}, {right - cut, foot}, {b.x, foot}, {b.x, a.y + a.h},
				{a.x, a.y + a.h},
			}
		}
	}
	return nil
}

// key draws a key: above what is printed on it, below a strip with what it does now.
func (d *drawing) key(c picture.Cap, in box, outline []Point) {
	edge, wide := Edge, 1.0
	if d.marked[c.Key.String()] {
		edge, wide = Mark, 3
	}
	d.Shapes = append(d.Shapes, Shape{Points: outline, Fill: Cap, Line: edge, Wide: wide})
	n, noted := d.notes[c.Note]
	d.printed(c, in, n)
	strip := box{in.x + 3, in.y + 22, in.w - 6, pitch - 2*inset - 25}
	word := Text{At: Point{in.x + 5, in.y + 46}, Size: 9.5, Part: Muted, Words: "free", Room: in.w - 10}
	if c.Half > 0 {
		strip = box{in.x + 22, in.y + 3, in.w - 36, in.h - 6}
		word.At, word.Room = Point{strip.x, in.y + baseline}, strip.w
	}
	switch {
	case c.Broken:
		d.across(in)
		word.Words, word.Bold, word.Part = "broken", true, Ink
		d.text(word)
	case noted:
		d.strip(n.Kind, strip)
		d.on(strip, n.Kind, n.Short, c.Half > 0)
	case c.Free:
		d.text(word)
	}
}

// baseline is where what is printed stands, from the top of a key.
const baseline = 16

// printed writes what is printed on a key, and the number of its note.
func (d *drawing) printed(c picture.Cap, in box, n picture.Note) {
	room := in.w - 10
	if n.Number > 0 {
		number := Text{
			At: Point{in.x + in.w - 4, in.y + 11}, Size: 8.5, Anchor: End, Part: Muted, Words: fmt.Sprint(n.Number), Room: in.w,
		}
		room -= d.font.Width(number.Words, number.Size, false) + 2
		d.text(number)
	}
	legend, size := c.Printed, 13.0
	if strings.ContainsFunc(legend, func(r rune) bool { return !d.font.Has(r) }) {
		legend = c.Key.String()
	}
	if len(legend) > 2 {
		size = 11
	}
	if c.Dead {
		legend = "◌" + legend
	}
	if c.Half > 0 {
		room = min(room, 16)
	}
	legend = Cut(d.font, legend, room, size, false)
	part := Ink
	if n.Number > 0 && n.Kind != picture.Stock && n.Kind != picture.Lost {
		part = Muted // it is no longer so
	}
	at := Point{in.x + 5, in.y + baseline}
	d.text(Text{At: at, Size: size, Part: part, Words: legend, Room: room})
	if used := d.font.Width(legend, size, false) + 5; c.Shifted != "" && room-used > 6 {
		at.X += used
		d.text(Text{At: at, Size: 10, Part: Muted, Words: c.Shifted, Room: room - used})
	}
}

// across strikes a key out.
func (d *drawing) across(in box) {
	d.Shapes = append(d.Shapes, Shape{
		Points: []Point{{in.x + 2, in.y + in.h - 2}, {in.x + in.w - 2, in.y + 2}}, Line: Edge, Wide: 1.2, Open: true,
	})
}

// on writes what a key does onto its strip.
func (d *drawing) on(strip box, kind picture.Kind, words string, one bool) {
	left, right := sides(kind)
	room, lines := strip.w-left-right, 2
	if one {
		lines = 1
	}
	rows, size := Fit(d.font, d.legible(words), room, lines, true, 10.5, 9.5, 8.5, 7.5)
	step := size + 1.5
	base := strip.y + strip.h/2 + size*0.36 - step*float64(len(rows)-1)/2
	for i, row := range rows {
		at := Point{strip.x + left, base + step*float64(i)}
		d.text(Text{At: at, Size: size, Bold: true, Part: Ink, Words: row, Room: room})
	}
}
