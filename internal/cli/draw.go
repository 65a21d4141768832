package cli

import (
	"errors"
	"fmt"
	"io/fs"

	"github.com/spf13/cobra"

	"leitstand/core/folder"
	"leitstand/core/mapping"
	"leitstand/core/picture"
	"leitstand/core/report"
	"leitstand/core/report/drawing"
	"leitstand/core/report/text"
)

func (a *app) draw() *cobra.Command {
	var machines []string
	var asked picture.Asked
	var plain, dark, force bool
	var out string
	c := &cobra.Command{
		Use:   "draw",
		Args:  cobra.NoArgs,
		Short: "The board as it behaves: what is printed on each key, and what it does now",
		Long: `Draws the main block of each machine's board: on a key what its cap says under the machine's
first layout, and the number of the note below that says what it does now; a key without
a number does what it does by itself. With --hold, what is on the keys while modifiers
are held, and what is free; with --layer, what is on a layer. With --output, a picture:
the end of the file's name says whether SVG, PNG or PDF.`,
		Example: "  leitstand draw --machine gauge\n  leitstand draw --machine mess --hold Hyper\n  leitstand draw " +
			"--layer arrows\n  leitstand draw --machine gauge -o gauge.svg",
		RunE: func(*cobra.Command, []string) error {
			_, stations, err := a.stations(machines)
			if err != nil {
				return err
			}
			boards, err := picture.Every(stations, asked)
			if err != nil {
				return err
			}
			if out != "" {
				return a.picture(out, boards, dark, force)
			}
			said := report.DrawnAll(boards)
			return a.say(said, func() { a.text.Drawn(said, plain) })
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &machines)
	c.Flags().StringVar(&asked.Board, "board", "", "this board of the machine")
	c.Flags().StringVar(&asked.Layer, "layer", "", "with this layer on")
	c.Flags().BoolVar(&asked.Layers, "layers", false, "each layer as well, one board below the other")
	c.Flags().StringVar(&asked.Hold, "hold", "", "with these modifiers held, such as Hyper or Ctrl+Alt")
	c.Flags().StringVarP(&out, "output", "o", "", "draw a picture into this file: .svg, .png or .pdf")
	c.Flags().BoolVar(&dark, "dark", false, "a picture on a dark ground")
	c.Flags().BoolVar(&force, "force", false, "write the file anew if it is there already")
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

// picture draws boards into a file.
func (a *app) picture(name string, boards []*picture.Board, dark, force bool) error {
	format, err := drawing.Format(name)
	if err != nil {
		return err
	}
	data, err := drawing.Boards(format, boards, dark)
	if err != nil {
		return err
	}
	if err := a.write(name, data, force); err != nil {
		return err
	}
	fmt.Fprintf(a.stdout, "%s shows %s.\n", a.text.Bold(name), text.Plural(len(boards), "board", "boards"))
	return nil
}

// write makes a file, which may be there already only by force.
func (a *app) write(name string, data []byte, force bool) error {
	if force {
		return folder.Renew(name, data)
	}
	err := folder.NewFile(name, data)
	if errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("%s is there already; --force writes it anew", name)
	}
	return err
}
