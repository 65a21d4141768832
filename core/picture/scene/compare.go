package scene

import (
	"fmt"
	"math"

	"leitstand/core/keys"
	"leitstand/core/picture"
)

// Compared draws two boards beside each other, with the keys that differ marked, and lists what they do below.
func Compared(c *picture.Compared, font Font) Scene {
	marked := map[string]bool{}
	for _, d := range c.Differences {
		marked[d.Key.String()] = true
	}
	s := Beside(draw(c.Left, font, marked), draw(c.Right, font, marked))
	d := &drawing{Scene: s, font: font, board: c.Left}
	ground := len(d.Shapes)
	d.Height += 6
	title := fmt.Sprintf("%d keys differ", len(c.Differences))
	switch len(c.Differences) {
	case 0:
		title = "The keys of the two do the same"
	case 1:
		title = "1 key differs"
	}
	d.text(
		Text{At: Point{margin, d.Height + 12}, Size: 14, Bold: true, Part: Ink, Words: title, Room: d.Width - 2*margin},
	)
	d.Height += 24
	columns := max(1, int((d.Width-2*margin)/640))
	each := (len(c.Differences) + columns - 1) / columns
	wide := (d.Width - 2*margin) / float64(columns)
	names := []string{c.Left.Machine, c.Right.Machine}
	if c.Left.Machine == c.Right.Machine {
		names = []string{c.Left.From, c.Right.From}
	}
	for i := range min(columns, len(c.Differences)) {
		x := margin + wide*float64(i)
		d.column(names[:1], x+116, d.Height, (wide-130)/2, true)
		d.column(names[1:], x+116+(wide-130)/2+8, d.Height, (wide-130)/2, true)
	}
	if len(c.Differences) > 0 {
		d.Height += noteStep + 3
	}
	top, foot := d.Height, d.Height
	y := top
	for i, diff := range c.Differences {
		if i%max(each, 1) == 0 {
			y = top
		}
		x := margin + wide*float64(i/max(each, 1))
		key := Wrap(font, d.legible(diff.Key.String()), 110, noteSize, true)
		left := Wrap(font, d.legible(diff.Left), (wide-130)/2, noteSize, false)
		right := Wrap(font, d.legible(diff.Right), (wide-130)/2, noteSize, false)
		d.column(key, x, y, 110, true)
		d.column(left, x+116, y, (wide-130)/2, false)
		d.column(right, x+116+(wide-130)/2+8, y, (wide-130)/2, false)
		y += noteStep*float64(max(len(key), len(left), len(right))) + 2
		foot = max(foot, y)
	}
	d.Height = foot + margin
	d.Title = s.Title + ". " + title
	back := Shape{Points: rectangle(0, 0, d.Width, d.Height), Fill: Paper}
	d.Shapes = append([]Shape{back}, d.Shapes[:ground]...)
	return d.Scene
}

// column writes lines one below the other.
func (d *drawing) column(rows []string, x, y, room float64, bold bool) {
	for i, row := range rows {
		d.text(
			Text{
				At:    Point{x, y + 11 + float64(i)*noteStep},
				Size:  noteSize,
				Bold:  bold,
				Part:  Ink,
				Words: row,
				Room:  room,
			},
		)
	}
}

// Moving draws a board with its caps where they go, each with an arrow from where it lay.
func Moving(m *picture.Moving, font Font) Scene {
	marked := map[string]bool{}
	for _, mv := range m.Moves {
		marked[mv.To.String()] = true
	}
	d := newDrawing(m.After, font, marked)
	d.Title = m.Board.Machine + ": caps to move, " + Title(m.Board)
	for n, step := range m.Steps() {
		for _, mv := range step {
			d.head(d.middle(mv.From), d.middle(mv.To))
			if d.way(d.middle(mv.From), d.middle(mv.To)); step.Swap() {
				d.head(d.middle(mv.To), d.middle(mv.From))
				break
			}
		}
		d.line(fmt.Sprintf("%d  %s", n+1, step))
	}
	for _, s := range m.Stay {
		d.line(s.String())
	}
	if len(m.Moves) == 0 {
		d.line(m.Board.Machine + ": " + m.Conclusion())
	}
	if beyond := m.Beyond(); beyond != "" {
		d.line(beyond)
	}
	return d.finished()
}

// line writes a sentence below all that there is.
func (d *drawing) line(text string) {
	rows := Wrap(d.font, d.legible(text), d.Width-2*margin, noteSize, false)
	d.column(rows, margin, d.Height, d.Width-2*margin, false)
	d.Height += noteStep*float64(len(rows)) + 2
}

// middle is that of a key's upper part.
func (d *drawing) middle(k keys.Key) Point {
	for _, c := range d.board.Caps {
		if c.Key == k {
			in := d.box(c.Cap)
			return Point{in.x + in.w/2, in.y + in.h - 8}
		}
	}
	return Point{}
}

// way is a line from one place to another.
func (d *drawing) way(from, to Point) {
	d.Shapes = append(d.Shapes, Shape{Points: []Point{from, to}, Line: Mark, Wide: 1.6, Open: true})
}

// head is that of an arrow that comes to a place.
func (d *drawing) head(from, to Point) {
	length := math.Hypot(to.X-from.X, to.Y-from.Y)
	if length == 0 {
		return
	}
	x, y := (to.X-from.X)/length*8, (to.Y-from.Y)/length*8
	d.Shapes = append(d.Shapes, Shape{
		Points: []Point{to, {to.X - x - y/2, to.Y - y + x/2}, {to.X - x + y/2, to.Y - y - x/2}}, Fill: Mark,
	})
}
