package cli

import (
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/compare"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

func (a *app) diff() *cobra.Command {
	var files bool
	c := &cobra.Command{
		Use:   "diff A [B]",
		Short: "What differs between two mappings, or a mapping and a compiled folder",
		Long: `A and B are each a mapping (a file, or a folder of .hcl files) or a folder that
compile wrote; with A alone, the mapping of -f is held against it. Two mappings
are compared rule by rule; a mapping and a compiled folder by what a press does
on each machine, and with --files also file by file.
Exit code 0: the same; 1: different; 2: could not run.`,
		Example: "  leitstand diff old.hcl new.hcl\n  leitstand diff compiled\n  leitstand diff compiled --files",
		Args:    cobra.RangeArgs(1, 2),
		RunE: func(_ *cobra.Command, args []string) error {
			x, y := a.file, args[0]
			if len(args) == 2 {
				x, y = args[0], args[1]
			} else if !compiled(y) {
				x, y = args[0], a.file
			}
			switch {
			case compiled(x) && compiled(y):
				list, err := compare.Folders(onDisk(x), onDisk(y))
				if err != nil {
					return err
				}
				return a.diffFolder(list, files, y, x)
			case compiled(x):
				return a.diffCompiled(y, x, files)
			case compiled(y):
				return a.diffCompiled(x, y, files)
			default:
				return a.diffMappings(x, y)
			}
		},
	}
	a.formatFlag(c)
	c.Flags().BoolVar(&files, "files", false, "also show how the files' text differs")
	return c
}

func compiled(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.IsDir() && compare.IsCompiled(onDisk(path))
}

func (a *app) diffMappings(x, y string) error {
	var both [2]*mapping.Mapping
	for i, path := range []string{x, y} {
		m, diags, err := a.load(path)
		if err != nil {
			return err
		}
		if diags.HasErrors() {
			a.findings(a.stderr, diags)
			return fmt.Errorf("%s has errors, so it cannot be compared", path)
		}
		both[i] = m
	}
	list := compare.Mappings(both[0], both[1])
	if a.format == "json" {
		if err := report.Write(a.stdout, report.DifferencesOf(list)); err != nil {
			return err
		}
	} else {
		a.printDifferences(a.stdout, list, x, y)
	}
	if len(list) > 0 {
		return exit{exitErrors}
	}
	return nil
}

func (a *app) printDifferences(w io.Writer, list []compare.Difference, x, y string) {
	counts := map[compare.Kind]int{}
	signs := map[compare.Kind]string{compare.Added: "+", compare.Removed: "-", compare.Changed: "~", compare.Moved: ">"}
	for _, d := range list {
		counts[d.Kind]++
		scope := ""
		if d.Where != "" && d.From == "" && d.To == "" {
			scope = a.style.faint.Render("  " + d.Where)
		}
		fmt.Fprintf(
			w, "%s %-8s %s%s  %s\n", a.sign(signs[d.Kind]), d.Kind, a.style.bold.Render(printable(d.Subject)), scope,
			a.style.faint.Render(d.Place),
		)
		for _, s := range d.Before {
			fmt.Fprintf(w, "             %s %s\n", a.sign("-"), printable(s))
		}
		for _, s := range d.After {
			fmt.Fprintf(w, "             %s %s\n", a.sign("+"), printable(s))
		}
		if d.From != "" || d.To != "" {
			fmt.Fprintf(w, "             from %s to %s\n", everywhere(d.From), everywhere(d.To))
		}
	}
	if len(list) == 0 {
		fmt.Fprintf(w, "%s and %s say the same.\n", x, y)
		return
	}
	var parts []string
	for _, k := range []compare.Kind{compare.Added, compare.Removed, compare.Changed, compare.Moved} {
		if counts[k] > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", counts[k], k))
		}
	}
	fmt.Fprintf(w, "\nFrom %s to %s: %s.\n", x, y, strings.Join(parts, ", "))
}

