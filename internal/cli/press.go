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
		Short: "What a press does on each machine, and the way it takes",
		Long: `Says what each CHORD does on every machine: which keys to press on the board and
what their caps say, what the kernel, the layout and the desktop make of it. A
single key by its code, such as CapsLock, is followed from its place on the board;
strokes one after the other are joined by a comma and a space: "CapsLock, Hyper+t".
Strokes with times are played key by key: "CapsLock 300ms" is held so long, "hold
KeyA" and "release KeyA" are its halves, "wait 1s" lets time pass.
With --find the words are looked for instead: which press does this?`,
		Example: "  leitstand press Hyper+t\n  leitstand press CapsLock --machine vessel\n  leitstand press \"hold " +
			"CapsLock, KeyT, release CapsLock\"\n  leitstand press --find terminal",
		Args: cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			_, stations, err := a.stations(machines)
			if err != nil {
				return err
			}
			if find {
				return a.findPresses(stations, args)
			}
			return a.pressChords(stations, args, where)
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

func (a *app) pressChords(stations []*station.Station, chords []string, where station.Where) error {
	said := report.Pressed{Version: report.Version, Answers: []report.Answer{}}
	wrong := 0
	for _, chord := range chords {
		if a.format == "text" {
			fmt.Fprintf(a.stdout, "%s\n", a.style.bold.Render(chord))
		}
		for _, s := range stations {
			var answers []station.Answer
			var err error
			if station.Timed(chord) {
				var p station.Played
				if p, err = s.Play(chord, where); err == nil {
					said.Answers = append(said.Answers, report.PlayedAnswer(chord, p))
					if a.format == "text" {
						a.printPlayed(p)
					}
				}
			} else {
				answers, err = s.Ask(chord, where)
			}
			if err != nil {
				wrong++
				said.Answers = append(said.Answers, report.Answer{Chord: chord, Machine: s.Name(), Error: err.Error()})
				if a.format == "text" {
					fmt.Fprintln(a.stdout, a.wrap(fmt.Sprintf("  %s: %s", s.Name(), err), "    "))
				}
				continue
			}
			for _, answer := range answers {
				said.Answers = append(said.Answers, report.AnswerOf(chord, answer))
				if a.format == "text" {
					a.printAnswer(answer)
				}
			}
		}
	}
	if a.format == "json" {
		if err := report.Write(a.stdout, said); err != nil {
			return err
		}
	}
	if wrong == len(chords)*len(stations) {
		return exit{exitErrors}
	}
	return nil
}

func (a *app) printAnswer(p station.Answer) {
	name := p.Machine
	if p.Board != "" {
		name += ", " + p.Board
	}
	fmt.Fprintln(a.stdout, a.wrap(fmt.Sprintf("  %s: %s", a.style.bold.Render(name), printable(p.Does)), "    "))
	var rows [][]string
	for _, s := range p.Way {
		stage := s.Stage
		if s.Mechanism != "" {
			stage += " (" + s.Mechanism + ")"
		}
		rows = append(rows, []string{a.style.faint.Render(stage), printable(s.Words)})
	}
	a.table(a.stdout, "      ", rows)
	if p.Wanted != "" {
		fmt.Fprintln(a.stdout, a.wrap("      "+a.style.warn.Render("wanted")+": "+printable(p.Wanted), "        "))
	}
}

// printPlayed prints what is seen, moment by moment.
func (a *app) printPlayed(p station.Played) {
	print := func(title string, moments []station.Moment) {
		fmt.Fprintf(a.stdout, "  %s\n", title)
		rows := [][]string{
			{"", a.style.faint.Render("on the board"), a.style.faint.Render("programs and the desktop see")},
		}
		for _, m := range moments {
			sees := strings.Join(m.Sees, ", ")
			if sees == "" {
				sees = "·"
			}
			rows = append(rows, []string{fmt.Sprintf("%5d ms", m.At.Milliseconds()), m.Does, printable(sees)})
		}
		a.table(a.stdout, "    ", rows)
	}
	print(a.style.bold.Render(p.Machine), p.Moments)
	if p.Wanted != nil {
		print("  "+a.style.warn.Render("wanted")+" by the mapping:", p.Wanted)
	}
}

func (a *app) findPresses(stations []*station.Station, words []string) error {
	said := report.Search{Version: report.Version, Found: []report.Found{}}
	rows := [][]string{{"machine", "press", "does", "verdict"}}
	for _, s := range stations {
		for _, f := range s.Find(words) {
			said.Found = append(said.Found, report.FoundOf(f))
			does := printable(f.Does)
			if f.Instead != "" {
				does += " (instead of " + printable(f.Instead) + ")"
			}
			rows = append(
				rows,
				[]string{f.Machine, printable(f.Press), does, a.style.verdict(f.Verdict).Render(f.Verdict.String())},
			)
		}
	}
	if a.format == "json" {
		return report.Write(a.stdout, said)
	}
	if len(said.Found) == 0 {
		return fmt.Errorf("no press does anything with %q", strings.Join(words, " "))
	}
	a.table(a.stdout, "", rows)
	return nil
}
