package text_test

import (
	"bytes"
	"io"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/charmbracelet/lipgloss"
	"github.com/charmbracelet/x/ansi"
	"github.com/muesli/termenv"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/diag"
	"leitstand/core/mechanism"
	"leitstand/core/report"
	"leitstand/core/report/text"
)

func printed(columns int, profile termenv.Profile, print func(*text.Printer)) string {
	var b bytes.Buffer
	r := lipgloss.NewRenderer(&b)
	r.SetColorProfile(profile)
	print(text.New(&b, r, columns))
	return b.String()
}

// The mark stands under what is wrong, whatever signs the line has before it and however long it is.
func TestFindingMarksItsSpot(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		before := rapid.StringOfN(rapid.RuneFrom([]rune("ab ä漢ｗ\t")), 0, 150, -1).Draw(r, "before")
		spot := rapid.StringOfN(rapid.RuneFrom([]rune("xyü漢")), 1, 20, -1).Draw(r, "spot")
		column := utf8.RuneCountInString(before) + 1
		d := diag.Diagnostic{Severity: diag.Error, Summary: "wrong", Line: before + spot + " after"}
		d.Range.File = "a.hcl"
		d.Range.Start, d.Range.End = diag.At(1, column, 0), diag.At(1, column+utf8.RuneCountInString(spot), 0)
		out := printed(0, termenv.Ascii, func(p *text.Printer) { p.Findings(diag.List{d}) })
		lines := strings.Split(out, "\n")
		shown, mark := lines[1], lines[2]
		from, to := strings.Index(mark, "^"), strings.LastIndex(mark, "^")+1
		require.Positive(r, from)
		assert.Equal(r, spot, ansi.Cut(shown, from, to))
		assert.LessOrEqual(r, utf8.RuneCountInString(shown), 86)
	})
}

// No line of a table is wider than the terminal, as long as its columns can be shortened; elsewhere
// nothing is left out.
func TestTablesFitTheTerminal(t *testing.T) {
	word := rapid.StringMatching(`[a-zä漢 ]{1,40}`)
	rapid.Check(t, func(r *rapid.T) {
		var said report.Search
		for range rapid.IntRange(1, 5).Draw(r, "rows") {
			said.Found = append(said.Found, report.Found{
				Machine: word.Draw(r, "machine"), Press: word.Draw(r, "press"), Does: word.Draw(r, "does"),
				Verdict: mechanism.Exact,
			})
		}
		columns := rapid.IntRange(60, 120).Draw(r, "columns")
		for line := range strings.Lines(printed(columns, termenv.ANSI, func(p *text.Printer) { p.Search(said) })) {
			assert.LessOrEqual(r, ansi.StringWidth(strings.TrimSpace(line)), columns)
		}
		whole := printed(0, termenv.Ascii, func(p *text.Printer) { p.Search(said) })
		for _, f := range said.Found {
			assert.Contains(r, whole, f.Machine)
			assert.Contains(r, whole, strings.TrimSpace(f.Does))
		}
	})
}

// Signs that a terminal acts on, or that hide what stands there, do not come through; our colours do, and so
// does everything else.
func TestHarmless(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		given := rapid.String().Draw(r, "text") + rapid.SampledFrom([]string{
			"\x1b[31m", "\x1b]0;title\a", "\x1b[2J", "\u202e", "\xff\xfe", "plain", "\x1b[38;5;1",
		}).Draw(r, "more")
		var b strings.Builder
		n, err := io.WriteString(text.Harmless{To: &b}, given)
		require.NoError(r, err)
		assert.Equal(r, len(given), n)
		out := strings.ReplaceAll(b.String(), "\x1b[31m", "")
		assert.True(r, utf8.ValidString(out))
		assert.NotContains(r, strings.ReplaceAll(out, "\x1b[m", ""), "\x1b")
		assert.False(r, strings.ContainsFunc(out, report.Harmful), "%q", out)
		if utf8.ValidString(given) && !strings.ContainsFunc(given, report.Harmful) {
			assert.Equal(r, given, out)
		}
	})
}
