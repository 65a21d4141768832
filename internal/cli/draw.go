package cli

import (
	"github.com/spf13/cobra"

	"leitstand/core/mapping"
	"leitstand/core/picture"
	"leitstand/core/report"
)

func (a *app) draw() *cobra.Command {
	var machines []string
	var asked picture.Asked
	var plain bool
	c := &cobra.Command{
		Use:   "draw",
		Args:  cobra.NoArgs,
		Short: "The board as it behaves: what is printed on each key, and what it does now",
		Long: `Draws the main block of each machine's board: on a key what its cap says under the machine's
first layout, and the number of the note below that says what it does now; a key without
a number does what it does by itself. With --hold, what is on the keys while modifiers
are held, and what is free; with --layer, what is on a layer.`,
		Example: "  leitstand draw --machine gauge\n  leitstand draw --machine mess --hold Hyper\n  leitstand draw " +
			"--layer arrows",
		RunE: func(*cobra.Command, []string) error {
			_, stations, err := a.stations(machines)
			if err != nil {
				return err
			}
			said := report.Drawn{Version: report.Version, Boards: []report.DrawnBoard{}}
			for _, s := range stations {
				boards, err := picture.All(s, asked)
				if err != nil {
					return err
				}
				for _, b := range boards {
					said.Boards = append(said.Boards, report.DrawnOf(b))
				}
			}
			return a.say(said, func() { a.text.Drawn(said, plain) })
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &machines)
	c.Flags().StringVar(&asked.Board, "board", "", "this board of the machine")
	c.Flags().StringVar(&asked.Layer, "layer", "", "with this layer on")
	c.Flags().StringVar(&asked.Hold, "hold", "", "with these modifiers held, such as Hyper or Ctrl+Alt")
	c.Flags().BoolVar(&plain, "ascii", false, "draw with the signs of ASCII only")
	complete(c, "board", func() []string {
		return a.names(func(m *mapping.Mapping) (list []string) {
			for _, b := range m.Boards {
				list = append(list, b.Name)
			}
			return list
		})
	})
	return c
}
