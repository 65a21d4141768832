package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/audit"
	"leitstand/core/diag"
	"leitstand/core/report"
)

func (a *app) validate() *cobra.Command {
	var strict, explain, notes bool
	var about string
	var machines []string
	c := &cobra.Command{
		Use:   "validate [MAPPING]",
		Args:  cobra.MaximumNArgs(1),
		Short: "Check the mapping and report what each machine supports",
		Long: `Checks the mapping for each machine (or those that --machine names), and reports everything
that is wrong, each with its place and a fix. Exit code 0: no errors; 1: errors; 2: could
not run. With --strict, warnings count as errors.`,
		Example: "  leitstand validate\n  leitstand validate --explain --machine office",
		RunE: func(_ *cobra.Command, args []string) error {
			if about != "" {
				return a.about(about)
			}
			if err := a.nameMapping(args); err != nil {
				return err
			}
			mp, r, err := a.checked(machines)
			if err != nil {
				return err
			}
			switch {
			case a.format == "json":
				err = report.Write(a.stdout, report.Validated(mp, r))
			case a.format == "sarif":
				err = report.Write(a.stdout, report.SARIF(r.Findings))
			default:
				said := report.Summarized(mp, r)
				if explain {
					said = report.Validated(mp, r)
				}
				shown := r.Findings
				if !notes {
					shown = shown.Without(diag.Note)
				}
				a.text.Validation(said, r.Findings, shown)
			}
			if err != nil {
				return err
			}
			if r.Findings.HasErrors() || strict && r.Findings.Short() {
				return exit{exitErrors}
			}
			return nil
		},
	}
	a.formatFlag(c, "sarif")
	a.machineFlag(c, &machines)
	c.Flags().StringVar(&about, "about", "", "explain the finding of this code")
	c.Flags().BoolVar(&notes, "notes", false, "show notes, too: when changes take effect, and where they do not hold")
	c.Flags().BoolVar(&explain, "explain", false, "list what each machine's keys do, and which rule says so")
	c.Flags().BoolVar(&strict, "strict", false, "treat warnings as errors")
	return c
}

// about explains one kind of finding.
func (a *app) about(code string) error {
	f, ok := audit.Find(code)
	if !ok {
		if n := diag.Nearest(code, audit.Codes()); n != "" {
			return fmt.Errorf("there is no finding %q; did you mean %q?", code, n)
		}
		return fmt.Errorf("there is no finding %q; the findings are %s", code, strings.Join(audit.Codes(), ", "))
	}
	a.text.About(f)
	return nil
}
