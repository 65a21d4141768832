package text

import (
	"fmt"
	"strings"
	"time"

	"github.com/charmbracelet/x/ansi"

	"leitstand/core/report"
)

// maxPresses is how many presses are listed before the rest is counted.
const maxPresses = 24

// maxLines is how many lines of how a file changes are shown without being asked for.
const maxLines = 24

// Intended prints what is about to be done: how much, what keys do then, and where that is written. Where every change is
// asked for, nothing follows, so that is said, too.
func (p *Printer) Intended(said report.Installation, every, files bool) {
	if said.State != "nothing-to-do" {
		by := ""
		if said.Administrator > 0 {
			by = fmt.Sprintf(" (%d by an administrator)", said.Administrator)
		}
		p.paragraph("  ", "%s: %s in %s%s. Nothing has changed yet.", p.Bold(said.Machine),
			Plural(len(said.Presses), "press changes", "presses change"), Plural(written(said), "location", "locations"), by)
		fmt.Fprintln(p.w)
	}
	if len(said.Presses) > 0 {
		p.presses(said.Presses, every)
		fmt.Fprintln(p.w)
	}
	if said.Unread != "" {
		p.paragraph("  ", "What keys do now cannot be read: %s", printable(said.Unread))
		fmt.Fprintln(p.w)
	}
	if len(said.Clashes) > 0 {
		p.paragraph("  ", "%s also binds %s: remove that there, or the desktop reports a duplicate and may use it.",
			p.warn.Render(printable(said.In)), printable(strings.Join(said.Clashes, ", ")))
		fmt.Fprintln(p.w)
	}
	p.drift(said.Drift)
	if every {
		for _, c := range said.Changes {
			p.placed(c, files)
		}
	} else {
		p.locations(said.Changes)
	}
	for _, h := range said.ByHand {
		p.paragraph("  ", "manual: %s", printable(h))
	}
}

// locations lists where something is written, briefly: files by name, settings by number.
func (p *Printer) locations(changes []report.PlacedChange) {
	var rows [][]string
	for _, everyone := range []bool{false, true} {
		paths, settings, stores := map[string][]string{}, map[string]int{}, []string{}
		for _, c := range changes {
			switch {
			case c.Call != nil || c.Everyone != everyone:
			case c.Store != "":
				if settings[c.Store] == 0 {
					stores = append(stores, c.Store)
				}
				settings[c.Store]++
			case c.From == nil:
				paths["create"] = append(paths["create"], printable(c.Path))
			case c.To == nil:
				paths["remove"] = append(paths["remove"], printable(c.Path))
			default:
				paths["change"] = append(paths["change"], printable(c.Path))
			}
		}
		who := map[bool]string{true: " as administrator"}[everyone]
		for _, verb := range []string{"create", "change", "remove"} {
			if len(paths[verb]) > 0 {
				rows = append(rows, []string{verb + who, strings.Join(paths[verb], ", ")})
			}
		}
		for _, store := range stores {
			rows = append(rows, []string{"set" + who, Plural(settings[store], "value", "values") + " of " + store})
		}
	}
	for _, row := range rows {
		p.paragraph("      ", "%s  %s", p.Faint(row[0]), row[1])
	}
	if len(rows) > 0 {
		fmt.Fprintln(p.w)
	}
}

// written is how many locations are written.
func written(said report.Installation) (n int) {
	for _, c := range said.Changes {
		if c.Call == nil {
			n++
		}
	}
	return n
}

// usualColumns are those of what is no terminal.
const usualColumns = 100

// presses lists what presses do then, up to some, in two columns where they have room.
func (p *Printer) presses(list []report.PlannedPress, every bool) {
	var lines [][2]string
	more := 0
	for i, c := range list {
		if i == maxPresses && !every && len(list) > maxPresses+1 {
			more = len(list) - i
			break
		}
		then := printable(c.Then)
		if c.Then == "" {
			then = "as before"
		}
		if c.Now != "" {
			then = p.Faint(printable(c.Now)+" → ") + then
		}
		lines = append(lines, [2]string{printable(c.Press), then})
	}
	room := p.columns
	if room == 0 {
		room = usualColumns
	}
	// Presses that fit into half of the width go into two columns; the others follow, one a line.
	var short, long [][2]string
	for _, l := range lines {
		if 2*(ansi.StringWidth(l[0])+2+ansi.StringWidth(l[1])+2) <= room && len(lines) > 4 {
			short = append(short, l)
		} else {
			long = append(long, l)
		}
	}
	half := (len(short) + 1) / 2
	left, right := p.aligned(short[:half]), p.aligned(short[half:])
	if widest(left)+2+widest(right) > room {
		left, right, long = nil, nil, lines
	}
	for i, l := range left {
		if i < len(right) {
			l = pad(l, widest(left)+2) + right[i]
		}
		p.print("%s\n", l)
	}
	for _, l := range p.aligned(long) {
		p.print("%s\n", l)
	}
	if more > 0 {
		p.print("%s\n", p.Faint(fmt.Sprintf("and %d more; --dry-run lists all", more)))
	}
}

