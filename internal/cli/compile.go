package cli

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/report/text"
)

// compileFlags are what a user says beside the command.
type compileFlags struct {
	out, rule string
	dry       bool
	explain   bool
	machines  []string
}

func (a *app) compile() *cobra.Command {
	var f compileFlags
	c := &cobra.Command{
		Use:   "compile [MAPPING]",
		Args:  cobra.MaximumNArgs(1),
		Short: "Write each machine's native files and steps",
		Long: `Writes the native files of each machine (or of those that --machine names) to
OUTPUT/MACHINE, with a STEPS.md that explains how to install them by hand. It touches
nothing else. --explain also shows how each rule lands on each machine, and why it
differs. --dry-run writes nothing and lists each change; --rule limits the list to what
one rule needs, or the rules of a group.`,
		Example: "  leitstand compile -o build\n  leitstand compile --machine office,lab -o build\n  leitstand " +
			"compile --dry-run --rule \"launch Ctrl+Alt+g\"",
		RunE: func(_ *cobra.Command, args []string) error {
			if err := a.nameMapping(args); err != nil {
				return err
			}
			return a.runCompile(f)
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &f.machines)
	c.Flags().StringVarP(&f.out, "output", "o", "compiled", "the folder to write to")
	c.Flags().BoolVar(&f.dry, "dry-run", false, "write nothing, and list what would happen to each machine")
	c.Flags().BoolVar(&f.explain, "explain", false, "also show how each rule lands on each machine, and why it differs")
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
		if err := a.say(report.Compiled(nil, check.Report{}, f.out, nil), func() {}); err != nil {
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
	said := report.Compiled(mp, found, f.out, gone)
	return a.say(said, func() { a.text.Compilation(said, f.explain) })
}
