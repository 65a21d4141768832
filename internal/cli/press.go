package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/action"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/station"
)

func (a *app) press() *cobra.Command {
	var machines []string
	var find bool
	var where station.Where
	c := &cobra.Command{
		Use:   "press CHORD…",
		Short: "Report what a press does on each machine, and why",
		Long: `Reports what each CHORD does on every machine. On one machine, it also shows the way: the
keys to press with their legends, and what kernel, layout and desktop make of them. A single
key, such as CapsLock, is meant by its position. Strokes in sequence are separated by a comma:
"CapsLock, Hyper+t".

Strokes with times are played key by key: "CapsLock 300ms" holds it so long, "hold KeyA" and
"release KeyA" are its halves, "wait 1s" lets time pass. --find looks for words instead:
which press does this?`,
		Example: "  leitstand press Hyper+t\n  leitstand press CapsLock --machine vessel\n  leitstand press \"hold " +
			"CapsLock, KeyT, release CapsLock\"\n  leitstand press --find terminal",
		Args: cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			_, stations, err := a.stations(machines)
			if err != nil {
				return err
			}
			if find {
				said := report.FoundOn(stations, args)
				if len(said.Found) == 0 && a.format == "text" {
					return fmt.Errorf("no press does anything with %q", strings.Join(args, " "))
				}
				return a.say(said, func() { a.text.Search(said) })
			}
			said, wrong := report.PressedOn(stations, args, where)
			if err := a.say(said, func() { a.text.Pressed(said) }); err != nil {
				return err
			}
			if wrong == len(args)*len(stations) {
				return exit{exitErrors}
			}
			return nil
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &machines)
	c.Flags().StringVar(&where.Board, "board", "", "only on this board")
	c.Flags().StringVar(&where.Layer, "layer", "", "with this layer on")
	c.Flags().StringVar(&where.Front, "in-front", "", "with this program in front, as rules name it")
	complete(c, "board", func() []string {
		return a.names(func(m *mapping.Mapping) (list []string) {
			for _, b := range m.Boards {
				list = append(list, b.Name)
			}
			return list
		})
	})
	c.ValidArgsFunction = func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
		return append(keys.Codes(), action.Names()...), cobra.ShellCompDirectiveNoFileComp
	}
	c.Flags().BoolVar(&find, "find", false, "look for presses by what they do")
	return c
}
