package scene

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/picture"
)

// The measures of the notes below a board.
const (
	noteSize = 11.5
	noteStep = 15.0
	column   = 400.0
	badge    = 50.0 // the number and the strip before a note
)

// entry is a note as lines.
type entry struct {
	note  picture.Note
	rows  []string
	rules int // of the rows, from this one on, say which rule it is
}

// legend writes what the numbers mean, in columns, and below them what the strips of other forms are.
func (d *drawing) legend() {
	columns := max(1, int((d.Width-2*margin)/column))
	wide := (d.Width - 2*margin) / float64(columns)
	room := wide - badge - 16
	var list []entry
	lines := 0
	for _, n := range d.board.Notes {
		e := d.entry(n, room)
		list, lines = append(list, e), lines+len(e.rows)
	}
	if len(list) == 0 {
		text := "No key does anything else."
		if d.board.Hold != "" {
			text = "Nothing is on any key."
		}
		d.text(Text{At: Point{margin, d.Height + noteStep}, Size: noteSize, Part: Ink, Words: text, Room: wide})
		d.Height += noteStep
		return
	}
	each, at, x, y := (lines+columns-1)/columns, 0, margin, d.Height
	foot := y
	for _, e := range list {
		if at >= each && x+2*wide <= d.Width {
			at, x, y = 0, x+wide, d.Height
		}
		d.entryAt(e, x, y, room)
		y, at = y+float64(len(e.rows))*noteStep+3, at+len(e.rows)
		foot = max(foot, y)
	}
	d.Height = foot
	d.kinds()
}

// entry breaks a note into lines.
func (d *drawing) entry(n picture.Note, room float64) entry {
	text := n.Does
	var on []string
	shown := false
	for _, c := range d.board.Caps {
		shown = shown || c.Note == n.Number
	}
	for _, e := range d.board.Elsewhere {
		if e.Note == n.Number {
			on = append(on, e.Key.String())
		}
	}
	switch keys := strings.Join(on, ", "); {
	case keys != "" && shown:
		text += " (" + keys + ", too)"
	case keys != "":
		text = keys + ": " + text
	}
	e := entry{note: n, rows: Wrap(d.font, d.legible(text), room, noteSize, false)}
	e.rules = len(e.rows)
	from := strings.Join(n.Rules, ", ")
	if n.By != "" {
		from = n.By + ", by itself"
	}
	if from != "" {
		e.rows = append(e.rows, Wrap(d.font, d.legible(from), room, noteSize-1.5, false)...)
	}
	return e
}

func (d *drawing) entryAt(e entry, x, y, room float64) {
	d.text(Text{
		At: Point{x + 16, y + 11}, Size: noteSize, Bold: true, Anchor: End, Part: Ink, Words: fmt.Sprint(e.note.Number),
		Room: 20,
	})
	d.strip(e.note.Kind, box{x + 22, y + 2, 20, 10})
	for i, row := range e.rows {
		t := Text{At: Point{x + badge, y + 11 + float64(i)*noteStep}, Size: noteSize, Part: Ink, Words: row, Room: room}
		if i >= e.rules {
			t.Size, t.Part = noteSize-1.5, Muted
		}
		d.text(t)
	}
}

// kinds says what the forms of the strips are that the board has.
func (d *drawing) kinds() {
	x, y := margin, d.Height+14
	if d.lacks {
		text := string(missing) + "  a character that the font of this picture lacks"
		d.text(Text{At: Point{x, y}, Size: 10, Part: Muted, Words: text, Room: d.Width - 2*margin})
		y += noteStep
	}
	for _, k := range picture.Kinds {
		if !slices.ContainsFunc(d.board.Notes, func(n picture.Note) bool { return n.Kind == k.Kind }) {
			continue
		}
		wide := d.font.Width(k.Words, 10, false)
		if x > margin && x+28+wide > d.Width-margin {
			x, y = margin, y+noteStep
		}
		d.strip(k.Kind, box{x, y - 8.5, 20, 10})
		d.text(Text{At: Point{x + 26, y}, Size: 10, Part: Muted, Words: k.Words, Room: d.Width - margin - x - 26})
		x += 26 + wide + 18
	}
	d.Height = y + 4
}
