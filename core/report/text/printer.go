// Package text says what commands found in lines for people: the conclusion where it is looked for, columns that
// are aligned, and nothing wider than the terminal. It renders the values of package report and the diagnostics,
// and finds nothing out by itself.
package text

import (
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/charmbracelet/lipgloss"
	"github.com/charmbracelet/x/ansi"

	"leitstand/core/diag"
	"leitstand/core/mechanism"
)

// style is the few looks that output has.
type style struct {
	plain, bold, faint, bad, warn, good lipgloss.Style
}

// Printer prints to a writer, with the looks that its terminal has.
type Printer struct {
	w       io.Writer
	columns int // of the terminal, 0 where there is none
	style
}

// New makes a printer for a terminal so many columns wide, 0 for what is none, with the colours that a renderer
// gives it.
func New(w io.Writer, r *lipgloss.Renderer, columns int) *Printer {
	// Three of the first eight colours: they show on white as well as on black.
	color := func(c string) lipgloss.Style { return r.NewStyle().Foreground(lipgloss.Color(c)) }
	return &Printer{w, columns, style{
		plain: r.NewStyle(),
		bold:  r.NewStyle().Bold(true),
		faint: r.NewStyle().Faint(true),
		bad:   color("1").Bold(true),
		warn:  color("5"),
		good:  color("2"),
	}}
}

// To is the printer with another writer.
func (p *Printer) To(w io.Writer) *Printer { return &Printer{w, p.columns, p.style} }

// Bold makes a word stand out.
func (p *Printer) Bold(text string) string { return p.bold.Render(text) }

// Faint takes a word back.
func (p *Printer) Faint(text string) string { return p.faint.Render(text) }

func (p *Printer) print(format string, args ...any) { fmt.Fprintf(p.w, format, args...) }

// paragraph prints running text; its further lines get the indent.
func (p *Printer) paragraph(indent, format string, args ...any) {
	fmt.Fprintln(p.w, p.wrap(fmt.Sprintf(format, args...), indent))
}

func (s style) severity(v diag.Severity) lipgloss.Style {
	return map[diag.Severity]lipgloss.Style{diag.Error: s.bad, diag.Warning: s.warn, diag.Note: s.faint}[v]
}

func (s style) verdict(v mechanism.Verdict) lipgloss.Style {
	switch v {
	case mechanism.Exact:
		return s.good
	case mechanism.Unavailable, mechanism.NeedsAgent:
		return s.bad
	case mechanism.Manual:
		return s.warn
	default:
		return s.plain
	}
}

// width is where running text is broken.
const width = 96

// wrap breaks running text at the common width, at blanks only, so that what is to be entered stays as it is; further
// lines get the indent.
func (p *Printer) wrap(text, indent string) string {
	width := width
	if p.columns > 0 {
		width = min(width, max(p.columns, 40))
	}
	wrapped, at := "", 0
	for i, word := range strings.Split(text, " ") {
		switch n := ansi.StringWidth(word); {
		case i == 0:
			at = n
		case at+1+n > width && strings.TrimSpace(word) != "":
			wrapped = strings.TrimRight(wrapped, " ") + "\n" + indent
			at = len(indent) + n
		default:
			wrapped += " "
			at += 1 + n
		}
		wrapped += word
	}
	return wrapped
}

// pad fills a styled text up to n columns.
func pad(s string, n int) string { return s + strings.Repeat(" ", max(0, n-ansi.StringWidth(s))) }

// narrow is how narrow a column may become so that a table fits the terminal.
const narrow = 10

// table prints rows with aligned columns, two spaces between them. On a terminal, the widest
// columns are shortened until the table fits; anywhere else nothing is.
func (p *Printer) table(indent string, rows [][]string) {
	var widths []int
	for _, row := range rows {
		for i, c := range row {
			if i == len(widths) {
				widths = append(widths, 0)
			}
			widths[i] = max(widths[i], ansi.StringWidth(c))
		}
	}
	fit(widths, p.columns-ansi.StringWidth(indent))
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
		fmt.Fprintln(p.w, strings.TrimRight(b.String(), " "))
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

// Plural is a number with its noun, or its verb.
func Plural(n int, single, many string) string { return fmt.Sprintf("%d %s", n, one(n, single, many)) }

// one is the word for a number.
func one(n int, single, many string) string {
	if n == 1 {
		return single
	}
	return many
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
