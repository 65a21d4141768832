package compose

import (
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/accelerator"
)

// Read reads a file of sequences.
func (Target) Read(m *target.Machine, fsys fs.FS) ([]target.Binding, error) {
	const name = "compose/leitstand.compose"
	text, err := fs.ReadFile(fsys, name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var found behaviour.Found
	for n, l := range strings.Split(string(text), "\n") {
		if l == "" || l[0] == '#' {
			continue
		}
		sequence, quoted, ok := strings.Cut(l, ` : "`)
		quoted, closed := strings.CutSuffix(quoted, `"`)
		if !ok || !closed {
			return nil, fmt.Errorf("%s:%d: no compose sequence", name, n+1)
		}
		typed, err := unquote(quoted)
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", name, n+1, err)
		}
		sym, ok := strings.CutPrefix(sequence, "<")
		sym, closed = strings.CutSuffix(sym, ">")
		if !ok || !closed || strings.ContainsAny(sym, "<> ") {
			return nil, fmt.Errorf("%s:%d: %q is not one key, as we write it", name, n+1, sequence)
		}
		same, err := accelerator.Keys(m.Layouts, sym)
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", name, n+1, err)
		}
		for _, k := range same {
			found.Add(target.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Key: k}, Effect: behaviour.Effect{Kind: behaviour.Types, Text: typed}, Kept: len(same) > 1},
				"types one text or another, by layout or NumLock")
		}
	}
	return found.List(), nil
}

func unquote(s string) (string, error) {
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '"':
			return "", errors.New("a quotation mark within the text")
		case s[i] != '\\':
			b.WriteByte(s[i])
		case i+1 < len(s) && (s[i+1] == '"' || s[i+1] == '\\'):
			i++
			b.WriteByte(s[i])
		case i+3 < len(s):
			n, err := strconv.ParseUint(s[i+1:i+4], 8, 8)
			if err != nil || n == 0 {
				return "", fmt.Errorf("%q is no character", s[i:i+4])
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
