package cli

import (
	"fmt"
	"path/filepath"

	"github.com/spf13/cobra"

	"leitstand/core/diag"
	"leitstand/core/report/page"
	"leitstand/core/station"
)

func (a *app) report() *cobra.Command {
	var machines []string
	var out string
	var sheet, force bool
	c := &cobra.Command{
		Use:   "report",
		Args:  cobra.NoArgs,
		Short: "Write one page about all machines",
		Long: `Writes one HTML page about all machines: their keyboards, plain, on each layer and with
modifiers held; how each rule lands, when it takes effect, and why it differs; the steps; the
findings. It needs no network, and no script to be read. --sheet writes a page to print, each
machine on a side of paper.`,
		Example: "  leitstand report\n  leitstand report --machine gauge --sheet -o gauge.html",
		RunE: func(*cobra.Command, []string) error {
			mp, found, err := a.checked(machines)
			if err != nil {
				return err
			}
			if found.Findings.HasErrors() {
				a.complain(found.Findings.Errors())
				return exit{exitErrors}
			}
			stations, err := station.All(mp, found.Builds)
			if err != nil {
				return err
			}
			write := page.Make
			if sheet {
				write = page.Sheet
			}
			title := filepath.Base(a.file())
			if title == "-" {
				title = "standard input"
			}
			data, err := write(title, mp, found, stations)
			if err != nil {
				return err
			}
			if err := a.write(out, data, force); err != nil {
				return err
			}
			fmt.Fprintf(a.stdout, "%s is ready: open it in a browser.\n", a.text.Bold(out))
			if n := found.Findings.Count(diag.Warning); n > 0 {
				fmt.Fprintln(a.stdout, "The warnings are among its findings.")
			}
			return nil
		},
	}
	a.machineFlag(c, &machines)
	c.Flags().StringVarP(&out, "output", "o", "report.html", "the file to write")
	c.Flags().BoolVar(&sheet, "sheet", false, "a page to print, each machine on a side of paper")
	c.Flags().BoolVar(&force, "force", false, "write the file anew if it is there already")
	return c
}
