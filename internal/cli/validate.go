package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/audit"
	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

func (a *app) validate() *cobra.Command {
	var strict, explain, notes bool
	var about string
	var machines []string
	c := &cobra.Command{
		Use:   "validate",
		Args:  cobra.NoArgs,
		Short: "Check the mapping and say what each machine can do of it",
		Long: `Reads the mapping, resolves it for every machine (or those of --machine), and tells all
that is wrong, each with its place. Exit code 0: nothing wrong; 1: errors;
2: could not run. With --strict, warnings count as errors.`,
		RunE: func(*cobra.Command, []string) error {
			if about != "" {
				return a.about(about)
			}
			mp, r, err := a.checked(machines)
			if err != nil {
				return err
			}
			switch a.format {
			case "json":
				if err := report.Write(a.stdout, report.Validated(mp, r)); err != nil {
					return err
				}
			case "sarif":
				if err := report.Write(a.stdout, report.SARIF(r.Findings)); err != nil {
					return err
				}
			default:
				if explain {
					a.explain(a.stdout, mp, r.Builds)
				}
				shown := r.Findings
				if !notes {
					shown = shown.Without(diag.Note)
				}
				a.validated(mp, r, shown)
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
	c.Flags().BoolVar(&explain, "explain", false, "first list what each machine's keys do, and which rule says so")
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
	fmt.Fprintf(a.stdout, "%s (%s): %s\n\n%s\n", a.style.bold.Render(f.Code), f.Severity, f.Title, a.wrap(f.About, ""))
	if f.Allowable() {
		fmt.Fprintf(a.stdout, "\nA rule, a group or a machine allows it with: allow = [%q]\n", f.Code)
	}
	return nil
}

// explain prints the mapping as it is resolved for each machine: every press in
// order, what it does, where that lands and which line says so.
func (a *app) explain(w io.Writer, mp *mapping.Mapping, builds []*compile.Build) {
	at := mp.Place
	for _, b := range builds {
		fmt.Fprintf(w, "%s  %s\n", a.style.bold.Render(b.Machine.Name), a.style.faint.Render(b.Machine.Place()))
		var rows [][]string
		for _, l := range b.Landings {
			where := "-"
			if l.Mechanism != nil {
				where = l.Facts().Name
			}
			does, word := l.Binding.Effect.String(), a.style.verdict(l.Verdict()).Render(l.Verdict().String())
			if l.Wish != nil {
				does += " (instead of " + l.Instead() + ")"
				word = a.style.warn.Render(l.Verdict().String() + "*")
			}
			said := at(l.Range)
			if where := l.Rule.Head().Scope.Where(); where != "" {
				said += ", " + where
			}
			rows = append(rows, []string{printable(l.Binding.Press()), printable(does), where, word, said})
		}
		a.table(w, "  ", rows)
		for _, o := range b.Beaten {
			fmt.Fprintln(w, a.wrap(fmt.Sprintf(
				"  %s: %s (%s) wins over %s (%s), whose scope is wider", o.Press, mapping.Title(o.Winner),
				at(o.Winner.Head().Range), mapping.Title(o.Loser), at(o.Loser.Head().Range),
			), "    "))
		}
		for _, x := range mapping.AbsentFrom(mp, b.Machine.Machine) {
			titles := make([]string, len(x.Rules))
			for i, r := range x.Rules {
				titles[i] = fmt.Sprintf("%s (%s)", printable(mapping.Title(r)), at(r.Head().Range))
			}
			fmt.Fprintln(w, a.wrap(fmt.Sprintf("  not here, since %s: %s", x.Why, strings.Join(titles, ", ")), "    "))
		}
		fmt.Fprintln(w)
	}
}

// validated prints what each machine can do, what was found, and the conclusion.
func (a *app) validated(mp *mapping.Mapping, r check.Report, shown diag.List) {
	builds, diags, proofs := r.Builds, r.Findings, r.Proof
	rows := compile.Table(mp, builds)
	w := a.stdout
	if len(builds) > 0 {
		a.tallies(w, builds, rows)
		fmt.Fprintln(w)
		if !diags.HasErrors() || proofs.Unexplained > 0 {
			fmt.Fprintf(w, "Proof: %s compared with the files read back; %s as announced, %d unexplained.\n",
				plural(proofs.Presses, "press", "presses"), differ(proofs.Announced), proofs.Unexplained)
		}
		fmt.Fprintln(w)
	}
	a.findings(w, shown)
	errors, warnings := diags.Count(diag.Error), diags.Count(diag.Warning)
	switch {
	case errors > 0:
		fmt.Fprintln(
			w,
			a.style.bad.Render(plural(errors, "error", "errors"))+warningsToo(
				warnings,
			)+". Nothing can be compiled until "+map[bool]string{true: "it is", false: "they are"}[errors == 1]+" mended.",
		)
	case warnings > 0:
		fmt.Fprintln(
			w,
			a.style.warn.Render(
				plural(warnings, "warning", "warnings"),
			)+": the mapping compiles; read "+map[bool]string{true: "it", false: "them"}[warnings == 1]+" before you use it.",
		)
	default:
		allowed := ""
		if n := compile.NotDone(rows); n > 0 {
			allowed = fmt.Sprintf(" What is not done (%d in the table) has a fallback, or is allowed.", n)
		}
		if n := diags.Count(diag.Note); n > 0 {
			allowed += fmt.Sprintf(" See %s with --notes.", plural(n, "note", "notes"))
		}
		fmt.Fprintln(
			w,
			a.wrap(
				fmt.Sprintf(
					"%s: %s on %s.%s", a.style.good.Render("No findings"), plural(len(mp.Rules), "rule", "rules"),
					plural(len(builds), "machine", "machines"), allowed,
				),
				"",
			),
		)
	}
}

func differ(n int) string {
	if n == 1 {
		return "1 differs"
	}
	return fmt.Sprintf("%d differ", n)
}

func warningsToo(n int) string {
	if n == 0 {
		return ""
	}
	return " and " + plural(n, "warning", "warnings")
}

// tallies prints each machine with its rules by verdict.
func (a *app) tallies(w io.Writer, builds []*compile.Build, rows []compile.Row) {
	out := [][]string{{"machine", "system", "rules", "exact", "near", "by hand", "resident", "none"}}
	for i, b := range builds {
		t := compile.Count(rows, i)
		row := []string{b.Machine.Name, b.Machine.Place(), fmt.Sprint(t.Rules())}
		for v := len(t) - 1; v >= 0; v-- {
			row = append(row, number(t[v]))
		}
		out = append(out, row)
	}
	a.table(w, "", out)
}

func number(n int) string {
	if n == 0 {
		return "·"
	}
	return fmt.Sprint(n)
}
