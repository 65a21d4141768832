package compose

import (
	"errors"
	"io/fs"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/octal"
)

// For is a machine with Linux, whatever its desktop.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Linux} }

// sequence is a line of the format: keys, a text, and perhaps a keysym behind it.
var sequence = mechanism.Pattern(`^\s*((?:<\w+>\s*)+):\s*("(?:[^"\\]|\\.)*")`)

// Knows says whether a text is of compose sequences.
func (Mechanism) Knows(_ string, text []byte) bool {
	for line := range strings.Lines(string(text)) {
		if sequence().MatchString(line) {
			return true
		}
	}
	return false
}

// Import reads a file of compose sequences as people write it: one key is a snippet by
// that key, characters behind the Compose key are an abbreviation.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	var found behaviour.Found
	for n, line := range strings.Split(string(text), "\n") {
		line = strings.TrimSpace(line)
		word, _, _ := strings.Cut(line, " ")
		if line == "" || line[0] == '#' || word == "include" {
			continue
		}
		b, err := imported(m, line)
		if err != nil {
			got.Leave(n+1, line, err.Error())
			continue
		}
		found.Add(b, "is there twice")
	}
	got.Bindings = found.List()
	return got, nil
}

func imported(m *mechanism.Machine, line string) (mechanism.Binding, error) {
	f := sequence().FindStringSubmatch(line)
	if f == nil {
		return mechanism.Binding{}, errors.New("it is no compose sequence that gives a text")
	}
	typed, err := octal.Unquote(f[2])
	if err != nil {
		return mechanism.Binding{}, err
	}
	names := strings.Join(strings.Fields(strings.ReplaceAll(f[1], "><", "> <")), " ")
	types := behaviour.Effect{Kind: behaviour.Types, Text: typed}
	if word, ok := strings.CutPrefix(names, "<Multi_key> "); ok {
		b, err := typing(word)
		if err == nil && utf8.RuneCountInString(b.Word) < 2 {
			err = errors.New("an abbreviation has two characters or more")
		}
		b.Effect = types
		return b, err
	}
	if strings.Contains(names, " ") {
		return mechanism.Binding{}, errors.New("the language has abbreviations behind the Compose key only")
	}
	same, err := accelerator.Keys(m.Layouts, strings.Trim(names, "<>"))
	if err != nil {
		return mechanism.Binding{}, err
	}
	return mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Key: same[0]}, Effect: types}, nil
}
