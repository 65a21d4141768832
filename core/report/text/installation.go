package text

import (
	"fmt"
	"strings"
	"time"

	"leitstand/core/report"
)

// maxPresses is how many presses are listed before the rest is counted.
const maxPresses = 24

// maxLines is how many lines of how a file changes are shown without being asked for.
const maxLines = 24

// Intended prints what is about to be done: by what keys do, and by how many places.
func (p *Printer) Intended(said report.Installation, every, files bool) {
	if len(said.Presses) > 0 {
		p.print("%s: what keys do otherwise then\n", p.Bold(said.Machine))
		p.presses(said.Presses, every)
		fmt.Fprintln(p.w)
	}
	if said.Unread != "" {
		p.paragraph("  ", "What keys do now cannot be told: %s", printable(said.Unread))
	}
	if len(said.Clashes) > 0 {
		p.paragraph("  ", "%s binds %s, too: take that out there, or the desktop names a duplicate and may go by it.",
			p.warn.Render(printable(said.In)), printable(strings.Join(said.Clashes, ", ")))
		fmt.Fprintln(p.w)
	}
	p.drift(said.Drift)
	if every {
		for _, c := range said.Changes {
			p.placed(c, files)
		}
		fmt.Fprintln(p.w)
	}
	for _, h := range said.ByHand {
		p.paragraph("  ", "by hand: %s", printable(h))
	}
	if said.State != "nothing-to-do" {
		p.paragraph(
			"",
			"%s to be written%s.",
			Plural(written(said), "place is", "places are"),
			p.administrators(said.Administrator),
		)
	}
}

// written is how many places are written.
func written(said report.Installation) (n int) {
	for _, c := range said.Changes {
		if c.Call == nil {
			n++
		}
	}
	return n
}

func (p *Printer) administrators(n int) string {
	if n == 0 {
		return ""
	}
	return fmt.Sprintf(", by an administrator: %d", n)
}

// presses lists what presses do, up to some.
func (p *Printer) presses(list []report.PlannedPress, every bool) {
	for i, c := range list {
		if i == maxPresses && !every && len(list) > maxPresses+1 {
			p.print("  %s\n", p.Faint(fmt.Sprintf("and %d more; --dry-run lists all", len(list)-i)))
			return
		}
		what := c.Then
		switch {
		case c.Then == "":
			what = "no longer " + c.Now
		case c.Now != "":
			what += p.Faint(" (was " + printable(c.Now) + ")")
		}
		p.paragraph("      ", "  %s: %s", p.Bold(printable(c.Press)), what)
	}
}

// drift lists what somebody has changed since.
func (p *Printer) drift(list []report.Drifted) {
	if len(list) == 0 {
		return
	}
	p.print("%s\n", p.warn.Render("Changed since the last install, by somebody else"))
	for _, d := range list {
		what := "it has changes beside Leitstand's entries"
		if d.Store != "" {
			what = fmt.Sprintf("was %s, is %s", brief(d.Ours), brief(d.Now))
		}
		switch {
		case d.Left:
			what += "; it is left as it is (--force puts back what was before)"
		case d.Merged:
			what += "; they stay"
		default:
			what += "; it is written anew"
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
		what := "is changed"
		if c.From == nil {
			what = "is made"
		}
		if c.To == nil {
			what = "goes"
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
	switch said.State {
	case "nothing-to-do":
		p.print("%s has all of it already; nothing was done.\n", machine)
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
		p.print("%s is paused, until `leitstand resume`.\n", machine)
	case "installed":
		back := ", and read back here"
		if written(said) == said.Administrator {
			back = ""
		}
		p.print(
			"%s is installed: %s%s.\n",
			machine, Plural(written(said)-said.Administrator, "place is written", "places are written"), back,
		)
	case "on-trial":
		p.paragraph("", "%s is on trial until %s: `leitstand keep` keeps it; else it is put back.", machine,
			said.Until.Format(time.TimeOnly))
	}
	for _, t := range said.Takes {
		p.paragraph("    ", "  %s takes effect %s", t.By, t.When)
	}
	for _, u := range said.Untold {
		p.print("  not told, since its session is not here:\n    %s\n", printable(u))
	}
	if said.Script != "" && said.Administrator > 0 {
		p.paragraph(
			"",
			"%s an administrator: sudo sh %s",
			Plural(said.Administrator, "place is left for", "places are left for"),
			printable(said.Script),
		)
	}
}

// butFor is what is not as it was before.
func butFor(said report.Installation) string {
	var list []string
	if n := len(said.Drift); n > 0 {
		list = append(list, "somebody else has changed in "+Plural(n, "place", "places"))
	}
	if said.Administrator > 0 {
		list = append(list, "is left for an administrator")
	}
	if len(list) == 0 {
		return ""
	}
	return ", but for what " + strings.Join(list, ", and what ")
}

// Status prints what is in place, and what is not as it was left.
func (p *Printer) Status(said report.Status) {
	if said.State == "nothing" {
		p.print("Nothing is installed here. `leitstand install` puts a mapping in place.\n")
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
	commit := ""
	if said.Commit != "" {
		commit = " at commit " + said.Commit
	}
	p.paragraph("    ", "%s is installed from %s%s, %s.", p.Bold(said.Machine), printable(said.Mapping), commit,
		said.At.Format("2006-01-02 15:04"))
	switch said.State {
	case "paused":
		p.print("It is paused; `leitstand resume` brings it back.\n")
	case "on-trial":
		until := "after the next log-in"
		if said.Until != nil {
			until = said.Until.Format(time.TimeOnly)
		}
		p.paragraph("", "It is on trial until %s: `leitstand keep` keeps it; else it is put back.", until)
	}
	for _, w := range said.Without {
		p.paragraph("    ", "without: %s", printable(w))
	}
	if len(said.Drift) > 0 {
		p.print("%s\n", p.warn.Render("Not as it was installed"))
		for _, d := range said.Drift {
			rules := ""
			if len(d.Rules) > 0 && len(d.Rules) <= maxNamed {
				rules = p.Faint("  ← " + printable(strings.Join(d.Rules, ", ")))
			}
			what := fmt.Sprintf("is %s, not %s", brief(d.Now), brief(d.Ours))
			if d.Path != "" {
				what = map[bool]string{true: "is gone", false: "has lost what is ours, or part of it"}[d.Now == nil]
			}
			p.paragraph("      ", "  %s %s%s", printable(where(d.Path, d.Store, d.Key)), printable(what), rules)
		}
		p.presses(said.Presses, false)
		if said.Unread != "" {
			p.paragraph("      ", "  %s", printable(said.Unread))
		}
		p.print("`leitstand install` brings it back; `leitstand restore` takes all of it back.\n")
	}
	if len(said.Waiting) > 0 {
		p.print("%s\n", p.warn.Render("Waiting for an administrator"))
		for _, w := range said.Waiting {
			p.print("  %s\n", printable(where(w.Path, w.Store, w.Key)))
		}
	}
	if said.Edited {
		p.print("The mapping says something else by now; `leitstand install` puts that in place.\n")
	}
	if said.State == "installed" && len(said.Waiting) == 0 {
		p.print(
			"%s, and all of it is as it was installed.\n",
			Plural(said.Places, "place is read back here", "places are read back here"),
		)
	}
}
