package text

import (
	"fmt"
	"slices"
	"strings"

	"github.com/charmbracelet/x/ansi"

	"leitstand/core/report"
)

// Drawn prints boards: on each key what its cap says, and below it the number of the note that says what it does now.
func (p *Printer) Drawn(said report.Drawn, plain bool) {
	for i, b := range said.Boards {
		if i > 0 {
			fmt.Fprintln(p.w)
		}
		p.board(b, plain)
	}
}

func (p *Printer) board(b report.DrawnBoard, plain bool) {
	of := ofBoard(b.Board)
	if b.From != "" {
		of += " by " + b.From
	}
	kind := b.Kind
	if b.Guessed {
		kind += " (shape assumed)"
	}
	title := fmt.Sprintf("%s, %s, %s, layout %s", p.Bold(b.Machine), of, kind, b.Layout)
	if b.Layer != "" {
		title += ", with layer " + b.Layer
	}
	if b.Hold != "" {
		title += ", with " + b.Hold + " held"
	}
	p.print("%s\n", title)
	words := keyWords{plain: plain, notes: map[int]report.Note{}}
	for _, n := range b.Notes {
		words.notes[n.Number] = n
	}
	var within, beside []report.DrawnKey
	changed := false
	for _, k := range b.Keys {
		switch {
		case k.Row < 0:
		case k.Block == "main":
			within = append(within, k)
		default:
			beside, changed = append(beside, k), changed || k.Note > 0 || k.Broken
		}
	}
	p.print("%s", drawGrid(within, words).text(plain, p))
	if changed {
		p.print("%s", drawGrid(beside, words).text(plain, p))
	} else if len(beside) > 0 && b.Hold == "" {
		p.print("The keys beside it do what their caps say.\n")
	} else if len(beside) > 0 {
		p.print("Nothing is on the keys beside it.\n")
	}
	p.notes(b, plain)
}

// keyWords are what is written onto keys.
type keyWords struct {
	plain bool // in ASCII
	notes map[int]report.Note
}

// cap is what is printed on a key, with a sign of a key that waits for the next one.
func (w keyWords) cap(k report.DrawnKey) string {
	switch {
	case k.Dead && w.plain:
		return "(" + k.Printed + ")"
	case w.plain:
		return inASCII.Replace(k.Printed)
	case k.Dead:
		return "◌" + k.Printed
	}
	return k.Printed
}

// inASCII has words for the signs of our own; what a layout types stays.
var inASCII = strings.NewReplacer("←", "Left", "→", "Right", "↑", "Up", "↓", "Down", "…", "~")

// now is what a key does now: the number of its note, and a word where there is room for one.
func (w keyWords) now(k report.DrawnKey, room int) string {
	switch {
	case k.Broken:
		return "broken"[:min(room, 6)]
	case k.Note == 0:
		return ""
	}
	number := fmt.Sprint(k.Note)
	short := printable(w.notes[k.Note].Short)
	if w.plain {
		short = inASCII.Replace(short)
	}
	if text := number + " " + short; ansi.StringWidth(text) <= room {
		return text
	}
	return number
}

// drawGrid draws keys.
func drawGrid(list []report.DrawnKey, words keyWords) *grid {
	left := list[0].From
	for _, k := range list {
		left = min(left, k.From)
	}
	list = slices.Clone(list)
	for i := range list {
		list[i].From -= left
	}
	g := newGrid(list)
	if g.more = "…"; words.plain {
		g.more = "~"
	}
	upper := map[string]report.DrawnKey{}
	for _, k := range list {
		above, twice := upper[k.Key]
		upper[k.Key] = k
		switch {
		case twice && above.Row+1 == k.Row:
			k.Printed = ""
			g.box(k, words)
			g.join(above, k)
		case lower(list, k):
			k.Note = 0
			fallthrough
		default:
			g.box(k, words)
		}
	}
	return g
}

// notes says what the numbers on the keys mean.
func (p *Printer) notes(b report.DrawnBoard, plain bool) {
	beyond, within := map[int][]string{}, map[int]bool{} // keys that are not in the picture, by note, and notes that are
	for _, k := range b.Keys {
		if k.Row < 0 {
			beyond[k.Note] = append(beyond[k.Note], k.Key)
		} else {
			within[k.Note] = true
		}
	}
	by := "  ← "
	if plain {
		by = "  <- "
	}
	if len(b.Notes) == 0 {
		p.print("No key does anything else.\n")
	}
	for _, n := range b.Notes {
		on, also := "", ""
		switch list := strings.Join(beyond[n.Number], ", "); {
		case list == "":
		case within[n.Number]:
			also = " (" + list + ", too)"
		default:
			on = list + ": "
		}
		from := strings.Join(n.Rules, ", ")
		if n.By != "" {
			from = n.By + ", by itself"
		}
		number := p.Bold(fmt.Sprintf("%2d", n.Number))
		p.paragraph("     ", "%s  %s%s%s%s", number, p.Bold(printable(on)), printable(n.Does), also,
			p.Faint(by+printable(from)))
	}
	if len(b.Layers) > 0 {
		names := printable(strings.Join(b.Layers, ", "))
		p.paragraph("    ", "%s", p.Faint("layers: "+names+"; --layer shows what is on one"))
	}
}

