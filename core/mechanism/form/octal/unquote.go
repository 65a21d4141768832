package octal

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Unquote reads a text with its quotation marks. The error says what is wrong with it.
func Unquote(text string) (string, error) {
	inner, begins := strings.CutPrefix(text, `"`)
	inner, ends := strings.CutSuffix(inner, `"`)
	if !begins || !ends {
		return "", errors.New("a text stands between quotation marks")
	}
	var b strings.Builder
	for i := 0; i < len(inner); i++ {
		switch {
		case inner[i] == '"':
			return "", errors.New("a quotation mark within the text")
		case inner[i] == 0:
			return "", errors.New("a zero is no character")
		case inner[i] != '\\':
			b.WriteByte(inner[i])
		case i+1 < len(inner) && (inner[i+1] == '"' || inner[i+1] == '\\'):
			i++
			b.WriteByte(inner[i])
		case i+3 < len(inner):
			n, err := strconv.ParseUint(inner[i+1:i+4], 8, 8)
			if err != nil || n == 0 {
				return "", fmt.Errorf("%q is no character", strings.ToValidUTF8(inner[i:i+4], ""))
			}
			b.WriteByte(byte(n))
			i += 3
		default:
			return "", errors.New("a backslash means nothing here")
		}
	}
	if !utf8.ValidString(b.String()) {
		return "", errors.New("the text is no UTF-8")
	}
	return b.String(), nil
}
