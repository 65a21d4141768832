package filter

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
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

// For is a machine with Windows that has the filter.
func (Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Windows, KeyboardFilter: true}
}

// Knows says whether a file is such a script.
func (Mechanism) Knows(name string, text []byte) bool {
	return path.Ext(name) == ".ps1" && strings.Contains(string(text), "\n"+begins) &&
		strings.Contains(string(text), "WEKF_Scancode")
}

// Import reads a script of ours.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	return read(m, string(text)), nil
}

// quoted is a line of the list.
var quoted = mechanism.Pattern(`^\s*'([^']*)'\s*(?:#.*)?$`)

// read is what the list of a script blocks.
func read(m *mechanism.Machine, text string) (got mechanism.Imported) {
	inside := false
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimRight(line, "\r")
		switch {
		case line == begins:
			inside = true
			continue
		case line == ends || !inside:
			inside = false
			continue
		}
		found := quoted().FindStringSubmatch(line)
		if found == nil {
			got.Leave(i+1, line, "it is no text in quotes")
			continue
		}
		chord, ok := chordOf(m, found[1])
		if !ok {
			got.Leave(i+1, found[1], "it is neither an id that we know nor modifiers and the code of a key")
			continue
		}
		got.Bindings = append(got.Bindings, mechanism.Binding{
			Level: behaviour.Hotkey, Chord: chord, Effect: behaviour.Effect{Kind: behaviour.Nothing},
		})
	}
	behaviour.Sort(got.Bindings)
	return got
}

// chordOf is the chord of an id, or of modifiers and a make code.
func chordOf(m *mechanism.Machine, text string) (c keys.Chord, ok bool) {
	names, number, numbered := strings.Cut(text, " ")
	if !numbered {
		for _, u := range desktop.Stock(m) {
			if u.Fixed && ids[u.Name] == text {
				return u.Chord, true
			}
		}
		return c, false
	}
	for name := range strings.SplitSeq(names, "+") {
		at := slices.Index([]string{"Ctrl", "Alt", "Shift", "Win"}, name)
		if at < 0 {
			return c, false
		}
		c.Mods |= []keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta}[at]
	}
	code, err := strconv.Atoi(number)
	if err != nil || code >= 0x80 {
		return c, false
	}
	for _, k := range keys.All() {
		if is, has := k.Scancode(); has && is == code {
			c.Key = k
			return c, true
		}
	}
	return c, false
}
