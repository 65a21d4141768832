package text

import (
	"fmt"
	"strings"

	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mechanism"
	"leitstand/core/report"
)

// explanation prints the mapping as it is resolved for each machine, where the value has that: every press in order, what it
// does, where that lands and which line says so.
func (p *Printer) explanation(v report.Validation) {
	for _, m := range v.Machines {
		if len(m.Presses)+len(m.Beaten)+len(m.Absent) == 0 {
			continue
		}
		fmt.Fprintln(p.w)
		p.print("%s  %s\n", p.Bold(m.Machine), p.Faint(m.Title))
		var rows [][]string
		for _, l := range m.Presses {
			where := l.Mechanism
			if where == "" {
				where = "-"
			}
			does, word := l.Does, p.verdict(l.Verdict).Render(marked(l.Verdict, ""))
			if l.Instead != "" {
				does += " (instead of " + l.Instead + ")"
				word = p.warn.Render(marked(l.Verdict, "*"))
			}
			said := l.Short
			if l.Where != "" {
				said += ", " + l.Where
			}
			rows = append(rows, []string{printable(l.Press), printable(does), where, word, l.When, said})
		}
		p.table("  ", rows)
		for _, b := range m.Beaten {
			p.paragraph("    ", "  %s: %s (%s) wins over %s (%s), whose scope is wider",
				b.Press, b.Winner.Rule, b.Winner.Short, b.Loser.Rule, b.Loser.Short)
		}
		for _, x := range m.Absent {
			titles := make([]string, len(x.Rules))
			for i, r := range x.Rules {
				titles[i] = fmt.Sprintf("%s (%s)", printable(r.Rule), r.Short)
			}
			p.paragraph("    ", "  not here, since %s: %s", x.Why, strings.Join(titles, ", "))
		}
		fmt.Fprintln(p.w)
	}
}

// marked is a verdict with its sign.
func marked(v mechanism.Verdict, more string) string {
	return report.VerdictMark(v) + " " + v.String() + more
}

// proofLine says what the proof compared.
func proofLine(p report.Proof) string {
	if p.Presses == 0 {
		return "Nothing to verify: no file of ours says what a key does."
	}
	return fmt.Sprintf(
		"Verified: %s simulated %s; %s as stated, %d unexplained.",
		thousands(p.Presses), one(p.Presses, "press", "presses"), Plural(p.Announced, "differs", "differ"), p.Unexplained,
	)
}

// thousands is a number with a comma between each three digits.
func thousands(n int) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Validation prints the result, the findings that are to be shown, and what each machine can do; with errors, these alone.
func (p *Printer) Validation(v report.Validation, all, shown diag.List) {
	errors, warnings, notes := all.Count(diag.Error), all.Count(diag.Warning), all.Count(diag.Note)
	of := Plural(v.Rules, "rule", "rules") + " on " + Plural(len(v.Machines), "machine", "machines")
	switch {
	case errors > 0:
		also := ""
		if warnings > 0 {
			also = " and " + Plural(warnings, "warning", "warnings")
		}
		p.print("%s%s. Nothing can be compiled until %s fixed.\n\n",
			p.bad.Render(Plural(errors, "error", "errors")), also, one(errors, "it is", "they are"))
	case warnings > 0:
		p.print("%s, no errors: %s.\n\n", p.warn.Render(Plural(warnings, "warning", "warnings")), of)
	default:
		p.print("%s: %s.\n\n", p.good.Render("No errors or warnings"), of)
	}
	p.Findings(shown)
	if errors > 0 && v.Proof.Unexplained == 0 {
		p.print("Next: correct the mapping, then run leitstand validate again.\n")
		return
	}
	machines := make([]tallied, len(v.Machines))
	for i, m := range v.Machines {
		machines[i] = tallied{m.Machine, m.Title, m.Verdicts}
	}
	p.tallies("system", machines)
	fmt.Fprintln(p.w)
	p.shortfall(v.Shortfall)
	p.paragraph("", "%s", proofLine(v.Proof))
	p.explanation(v)
	if errors > 0 { // the proof failed, and a finding says how
		return
	}
	next := "Next: leitstand compile."
	if notes > 0 && len(shown) < len(all) {
		next += fmt.Sprintf(" To read %s: leitstand validate --notes.", Plural(notes, "note", "notes"))
	}
	p.print("%s\n", next)
}

// shortfall says how many rules are not done, and what becomes of them.
func (p *Printer) shortfall(s compile.Shortfall) {
	if s.NotDone == 0 {
		return
	}
	var parts []string
	add := func(n int, single, many string) {
		if n > 0 {
			parts = append(parts, Plural(n, single, many))
		}
	}
	add(s.Fallback, "uses its fallback", "use their fallback")
	add(s.Allowed, "is allowed", "are allowed")
	add(s.NotDone-s.Fallback-s.Allowed, "has a warning", "have a warning")
	p.paragraph("", "%s unavailable or %s an agent: %s.", Plural(s.NotDone, "entry is", "entries are"), one(s.NotDone, "needs", "need"),
		strings.Join(parts, ", "))
}

// tallied is a machine, a word about it, and how many of its rules have each verdict.
type tallied struct {
	machine, about string
	verdicts       map[string]int
}

// tallies prints each machine with its rules by verdict; about heads the column that tells of it.
func (p *Printer) tallies(about string, machines []tallied) {
	rows := [][]string{{"machine", about}}
	for v := mechanism.Exact + 1; v > 0; v-- {
		rows[0] = append(rows[0], (v - 1).String())
	}
	for _, m := range machines {
		row := []string{m.machine, m.about}
		for v := mechanism.Exact + 1; v > 0; v-- {
			name, count := (v - 1).String(), "·"
			if n := m.verdicts[name]; n > 0 {
				count = fmt.Sprint(n)
			}
			row = append(row, strings.Repeat(" ", len(name)-len([]rune(count)))+count)
		}
		rows = append(rows, row)
	}
	p.table("", rows)
}
