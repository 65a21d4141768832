package cli

import (
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
		Short: "List chords that are in use, by whom, or free ones",
		Long: `Lists the chords that a machine uses: by the mapping (marked with a plus), by the system, or
by the desktop's defaults. MODIFIERS, such as Ctrl+Alt, limit the list. --free lists the
keys that are free on all machines instead.`,
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
				said := report.FreeChords(list, mods, strings.Join(args, ""))
				return a.say(said, func() { a.text.Free(said) })
			}
			said := report.TakenChords(list, mods)
			return a.say(said, func() { a.text.Chords(said) })
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &machines)
	c.Flags().BoolVar(&free, "free", false, "list what is free on all machines")
	return c
}
