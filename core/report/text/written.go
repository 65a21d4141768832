package text

import (
	"fmt"
	"strings"

	"leitstand/core/mapping"
)

// Written prints what a mapping has that was written to a file, and how many entries of its sources it has no word for.
func (p *Printer) Written(name string, mp *mapping.Mapping, left int) {
	words := Plural(len(mp.Rules), "rule", "rules") + " for " + Plural(len(mp.Machines), "machine", "machines")
	if left > 0 {
		words += "; " + Plural(left, "entry is", "entries are") + " left out, and listed at its end"
	}
	p.paragraph("  ", "Wrote %s: %s.", p.Bold(name), words)
	for _, m := range mp.Machines {
		p.paragraph("    ", "  %s: %s, layout %s%s", p.Bold(m.Name), m.Place(), strings.Join(m.Layouts, ", "), boardsOf(m.Boards))
	}
	p.print("Next: leitstand validate -f %s\n", name)
}

// boardsOf names the keyboards of a machine, behind a comma.
func boardsOf(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return fmt.Sprintf(", with %s", strings.Join(list, ", "))
}
