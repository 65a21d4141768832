package compose

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/octal"
)

// Read reads our sequences of a file, which stand between marks.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	const name = "compose/leitstand.compose"
	text, err := fs.ReadFile(fsys, name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var found behaviour.Found
	longer := map[string]string{} // an abbreviation by what it begins with, itself included
	whole := map[string]bool{}
	ours := false
	for n, l := range strings.Split(string(text), "\n") {
		ours = (ours || strings.HasPrefix(l, "# leitstand begins")) && !strings.HasPrefix(l, "# leitstand ends")
		if !ours || l == "" || l[0] == '#' {
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
		if word, ok := strings.CutPrefix(sequence, "<Multi_key> "); ok {
			b, err := typing(word)
			if err != nil {
				return nil, fmt.Errorf("%s:%d: %w", name, n+1, err)
			}
			b.Effect = behaviour.Effect{Kind: behaviour.Types, Text: typed}
			// What begins a longer sequence ends it, and the one that comes later counts.
			other, alike := longer[b.Word]
			for i := range b.Word {
				if whole[b.Word[:i]] {
					other, alike = b.Word[:i], true
				}
			}
			if alike {
				return nil, fmt.Errorf(
					"%s:%d: %q and %q begin alike, so that only one of them is a sequence", name, n+1, other, b.Word,
				)
			}
			whole[b.Word], longer[b.Word] = true, b.Word
			for i := range b.Word {
				longer[b.Word[:i]] = b.Word
			}
			found.Add(b, "")
			continue
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
		chords := make([]keys.Chord, len(same))
		for i, k := range same {
			chords[i] = keys.Chord{Key: k}
		}
		for _, c := range chords {
			found.Add(
				mechanism.Binding{
					Level:      behaviour.Hotkey,
					Chord:      c,
					Effect:     behaviour.Effect{Kind: behaviour.Types, Text: typed},
					Provenance: behaviour.AnyOf(chords),
				},
				"types one text or another, by layout or NumLock",
			)
		}
	}
	return found.List(), nil
}

// typing reads the keys of an abbreviation behind the Compose key.
func typing(sequence string) (mechanism.Binding, error) {
	b := mechanism.Binding{Level: behaviour.Typing, Case: behaviour.InThisCase, End: behaviour.AtOnce}
	for part := range strings.SplitSeq(sequence, " ") {
		sym, ok := strings.CutPrefix(part, "<")
		sym, closed := strings.CutSuffix(sym, ">")
		r, known := keys.KeysymRune(sym)
		if !ok || !closed || !known {
			return b, fmt.Errorf("%q is no key that types a character", part)
		}
		b.Word += string(r)
	}
	return b, nil
}
