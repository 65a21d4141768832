package text

import (
	"fmt"
	"strings"

	"leitstand/core/report"
)

// Pressed prints what machines make of presses and of strokes with their times.
func (p *Printer) Pressed(said report.Pressed) {
	chord := ""
	for i, a := range said.Answers {
		if i == 0 || a.Chord != chord {
			chord = a.Chord
			p.print("%s\n", p.Bold(chord))
		}
		switch {
		case a.Error != "":
			p.paragraph("    ", "  %s: %s", a.Machine, a.Error)
		case a.Played != nil:
			p.moments(p.Bold(a.Machine), a.Played)
			if a.Meant != nil {
				p.moments("  "+p.warn.Render("wanted")+" by the mapping:", a.Meant)
			}
		default:
			p.answer(a)
		}
	}
}

func (p *Printer) answer(a report.Answer) {
	name := a.Machine
	if a.Board != "" {
		name += ", " + a.Board
	}
	p.paragraph("    ", "  %s: %s", p.Bold(name), printable(a.Does))
	var rows [][]string
	for _, s := range a.Way {
		stage := s.Stage
		if s.Mechanism != "" {
			stage += " (" + s.Mechanism + ")"
		}
		rows = append(rows, []string{p.Faint(stage), printable(s.Words)})
	}
	p.table("      ", rows)
	if a.Wanted != "" {
		p.paragraph("        ", "      %s: %s", p.warn.Render("wanted"), printable(a.Wanted))
	}
}

// moments prints what is seen, moment by moment.
func (p *Printer) moments(title string, list []report.Moment) {
	p.print("  %s\n", title)
	rows := [][]string{{"", p.Faint("on the board"), p.Faint("programs and the desktop see")}}
	for _, m := range list {
		sees := strings.Join(m.Sees, ", ")
		if sees == "" {
			sees = "·"
		}
		rows = append(rows, []string{fmt.Sprintf("%5d ms", m.Millis), m.Board, printable(sees)})
	}
	p.table("    ", rows)
}

// Search prints which presses do something.
func (p *Printer) Search(said report.Search) {
	rows := [][]string{{"machine", "press", "does", "verdict"}}
	for _, f := range said.Found {
		does := printable(f.Does)
		if f.Instead != "" {
			does += " (instead of " + printable(f.Instead) + ")"
		}
		rows = append(rows, []string{
			f.Machine, printable(f.Press), does, p.verdict(f.Verdict).Render(f.Verdict.String()),
		})
	}
	p.table("", rows)
}
