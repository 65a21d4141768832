package text

import (
	"io"
	"strings"
	"unicode/utf8"

	"leitstand/core/report"
)

// Harmless writes what may hold names and texts of anybody: control characters and signs
// that a terminal acts on, or that hide what stands there, are shown as such. The escape
// sequences of our own styles pass.
type Harmless struct{ To io.Writer }

func (h Harmless) Write(p []byte) (int, error) {
	if _, err := io.WriteString(h.To, shown(string(p))); err != nil {
		return 0, err
	}
	return len(p), nil
}

// shown is a text as a terminal may have it.
func shown(text string) string {
	if !strings.ContainsFunc(text, report.Harmful) && utf8.ValidString(text) {
		return text
	}
	var b strings.Builder
	for len(text) > 0 {
		if n := styleSequence(text); n > 0 {
			b.WriteString(text[:n])
			text = text[n:]
			continue
		}
		r, n := utf8.DecodeRuneInString(text)
		switch {
		case r == utf8.RuneError && n < 2:
			b.WriteRune('�')
		case r < ' ' && report.Harmful(r):
			b.WriteRune('␀' + r) // the sign that pictures it
		case r == 0x7F:
			b.WriteRune('␡')
		case report.Harmful(r):
			b.WriteString("<" + strings.ToUpper(hexadecimal(r)) + ">")
		default:
			b.WriteRune(r)
		}
		text = text[n:]
	}
	return b.String()
}

func hexadecimal(r rune) string {
	const digits = "0123456789abcdef"
	text := ""
	for ; r > 0; r >>= 4 {
		text = string(digits[r&15]) + text
	}
	return "u+" + strings.Repeat("0", max(0, 4-len(text))) + text
}

// styleSequence is the length of an escape sequence that only sets colours and weight.
func styleSequence(text string) int {
	if !strings.HasPrefix(text, "\x1b[") {
		return 0
	}
	for i := 2; i < len(text) && i < 24; i++ {
		switch c := text[i]; {
		case c == 'm':
			return i + 1
		case c != ';' && (c < '0' || c > '9'):
			return 0
		}
	}
	return 0
}
