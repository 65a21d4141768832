package lineeditor

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Read reads the script of a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	got := read(m, string(text))
	if len(got.Left) > 0 {
		return nil, fmt.Errorf("%s:%d: %s: %s", compiled, got.Left[0].Line, got.Left[0].Text, got.Left[0].Why)
	}
	return got.Bindings, nil
}

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a file is a script that sets chords of the command line.
func (Mechanism) Knows(name string, text []byte) bool {
	return path.Ext(name) == ".ps1" && handler().Match(text)
}

// Import reads a profile, or a script that it runs.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	return read(m, strings.TrimPrefix(string(text), "\ufeff")), nil
}

var (
	handler = mechanism.Pattern(`(?im)^[ \t]*Set-PSReadLineKeyHandler[ \t]`)
	inserts = mechanism.Pattern(`(?i)^\{\s*\[Microsoft\.PowerShell\.PSConsoleReadLine\]::Insert\((.*)\);?\s*\}$`)
	unit    = mechanism.Pattern(`(?i)^\[char\]0x([0-9a-f]{1,4})$`)
)

// read is what the handlers of a script do, each on a line of its own.
func read(m *mechanism.Machine, text string) (got mechanism.Imported) {
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if !handler().MatchString(line) {
			continue
		}
		b, why := handled(m, line)
		if why != "" {
			got.Leave(i+1, line, why)
			continue
		}
		got.Bindings = append(got.Bindings, b)
	}
	behaviour.Sort(got.Bindings)
	return got
}

// handled is what one handler does, or why it is left.
func handled(m *mechanism.Machine, line string) (b mechanism.Binding, why string) {
	words, ok := wordsOf(line)
	if !ok {
		return b, "it does not end on its line"
	}
	b.Level = behaviour.Hotkey
	var strokes, does bool
	for i := 1; i < len(words); i++ {
		name, value := strings.ToLower(words[i]), ""
		if i+1 < len(words) {
			value = words[i+1]
		}
		switch name {
		case "-chord", "-key":
			list, ok := strokesOf(m, unquoted(value))
			if !ok {
				return b, "the chord is not of this machine's keys"
			}
			b.Chord, b.Then, strokes = list[0], list[1:], true
		case "-function":
			b.Effect, does = functionOf(m, unquoted(value))
			if !does {
				return b, "the function is none for which the language has a chord"
			}
		case "-scriptblock":
			if b.Effect, does = insertion(value); !does {
				return b, "the block does not just insert a text"
			}
		case "-briefdescription", "-description", "-vimode": // which change nothing
		default:
			return b, fmt.Sprintf("%s is not understood", words[i])
		}
		i++
	}
	if !strokes || !does {
		return b, "it has no chord, or does nothing"
	}
	return b, ""
}

// functionOf is the chord that the editor has a function on by itself.
func functionOf(m *mechanism.Machine, name string) (behaviour.Effect, bool) {
	for _, f := range functions {
		if !strings.EqualFold(f.name, name) {
			continue
		}
		for _, k := range keys.All() {
			typed := m.Latin().Characters(k)
			if k.String() == f.key || len(f.key) == 1 && k.Section() == keys.Writing && len(typed) > 0 && string(typed[0]) == f.key {
				if f.mods == 0 {
					return behaviour.Effect{Kind: behaviour.Becomes, Key: k}, true
				}
				return behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: f.mods, Key: k}}, true
			}
		}
	}
	return behaviour.Effect{}, false
}

// insertion is the text that a block inserts.
func insertion(block string) (behaviour.Effect, bool) {
	found := inserts().FindStringSubmatch(block)
	if found == nil {
		return behaviour.Effect{}, false
	}
	words, ok := wordsOf(found[1])
	if !ok || len(words) == 0 || len(words)%2 == 0 {
		return behaviour.Effect{}, false
	}
	var text []uint16
	for i, w := range words {
		number := unit().FindStringSubmatch(w)
		switch {
		case i%2 == 1 && w != "+":
			return behaviour.Effect{}, false
		case i%2 == 1:
		case number != nil:
			n, _ := strconv.ParseUint(number[1], 16, 16) // which the pattern allows only
			text = append(text, uint16(n))
		case w[0] != '\'' && w[0] != '"' || w[0] == '"' && strings.ContainsAny(w, "$`"):
			return behaviour.Effect{}, false
		default:
			text = append(text, utf16.Encode([]rune(unquoted(w)))...)
		}
	}
	return behaviour.Effect{Kind: behaviour.Types, Text: string(utf16.Decode(text))}, len(text) > 0
}

// strokesOf are one or two strokes.
func strokesOf(m *mechanism.Machine, text string) (list []keys.Chord, ok bool) {
	for stroke := range strings.SplitSeq(text, ",") {
		parts := strings.Split(stroke, "+")
		var c keys.Chord
		for _, p := range parts[:len(parts)-1] {
			at := slices.IndexFunc(modifiers, func(mod struct {
				mods keys.Mods
				name string
			},
			) bool {
				return strings.EqualFold(mod.name, p)
			})
			if at < 0 {
				return nil, false
			}
			c.Mods |= modifiers[at].mods
		}
		if c.Key, ok = keyNamed(m, parts[len(parts)-1]); !ok {
			return nil, false
		}
		list = append(list, c)
	}
	return list, len(list) < 3
}

// keyNamed is the key of a name, or of the letter or digit that it types. A capital is with Shift there.
func keyNamed(m *mechanism.Machine, name string) (keys.Key, bool) {
	for _, k := range keys.All() {
		typed := m.Layouts[0].Characters(k)
		switch own, has := named[k.String()]; {
		case has && strings.EqualFold(own, name),
			k.Section() == keys.Function && strings.EqualFold(k.String(), name),
			k.Section() == keys.Writing && len(typed) > 0 && string(typed[0]) == name:
			return k, true
		}
	}
	return keys.None, false
}

// wordsOf parts a line at blanks that are in no quotes and no braces. A # begins a comment.
func wordsOf(line string) (words []string, ok bool) {
	word, depth := "", 0
	for rest := line; rest != ""; {
		switch r := rest[0]; {
		case r == '\'' || r == '"':
			end := quoteEnd(rest)
			if end < 0 {
				return nil, false
			}
			word, rest = word+rest[:end], rest[end:]
			continue
		case r == '{' || r == '(':
			depth++
		case r == '}' || r == ')':
			depth--
		case r == '#' && depth == 0 && word == "":
			return words, true
		}
		if (rest[0] == ' ' || rest[0] == '\t') && depth == 0 {
			if word != "" {
				words, word = append(words, word), ""
			}
		} else {
			word += rest[:1]
		}
		rest = rest[1:]
	}
	if word != "" {
		words = append(words, word)
	}
	return words, depth == 0
}

// quoteEnd is where the text in quotes ends with which a line begins, -1 if it does not. A quote within it is doubled.
func quoteEnd(line string) int {
	for i := 1; i < len(line); i++ {
		switch {
		case line[i] != line[0]:
		case i+1 < len(line) && line[i+1] == line[0]:
			i++
		default:
			return i + 1
		}
	}
	return -1
}

// unquoted is what a text in quotes says.
func unquoted(word string) string {
	if len(word) < 2 || word[0] != '\'' && word[0] != '"' || word[len(word)-1] != word[0] {
		return word
	}
	quote := word[:1]
	return strings.ReplaceAll(word[1:len(word)-1], quote+quote, quote)
}
