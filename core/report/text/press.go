package text

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/report"
)

// Pressed prints what machines make of presses and of strokes with their times: machines that answer alike together.
func (p *Printer) Pressed(said report.Pressed) {
	for i := 0; i < len(said.Answers); {
		n := i + 1
		for n < len(said.Answers) && said.Answers[n].Chord == said.Answers[i].Chord {
			n++
		}
		of := said.Answers[i:n]
		if i > 0 {
			fmt.Fprintln(p.w)
		}
		switch {
		case of[0].Played != nil:
			p.print("%s\n", p.Bold(of[0].Chord))
			for _, a := range of {
				p.moments(p.Bold(a.Machine), a.Played)
				if a.Meant != nil {
					p.moments("  "+p.warn.Render("wanted")+" by the mapping:", a.Meant)
				}
			}
		case len(of) == 1:
			p.alone(of[0])
		default:
			p.answers(of)
		}
		i = n
	}
}

// alone prints one machine's answer, with each stage of the way to it.
func (p *Printer) alone(a report.Answer) {
	if a.Error != "" {
		p.paragraph("    ", "%s: %s", p.Bold(a.Chord), a.Error)
		return
	}
	p.paragraph("    ", "%s %s on %s.", p.Bold(a.Chord), printable(a.Does), named(a))
	p.way(a)
	p.wanted(a)
}

// alike are machines with the same answer.
type alike struct {
	report.Answer
	names []string
}

// pressed says which keys make the chord, "" where none do.
func (g alike) pressed() string {
	if len(g.Way) == 0 {
		return ""
	}
	return g.Way[0].Words
}

// answers prints those of several machines, a line for each that differs from the others.
func (p *Printer) answers(list []report.Answer) {
	var groups []alike
	for _, a := range list {
		at := slices.IndexFunc(groups, func(g alike) bool {
			return g.Error == a.Error && g.Does == a.Does && g.pressed() == alike{Answer: a}.pressed()
		})
		if at < 0 {
			at = len(groups)
			groups = append(groups, alike{Answer: a})
		}
		g := &groups[at]
		g.names = append(g.names, named(a))
	}
	if len(groups) == 1 && groups[0].Error != "" {
		p.paragraph("    ", "%s: %s", p.Bold(groups[0].Chord), groups[0].Error)
		return
	}
	most := groups[0]
	for _, g := range groups {
		if len(g.names) > len(most.names) {
			most = g
		}
	}
	does := printable(most.Does)
	if most.Error != "" {
		does = "has no answer"
	}
	where := fmt.Sprintf("%d of %d machines", len(most.names), len(list))
	if len(groups) == 1 {
		where = fmt.Sprintf("all %d machines", len(list))
	}
	p.paragraph("", "%s %s on %s.", p.Bold(list[0].Chord), does, where)
	fmt.Fprintln(p.w)
	var rows [][]string
	for _, g := range groups {
		does := printable(g.Does)
		if g.Error != "" {
			does = g.Error
		}
		rows = append(rows, []string{
			p.Bold(strings.Join(g.names, " ")), does, strings.TrimPrefix(g.pressed(), "press "),
		})
	}
	p.table("", rows)
	fmt.Fprintln(p.w)
	var wants []alike
	for _, a := range list {
		at := slices.IndexFunc(wants, func(g alike) bool { return g.Wanted == a.Wanted })
		if a.Wanted == "" {
			continue
		} else if at < 0 {
			at = len(wants)
			wants = append(wants, alike{Answer: a})
		}
		wants[at].names = append(wants[at].names, named(a))
	}
	for _, g := range wants {
		p.paragraph("  ", "%s on %s: %s", p.warn.Render("wanted"), strings.Join(g.names, ", "), printable(g.Wanted))
	}
	p.print("To see each stage: %s\n", change.ShellLine("leitstand", "press", list[0].Chord, "--machine", list[0].Machine))
}

// named is a machine, with the board that an answer is for.
func named(a report.Answer) string {
	if a.Board == "" {
		return a.Machine
	}
	return a.Machine + " (" + a.Board + ")"
}

// way prints the stages of a press.
func (p *Printer) way(a report.Answer) {
	var rows [][]string
	for _, s := range a.Way {
		stage := s.Stage
		if s.Mechanism != "" {
			stage += " (" + s.Mechanism + ")"
		}
		rows = append(rows, []string{p.Faint(stage), printable(s.Words)})
	}
	p.table("  ", rows)
}

// wanted prints what the mapping asks for, where that is something else.
func (p *Printer) wanted(a report.Answer) {
	if a.Wanted != "" {
		p.paragraph("    ", "  %s: %s", p.warn.Render("wanted"), printable(a.Wanted))
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
