package compose

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/accelerator"
	"leitstand/core/target/octal"
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
		sequence, quoted, ok := strings.Cut(l, " : ")
		if !ok {
			return nil, fmt.Errorf("%s:%d: no compose sequence", name, n+1)
		}
		typed, err := octal.Unquote(quoted)
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", name, n+1, err)
		}
		sym, ok := strings.CutPrefix(sequence, "<")
		sym, closed := strings.CutSuffix(sym, ">")
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
