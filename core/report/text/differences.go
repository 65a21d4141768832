package text

import (
	"fmt"
	"slices"
	"strings"

	"github.com/charmbracelet/lipgloss"

	"leitstand/core/compare"
	"leitstand/core/report"
)

// Differences prints how one mapping differs from another.
func (p *Printer) Differences(said report.Differences, from, to string) {
	if len(said.Differences) == 0 {
		p.print("%s and %s say the same.\n", from, to)
		return
	}
	counts := map[compare.Kind]int{}
	for _, d := range said.Differences {
		counts[d.Kind]++
	}
	var parts []string
	for _, k := range []compare.Kind{compare.Added, compare.Removed, compare.Changed, compare.Moved} {
		if counts[k] > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", counts[k], k))
		}
	}
	p.print("From %s to %s: %s.\n\n", from, to, strings.Join(parts, ", "))
	signs := map[compare.Kind]string{compare.Added: "+", compare.Removed: "-", compare.Changed: "~", compare.Moved: ">"}
	for _, d := range said.Differences {
		scope := ""
		if d.Where != "" && d.From == "" && d.To == "" {
			scope = p.Faint("  " + d.Where)
		}
		p.print(
			"%s %-8s %s%s  %s\n",
			p.sign(signs[d.Kind]),
			d.Kind,
			p.Bold(printable(d.Subject)),
			scope,
			p.Faint(d.Place),
		)
		for _, s := range d.Before {
			p.print("             %s %s\n", p.sign("-"), printable(s))
		}
		for _, s := range d.After {
			p.print("             %s %s\n", p.sign("+"), printable(s))
		}
		if d.From != "" || d.To != "" {
			p.print("             from %s to %s\n", everywhere(d.From), everywhere(d.To))
		}
	}
}

func (p *Printer) sign(s string) string {
	if look, ok := map[string]lipgloss.Style{"+": p.good, "-": p.bad}[s]; ok {
		return look.Render(s)
	}
	return p.warn.Render(s)
}

func everywhere(scope string) string {
	if scope == "" {
		return "everywhere"
	}
	return scope
}

// FolderDifferences prints how the machines of a compiled folder differ from what another says: a mapping, or
// another folder. The text of files is shown on request.
func (p *Printer) FolderDifferences(said report.FolderDifferences, from, folder string, files bool) {
	different, presses := 0, 0
	var same []string
	for _, d := range said.Machines {
		if d.State == "same" {
			same = append(same, d.Machine)
			continue
		}
		different++
		presses += len(d.Presses)
	}
	if different == 0 {
		p.print("%s does what %s says.\n", folder, from)
		return
	}
	p.paragraph("", "%s differs from %s on %s: %s.", folder, from, Plural(different, "machine", "machines"),
		Plural(presses, "press does something else", "presses do something else"))
	fmt.Fprintln(p.w)
	for _, d := range said.Machines {
		switch name := p.Bold(d.Machine); d.State {
		case "missing":
			p.print("%s: not compiled yet\n", name)
		case "unknown":
			p.print("%s: compiled, but no machine of %s\n", name, from)
		case "unreadable":
			p.paragraph("    ", "%s: %s: %s", name, p.bad.Render("cannot be read"), d.Reason)
		}
	}
	rows := [][]string{{"press", folder, from, "on"}}
	for _, c := range said.Together {
		since := map[compare.Origin]string{
			compare.OfMachine: "; the machine was changed since it was installed",
			compare.OfMapping: "; the mapping was changed since it was installed",
		}[c.Since]
		rows = append(rows, []string{
			p.Bold(printable(c.Press)), printable(c.Was), printable(c.Is), strings.Join(c.Machines, ", ") + since,
		})
	}
	// On which machines, where that is more than the first line says.
	if different == 1 && !slices.ContainsFunc(said.Together, func(c compare.Change) bool { return c.Since != "" }) {
		for i := range rows {
			rows[i] = rows[i][:3]
		}
	}
	if len(rows) > 1 {
		p.table("", rows)
		if slices.ContainsFunc(said.Machines, hasFiles) {
			fmt.Fprintln(p.w)
		}
	}
	for _, d := range said.Machines {
		for _, f := range d.Files {
			p.print("%s %s/%s\n", p.Faint("file "+string(f.Kind)+":"), d.Machine, f.Path)
			if files {
				p.unified(f)
			}
		}
	}
	if len(same) > 0 {
		p.print("no difference: %s\n", strings.Join(same, ", "))
	}
	if !files && slices.ContainsFunc(said.Machines, hasFiles) {
		p.print("To see how the files differ: leitstand diff --files.\n")
	}
}

// hasFiles says whether files of a machine differ.
func hasFiles(d report.FolderDifference) bool { return len(d.Files) > 0 }

func (p *Printer) unified(f report.FileDifference) {
	if f.Unified == "" {
		p.print("    (not text)\n")
		return
	}
	for line := range strings.Lines(f.Unified) {
		line = strings.TrimSuffix(line, "\n")
		switch {
		case strings.HasPrefix(line, "+"):
			line = p.good.Render(line)
		case strings.HasPrefix(line, "-"):
			line = p.bad.Render(line)
		}
		p.print("    %s\n", line)
	}
}
