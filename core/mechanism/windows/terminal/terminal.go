// Package terminal writes and reads chords of Windows Terminal, the system's own: texts that it is given as if they
// had been typed, and copying and pasting, in the terminal only.
//
// They stand in the list "actions" of its settings,
// %LOCALAPPDATA%\Packages\Microsoft.WindowsTerminal_8wekyb3d8bbwe\LocalState\settings.json, JSON with comments, which
// its owner and the terminal's own page of settings write as well. An entry has a command, a name or an object with an
// action, and the chord in keys, such as ctrl+alt+v; letters are those that the layout types. Newer versions part
// chords from actions, in a list "keybindings" with the id of an action, and read the old form still. The terminal
// reads its settings again as soon as they are written. What no setting of its has: sequences, layers, single keys
// that type.
//
// Source: Microsoft, "Custom actions in Windows Terminal".
package terminal

import (
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the chords of Windows Terminal.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "terminal", Stage: mechanism.Person, Evidence: mechanism.Documented,
		Basis: "the public manual; the entries read as JSON with comments by a parser of its own",
		When:  mechanism.Steps, Takes: "as soon as the entries stand in the terminal's settings",
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// The modifiers of a chord, in the order in which they are spelled, and the keys by their names in the settings.
var (
	modifiers = []struct {
		mods keys.Mods
		name string
	}{{keys.Ctrl, "ctrl"}, {keys.Alt, "alt"}, {keys.Shift, "shift"}}
	named = map[string]string{
		"ArrowLeft": "left", "ArrowRight": "right", "ArrowUp": "up", "ArrowDown": "down", "Home": "home", "End": "end",
		"PageUp": "pgup", "PageDown": "pgdn", "Insert": "insert", "Delete": "delete", "Backspace": "backspace",
		"Tab": "tab", "Enter": "enter", "Space": "space", "Escape": "escape",
	}
)

// clipboard are the chords by which the terminal copies and pastes itself.
var clipboard = map[rune]string{'c': "copy", 'v': "paste"}

// plan is an entry of the list.
type plan struct {
	chord string
	input string // what is typed, or
	name  string // of a command
}

// Take says whether a press is a chord that the terminal can have, and gives a text or what it does itself.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey {
		return mechanism.Offer{}
	}
	chord, ok := spell(m, b.Chord)
	if !ok {
		return mechanism.Offer{}
	}
	switch e := b.Effect; e.Kind {
	case behaviour.Types:
		if e.Text == "" || !utf8.ValidString(e.Text) || strings.ContainsFunc(e.Text, isControl) {
			return mechanism.Offer{}
		}
		input := strings.ReplaceAll(e.Text, "\n", "\r") // what Enter gives
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.TerminalOnly.Of(), Plan: plan{chord, input, ""}}
	case behaviour.Sends:
		if e.Chord.Mods != keys.Ctrl|keys.Shift {
			return mechanism.Offer{}
		}
		for char, name := range clipboard {
			if place, ok := m.Latin().Find(char); ok && place.Key == e.Chord.Key {
				return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.TerminalOnly.Of(), Plan: plan{chord, "", name}}
			}
		}
	default: // the rest is none of a terminal's
	}
	return mechanism.Offer{}
}

// isControl says whether a character is none of a text. A line ends as Enter ends it.
func isControl(r rune) bool { return r < ' ' && r != '\n' && r != '\t' || r >= 0x7F && r < 0xA0 }

// spell is a chord as the settings have it. A key that types wants Ctrl or Alt.
func spell(m *mechanism.Machine, c keys.Chord) (string, bool) {
	name, ok := nameOf(m, c.Key)
	function := c.Key.Section() == keys.Function && strings.HasPrefix(name, "f")
	if !ok || c.Mods&^(keys.Ctrl|keys.Alt|keys.Shift) != 0 || c.Mods&(keys.Ctrl|keys.Alt) == 0 && !function {
		return "", false
	}
	text := ""
	for _, mod := range modifiers {
		if c.Mods.Has(mod.mods) {
			text += mod.name + "+"
		}
	}
	return text + name, true
}

// nameOf is a key's name in the settings: its own, or the letter or digit that it types.
func nameOf(m *mechanism.Machine, k keys.Key) (string, bool) {
	if name, ok := named[k.String()]; ok {
		return name, true
	}
	if n, ok := strings.CutPrefix(k.String(), "F"); ok && k.Section() == keys.Function && n != "" && n[0] <= '9' {
		return "f" + n, true
	}
	if typed := m.Layouts[0].Characters(k); k.Section() == keys.Writing && len(typed) > 0 && isPlain(typed[0]) {
		return string(typed[0]), true
	}
	return "", false
}

// isPlain says whether a character is a letter or a digit that names a key.
func isPlain(r rune) bool { return r >= 'a' && r <= 'z' || r >= '0' && r <= '9' }
