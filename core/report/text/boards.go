package text

import (
	"fmt"
	"strings"

	"leitstand/core/host"
	"leitstand/core/report"
)

// Boards prints the keyboards that are attached, and what else has keys.
func (p *Printer) Boards(said report.Boards) {
	rows := func(list []report.Attached, board bool) {
		table := [][]string{}
		for _, a := range list {
			id := a.ID
			if id == "" {
				id = "no identity"
			}
			row := []string{p.Bold(printable(a.Name)), id}
			if board {
				in := "not in the mapping"
				if a.Board != "" {
					in = "board " + a.Board
				}
				row = append(row, in)
			}
			table = append(table, append(row, p.Faint(a.What)))
		}
		p.table("  ", table)
	}
	if len(said.Keyboards) == 0 {
		p.print("No keyboards found.\n")
	} else {
		p.print("Keyboards\n")
		rows(said.Keyboards, true)
	}
	if len(said.Others) > 0 {
		p.print("\nOther devices with keys\n")
		rows(said.Others, false)
	}
	if len(said.Absent) > 0 {
		p.print("\nIn the mapping, not attached: %s\n", strings.Join(said.Absent, ", "))
	}
	for _, a := range said.Keyboards {
		if a.Board == "" && a.ID != "" {
			p.print("\nTo name one in a mapping: board %q { ids = [%q] }\n", host.BoardName(a.Name), a.ID)
			break
		}
	}
}

// Learned prints a key that was pressed.
func (p *Printer) Learned(l report.Learned) {
	name := l.Key
	if name == "" {
		name = "a key without a name here"
	}
	scan := ""
	if l.Scan != "" {
		scan = ", scan code " + l.Scan
	}
	switch {
	case l.Board != "":
		p.print("%s on %s  %s\n", p.Bold(name), printable(l.Board), p.Faint("event code "+l.Event+scan))
	case l.Text != "" && !l.Place:
		p.print("%s  %s\n", p.Bold(name), p.Faint("where the layout has "+printable(l.Text)))
	default:
		p.print("%s\n", p.Bold(name))
	}
	for _, a := range l.Answers {
		does, rule := a.Does, ""
		if a.Error != "" {
			does = a.Error
		}
		if a.Rule != "" {
			rule = p.Faint(fmt.Sprintf("  ← %s", printable(a.Rule)))
		}
		p.paragraph("      ", "  %s%s", printable(does), rule)
	}
}
