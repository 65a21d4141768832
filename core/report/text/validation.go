package text

import (
	"fmt"
	"strings"

	"leitstand/core/diag"
	"leitstand/core/mechanism"
	"leitstand/core/report"
)

// Explanation prints the mapping as it is resolved for each machine: every press in order, what it does, where
// that lands and which line says so.
func (p *Printer) Explanation(v report.Validation) {
	for _, m := range v.Machines {
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
		return "Proof: nothing to compare, since no file of ours says what a key does."
	}
	return fmt.Sprintf(
		"Proof: %s compared with the files read back; %s as announced, %d unexplained.",
		Plural(p.Presses, "press", "presses"), Plural(p.Announced, "differs", "differ"), p.Unexplained,
	)
}

// Validation prints what each machine can do, those findings that are to be shown, and the conclusion from all.
func (p *Printer) Validation(v report.Validation, all, shown diag.List) {
	if len(v.Machines) > 0 {
		p.tallies(v.Machines)
		fmt.Fprintln(p.w)
		if !all.HasErrors() || v.Proof.Unexplained > 0 {
			p.print("%s\n", proofLine(v.Proof))
		}
		fmt.Fprintln(p.w)
	}
	p.Findings(shown)
	errors, warnings := all.Count(diag.Error), all.Count(diag.Warning)
	switch {
	case errors > 0:
		also := ""
		if warnings > 0 {
			also = " and " + Plural(warnings, "warning", "warnings")
		}
		p.print("%s%s. Nothing can be compiled until %s mended.\n",
			p.bad.Render(Plural(errors, "error", "errors")), also, one(errors, "it is", "they are"))
	case warnings > 0:
		p.print("%s: the mapping compiles; read %s before you use it.\n",
			p.warn.Render(Plural(warnings, "warning", "warnings")), one(warnings, "it", "them"))
	default:
		more := ""
		if v.NotDone > 0 {
			more = fmt.Sprintf(" What is not done (%d in the table) has a fallback, or is allowed.", v.NotDone)
		}
		if n := all.Count(diag.Note); n > 0 {
			more += fmt.Sprintf(" See %s with --notes.", Plural(n, "note", "notes"))
		}
		p.paragraph("", "%s: %s on %s.%s", p.good.Render("No findings"), Plural(v.Rules, "rule", "rules"),
			Plural(len(v.Machines), "machine", "machines"), more)
	}
}

// tallies prints each machine with its rules by verdict.
func (p *Printer) tallies(machines []report.Machine) {
	head := []string{"machine", "system", "rules"}
	verdicts := []mechanism.Verdict{
		mechanism.Exact, mechanism.Near, mechanism.ByHand, mechanism.Resident, mechanism.None,
	}
	for _, v := range verdicts {
		head = append(head, marked(v, ""))
	}
	rows := [][]string{head}
	for _, m := range machines {
		row := []string{m.Machine, m.Title, fmt.Sprint(m.Rules)}
		for _, v := range verdicts {
			count := "·"
			if n := m.Verdicts[v.String()]; n > 0 {
				count = fmt.Sprint(n)
			}
			row = append(row, count)
		}
		rows = append(rows, row)
	}
	p.table("", rows)
}
