package textkeys

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"unicode"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/equivalent"
)

// Read reads the key bindings of a machine's folder.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, "textkeys/DefaultKeyBinding.dict")
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	got, err := (Mechanism{}).Import(m, text, nil)
	if err != nil {
		return nil, fmt.Errorf("textkeys/DefaultKeyBinding.dict: %w", err)
	}
	if len(got.Left) > 0 {
		return nil, fmt.Errorf("textkeys/DefaultKeyBinding.dict: %s: %s", got.Left[0].Text, got.Left[0].Why)
	}
	return got.Bindings, nil
}

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file has key bindings of the text system, by its name or an editing command.
func (Mechanism) Knows(name string, text []byte) bool {
	return bytes.HasSuffix([]byte(name), []byte("DefaultKeyBinding.dict")) ||
		bytes.Contains(text, []byte("insertText:"))
}

// Import reads a file of key bindings: what has no word in the language is left.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	r := reader{m: m}
	var all map[string]any
	if _, err := plist.Unmarshal(text, &all); err != nil {
		return r.got, err
	}
	r.level(nil, all)
	behaviour.Sort(r.got.Bindings)
	return r.got, nil
}

// mostStrokes is how long a sequence is read; deeper dictionaries are no sequences that anybody presses.
const mostStrokes = 20

type reader struct {
	m   *mechanism.Machine
	got mechanism.Imported
}

// level reads what follows some strokes.
func (r *reader) level(before []keys.Chord, all map[string]any) {
	names := make([]string, 0, len(all))
	for name := range all {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		c, ok := equivalent.Read(r.m, name)
		if !ok || len(before) == mostStrokes {
			r.got.Leave(0, fmt.Sprintf("%q", name), "no key of this machine has that key equivalent")
			continue
		}
		strokes := append(slices.Clone(before), c)
		if further, sequence := all[name].(map[string]any); sequence {
			r.level(strokes, further)
			continue
		}
		e, ok := effectOf(all[name])
		if !ok {
			r.got.Leave(0, fmt.Sprintf("%q = %v", name, all[name]), "the language has no word for this editing command")
			continue
		}
		for _, b := range r.m.InOptionLayer(mechanism.Binding{
			Level: behaviour.Hotkey, Chord: strokes[0], Then: strokes[1:], Effect: e,
		}) {
			if b.Layer != "" && len(before) == 0 && e.Kind != behaviour.Types {
				b.Effect = r.alsoSelects(all, c, e)
			}
			r.got.Bindings = append(r.got.Bindings, b)
		}
	}
}

// alsoSelects is the effect of a layer's key, which with Shift is to do what that does with Shift.
func (r *reader) alsoSelects(all map[string]any, c keys.Chord, e behaviour.Effect) behaviour.Effect {
	with := e.Chord
	if e.Kind == behaviour.Becomes {
		with = keys.Chord{Key: e.Key}
	}
	with.Mods |= keys.Shift
	for name, does := range all {
		s, ok := equivalent.Read(r.m, name)
		if ok && s == (keys.Chord{Mods: c.Mods | keys.Shift, Key: c.Key}) && does == commands()[with.String()] {
			return e
		}
	}
	of := r.m.Layouts[0].Characters(c.Key)
	if sign := len(of) > 0 && !unicode.IsLetter(of[0]); sign || commands()[with.String()] == "" {
		return e // with Shift it has no spelling, or there is nothing to do
	}
	return behaviour.Effect{Kind: behaviour.Other, Words: e.String() + ", but not with Shift"}
}

// effectOf is what a binding's value does: the chord that has its editing command in the system's own
// list, or a text.
func effectOf(v any) (behaviour.Effect, bool) {
	switch v := v.(type) {
	case string:
		for chord, command := range commands() {
			if command != v {
				continue
			}
			spelled, err := keys.ParseChord(chord, nil, nil)
			if err != nil {
				return behaviour.Effect{}, false
			}
			c := keys.Chord{Key: spelled.Key}
			for _, name := range spelled.Mods {
				mod, _ := keys.ModByName(name)
				c.Mods |= mod
			}
			if c.Mods == 0 {
				return behaviour.Effect{Kind: behaviour.Becomes, Key: c.Key}, true
			}
			return behaviour.Effect{Kind: behaviour.Sends, Chord: c}, true
		}
	case []any:
		if len(v) == 2 && v[0] == "insertText:" {
			text, ok := v[1].(string)
			return behaviour.Effect{Kind: behaviour.Types, Text: text}, ok && text != ""
		}
	}
	return behaviour.Effect{}, false
}