func (a *app) sign(s string) string {
	switch s {
	case "+":
		return a.style.good.Render(s)
	case "-":
		return a.style.bad.Render(s)
	default:
		return a.style.warn.Render(s)
	}
}

func everywhere(scope string) string {
	if scope == "" {
		return "everywhere"
	}
	return scope
}

func (a *app) diffCompiled(path, folder string, files bool) error {
	_, builds, diags, err := a.build(path, nil)
	if err != nil {
		return err
	}
	if diags.HasErrors() {
		a.findings(a.stderr, diags)
		return fmt.Errorf("%s has errors, so it cannot be compared", path)
	}
	list, err := compare.Folder(onDisk(folder), builds)
	if err != nil {
		return err
	}
	return a.diffFolder(list, files, path, folder)
}

// diffFolder tells how machines in a folder differ from what path says.
func (a *app) diffFolder(list []compare.MachineDifference, files bool, path, folder string) error {
	same, err := true, error(nil)
	for _, d := range list {
		same = same && d.Same()
	}
	if a.format == "json" {
		err = report.Write(a.stdout, report.FolderDifferencesOf(list))
	} else {
		a.printFolder(a.stdout, list, files, path, folder)
	}
	if err == nil && !same {
		return exit{exitErrors}
	}
	return err
}

func (a *app) printFolder(w io.Writer, list []compare.MachineDifference, files bool, path, folder string) {
	different, presses := 0, 0
	var same []string
	for _, d := range list {
		if d.Same() {
			same = append(same, d.Machine)
			continue
		}
		different++
		presses += len(d.Presses)
		name := a.style.bold.Render(d.Machine)
		switch s := report.State(d); {
		case s == "missing":
			fmt.Fprintf(w, "%s: not compiled yet\n", name)
		case s == "unknown":
			fmt.Fprintf(w, "%s: compiled, but no machine of %s\n", name, path)
		case s == "unreadable":
			fmt.Fprintln(
				w, a.wrap(fmt.Sprintf("%s: %s: %s", name, a.style.bad.Render("cannot be read"), d.Broken), "    "),
			)
		}
	}
	a.printPresses(w, compare.Together(list))
	for _, d := range list {
		for _, f := range d.Files {
			fmt.Fprintf(w, "%s %s/%s\n", a.style.faint.Render("file "+string(f.Kind)+":"), d.Machine, f.Path)
			if files {
				a.printUnified(w, f)
			}
		}
	}
	if different == 0 {
		fmt.Fprintf(w, "%s does what %s says.\n", folder, path)
		return
	}
	if len(same) > 0 {
		fmt.Fprintf(w, "the same: %s\n", strings.Join(same, ", "))
	}
	words := fmt.Sprintf("\n%s differs from %s on %s: %s.", folder, path, plural(different, "machine", "machines"),
		plural(presses, "press does something else", "presses do something else"))
	if !files {
		words += " See the files' text with --files."
	}
	fmt.Fprintln(w, a.wrap(words, ""))
}

// printPresses prints what presses do in the folder and by the mapping.
func (a *app) printPresses(w io.Writer, list []compare.Change) {
	for _, c := range list {
		fmt.Fprintln(
			w,
			a.wrap(
				fmt.Sprintf(
					"%s: was %s, is %s (%s)", a.style.bold.Render(printable(c.Press)), printable(c.Was),
					printable(c.Is), strings.Join(c.Machines, ", "),
				),
				"    ",
			),
		)
	}
	if len(list) > 0 {
		fmt.Fprintln(w)
	}
}

func (a *app) printUnified(w io.Writer, f compare.FileDifference) {
	if f.Unified == "" {
		fmt.Fprintln(w, "    (not text)")
		return
	}
	for line := range strings.Lines(f.Unified) {
		line = strings.TrimSuffix(line, "\n")
		switch {
		case strings.HasPrefix(line, "+"):
			line = a.style.good.Render(line)
		case strings.HasPrefix(line, "-"):
			line = a.style.bad.Render(line)
		}
		fmt.Fprintf(w, "    %s\n", line)
	}
}