// aligned are presses and what they do, the latter in one column.
func (p *Printer) aligned(list [][2]string) []string {
	width := 0
	for _, l := range list {
		width = max(width, ansi.StringWidth(l[0]))
	}
	lines := make([]string, len(list))
	for i, l := range list {
		lines[i] = p.Bold(pad(l[0], width+2)) + l[1]
	}
	return lines
}

// widest is the width of the widest line, in columns.
func widest(lines []string) (n int) {
	for _, l := range lines {
		n = max(n, ansi.StringWidth(l))
	}
	return n
}

// drift lists what somebody has changed since.
func (p *Printer) drift(list []report.Drifted) {
	if len(list) == 0 {
		return
	}
	p.print("%s\n", p.warn.Render("Changed since the last install, not by Leitstand"))
	for _, d := range list {
		what := "it has changes beside Leitstand's entries"
		if d.Store != "" {
			what = fmt.Sprintf("%s → %s", brief(d.Ours), brief(d.Now))
		}
		switch {
		case d.Left:
			what += "; it stays (--force restores what was there before)"
		case d.Merged:
			what += "; they stay"
		default:
			what += "; it is written again"
		}
		p.paragraph("      ", "  %s: %s", printable(where(d.Path, d.Store, d.Key)), printable(what))
	}
	fmt.Fprintln(p.w)
}

// placed prints one place with what it has, and what it gets.
func (p *Printer) placed(c report.PlacedChange, files bool) {
	mark := ""
	if c.Everyone {
		mark = "(administrator) "
	}
	switch {
	case c.Call != nil:
		what := "told: " + strings.Join(c.Call, " ")
		if c.Call[0] == "sh" { // in words, since nobody reads a line of shell
			what, _, _ = strings.Cut(c.Says, ". ")
			what = c.By + ": " + strings.TrimSuffix(what, ".")
		}
		p.paragraph("      ", "  %s%s", mark, printable(what))
	case c.Store != "":
		p.paragraph("      ", "  %s%s: %s → %s", mark, p.Bold(printable(where("", c.Store, c.Key))), brief(c.From),
			brief(c.To))
	default:
		what := "changes"
		if c.From == nil {
			what = "is created"
		}
		if c.To == nil {
			what = "is removed"
		}
		text := withoutHead(c.Unified)
		if n := strings.Count(text, "\n"); n > maxLines && !files {
			what, text = what+p.Faint(fmt.Sprintf(" (%d lines; --files shows them)", n)), "\n"
		}
		p.print("  %s%s %s\n", mark, p.Bold(printable(c.Path)), what)
		if text != "\n" {
			p.unified(report.FileDifference{Path: c.Path, Unified: text})
		}
	}
}

// withoutHead is a unified text without the lines that name the file.
func withoutHead(text string) string {
	if _, rest, ok := strings.Cut(text, "\n"); ok && strings.HasPrefix(text, "--- ") {
		if _, rest, ok = strings.Cut(rest, "\n"); ok {
			return rest
		}
	}
	return text
}

func where(path, store, key string) string {
	if path != "" {
		return path
	}
	return store + " " + key
}

// brief is a value in a few words.
func brief(c *report.Content) string {
	switch {
	case c == nil:
		return "nothing"
	case c.Type == "texts":
		return printable("[" + strings.Join(c.Texts, ", ") + "]")
	}
	return printable(c.Text)
}

// Installed prints what was done, and what is left to do.
func (p *Printer) Installed(said report.Installation) {
	machine := p.Bold(said.Machine)
	next := ""
	switch said.State {
	case "nothing-to-do":
		p.print("%s is up to date. Nothing was changed.\n", machine)
	case "restored":
		if len(said.Stuck) > 0 {
			p.print("%s is restored, except %s. The next command tries again.\n", machine,
				Plural(len(said.Stuck), "location", "locations"))
			for _, line := range said.Stuck {
				p.paragraph("    ", "  %s", printable(line))
			}
			break
		}
		p.print("%s is as it was before%s.\n", machine, butFor(said))
	case "paused":
		p.print("%s is paused.\n", machine)
		next = "leitstand resume"
	case "installed":
		back := " and read back"
		if written(said) == said.Administrator {
			back = ""
		}
		p.print("%s is installed: %s written%s.\n",
			machine, Plural(written(said)-said.Administrator, "location", "locations"), back)
		next = "leitstand status reports whether it still holds; leitstand restore undoes it"
	case "on-trial":
		p.print("%s is on trial until %s, when it reverts.\n", machine, said.Until.Format(time.TimeOnly))
		next = "leitstand keep, to keep it"
	}
	for _, t := range said.Takes {
		p.paragraph("    ", "  %s: in effect %s", t.By, t.When)
	}
	for _, u := range said.Untold {
		p.print("  not told, since its session is not here:\n    %s\n", printable(u))
	}
	if said.Script != "" && said.Administrator > 0 {
		p.paragraph("", "%s for an administrator: sudo sh %s", Plural(said.Administrator, "location waits", "locations wait"),
			printable(said.Script))
	}
	if next != "" {
		p.print("Next: %s.\n", next)
	}
}

