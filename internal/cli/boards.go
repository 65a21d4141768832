package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"leitstand/core/compile"
	"leitstand/core/host"
	"leitstand/core/install"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/station"
)

func (a *app) boards() *cobra.Command {
	var learn time.Duration
	c := &cobra.Command{
		Use:   "boards",
		Args:  cobra.NoArgs,
		Short: "List attached keyboards; --learn names each key you press",
		Long: `Lists the attached keyboards with the ids that a mapping uses, and the board of the mapping
that each is. Devices with keys that are no keyboards are listed, too.

--learn waits for keys. Press one to see its code, its keyboard, and what the mapping makes
it do. It needs the right to read keyboards (sudo). Without it, a terminal that reports
keys shows all but the keyboard.`,
		Example: "  leitstand boards\n  sudo leitstand boards --learn",
		RunE: func(*cobra.Command, []string) error {
			list, err := host.Boards(os.DirFS("/"))
			if err != nil && learn > 0 {
				return a.learnInTerminal(a.mappingIfAny(), learn)
			}
			if errors.Is(err, fs.ErrNotExist) && runtime.GOOS != "linux" {
				return errors.New("the boards of this system are not read yet")
			}
			if err != nil {
				return err
			}
			mp := a.mappingIfAny()
			if learn > 0 {
				return a.learn(list, mp, learn)
			}
			said := report.BoardsOf(list, mp.Boards)
			return a.say(said, func() { a.text.Boards(said) })
		},
	}
	a.formatFlag(c)
	c.Flags().DurationVar(&learn, "learn", 0, "wait for keys for so long, and tell of each")
	c.Flags().Lookup("learn").NoOptDefVal = "30s"
	return c
}

// mappingIfAny is the mapping of -f, or one that says nothing.
func (a *app) mappingIfAny() *mapping.Mapping {
	path, _ := a.found()
	mp, _, err := a.load(path)
	if err != nil || mp == nil {
		return &mapping.Mapping{}
	}
	return mp
}

// learn tells of each key that is pressed on a keyboard, for a while.
func (a *app) learn(list []host.Attached, mp *mapping.Mapping, long time.Duration) error {
	stations := stationHere(mp)
	var mu sync.Mutex
	opened, denied := 0, error(nil)
	for _, d := range list {
		for _, event := range d.Events {
			f, err := os.Open(filepath.Join("/dev/input", event))
			if err != nil {
				denied = err
				continue
			}
			opened++
			board := d.Match(mp.Boards)
			go func() {
				defer f.Close()
				_ = host.ReadKeys(f, func(e host.KeyEvent) bool { // ends when the device is taken away
					if e.Value != 1 {
						return true
					}
					mu.Lock()
					defer mu.Unlock()
					a.text.Learned(learned(e, d, board, stations))
					return true
				})
			}()
		}
	}
	if opened == 0 {
		err := a.learnInTerminal(mp, long)
		switch {
		case !errors.Is(err, errNoReports):
			return err
		case denied != nil:
			return fmt.Errorf("%w, and the keyboards cannot be read: %w; say sudo leitstand boards --learn", err, denied)
		}
		return fmt.Errorf("%w, and there is no keyboard to be read", err)
	}
	fmt.Fprintf(a.stderr, "Press keys; it ends after %s, or with Ctrl+C.\n", long)
	time.Sleep(long)
	return nil
}

// learned is what is known of a key, and what it does on this machine.
func learned(e host.KeyEvent, d host.Attached, board *machine.Board, stations []*station.Station) report.Learned {
	name := ""
	if board != nil {
		name = board.Name
	}
	return told(report.LearnedOf(e, d, board), stations, name)
}

// told adds what a key does on this machine.
func told(l report.Learned, stations []*station.Station, board string) report.Learned {
	if l.Key == "" || len(stations) == 0 {
		return l
	}
	said, _ := report.PressedOn(stations, []string{l.Key}, station.Where{Board: board})
	l.Answers = said.Answers
	return l
}

// stationHere is the machine of a mapping that this one is, or none.
func stationHere(mp *mapping.Mapping) []*station.Station {
	m, err := install.Pick(mp, here(), hostname(), "", false)
	if err != nil || len(mp.Rules) == 0 {
		return nil
	}
	var names []string
	if len(mp.Machines) > 0 {
		names = []string{m.Name}
	}
	builds, diags, err := compile.All(mp, here(), names)
	if err != nil || diags.HasErrors() {
		return nil
	}
	list, err := station.All(mp, builds)
	if err != nil {
		return nil
	}
	return list
}
