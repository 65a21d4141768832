package text

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"leitstand/core/report"
)

// maxRows bounds the table of verdicts; a mapping of thousands of rules is not
// read as a table.
const maxRows = 60

// maxNamed is how many rules a change may serve so that they are named beside it.
const maxNamed = 2

// Planned prints what would happen to machines, change by change.
func (p *Printer) Planned(said report.Compilation) {
	n := 0
	for i, m := range said.Machines {
		if i > 0 {
			fmt.Fprintln(p.w)
		}
		by := ""
		n += len(m.Changes)
		p.print("%s: %s\n", p.Bold(m.Machine), Plural(len(m.Changes), "change", "changes"))
		for _, c := range m.Changes {
			if c.By != by {
				by = c.By
				p.print("  %s, %s\n", by, c.Takes)
			}
			where, serves := c.Where, ""
			if c.Everyone {
				where = "(administrator) " + where
			}
			if n := len(c.Rules); !said.Narrowed && n > 0 && n <= maxNamed {
				serves = p.Faint("  ← " + printable(strings.Join(c.Rules, ", ")))
			}
			p.paragraph("      ", "    %s: %s%s", printable(where), printable(c.What), serves)
		}
	}
	fmt.Fprintln(p.w)
	p.paragraph("",
		"Nothing was written. %s; `leitstand compile` writes the files, and the steps that make and undo them.",
		Plural(n, "change", "changes"))
}

// Compilation prints how rules landed and which files were written.
func (p *Printer) Compilation(said report.Compilation) {
	p.verdicts(said)
	p.gaps(said)
	files := 0
	var list [][]string
	for _, m := range said.Machines {
		var by []string
		for _, t := range m.Targets {
			by = append(by, t.Name+" ("+t.Evidence+")")
		}
		if len(by) == 0 {
			by = []string{"nothing"}
		}
		list = append(list, []string{
			filepath.FromSlash(m.Folder), Plural(len(m.Files), "file", "files"), strings.Join(by, ", "),
		})
		files += len(m.Files)
	}
	fmt.Fprintln(p.w)
	p.table("", list)
	fmt.Fprintln(p.w)
	p.paragraph("", "Wrote %s for %s to %s. Next: `leitstand install` on a machine with Linux, or the steps in %s.",
		Plural(files, "file", "files"), Plural(len(said.Machines), "machine", "machines"), p.Bold(said.Folder),
		p.Bold(filepath.Join(filepath.FromSlash(said.Machines[0].Folder), "STEPS.md")))
	if len(said.Gone) > 0 {
		p.print("\nWanted no longer, and alive where the old steps have been followed; STEPS.md begins with " +
			"how to take it out:\n")
	}
	for _, g := range said.Gone {
		p.print("  %s\n", printable(g.Machine+": "+g.Press+" "+g.Did))
	}
}

// some names the first of a list, and how many more there are.
func some(list []string, most int) string {
	if len(list) <= most {
		return strings.Join(list, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(list[:most-1], ", "), len(list)-most+1)
}

// fewMachines have room for when a rule takes effect, beside its verdict.
const fewMachines = 3

// verdicts prints how each rule lands on each machine.
func (p *Printer) verdicts(said report.Compilation) {
	head := []string{"rule"}
	for _, m := range said.Machines {
		head = append(head, m.Machine)
	}
	rows := [][]string{head}
	for i, r := range said.Rules {
		if i == maxRows {
			rows = append(rows, []string{fmt.Sprintf("… and %d more", len(said.Rules)-maxRows)})
			break
		}
		row := []string{printable(r.Rule)}
		for _, m := range said.Machines {
			c, here := r.Verdicts[m.Machine]
			when := ""
			if len(said.Machines) <= fewMachines && c.When != "" {
				when = p.Faint(", " + c.When)
			}
			text := report.VerdictMark(c.Verdict) + " " + c.String()
			switch {
			case !here:
				row = append(row, p.Faint("·"))
			case len(c.Instead) > 0:
				row = append(row, p.warn.Render(text+"*")+when)
			case c.Allowed:
				row = append(row, p.Faint(text)+when)
			default:
				row = append(row, p.verdict(c.Verdict).Render(text)+when)
			}
		}
		rows = append(rows, row)
	}
	p.table("", rows)
}

// gaps says in words what the verdicts short of exact mean.
func (p *Printer) gaps(said report.Compilation) {
	for i, f := range said.Fallbacks {
		if i == 0 {
			p.print("\n%s\n", p.Bold("* What stands in for what is asked for"))
		}
		if i == maxRows {
			p.print("  …\n")
			break
		}
		p.paragraph("    ", "  %s (%s) → %s (%s) on %s",
			printable(f.Wanted), f.Wished, printable(f.Press), f.Verdict, strings.Join(f.Machines, ", "))
	}
	allowed := slices.IndexFunc(said.Gaps, func(g report.Gap) bool { return g.Allowed }) // those come last
	if allowed < 0 {
		allowed = len(said.Gaps)
	}
	if allowed > 0 {
		p.print("\n%s\n", p.Bold("What differs from the mapping"))
	}
	for i, g := range said.Gaps[:allowed] {
		if i == maxShown {
			p.print("  … and %d more\n", allowed-maxShown)
			break
		}
		rules := Plural(len(g.Rules), "rule", "rules")
		if len(g.Rules) == 1 {
			rules = printable(g.Rules[0])
		}
		if len(g.Presses) > 0 {
			rules += " (" + printable(some(g.Presses, 4)) + ")"
		}
		where := strings.Join(g.Machines, ", ")
		if len(g.Machines) == len(said.Machines) && len(said.Machines) > 1 {
			where = "all machines"
		}
		p.paragraph("            ", "  %s  %s on %s: %s",
			pad(p.verdict(g.Verdict).Render(g.Verdict.String()), 8), rules, where, g.Why)
	}
	if allowed < len(said.Gaps) {
		fmt.Fprintln(p.w)
		p.paragraph("", "Not done: %s of the table, as the mapping allows. Each machine's STEPS.md says why.",
			Plural(said.NotDone, "entry", "entries"))
	}
}
