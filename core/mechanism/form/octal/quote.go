// Package octal writes and reads strings as compose files and keymaps of the console
// have them: between quotation marks, a backslash before a quotation mark or another
// backslash, and other characters by three octal digits. Every reader of the two formats
// knows that much. The two halves share nothing.
//
// Sources: Compose(5) of X11 and keymaps(5) of kbd.
package octal

import (
	"fmt"
	"strings"
)

// Quote writes a text, with its quotation marks. What is not ASCII stays as it is.
func Quote(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r < ' ' || r == 0x7F:
			fmt.Fprintf(&b, `\%03o`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('"')
	return b.String()
}
