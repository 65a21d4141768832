package text

import (
	"fmt"

	"leitstand/core/report"
)

// Apps prints programs as a mapping spells them.
func (p *Printer) Apps(said report.Apps) {
	var rows [][]string
	for _, a := range said.Apps {
		name := a.Name
		if name == "" {
			name = "a command"
		}
		rows = append(rows, []string{printable(name), p.Bold(printable(a.ID)), p.Faint(printable(a.Line))})
	}
	p.table("", rows)
	first := said.Apps[0]
	fmt.Fprintln(p.w)
	p.paragraph("", "A mapping starts one so: launch \"Hyper+t\" { run = %q }", first.ID)
}
