package terminal

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/tailscale/hujson"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Read reads the entries of a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	data, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var list []found
	if err := unmarshal(data, &list); err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	got := read(m, list)
	if len(got.Left) > 0 {
		return nil, fmt.Errorf("%s: %s: %s", compiled, got.Left[0].Text, got.Left[0].Why)
	}
	return got.Bindings, nil
}

// unmarshal reads JSON with comments and with commas behind the last of a list.
func unmarshal(text []byte, into any) error {
	standard, err := hujson.Standardize(text)
	if err != nil {
		return err
	}
	return json.Unmarshal(standard, into)
}

// found is an entry of somebody's.
type found struct {
	Command json.RawMessage `json:"command"`
	Keys    json.RawMessage `json:"keys"` // a text, or a list with one
	ID      string          `json:"id"`
}

// read is what entries do.
func read(m *mechanism.Machine, list []found) (got mechanism.Imported) {
	for _, f := range list {
		chord, ok := f.chord(m)
		if chord == nil {
			continue // it has no keys: it is for the menu
		}
		spelled := strings.TrimSpace(string(f.Keys)) + ": " + strings.TrimSpace(string(f.Command))
		if !ok {
			got.Leave(0, spelled, "the keys are not a chord of this machine's keys")
			continue
		}
		effect, ok := f.effect(m)
		if !ok {
			got.Leave(0, spelled, "it is neither a text nor copying and pasting")
			continue
		}
		got.Bindings = append(got.Bindings, mechanism.Binding{Level: behaviour.Hotkey, Chord: *chord, Effect: effect})
	}
	behaviour.Sort(got.Bindings)
	return got
}

// chord is that of an entry, nil where it has none.
func (f found) chord(m *mechanism.Machine) (*keys.Chord, bool) {
	if len(f.Keys) == 0 {
		return nil, true
	}
	var text string
	if json.Unmarshal(f.Keys, &text) != nil {
		var texts []string
		if json.Unmarshal(f.Keys, &texts) != nil || len(texts) != 1 {
			return &keys.Chord{}, false
		}
		text = texts[0]
	}
	if text == "" {
		return nil, true
	}
	parts := strings.Split(strings.ToLower(text), "+")
	var c keys.Chord
	for _, p := range parts[:len(parts)-1] {
		at := slices.Index([]string{"ctrl", "alt", "shift", "win"}, p)
		if at < 0 {
			return &c, false
		}
		c.Mods |= []keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta}[at]
	}
	c.Key = keyOf(m, parts[len(parts)-1])
	return &c, c.Key != keys.None
}

// keyOf is the key that a name stands for: by its own name, or the character that it types.
func keyOf(m *mechanism.Machine, name string) keys.Key {
	if name == "esc" {
		name = "escape"
	}
	for _, k := range keys.All() {
		typed := m.Layouts[0].Characters(k)
		switch own, has := named[k.String()]; {
		case has && own == name,
			k.Section() == keys.Function && strings.EqualFold(k.String(), name),
			k.Section() == keys.Writing && len(typed) > 0 && string(typed[0]) == name:
			return k
		}
	}
	return keys.None
}

// effect is what an entry does.
func (f found) effect(m *mechanism.Machine) (behaviour.Effect, bool) {
	var of struct {
		Action string `json:"action"`
		Input  string `json:"input"`
	}
	if json.Unmarshal(f.Command, &of.Action) != nil && json.Unmarshal(f.Command, &of) != nil {
		return behaviour.Effect{}, false
	}
	switch char := map[string]rune{"copy": 'c', "paste": 'v'}[of.Action]; {
	case of.Action == "sendInput" && of.Input != "":
		return behaviour.Effect{Kind: behaviour.Types, Text: strings.ReplaceAll(of.Input, "\r", "\n")}, true
	case char != 0:
		place, ok := m.Latin().Find(char)
		return behaviour.Effect{
			Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Ctrl | keys.Shift, Key: place.Key},
		}, ok
	}
	return behaviour.Effect{}, false
}

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// settings are those of the terminal that have chords.
type settings struct {
	Schema      string  `json:"$schema"`
	Actions     []found `json:"actions"`
	Keybindings []found `json:"keybindings"`
}

// Knows says whether a file is the terminal's settings.
func (Mechanism) Knows(name string, text []byte) bool {
	var s settings
	return path.Ext(name) == ".json" && unmarshal(text, &s) == nil &&
		(strings.HasSuffix(s.Schema, "/terminal-profiles-schema") || path.Base(name) == "settings.json" && s.Actions != nil)
}

// Import reads the terminal's settings, as it writes them itself or as people do. Newer versions have chords in a
// list of their own, by the ids of actions.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var s settings
	if err := unmarshal(text, &s); err != nil {
		return mechanism.Imported{}, err
	}
	list := s.Actions
	for _, b := range s.Keybindings {
		at := slices.IndexFunc(s.Actions, func(a found) bool { return a.ID == b.ID && b.ID != "" })
		if b.Command == nil && at >= 0 {
			b.Command = s.Actions[at].Command
		}
		list = append(list, b)
	}
	return read(m, list), nil
}
