package text

import (
	"fmt"

	"leitstand/core/report"
)

// Moving prints which caps to move, one change of places a line.
func (p *Printer) Moving(said report.Moving) {
	for i, b := range said.Boards {
		if i > 0 {
			fmt.Fprintln(p.w)
		}
		p.print("%s, %s: %s\n", p.Bold(b.Machine), ofBoard(b.Board), b.Comes)
		for n, s := range b.Steps {
			p.paragraph("     ", "%s  %s", p.Bold(fmt.Sprintf("%2d", n+1)), printable(s.Words))
		}
		if len(b.Stay) > 0 && len(b.Steps) > 0 {
			p.print("Caps that cannot be right\n")
		}
		for _, s := range b.Stay {
			p.paragraph("     ", "     %s", printable(s.Words))
		}
		if b.Beyond != "" {
			p.paragraph("  ", "%s", b.Beyond)
		}
	}
}

func ofBoard(name string) string {
	if name == "" {
		return "every board"
	}
	return "board " + name
}

// Alone prints which boards are on one side only.
func (p *Printer) Alone(said report.Beside) {
	for _, b := range said.Alone {
		of := ofBoard(b.Board)
		if b.From != "" {
			of += " of " + b.From
		}
		p.print("Not compared: %s, %s has none beside it.\n", b.Machine, printable(of))
	}
}

// Beside prints pairs of boards, and what their keys do otherwise.
func (p *Printer) Beside(said report.Beside, plain bool) {
	defer p.Alone(said)
	for i, pair := range said.Pairs {
		if i > 0 {
			fmt.Fprintln(p.w)
		}
		p.board(pair.Left, plain)
		fmt.Fprintln(p.w)
		p.board(pair.Right, plain)
		fmt.Fprintln(p.w)
		if len(pair.Differences) == 0 {
			p.print("The keys of the two do the same.\n")
			continue
		}
		rows := [][]string{{"key", sideName(pair.Left, pair.Right), sideName(pair.Right, pair.Left)}}
		for _, d := range pair.Differences {
			rows = append(rows, []string{d.Key, printable(d.Left), printable(d.Right)})
		}
		p.table("", rows)
	}
}

// sideName names a side of a pair by what the two differ in.
func sideName(b, other report.DrawnBoard) string {
	switch {
	case b.Machine != other.Machine:
		return b.Machine
	case b.From != other.From:
		return b.From
	}
	return b.Machine + ", " + ofBoard(b.Board)
}
