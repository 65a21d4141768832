package cli

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/report/text"
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
		if err := a.say(report.Compiled(nil, nil, f.out, nil), func() {}); err != nil {
			return err
		}
		a.complain(errs)
		fmt.Fprintf(a.stderr, "%s: nothing was written.\n", text.Plural(len(errs), "error", "errors"))
		return exit{exitErrors}
	}
	if f.dry {
		said := report.Planned(mp, builds, of)
		return a.say(said, func() { a.text.Planned(said) })
	}
	gone, err := compile.WriteFolder(f.out, builds)
	if err != nil {
		return err
	}
	said := report.Compiled(mp, builds, f.out, gone)
	return a.say(said, func() { a.text.Compilation(said) })
}