// butFor is what is not as it was before.
func butFor(said report.Installation) string {
	var list []string
	if n := len(said.Drift); n > 0 {
		list = append(list, "was changed by others in "+Plural(n, "location", "locations"))
	}
	if said.Administrator > 0 {
		list = append(list, "waits for an administrator")
	}
	if len(list) == 0 {
		return ""
	}
	return ", except for what " + strings.Join(list, ", and what ")
}

// Status prints what is in place, and what is not as it was left.
func (p *Printer) Status(said report.Status) {
	if said.State == "nothing" {
		p.print("Nothing is installed here. To install a mapping: leitstand install.\n")
		return
	}
	if said.State == "stuck" {
		p.print("%s is restored, except %s.\n", p.Bold(said.Machine),
			Plural(len(said.Drift)+len(said.Kept), "location", "locations"))
		for _, d := range said.Drift {
			p.paragraph(
				"      ", "  %s still has Leitstand's entries, and cannot be written. Each command tries again.",
				printable(where(d.Path, d.Store, d.Key)),
			)
		}
		for _, d := range said.Kept {
			p.paragraph(
				"      ", "  %s has somebody else's changes beside Leitstand's entries, so it stays as it is. `leitstand restore "+
					"--force` puts back what was there before.", printable(where(d.Path, d.Store, d.Key)),
			)
		}
		return
	}
	machine, drifted := p.Bold(said.Machine), len(said.Drift)
	at := said.At.Format("2006-01-02 15:04")
	switch {
	case drifted > 0:
		p.print("%s: %s of %s %s changed since %s.\n\n", machine, p.warn.Render(fmt.Sprint(drifted)),
			Plural(said.Places, "location", "locations"), one(drifted, "has", "have"), at)
	case len(said.Waiting) > 0:
		p.print("%s: %s for an administrator.\n\n", machine,
			p.warn.Render(Plural(len(said.Waiting), "location waits", "locations wait")))
	default:
		p.print("%s: %s as installed %s.\n", machine,
			Plural(said.Places, "location is", "locations are"), at)
	}
	for _, d := range said.Drift {
		rules := ""
		if len(d.Rules) > 0 && len(d.Rules) <= maxNamed {
			rules = p.Faint("  ← " + printable(strings.Join(d.Rules, ", ")))
		}
		what := fmt.Sprintf("%s → %s", brief(d.Ours), brief(d.Now))
		if d.Path != "" {
			what = map[bool]string{true: "is gone", false: "lacks some of Leitstand's entries"}[d.Now == nil]
		}
		p.paragraph("      ", "  %s: %s%s", printable(where(d.Path, d.Store, d.Key)), printable(what), rules)
	}
	if drifted > 0 {
		if len(said.Presses) > 0 {
			fmt.Fprintln(p.w)
		}
		p.presses(said.Presses, false)
		if said.Unread != "" {
			p.paragraph("      ", "  %s", printable(said.Unread))
		}
		fmt.Fprintln(p.w)
	}
	for _, w := range said.Waiting {
		p.print("  %s\n", printable(where(w.Path, w.Store, w.Key)))
	}
	for _, w := range said.Without {
		p.paragraph("    ", "without: %s", printable(w))
	}
	commit := ""
	if said.Commit != "" {
		commit = " at commit " + said.Commit
	}
	p.paragraph("    ", "Installed from %s%s.", printable(said.Mapping), commit)
	switch said.State {
	case "paused":
		p.print("It is paused. To resume: leitstand resume.\n")
	case "on-trial":
		until := "after the next log-in"
		if said.Until != nil {
			until = said.Until.Format(time.TimeOnly)
		}
		p.paragraph("", "It is on trial until %s, when it reverts. To keep it: leitstand keep.", until)
	}
	switch {
	case drifted > 0:
		p.print("To repair it: leitstand install. To undo everything: leitstand restore.\n")
	case said.Edited:
		p.print("The mapping has changed since. To install it: leitstand install.\n")
	}
}
