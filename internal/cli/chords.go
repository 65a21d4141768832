package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/keys"
	"leitstand/core/report"
	"leitstand/core/station"
)

func (a *app) chords() *cobra.Command {
	var machines []string
	var free bool
	c := &cobra.Command{
		Use:   "chords [MODIFIERS]",
		Short: "Which chords are taken, by what, and which are free",
		Long: `Lists the chords that a machine does something with: by the mapping (marked with
a plus), by the system, or by the desktop as it comes. MODIFIERS, such as Ctrl+Alt,
narrow the list. With --free: the keys that are free on all machines.`,
		Example: "  leitstand chords Meta\n  leitstand chords --free Ctrl+Alt",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			mp, list, err := a.stations(machines)
			if err != nil {
				return err
			}
			mods := make([]keys.Mods, len(list)) // by machine: a name may differ by system
			if len(args) == 1 {
				if mods, err = station.Modifiers(mp, list, args[0]); err != nil {
					return err
				}
			}
			if free {
				return a.freeChords(list, mods, strings.Join(args, ""))
			}
			return a.takenChords(list, mods)
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &machines)
	c.Flags().BoolVar(&free, "free", false, "list what is free on all machines")
	return c
}

func (a *app) freeChords(machines []*station.Station, mods []keys.Mods, named string) error {
	var list [][]keys.Mods
	for _, m := range station.UsualMods {
		list = append(list, slices.Repeat([]keys.Mods{m}, len(machines)))
	}
	if named != "" {
		list = [][]keys.Mods{mods}
	}
	said := report.Free{Version: report.Version, Free: []report.FreeKeys{}}
	for _, m := range list {
		r := report.FreeKeys{Modifiers: named, Keys: []string{}}
		if named == "" {
			r.Modifiers = strings.Join(m[0].Names(), "+")
		}
		for _, k := range station.Free(machines, m) {
			r.Keys = append(r.Keys, k.String())
		}
		said.Free = append(said.Free, r)
	}
	if a.format == "json" {
		return report.Write(a.stdout, said)
	}
	for _, r := range said.Free {
		fmt.Fprintln(
			a.stdout,
			a.wrap(
				fmt.Sprintf("%s  %s", a.style.bold.Render(pad(r.Modifiers, 11)), strings.Join(r.Keys, " ")),
				strings.Repeat(" ", 13),
			),
		)
	}
	fmt.Fprintf(
		a.stdout,
		"\nFree on %s, as their desktops come; what you have set there by hand, and what programs use, is\nnot counted.\n",
		plural(len(machines), "machine", "machines"),
	)
	a.unknownDesktops(machines)
	return nil
}

func (a *app) takenChords(machines []*station.Station, mods []keys.Mods) error {
	list := station.Chords(machines, mods)
	said := report.Chords{Version: report.Version, Chords: []report.Chord{}}
	head := []string{"chord"}
	for _, m := range machines {
		head = append(head, m.Name())
	}
	rows := [][]string{head}
	for _, t := range list {
		r := report.Chord{Chord: t.Chord.String(), By: map[string]string{}}
		row := []string{t.Chord.String()}
		for i, by := range t.By {
			cell := a.style.faint.Render("·")
			if by.Words != "" {
				r.By[machines[i].Name()] = by.Words
				if cell = printable(by.Words); by.Mapping {
					cell = a.style.good.Render("+ " + printable(by.Words))
				}
			}
			row = append(row, cell)
		}
		said.Chords, rows = append(said.Chords, r), append(rows, row)
	}
	if a.format == "json" {
		return report.Write(a.stdout, said)
	}
	a.table(a.stdout, "", rows)
	fmt.Fprintf(
		a.stdout, "\n%s taken on some machine; a plus marks what the mapping says. See what is free with --free.\n",
		plural(len(list), "chord is", "chords are"),
	)
	a.unknownDesktops(machines)
	return nil
}

// unknownDesktops says where the list cannot be whole.
func (a *app) unknownDesktops(machines []*station.Station) {
	for _, gap := range station.Gaps(machines) {
		fmt.Fprintln(a.stdout, a.wrap("Of "+gap+".", "  "))
	}
}