// The directions in which a line leaves a cell.
const (
	up = 1 << iota
	down
	left
	right
)

// lines are the characters of a box by the directions in which lines leave it.
var lines = [...]rune{
	' ', '╵', '╷', '│', '╴', '┘', '┐', '┤', '╶', '└', '┌', '├', '─', '┴', '┬', '┼',
}

// plainLines are the same where a terminal has ASCII only.
var plainLines = [...]rune{' ', '|', '|', '|', '-', '+', '+', '+', '-', '+', '+', '+', '-', '+', '+', '+'}

// grid is a picture of characters.
type grid struct {
	lines [][]uint8  // directions
	words [][]string // of what stands in a cell; what it covers has "\x00"
	bold  [][]bool
	more  string // stands for what has no room
}

// perQuarter is how many columns two quarters of a letter's key have, and perRow how many lines a row.
const perTwoQuarters, perRow = 3, 3

func column(quarters int) int { return quarters * perTwoQuarters / 2 }

func newGrid(list []report.DrawnKey) *grid {
	wide, high := 0, 0
	for _, k := range list {
		if k.Row >= 0 {
			wide, high = max(wide, column(k.From+k.Width)+1), max(high, (k.Row+k.Rows)*perRow+1)
		}
	}
	g := &grid{}
	for range high {
		g.lines = append(g.lines, make([]uint8, wide))
		g.words = append(g.words, make([]string, wide))
		g.bold = append(g.bold, make([]bool, wide))
	}
	return g
}

// box draws a key.
func (g *grid) box(k report.DrawnKey, words keyWords) {
	x0, x1, y0, y1 := column(k.From), column(k.From+k.Width), k.Row*perRow, (k.Row+k.Rows)*perRow
	for x := x0; x < x1; x++ {
		for _, y := range []int{y0, y1} {
			g.lines[y][x] |= right
			g.lines[y][x+1] |= left
		}
	}
	for y := y0; y < y1; y++ {
		for _, x := range []int{x0, x1} {
			g.lines[y][x] |= down
			g.lines[y+1][x] |= up
		}
	}
	room := x1 - x0 - 1
	if k.Half > 0 { // two keys in one box, a line for each
		text := words.cap(k)
		if k.Note > 0 || k.Broken {
			text += " " + words.now(k, room-ansi.StringWidth(text)-1)
		}
		g.write(x0+1, y0+k.Half, room, text, k.Note > 0)
		return
	}
	g.write(x0+1, y0+1, room, words.cap(k), false)
	g.write(x0+1, y0+2, room, words.now(k, room), true)
}

// lower says whether a key goes on in the row below.
func lower(list []report.DrawnKey, k report.DrawnKey) bool {
	return slices.ContainsFunc(list, func(o report.DrawnKey) bool { return o.Key == k.Key && o.Row == k.Row+1 })
}

// join takes the line out between two halves of a key.
func (g *grid) join(above, below report.DrawnKey) {
	y := below.Row * perRow
	x0, x1 := column(max(above.From, below.From)), column(min(above.From+above.Width, below.From+below.Width))
	for x := x0; x < x1; x++ {
		g.lines[y][x] &^= right
		g.lines[y][x+1] &^= left
	}
}

// write puts a text into the middle of so many columns, and shortens it to them.
func (g *grid) write(x, y, room int, text string, bold bool) {
	text = ansi.Truncate(printable(text), room, g.more)
	at := x + (room-ansi.StringWidth(text))/2
	for _, r := range text {
		wide := ansi.StringWidth(string(r))
		if wide == 0 && at > x {
			g.words[y][at-1] += string(r)
			continue
		}
		g.words[y][at], g.bold[y][at] = string(r), bold
		for i := 1; i < wide; i++ {
			g.words[y][at+i] = "\x00"
		}
		at += wide
	}
}

func (g *grid) text(plain bool, p *Printer) string {
	set := lines
	if plain {
		set = plainLines
	}
	var w strings.Builder
	for y, row := range g.lines {
		var line strings.Builder
		for x, d := range row {
			switch word := g.words[y][x]; {
			case word == "\x00":
			case word != "" && g.bold[y][x]:
				line.WriteString(p.Bold(word))
			case word != "":
				line.WriteString(word)
			default:
				line.WriteRune(set[d])
			}
		}
		w.WriteString(strings.TrimRight(line.String(), " ") + "\n")
	}
	return w.String()
}
