package cli

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/charmbracelet/x/term"

	"leitstand/core/host"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/report/text"
)

// errNoReports is that of a terminal in which keys cannot be told.
var errNoReports = errors.New("this terminal reports no keys")

// crlf begins lines of a terminal that is raw at its left edge.
type crlf struct{ w io.Writer }

// leftmost writes to a file, whose lines begin at the left edge also where it is the terminal that is raw.
func leftmost(f *os.File) io.Writer {
	if isTerminal(f) {
		return text.Harmless{To: crlf{f}}
	}
	return text.Harmless{To: f}
}

func (c crlf) Write(p []byte) (int, error) {
	if _, err := c.w.Write(bytes.ReplaceAll(p, []byte("\n"), []byte("\r\n"))); err != nil {
		return 0, err
	}
	return len(p), nil
}

// learnInTerminal tells of each key that the terminal reports, for a while: as programs get it, from any board.
func (a *app) learnInTerminal(mp *mapping.Mapping, long time.Duration) error {
	tty, err := os.OpenFile("/dev/tty", os.O_RDWR, 0)
	if err != nil {
		return errNoReports
	}
	defer tty.Close()
	before, err := term.MakeRaw(tty.Fd())
	if err != nil {
		return errNoReports
	}
	interrupted := make(chan os.Signal, 1)
	signal.Notify(interrupted, os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
	defer signal.Stop(interrupted)
	leave := func() {
		_, _ = io.WriteString(tty, host.LeaveTerminal)
		_ = term.Restore(tty.Fd(), before)
	}
	defer leave()
	if _, err := io.WriteString(tty, host.AskTerminal); err != nil {
		return err
	}
	stations := stationHere(mp)
	var layout *keys.Layout
	if len(stations) > 0 {
		layout = stations[0].Build().Machine.Layouts[0]
	} else if list := here().Layouts; len(list) > 0 {
		layout, _ = keys.FindLayout(list[0])
	}
	name := func(r rune) (keys.Key, bool) {
		if layout == nil {
			return keys.None, false
		}
		p, ok := layout.Find(r)
		return p.Key, ok
	}
	out := printer(leftmost(os.Stdout), os.Stdout)
	fmt.Fprintf(
		leftmost(os.Stderr),
		"Press keys; it ends after %s, or with Ctrl+C. The terminal tells them, as programs get them:\n"+
			"what a driver or the desktop makes of them is done, and it does not tell the board.\n",
		long,
	)
	done := make(chan error, 1)
	go func() {
		reports, err := host.ReadTerminal(tty, name, func(r host.Reported) bool {
			out.Learned(told(report.LearnedInTerminal(r), stations, ""))
			return true
		})
		if err == nil && !reports {
			err = errNoReports
		}
		done <- err
	}()
	select {
	case err := <-done:
		return err
	case <-time.After(long):
	case <-interrupted:
	}
	return nil
}
