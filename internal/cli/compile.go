package cli

import (
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

// compileFlags are what a user says beside the command.
type compileFlags struct {
	out, rule string
	dry       bool
	machines  []string
}

func (a *app) compile() *cobra.Command {
	var f compileFlags
	c := &cobra.Command{
		Use:   "compile",
		Args:  cobra.NoArgs,
		Short: "Write each machine's native files, and the steps to put them in place",
		Long: `Writes the native files of every machine (or those of --machine) to OUTPUT/MACHINE, with a
STEPS.md there that says how to put them in place by hand. Nothing else is
touched. A table shows how each rule lands on each machine. With --dry-run nothing is
written, and what would happen to each machine is listed, change by change; --rule takes
the changes that one rule needs, or the rules of a group.`,
		Example: "  leitstand compile -o build\n  leitstand compile --machine office,lab -o build\n  leitstand " +
			"compile --dry-run --rule \"launch Ctrl+Alt+g\"",
		RunE: func(*cobra.Command, []string) error {
			return a.runCompile(f)
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &f.machines)
	c.Flags().StringVarP(&f.out, "output", "o", "compiled", "the folder to write to")
	c.Flags().BoolVar(&f.dry, "dry-run", false, "write nothing, and list what would happen to each machine")
	c.Flags().StringVar(&f.rule, "rule", "", "with --dry-run, only what this rule needs, or this group")
	complete(c, "rule", func() []string { return a.names((*mapping.Mapping).RuleNames) })
	return c
}

// runCompile writes the folders of machines, or lists what would happen.
func (a *app) runCompile(f compileFlags) error {
	mp, found, err := a.checked(f.machines)
	if err != nil {
		return err
	}
	builds := found.Builds
	var of []mapping.Rule
	if f.rule != "" {
		if !f.dry {
			return errors.New("--rule is for --dry-run: a folder has all rules of a machine")
		}
		if of, err = mp.Named(f.rule); err != nil {
			return err
		}
	}
	if errs := found.Findings.Errors(); len(errs) > 0 {
		if a.format == "json" {
			if err := report.Write(a.stdout, report.Compiled(nil, nil, f.out, nil)); err != nil {
				return err
			}
		}
		a.findings(a.stderr, errs)
		fmt.Fprintf(a.stderr, "%s: nothing was written.\n", plural(len(errs), "error", "errors"))
		return exit{exitErrors}
	}
	if f.dry {
		if a.format == "json" {
			return report.Write(a.stdout, report.Compiled(mp, builds, "", of))
		}
		a.planned(a.stdout, builds, of)
		return nil
	}
	return a.writeFolders(mp, builds, f.out)
}

// writeFolders writes the folders of machines and says what is wanted no longer.
func (a *app) writeFolders(mp *mapping.Mapping, builds []*compile.Build, out string) error {
	var gone []string
	for _, b := range builds {
		for _, g := range b.Since(onDisk(filepath.Join(out, b.Machine.Name))) {
			gone = append(gone, fmt.Sprintf("%s: %s %s", b.Machine.Name, g.Press, g.Did))
		}
	}
	if err := compile.WriteFolder(out, builds); err != nil {
		return err
	}
	if a.format == "json" {
		return report.Write(a.stdout, report.Compiled(mp, builds, out, nil))
	}
	a.compiled(a.stdout, mp, builds, out)
	if len(gone) > 0 {
		fmt.Fprintf(
			a.stdout,
			"\nWanted no longer, and alive where the old steps have been followed; STEPS.md begins with "+
				"how to take it out:\n",
		)
		for _, g := range gone {
			fmt.Fprintf(a.stdout, "  %s\n", printable(g))
		}
	}
	return nil
}

// maxNamed is how many rules a change may serve so that they are named beside it.
const maxNamed = 2

// planned lists what happens to machines.
func (a *app) planned(w io.Writer, builds []*compile.Build, of []mapping.Rule) {
	n := 0
	for i, b := range builds {
		if i > 0 {
			fmt.Fprintln(w)
		}
		by := ""
		list := b.Planned(of)
		n += len(list)
		fmt.Fprintf(w, "%s: %s\n", a.style.bold.Render(b.Machine.Name), plural(len(list), "change", "changes"))
		for _, c := range list {
			if c.By.Name != by {
				by = c.By.Name
				fmt.Fprintf(w, "  %s, %s\n", by, c.By.Takes)
			}
			where, what := change.Brief(c.Change)
			if c.Note().Everyone {
				where = "(administrator) " + where
			}
			serves := ""
			if n := len(c.Rules); of == nil && n > 0 && n <= maxNamed {
				names := make([]string, n)
				for i, r := range c.Rules {
					names[i] = mapping.Subject(r)
				}
				serves = a.style.faint.Render("  ← " + printable(strings.Join(names, ", ")))
			}
			fmt.Fprintln(w, a.wrap("    "+printable(where)+": "+printable(what)+serves, "      "))
		}
	}
	fmt.Fprintln(
		w,
		"\n"+a.wrap(
			fmt.Sprintf(
				"Nothing was written. %s; `leitstand compile` writes the files, and the steps that make and undo them.",
				plural(n, "change", "changes"),
			),
			"",
		),
	)
}

// maxRows bounds the table of verdicts; a mapping of thousands of rules is not
// read as a table.
const maxRows = 60

// compiled prints the files and the table of verdicts.
func (a *app) compiled(w io.Writer, mp *mapping.Mapping, builds []*compile.Build, out string) {
	rows := compile.Table(mp, builds)
	a.verdicts(w, rows, builds)
	a.gaps(w, rows, builds)
	files := 0
	list := [][]string{}
	for _, b := range builds {
		var names []string
		for _, f := range b.Used {
			names = append(names, f.Name+" ("+f.Evidence.String()+")")
		}
		if len(names) == 0 {
			names = []string{"nothing"}
		}
		n := len(b.Folder())
		list = append(
			list, []string{filepath.Join(out, b.Machine.Name), plural(n, "file", "files"), strings.Join(names, ", ")},
		)
		files += n
	}
	fmt.Fprintln(w)
	a.table(w, "", list)
	fmt.Fprintf(w, "\nWrote %s for %s to %s. Next: read %s and follow its steps.\n",
		plural(files, "file", "files"), plural(len(builds), "machine", "machines"), a.style.bold.Render(out),
		a.style.bold.Render(filepath.Join(out, builds[0].Machine.Name, "STEPS.md")))
}

// some names the first of a list, and how many more there are.
func some(list []string, most int) string {
	if len(list) <= most {
		return strings.Join(list, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(list[:most-1], ", "), len(list)-most+1)
}

// verdicts prints how each rule lands on each machine.
func (a *app) verdicts(w io.Writer, rows []compile.Row, builds []*compile.Build) {
	head := []string{"rule"}
	for _, b := range builds {
		head = append(head, b.Machine.Name)
	}
	out := [][]string{head}
	for i, r := range rows {
		if i == maxRows {
			out = append(out, []string{fmt.Sprintf("… and %d more", len(rows)-maxRows)})
			break
		}
		line := []string{printable(mapping.Title(r.Rule))}
		for _, c := range r.Cells {
			switch {
			case !c.InScope:
				line = append(line, a.style.faint.Render("·"))
			case len(c.StandIn) > 0:
				line = append(line, a.style.warn.Render(c.String()+"*"))
			case c.Allowed:
				line = append(line, a.style.faint.Render(c.String()))
			default:
				line = append(line, a.style.verdict(c.Verdict).Render(c.String()))
			}
		}
		out = append(out, line)
	}
	a.table(w, "", out)
}

// gaps says in words what the verdicts short of exact mean.
func (a *app) gaps(w io.Writer, rows []compile.Row, builds []*compile.Build) {
	for i, f := range compile.Fallbacks(rows, builds) {
		if i == 0 {
			fmt.Fprintf(w, "\n%s\n", a.style.bold.Render("* What stands in for what is asked for"))
		}
		if i == maxRows {
			fmt.Fprintln(w, "  …")
			break
		}
		fmt.Fprintln(
			w,
			a.wrap(
				fmt.Sprintf(
					"  %s (%s) → %s (%s) on %s", printable(f.Wanted), f.Wished, printable(f.Press), f.Verdict,
					strings.Join(f.Machines, ", "),
				),
				"    ",
			),
		)
	}
	gaps := compile.Gaps(rows, builds)
	allowed := slices.IndexFunc(gaps, func(g compile.Gap) bool { return g.Allowed }) // those come last
	if allowed < 0 {
		allowed = len(gaps)
	}
	if allowed > 0 {
		fmt.Fprintf(w, "\n%s\n", a.style.bold.Render("What differs from the mapping"))
	}
	for i, g := range gaps[:allowed] {
		if i == maxShown {
			fmt.Fprintf(w, "  … and %d more\n", allowed-maxShown)
			break
		}
		rules := plural(len(g.Rules), "rule", "rules")
		if len(g.Rules) == 1 {
			rules = printable(mapping.Title(g.Rules[0]))
		}
		if len(g.Presses) > 0 {
			rules += " (" + printable(some(g.Presses, 4)) + ")"
		}
		where := strings.Join(g.Machines, ", ")
		if len(g.Machines) == len(builds) && len(builds) > 1 {
			where = "all machines"
		}
		line := fmt.Sprintf(
			"  %s  %s on %s: %s", pad(a.style.verdict(g.Verdict).Render(g.Verdict.String()), 8), rules, where, g.Why,
		)
		fmt.Fprintln(w, a.wrap(line, "            "))
	}
	if n := compile.NotDone(rows); allowed < len(gaps) {
		fmt.Fprintln(
			w,
			"\n"+a.wrap(
				fmt.Sprintf(
					"Not done: %s of the table, as the mapping allows. Each machine's STEPS.md says why.",
					plural(n, "entry", "entries"),
				),
				"",
			),
		)
	}
}
