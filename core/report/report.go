// Package report holds what commands say, as values: every output in JSON is one of its types, with a
// version and a published schema in docs/schema. Within a version fields are added, and none is
// taken away or changes its meaning.
package report

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf16"
)

// Version is that of the schemas.
const Version = 1

// Write prints a value as indented JSON. Signs that a terminal acts on stand in it as
// escapes, so that they are harmless and not lost.
func Write(w io.Writer, v any) error {
	var text bytes.Buffer
	e := json.NewEncoder(&text)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	if err := e.Encode(v); err != nil {
		return err
	}
	var b strings.Builder
	for _, r := range text.String() {
		switch {
		case !Harmful(r):
			b.WriteRune(r)
		case r > 0xFFFF:
			hi, lo := utf16.EncodeRune(r)
			fmt.Fprintf(&b, "\\u%04x\\u%04x", hi, lo)
		default:
			fmt.Fprintf(&b, "\\u%04x", r)
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// Harmful says whether a terminal does something else with a character than show it.
func Harmful(r rune) bool {
	switch {
	case r == '\n' || r == '\t':
		return false
	case r < ' ' || r >= 0x7F && r < 0xA0:
		return true
	case r == 0x00AD || r == 0x200D: // a soft hyphen, and what joins letters and pictures of some scripts
		return false
	}
	return unicode.Is(unicode.Cf, r) || r == 0x2028 || r == 0x2029
}
