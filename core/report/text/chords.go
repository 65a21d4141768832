package text

import (
	"slices"
	"strings"

	"leitstand/core/report"
)

// Free prints which keys are free.
func (p *Printer) Free(said report.Free) {
	for _, r := range said.Free {
		p.paragraph(strings.Repeat(" ", 13), "%s  %s", p.Bold(pad(r.Modifiers, 11)), strings.Join(r.Keys, " "))
	}
	p.print(
		"\nFree on %s, as their desktops come; what you have set there by hand, and what programs use, is\nnot counted.\n",
		Plural(len(said.Machines), "machine", "machines"),
	)
	p.unknown(said.Unknown)
}

// Chords prints which chords are taken, by what.
func (p *Printer) Chords(said report.Chords) {
	rows := [][]string{append([]string{"chord"}, said.Machines...)}
	for _, c := range said.Chords {
		row := []string{c.Chord}
		for _, m := range said.Machines {
			cell := p.Faint("·")
			if by := c.By[m]; by != "" {
				if cell = printable(by); slices.Contains(c.Mapping, m) {
					cell = p.good.Render("+ " + cell)
				}
			}
			row = append(row, cell)
		}
		rows = append(rows, row)
	}
	p.table("", rows)
	p.print("\n%s taken on some machine; a plus marks what the mapping says. See what is free with --free.\n",
		Plural(len(said.Chords), "chord is", "chords are"))
	p.unknown(said.Unknown)
}

// unknown says where a list cannot be whole.
func (p *Printer) unknown(gaps []string) {
	for _, gap := range gaps {
		p.paragraph("  ", "Of %s.", gap)
	}
}
