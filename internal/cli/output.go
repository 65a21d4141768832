package cli

import (
	"io"
	"os"

	"github.com/charmbracelet/lipgloss"
	"github.com/charmbracelet/x/term"
	"github.com/muesli/termenv"

	"leitstand/core/report/text"
)

// checkedWriter makes output harmless, and remembers that it could not be written.
type checkedWriter struct {
	w   io.Writer
	err error
}

func (c *checkedWriter) Write(p []byte) (int, error) {
	n, err := text.Harmless{To: c.w}.Write(p)
	if err != nil && c.err == nil {
		c.err = err
	}
	return n, err
}

// printer prints to out as the terminal behind stdout has it. On anything but a terminal, and with NO_COLOR,
// there are no colours.
func printer(out, stdout io.Writer) *text.Printer {
	r, columns := lipgloss.NewRenderer(stdout), 0
	f, ok := stdout.(*os.File)
	if ok = ok && isTerminal(f); ok {
		if n, _, err := term.GetSize(f.Fd()); err == nil {
			columns = n
		}
	}
	if !ok || os.Getenv("NO_COLOR") != "" {
		r.SetColorProfile(termenv.Ascii)
	}
	return text.New(out, r, columns)
}

func isTerminal(f *os.File) bool {
	info, err := f.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}
