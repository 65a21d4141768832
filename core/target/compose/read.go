package compose

import (
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/accelerator"
)

var line = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`^((?:<\w+> )+): "((?:[^"\\]|\\.)*)"$`)
})

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
		f := line().FindStringSubmatch(l)
		if f == nil {
			return nil, fmt.Errorf("%s:%d: no compose sequence", name, n+1)
		}
		typed, err := unquote(f[2])
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", name, n+1, err)
		}
		syms := strings.Fields(f[1])
		if len(syms) != 1 {
			return nil, fmt.Errorf("%s:%d: a sequence of several keys, which we do not write", name, n+1)
		}
		same, err := accelerator.Keys(m.Layouts, strings.Trim(syms[0], "<>"))
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
