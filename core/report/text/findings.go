package text

import (
	"fmt"
	"strings"

	"github.com/charmbracelet/x/ansi"

	"leitstand/core/audit"
	"leitstand/core/diag"
)

// maxShown bounds how many findings are printed: more help nobody.
const maxShown = 50

// Findings prints diagnostics: place, what is wrong, the line with the spot
// marked, what to do.
func (p *Printer) Findings(list diag.List) {
	for i, d := range list {
		if i == maxShown {
			p.print("… and %d more\n\n", len(list)-maxShown)
			return
		}
		place := ""
		if d.Range.File != "" {
			place = p.bold.Render(d.Range.String()) + ": "
		}
		on := ""
		if len(d.Machines) > 0 {
			on = p.faint.Render(" (on " + strings.Join(d.Machines, ", ") + ")")
		}
		p.paragraph("    ", "%s%s: %s%s", place, p.severity(d.Severity).Render(d.Severity.String()), d.Summary, on)
		if d.Line != "" {
			p.excerpt(d)
		}
		for _, r := range d.Related {
			p.print("    %s: %s\n", r.Range, r.Words)
		}
		if d.Advice != "" {
			p.paragraph("      ", "    → %s", d.Advice)
		}
		fmt.Fprintln(p.w)
	}
}

// excerpt prints the source line, cut to what is around the spot, and a mark.
func (p *Printer) excerpt(d diag.Diagnostic) {
	line := []rune(strings.ReplaceAll(d.Line, "\t", " "))
	start := min(int(d.Range.Start.Column)-1, len(line))
	end := len(line)
	if d.Range.End.Line == d.Range.Start.Line {
		end = min(max(int(d.Range.End.Column)-1, start), len(line))
	}
	const room = 80
	cut := 0
	if start > room/2 && len(line) > room {
		cut = start - room/2
	}
	shown := line[cut:min(len(line), cut+room)]
	p.print("    %s %s\n", p.faint.Render("|"), string(shown))
	from := min(start-cut, len(shown))
	to := min(max(end-cut, from), len(shown))
	mark := strings.Repeat(" ", ansi.StringWidth(string(shown[:from]))) +
		strings.Repeat("^", max(1, ansi.StringWidth(string(shown[from:to]))))
	p.print("    %s %s\n", p.faint.Render("|"), p.severity(d.Severity).Render(mark))
}

// About explains one kind of finding.
func (p *Printer) About(f audit.Finding) {
	p.print("%s (%s): %s\n\n%s\n", p.Bold(f.Code), f.Severity, f.Title, p.wrap(f.About, ""))
	if f.Allowable() {
		p.print("\nA rule, a group or a machine allows it with: allow = [%q]\n", f.Code)
	}
}
