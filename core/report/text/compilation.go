package text

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"leitstand/core/machine"
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

// Compilation prints what was written, how many rules each machine can do, and what to do next; explained, also how each rule
// lands, and why it differs.
func (p *Printer) Compilation(said report.Compilation, explained bool) {
	files := 0
	machines := make([]tallied, len(said.Machines))
	for i, m := range said.Machines {
		machines[i] = tallied{m.Machine, fmt.Sprintf("%5d", len(m.Files)), m.Verdicts}
		files += len(m.Files)
	}
	p.paragraph("", "%s %s for %s: %s in %s.", p.good.Render("Compiled"), Plural(said.Of, "rule", "rules"),
		Plural(len(said.Machines), "machine", "machines"), Plural(files, "file", "files"), p.Bold(said.Folder))
	fmt.Fprintln(p.w)
	p.tallies("files", machines)
	fmt.Fprintln(p.w)
	p.shortfall(said.Shortfall)
	if said.Warnings > 0 {
		p.print("%s: leitstand validate shows them.\n", p.warn.Render(Plural(said.Warnings, "warning", "warnings")))
	}
	if explained {
		fmt.Fprintln(p.w)
		p.verdicts(said)
		p.gaps(said)
		p.mechanisms(said)
	} else if len(said.Gaps) > 0 {
		p.paragraph("", "%s from the mapping: leitstand compile --explain, or STEPS.md of each machine.",
			Plural(len(said.Gaps), "difference", "differences"))
	}
	if len(said.Gone) > 0 {
		p.print("\nNo longer in the mapping, but in effect where the old steps were followed. STEPS.md begins with how to remove it:\n")
	}
	for _, g := range said.Gone {
		p.print("  %s\n", printable(g.Machine+": "+g.Press+" "+g.Did))
	}
	fmt.Fprintln(p.w)
	p.next(said.Machines)
}

// next says how each machine gets what was written.
func (p *Printer) next(machines []report.CompiledMachine) {
	var linux, others []string
	for _, m := range machines {
		if m.System == machine.Linux {
			linux = append(linux, m.Machine)
		} else {
			others = append(others, m.Machine)
		}
	}
	name := func(list []string) (name, which string) {
		if len(list) == 1 {
			return list[0], ""
		}
		return "NAME", " (" + strings.Join(list, ", ") + ")"
	}
	if len(linux) > 0 {
		one, which := name(linux)
		p.paragraph("      ", "Next: on Linux%s, run leitstand install --machine %s.", which, one)
	}
	if len(others) > 0 {
		one, which := name(others)
		at := filepath.Join(filepath.Dir(filepath.FromSlash(machines[0].Folder)), one, "STEPS.md")
		begin := "Next: on"
		if len(linux) > 0 {
			begin = "      On"
		}
		p.paragraph("      ", "%s the others%s, follow %s.", begin, which, at)
	}
}

// mechanisms prints who does what was written for each machine, and how we know that.
func (p *Printer) mechanisms(said report.Compilation) {
	var rows [][]string
	for _, m := range said.Machines {
		by := []string{}
		for _, t := range m.Targets {
			by = append(by, t.Name+" ("+t.Evidence+")")
		}
		if len(by) == 0 {
			by = []string{"nothing"}
		}
		rows = append(rows, []string{filepath.FromSlash(m.Folder), strings.Join(by, ", ")})
	}
	p.print("\n%s\n", p.Bold("Mechanisms"))
	p.table("  ", rows)
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
			p.print("\n%s\n", p.Bold("* Fallbacks in use"))
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
		p.print("\n%s\n", p.Bold("Differences from the mapping"))
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
		p.paragraph("               ", "  %s  %s on %s: %s",
			pad(p.verdict(g.Verdict).Render(g.Verdict.String()), 11), rules, where, g.Why)
	}
}
