package compile

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// part is what one mechanism wrote.
type part struct {
	facts mechanism.Facts
	out   mechanism.Output
}

// undone is how what a mechanism wrote is taken out.
type undone struct {
	facts mechanism.Facts
	back  []mechanism.Step
}

// writeStock lists what the system does by itself.
func (b *Build) writeStock(w *strings.Builder, p part) {
	w.WriteString("\n## What the system does by itself\n\n")
	if p.facts.Itself {
		fmt.Fprintf(w, "It takes effect %s; nothing is to be done for it. ", p.facts.Takes)
	} else { // a key that is to be what it is anyhow
		w.WriteString("Nothing is to be done for it. ")
	}
	fmt.Fprintf(w, "Evidence: %s (%s).\n\n", p.facts.Evidence, p.facts.Basis)
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Mechanism != nil && l.Facts().Name == p.facts.Name {
			fmt.Fprintf(w, "- %s\n", inText(l.Binding.String()))
		}
	}
}

// shows reports whether a file of the folder only shows what steps set in a store, and none of them reads it.
func shows(path string, out mechanism.Output, steps []mechanism.Step) bool {
	for _, c := range out.Changes {
		switch c.(type) {
		case change.Setting, change.Member:
		default:
			if c.Note().In == path {
				return false
			}
		}
	}
	return !slices.ContainsFunc(steps, func(s mechanism.Step) bool {
		return slices.ContainsFunc(s.Lines, func(line string) bool {
			return strings.Contains(line, path) || strings.Contains(line, strings.ReplaceAll(path, "/", `\`))
		})
	})
}

// stepsPage is STEPS.md: what a person without leitstand does with a machine's
// folder, and what to know about it.
func stepsPage(b *Build) []byte {
	var w strings.Builder
	b.writeHead(&w)
	b.writeGone(&w)
	n := 0
	var after []mechanism.Step // what is done after the session, or the machine, has ended
	ends := change.EndsNothing
	for _, p := range b.parts {
		steps, files := p.out.Steps(), p.out.Files()
		if len(steps) == 0 {
			continue
		}
		fmt.Fprintf(&w, "\n## %s\n\n", partTitle(p.facts))
		fmt.Fprintf(&w, "Takes effect %s. Evidence: %s (%s).\n", p.facts.Takes, p.facts.Evidence, p.facts.Basis)
		for _, f := range files {
			what := "belongs at"
			if shows(f.Path, p.out, steps) {
				what = "is for reading only: it shows what the steps set in"
			}
			fmt.Fprintf(&w, "\n- `%s` %s `%s`", f.Path, what, f.Goes)
		}
		if len(files) > 0 {
			w.WriteByte('\n')
		}
		w.WriteByte('\n')
		for _, s := range steps {
			if ends = max(ends, s.Ends); s.Ends != change.EndsNothing {
				if !s.Ending {
					after = append(after, s)
				}
				continue
			}
			n++
			fmt.Fprintf(&w, "%d. %s\n", n, b.stepText(s))
			writeLines(&w, s.Lines)
		}
	}
	if ends != change.EndsNothing {
		n++
		fmt.Fprintf(&w, "\n## At the end\n\n%d. %s\n", n, ends)
		for _, s := range after {
			n++
			fmt.Fprintf(&w, "%d. %s\n", n, b.stepText(s))
			writeLines(&w, s.Lines)
		}
	}
	if ask := b.asking(); n > 0 && ask != "" {
		fmt.Fprintf(&w, "\n## What holds now\n\n%s for each change, and says whether it holds. It changes nothing. Run it "+
			"after any step.\n", ask)
	}
	b.writeDifferences(&w)
	b.writeBack(&w)
	for _, p := range b.parts {
		if len(p.out.Steps()) == 0 {
			b.writeStock(&w, p)
		}
	}
	return []byte(w.String())
}

// asking is the command that asks the machine what holds there, as the beginning of a sentence; "" for none.
func (b *Build) asking() string {
	switch b.Machine.System {
	case machine.MacOS:
		return "`sh " + AskFile + "` asks this Mac"
	case machine.Windows:
		return "**As yourself**, `.\\" + AskWindowsFile + "` asks this Windows"
	}
	return ""
}

// stepText is what is to be done. On Windows, what is entered is entered with an administrator's rights or without: what is
// the user's would be set for the administrator's account, and what is the machine's would be refused.
func (b *Build) stepText(s mechanism.Step) string {
	if b.Machine.System != machine.Windows || len(s.Lines) == 0 {
		return s.Text
	}
	const administrator = "As an administrator, "
	if s.Everyone {
		return "**As an administrator**, " + firstSmall(strings.TrimPrefix(s.Text, administrator))
	}
	return "**As yourself**, " + firstSmall(s.Text)
}

// firstSmall has a sentence follow another word.
func firstSmall(text string) string { return strings.ToLower(text[:1]) + text[1:] }

// writeHead says which machine the page is for.
func (b *Build) writeHead(w *strings.Builder) {
	m := b.Machine
	fmt.Fprintf(w, "# %s: what to do\n\n", m.Name)
	assumed := ""
	if v := desktop.Version(m); v != m.DesktopVersion && m.Session != machine.Console {
		assumed = " " + v + " (the newest that is known; another is said by desktop_version)"
	}
	fmt.Fprintf(w, "This machine: %s%s, layout %s. ", m.Place(), assumed, strings.Join(m.Machine.Layouts, ", then "))
	if !slices.ContainsFunc(b.parts, func(p part) bool { return len(p.out.Changes) > 0 }) {
		w.WriteString("Nothing is to be set up here.\n")
	} else if m.System == machine.Linux {
		fmt.Fprintf(w, "With leitstand there, `leitstand install --machine %s` does all of this, and `leitstand restore` "+
			"takes it back to the byte. Without it, follow the steps from this folder, in their order.\n", m.Name)
	} else if m.System == machine.Windows {
		fmt.Fprintf(w, "Follow the steps in their order.\n\nEnter the lines of a step in a command prompt or in PowerShell, in this "+
			"folder: `cd` leads there. Where a step says **as an administrator**, the window is one that was opened with *Run as "+
			"administrator*; where it says **as yourself**, it is not, since such a window may belong to another account. A line that "+
			"reports an error has set nothing: do not go on.\n")
	} else {
		w.WriteString("Follow the steps from this folder, in their order.\n")
		if m.System == machine.MacOS {
			w.WriteString("\nIf a browser or AirDrop brought the folder here, first run `xattr -dr com.apple.quarantine .` in it: macOS " +
				"may refuse quick actions that carry this mark.\n")
		}
	}
}

// writeGone says what is wanted no longer, and how it is taken out.
func (b *Build) writeGone(w *strings.Builder) {
	if len(b.gone) == 0 {
		return
	}
	w.WriteString(
		"\n## First: what is wanted no longer\n\nThis folder had these when it was compiled before. Where the " +
			"old steps have been followed, they are still alive.\n\n",
	)
	for _, g := range b.gone {
		fmt.Fprintf(w, "- %s %s\n", inText(g.Press), inText(g.Did))
	}
	w.WriteByte('\n')
	for _, p := range b.undo {
		for _, s := range p.back {
			fmt.Fprintf(w, "- **%s**: %s\n", p.facts.Name, b.stepText(s))
			writeLines(w, s.Lines)
		}
	}
	if len(b.undo) == 0 {
		w.WriteString("Putting the new files in the place of the old ones, as below, takes them out.\n")
	}
}

// writeDifferences says what differs from the mapping: each reason once, with the rules that it is true of.
func (b *Build) writeDifferences(w *strings.Builder) {
	var reasons []string
	titles, places := map[string][]string{}, map[[2]string][]string{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Verdict() == mechanism.Exact || len(l.Why()) == 0 {
			continue
		}
		why := fmt.Sprintf("**%s**: %s", l.Verdict(), inText(l.Why().String()))
		if l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent {
			why += fmt.Sprintf(". Instead, %s (%s)", inText(l.StandIn()), l.Offer.Verdict)
		}
		title := inText(mapping.Title(l.Rule))
		if titles[why] == nil {
			reasons = append(reasons, why)
		}
		if !slices.Contains(titles[why], title) {
			titles[why] = append(titles[why], title)
		}
		at := [2]string{why, title}
		if place := b.Place(l.Range); !slices.Contains(places[at], place) {
			places[at] = append(places[at], place)
		}
	}
	if len(reasons) > 0 {
		w.WriteString("\n## What differs from the mapping\n\n")
	}
	for _, why := range reasons {
		for i, title := range titles[why] {
			titles[why][i] = fmt.Sprintf("%s (%s)", title, strings.ReplaceAll(strings.Join(places[[2]string{why, title}], ", "), ", line ", ", "))
		}
		fmt.Fprintf(w, "- %s.\n  In %s.\n", why, strings.Join(titles[why], ", "))
	}
}

// writeBack says how all is taken back.
func (b *Build) writeBack(w *strings.Builder) {
	n := 0
	ends := change.EndsNothing
	for _, p := range slices.Backward(b.parts) {
		for _, s := range p.out.Back() {
			if ends = max(ends, s.Ends); s.Ending {
				continue
			}
			if n++; n == 1 {
				w.WriteString("\n## To undo it\n\nThis restores what you had before, unless a step says otherwise. Keep the order: it " +
					"undoes the last step first.\n\n")
			}
			fmt.Fprintf(w, "%d. **%s**: %s\n", n, p.facts.Name, b.stepText(s))
			writeLines(w, s.Lines)
		}
	}
	if n > 0 && ends != change.EndsNothing {
		fmt.Fprintf(w, "%d. %s\n", n+1, ends)
	}
}

// inText is a text of the mapping within a line of the page: nothing in it is a mark of
// Markdown, breaks the line, or hides.
func inText(s string) string {
	var b strings.Builder
	for _, r := range s {
		switch {
		case r == '\n':
			b.WriteString("\\\\n")
		case r < ' ' || r == 0x7F || unicode.Is(unicode.Cf, r) || r >= 0x80 && r < 0xA0 || r == 0x2028 || r == 0x2029:
			fmt.Fprintf(&b, "<U+%04X>", r)
		case strings.ContainsRune("\\`*_[]<>#|~&", r):
			b.WriteRune('\\')
			b.WriteRune(r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// writeLines writes commands as a block of code within a list.
func writeLines(w *strings.Builder, lines []string) {
	if len(lines) == 0 {
		return
	}
	fence := "```"
	for strings.Contains(strings.Join(lines, "\n"), fence) {
		fence += "`"
	}
	fmt.Fprintf(w, "\n   %s\n", fence)
	for _, line := range lines {
		// A carriage return would end a line of Markdown, too.
		line = strings.NewReplacer("\n", "\n   ", "\r", "␍", "\x1b", "␛").Replace(line)
		fmt.Fprintf(w, "   %s\n", line)
	}
	fmt.Fprintf(w, "   %s\n", fence)
}

func partTitle(f mechanism.Facts) string {
	if strings.HasPrefix(f.Name, "native ") {
		return "Settings: " + f.Name
	}
	return map[mechanism.Stage]string{
		mechanism.Kernel: "Keys", mechanism.Layout: "Layout", mechanism.Desktop: "Hotkeys", mechanism.Person: "By hand",
	}[f.Stage] + ": " + f.Name
}

// Guide is what a person does for one mechanism, with what there is to know of it.
type Guide struct {
	Title string
	Facts mechanism.Facts
	Files []mechanism.File
	Steps []mechanism.Step
}

// Guides are those of a machine, in the order of its steps.
func (b *Build) Guides() (list []Guide) {
	for _, p := range b.parts {
		list = append(list, Guide{partTitle(p.facts), p.facts, p.out.Files(), p.out.Steps()})
	}
	return list
}
