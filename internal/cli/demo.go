package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"leitstand/core/compare"
	"leitstand/core/compile"
	"leitstand/core/demo"
	"leitstand/core/diag"
	"leitstand/core/report"
)

func (a *app) demo() *cobra.Command {
	return &cobra.Command{
		Use:   "demo [DIR]",
		Short: "Run every stage on a built-in example",
		Long: `Writes an example mapping to DIR (or a new temporary folder), validates it, compares it
with a changed one, and compiles it. Then it installs one of its machines in a folder below
DIR, and undoes that. Nothing on this machine is changed.`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			dir := ""
			if len(args) == 1 {
				dir = args[0]
			} else {
				var err error
				if dir, err = os.MkdirTemp("", "leitstand-demo-"); err != nil {
					return err
				}
			}
			return a.runDemo(dir)
		},
	}
}

func (a *app) runDemo(dir string) error {
	w := a.stdout
	first, second := filepath.Join(dir, demo.Mapping), filepath.Join(dir, demo.Changed)
	out := filepath.Join(dir, demo.Compiled)
	if err := demo.Write(dir); err != nil {
		return err
	}
	step := func(n int, what, command string) {
		fmt.Fprintf(w, "%s  %s\n\n", a.text.Bold(fmt.Sprintf("%d. %s", n, what)), a.text.Faint("leitstand "+command))
	}
	step(1, "Validate one mapping for six machines", "validate -f "+first)
	a.named = first
	mp, found, err := a.checked(nil)
	if err != nil {
		return err
	}
	a.text.Validation(report.Summarized(mp, found), found.Findings, found.Findings.Without(diag.Note))
	if found.Findings.HasErrors() {
		return exit{exitErrors}
	}

	fmt.Fprintln(w)
	step(2, "Compare it with a changed mapping", "diff "+first+" "+second)
	changed, diags, err := a.load(second)
	if err != nil {
		return err
	}
	if diags.HasErrors() {
		a.text.Findings(diags)
		return exit{exitErrors}
	}
	a.text.Differences(report.DifferencesOf(compare.Mappings(mp, changed)), demo.Mapping, demo.Changed)

	fmt.Fprintln(w)
	step(3, "Compile it into what each system reads", "compile -f "+first+" -o "+out)
	gone, err := compile.WriteFolder(out, found.Builds)
	if err != nil {
		return err
	}
	a.text.Compilation(report.Compiled(mp, found, out, gone), false)
	if err := a.demoInstall(dir, step); err != nil {
		return err
	}
	fmt.Fprintf(w, "The mapping is %s; change it and run the commands above again.\n", a.text.Bold(first))
	return nil
}

// demoInstall puts one of the machines in place in a folder that stands for it, has somebody change something, and
// takes all back.
func (a *app) demoInstall(dir string, step func(int, string, string)) error {
	root := filepath.Join(dir, demo.Root)
	f := placing{root: root, machine: demo.Machine, yes: true, quiet: true}
	at := " --root " + root
	fmt.Fprintln(a.stdout)
	step(4, "Install it, in a folder that stands for the machine "+demo.Machine, "install --machine "+demo.Machine+at)
	m, err := machineAt(f)
	if err == nil {
		err = demo.Use(m)
	}
	if err == nil {
		err = a.runInstall(f)
	}
	if err == nil {
		err = demo.Drift(m)
	}
	if err != nil {
		return err
	}
	fmt.Fprintln(a.stdout)
	step(5, "Find what somebody has changed since", "status"+at)
	if err := a.runStatus(f); err != nil && !errors.As(err, new(exit)) {
		return err
	}
	fmt.Fprintln(a.stdout)
	step(6, "Undo it, byte for byte", "restore"+at)
	if err := a.runRestore(f, "restored"); err != nil {
		return err
	}
	fmt.Fprintln(a.stdout)
	return nil
}
