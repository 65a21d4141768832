package cli

import (
	"fmt"
	"io"
	"os"
	"strings"
	"unicode/utf8"

	"github.com/charmbracelet/lipgloss"
	"github.com/charmbracelet/x/ansi"
	"github.com/charmbracelet/x/term"
	"github.com/muesli/termenv"

	"leitstand/core/diag"
	"leitstand/core/mechanism"
)

// style is the few looks that output has. On anything but a terminal, and with
// NO_COLOR, they change nothing.
type style struct {
	plain, bold, faint, bad, warn, good lipgloss.Style
}

func newStyle(w io.Writer) style {
	r := lipgloss.NewRenderer(w)
	if f, ok := w.(*os.File); !ok || !isTerminal(f) || os.Getenv("NO_COLOR") != "" {
		r.SetColorProfile(termenv.Ascii)
	}
	// Three of the first eight colours: they show on white as well as on black.
	color := func(c string) lipgloss.Style { return r.NewStyle().Foreground(lipgloss.Color(c)) }
	return style{
		plain: r.NewStyle(),
		bold:  r.NewStyle().Bold(true),
		faint: r.NewStyle().Faint(true),
		bad:   color("1").Bold(true),
		warn:  color("5"),
		good:  color("2"),
	}
}

// columnsOf is how wide a terminal is, 0 for what is none.
func columnsOf(w io.Writer) int {
	f, ok := w.(*os.File)
	if !ok || !isTerminal(f) {
		return 0
	}
	columns, _, err := term.GetSize(f.Fd())
	if err != nil {
		return 0
	}
	return columns
}

func isTerminal(f *os.File) bool {
	info, err := f.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}

func (s style) severity(v diag.Severity) lipgloss.Style {
	return map[diag.Severity]lipgloss.Style{diag.Error: s.bad, diag.Warning: s.warn, diag.Note: s.faint}[v]
}

func (s style) verdict(v mechanism.Verdict) lipgloss.Style {
	switch v {
	case mechanism.Exact:
		return s.good
	case mechanism.None, mechanism.Resident:
		return s.bad
	case mechanism.ByHand:
		return s.warn
	default:
		return s.plain
	}
}

// maxShown bounds how many findings are printed: more help nobody.
const maxShown = 50

// width is where running text is broken.
const width = 96

// findings prints diagnostics: place, what is wrong, the line with the spot
// marked, what to do.
func (a *app) findings(w io.Writer, list diag.List) {
	for i, d := range list {
		if i == maxShown {
			fmt.Fprintf(w, "… and %d more\n\n", len(list)-maxShown)
			return
		}
		place := ""
		if d.Range.File != "" {
			place = a.style.bold.Render(d.Range.String()) + ": "
		}
		on := ""
		if len(d.Machines) > 0 {
			on = a.style.faint.Render(" (on " + strings.Join(d.Machines, ", ") + ")")
		}
		fmt.Fprintln(
			w,
			a.wrap(
				fmt.Sprintf(
					"%s%s: %s%s", place, a.style.severity(d.Severity).Render(d.Severity.String()), d.Summary, on,
				),
				"    ",
			),
		)
		if d.Line != "" {
			a.excerpt(w, d)
		}
		for _, r := range d.Related {
			fmt.Fprintf(w, "    %s: %s\n", r.Range, r.Words)
		}
		if d.Advice != "" {
			fmt.Fprintln(w, a.wrap("    → "+d.Advice, "      "))
		}
		fmt.Fprintln(w)
	}
}

// excerpt prints the source line, cut to what is around the spot, and a mark.
func (a *app) excerpt(w io.Writer, d diag.Diagnostic) {
	line := []rune(strings.ReplaceAll(d.Line, "\t", " "))
	start := min(d.Range.Start.Column-1, len(line))
	end := len(line)
	if d.Range.End.Line == d.Range.Start.Line {
		end = min(max(d.Range.End.Column-1, start), len(line))
	}
	const room = 80
	cut := 0
	if start > room/2 && len(line) > room {
		cut = start - room/2
	}
	shown := line[cut:min(len(line), cut+room)]
	fmt.Fprintf(w, "    %s %s\n", a.style.faint.Render("|"), string(shown))
	from := min(start-cut, len(shown))
	to := min(max(end-cut, from), len(shown))
	mark := strings.Repeat(" ", ansi.StringWidth(string(shown[:from]))) +
		strings.Repeat("^", max(1, ansi.StringWidth(string(shown[from:to]))))
	fmt.Fprintf(w, "    %s %s\n", a.style.faint.Render("|"), a.style.severity(d.Severity).Render(mark))
}

// wrap breaks running text at the common width; further lines get the indent.
func (a *app) wrap(text, indent string) string {
	width := width
	if a.columns > 0 {
		width = min(width, max(a.columns, 40))
	}
	lines := strings.Split(ansi.Wordwrap(text, width, " "), "\n")
	if len(lines) < 2 {
		return text
	}
	rest := ansi.Wordwrap(strings.TrimSpace(strings.Join(lines[1:], " ")), width-len(indent), " ")
	return lines[0] + "\n" + indent + strings.ReplaceAll(rest, "\n", "\n"+indent)
}

// pad fills a styled text up to n columns.
func pad(s string, n int) string { return s + strings.Repeat(" ", max(0, n-ansi.StringWidth(s))) }

// narrow is how narrow a column may become so that a table fits the terminal.
const narrow = 10

// table prints rows with aligned columns, two spaces between them. On a terminal, the widest
// columns are shortened until the table fits; anywhere else nothing is.
func (a *app) table(w io.Writer, indent string, rows [][]string) {
	var widths []int
	for _, row := range rows {
		for i, c := range row {
			if i == len(widths) {
				widths = append(widths, 0)
			}
			widths[i] = max(widths[i], ansi.StringWidth(c))
		}
	}
	fit(widths, a.columns-ansi.StringWidth(indent))
	for _, row := range rows {
		var b strings.Builder
		b.WriteString(indent)
		for i, c := range row {
			if c = ansi.Truncate(c, widths[i], "…"); i == len(row)-1 {
				b.WriteString(c)
			} else {
				b.WriteString(pad(c, widths[i]+2))
			}
		}
		fmt.Fprintln(w, strings.TrimRight(b.String(), " "))
	}
}

// fit narrows the widest columns until they have room together, with two blanks between
// them; room of nothing is as much as they want.
func fit(widths []int, room int) {
	if room <= 0 {
		return
	}
	for {
		total, widest := -2, 0
		for i, w := range widths {
			total += w + 2
			if w > widths[widest] {
				widest = i
			}
		}
		if total <= room || len(widths) == 0 || widths[widest] <= narrow {
			return
		}
		widths[widest]--
	}
}

// plural is a number with its noun.
func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// printable keeps control characters of the user's strings from the terminal.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7F || r == utf8.RuneError {
			return '�'
		}
		return r
	}, s)
}
