package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/folder"
	"leitstand/core/mapping"
	"leitstand/core/picture"
	"leitstand/core/report"
	"leitstand/core/report/drawing"
	"leitstand/core/report/text"
)

// drawn are the flags of draw.
type drawn struct {
	machines                            []string
	asked                               picture.Asked
	plain, dark, force, caps, comparing bool
	out                                 string
}

func (a *app) draw() *cobra.Command {
	var f drawn
	c := &cobra.Command{
		Use:   "draw [--compare A B]",
		Short: "Show a keyboard with what each key does",
		Long: `Draws the keyboards of each machine: each key with its printed legend and, below it, what it
does now, with the number of a note. A key without a number does what its legend says.

--hold shows what the keys do while modifiers are held, and which are free; --layer shows a
layer. --caps lists which keycaps to move so that the legends are right. --compare shows
two machines (@NAME) or two mappings side by side. --output writes a picture: SVG, PNG or
PDF, by the end of the file's name.`,
		Example: "  leitstand draw --machine gauge\n  leitstand draw --machine mess --hold Hyper\n  leitstand draw " +
			"--layer arrows\n  leitstand draw --machine gauge --layers -o gauge.svg\n  leitstand draw --machine vessel --caps\n" +
			"  leitstand draw --compare @office @lab -o both.pdf",
		Args: func(_ *cobra.Command, args []string) error {
			if f.comparing && len(args) != 2 {
				return errors.New("--compare takes two of them: machines as @NAME, or mappings")
			} else if !f.comparing && len(args) > 0 {
				return fmt.Errorf("%s: draw takes names with --compare only; --machine names a machine", args[0])
			}
			return nil
		},
		RunE: func(_ *cobra.Command, args []string) error {
			if f.comparing {
				return a.drawBeside(args[0], args[1], f)
			}
			_, stations, err := a.stations(f.machines)
			if err != nil {
				return err
			}
			boards, err := picture.Every(stations, f.asked)
			if err != nil {
				return err
			}
			if f.caps {
				said := report.MovingOf(boards)
				return a.drawTo(f, boards, drawing.Moving, func() error {
					return a.say(said, func() { a.text.Moving(said) })
				})
			}
			said := report.DrawnAll(boards)
			return a.drawTo(f, boards, drawing.Boards, func() error {
				return a.say(said, func() { a.text.Drawn(said, f.plain) })
			})
		},
	}
	a.formatFlag(c)
	a.machineFlag(c, &f.machines)
	c.Flags().StringVar(&f.asked.Board, "board", "", "this board of the machine")
	c.Flags().StringVar(&f.asked.Layer, "layer", "", "with this layer on")
	c.Flags().BoolVar(&f.asked.Layers, "layers", false, "each layer as well, one board below the other")
	c.Flags().StringVar(&f.asked.Hold, "hold", "", "with these modifiers held, such as Hyper or Ctrl+Alt")
	c.Flags().BoolVar(&f.caps, "caps", false, "which caps to move, so that they say what their keys do")
	c.Flags().BoolVar(&f.comparing, "compare", false, "two machines (@NAME) or two mappings beside each other")
	c.Flags().StringVarP(&f.out, "output", "o", "", "draw a picture into this file: .svg, .png or .pdf")
	c.Flags().BoolVar(&f.dark, "dark", false, "a picture on a dark ground")
	c.Flags().BoolVar(&f.force, "force", false, "write the file anew if it is there already")
	c.Flags().BoolVar(&f.plain, "ascii", false, "draw with the signs of ASCII, but for what the layout types")
	c.MarkFlagsMutuallyExclusive("caps", "compare")
	c.MarkFlagsMutuallyExclusive("layer", "layers")
	for _, view := range []string{"layer", "layers", "hold"} { // caps are for what keys do alone
		c.MarkFlagsMutuallyExclusive("caps", view)
	}
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

// drawBeside draws two machines of the mapping of -f, or the machines of two mappings.
func (a *app) drawBeside(left, right string, f drawn) error {
	of := func(side string) ([]*picture.Board, error) {
		machines := f.machines
		name, isMachine := strings.CutPrefix(side, machineSide)
		if isMachine {
			side, machines = a.file(), []string{name}
		}
		b := *a
		b.named = side
		_, stations, err := b.stations(machines)
		if err != nil {
			return nil, err
		}
		boards, err := picture.Every(stations, f.asked)
		if !isMachine {
			picture.From(boards, side)
		}
		return boards, err
	}
	one, err := of(left)
	if err != nil {
		return err
	}
	other, err := of(right)
	if err != nil {
		return err
	}
	pairs, alone := picture.Pairs(one, other)
	said := report.BesideOf(pairs, alone)
	if len(pairs) == 0 {
		a.text.Alone(said)
		return errors.New("there are no two boards to put beside each other")
	}
	if f.out == "" {
		return a.say(said, func() { a.text.Beside(said, f.plain) })
	}
	defer a.text.Alone(said)
	return a.drawFile(f, 2*len(pairs), func(format string) ([]byte, error) {
		return drawing.Compared(format, pairs, f.dark)
	})
}

// drawTo draws boards into the file that is named, and otherwise says what there is to say.
func (a *app) drawTo(
	f drawn, boards []*picture.Board, draw func(string, []*picture.Board, bool) ([]byte, error), say func() error,
) error {
	if f.out == "" {
		return say()
	}
	return a.drawFile(f, len(boards), func(format string) ([]byte, error) { return draw(format, boards, f.dark) })
}

// drawFile draws a picture of so many boards into the file that is named.
func (a *app) drawFile(f drawn, count int, draw func(format string) ([]byte, error)) error {
	format, err := drawing.Format(f.out)
	if err != nil {
		return err
	}
	data, err := draw(format)
	if err != nil {
		return err
	}
	if err := a.write(f.out, data, f.force); err != nil {
		return err
	}
	fmt.Fprintf(a.stdout, "%s shows %s.\n", a.text.Bold(f.out), text.Plural(count, "board", "boards"))
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
