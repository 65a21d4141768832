// Package lineeditor writes and reads chords of the command line of PowerShell, the system's own shell: texts, and what
// the line editor does, in the command line only.
//
// They are lines of PowerShell in a script that the user's profile runs, the file that $PROFILE names:
// Set-PSReadLineKeyHandler with a chord and either a function of the editor or a block that inserts a text. A chord is
// one stroke or two with a comma between; keys go by their names, letters and digits by what the layout types. The
// profile is run when a PowerShell is opened; that of version 5.1 runs none until the user's policy lets it. A script
// without a byte order mark is read in the system's own code page, so what is not ASCII is written by its number. What
// it does not have: three strokes, other boards or programs, and chords with the Windows key.
//
// Source: Microsoft, "Set-PSReadLineKeyHandler", "about_PSReadLine_Functions" (the chords that the editor has by itself
// in its usual mode), "about_Profiles".
package lineeditor

import (
	"slices"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the command line of PowerShell.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "lineeditor", Stage: mechanism.Person, Evidence: mechanism.Documented,
		Basis: "the public manual; the script is parsed by a grammar of PowerShell",
		When:  mechanism.Steps, Takes: "in each PowerShell that is opened, once its profile runs the script",
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// The modifiers of a chord, in the order in which they are spelled, and the keys by their names.
var (
	modifiers = []struct {
		mods keys.Mods
		name string
	}{{keys.Ctrl, "Ctrl"}, {keys.Alt, "Alt"}, {keys.Shift, "Shift"}}
	named = map[string]string{
		"ArrowLeft": "LeftArrow", "ArrowRight": "RightArrow", "ArrowUp": "UpArrow", "ArrowDown": "DownArrow",
		"Home": "Home", "End": "End", "PageUp": "PageUp", "PageDown": "PageDown", "Insert": "Insert", "Delete": "Delete",
		"Backspace": "Backspace", "Tab": "Tab", "Enter": "Enter", "Space": "Spacebar", "Escape": "Escape",
	}
)

// functions are what the editor has on chords by itself, a letter by the character that it types.
var functions = []struct {
	name string
	mods keys.Mods
	key  string
}{
	{"BackwardKillWord", keys.Ctrl, "Backspace"}, {"KillWord", keys.Ctrl, "Delete"},
	{"BackwardWord", keys.Ctrl, "ArrowLeft"}, {"NextWord", keys.Ctrl, "ArrowRight"},
	{"SelectBackwardWord", keys.Ctrl | keys.Shift, "ArrowLeft"}, {"SelectNextWord", keys.Ctrl | keys.Shift, "ArrowRight"},
	{"BackwardChar", 0, "ArrowLeft"}, {"ForwardChar", 0, "ArrowRight"},
	{"PreviousHistory", 0, "ArrowUp"}, {"NextHistory", 0, "ArrowDown"},
	{"BeginningOfLine", 0, "Home"}, {"EndOfLine", 0, "End"},
	{"SelectBackwardsLine", keys.Shift, "Home"}, {"SelectLine", keys.Shift, "End"},
	{"BackwardDeleteChar", 0, "Backspace"}, {"DeleteChar", 0, "Delete"}, {"RevertLine", 0, "Escape"},
	{"AcceptLine", 0, "Enter"}, {"Undo", keys.Ctrl, "z"}, {"Redo", keys.Ctrl, "y"}, {"SelectAll", keys.Ctrl, "a"},
	{"Paste", keys.Ctrl, "v"}, {"Cut", keys.Ctrl, "x"}, {"ClearScreen", keys.Ctrl, "l"},
	{"ReverseSearchHistory", keys.Ctrl, "r"}, {"ForwardSearchHistory", keys.Ctrl, "s"},
}

// plan is a handler: a chord, and a text or a function.
type plan struct{ chord, text, function string }

// Take says whether a press is of one or two strokes that the editor can have, and gives a text or what it does itself.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Level != behaviour.Hotkey || b.Board != "" || b.Layer != "" || len(b.Apps) > 0 || len(b.Then) > 1 ||
		b.Chord.Key == keys.None {
		return mechanism.Offer{}
	}
	p := plan{}
	for i, c := range append([]keys.Chord{b.Chord}, b.Then...) {
		stroke, ok := spell(m, c, i > 0)
		if !ok {
			return mechanism.Offer{}
		}
		if i > 0 {
			p.chord += ","
		}
		p.chord += stroke
	}
	switch e := b.Effect; e.Kind {
	case behaviour.Types:
		if p.text = e.Text; e.Text == "" || !utf8.ValidString(e.Text) || strings.ContainsFunc(e.Text, isControl) {
			return mechanism.Offer{}
		}
	case behaviour.Sends, behaviour.Becomes:
		to := e.Chord
		if e.Kind == behaviour.Becomes {
			to = keys.Chord{Key: e.Key}
		}
		for _, f := range functions {
			if to == (keys.Chord{Mods: f.mods, Key: keyOf(m, f.key)}) {
				p.function = f.name
			}
		}
		if p.function == "" {
			return mechanism.Offer{}
		}
	default: // the rest is none of a command line's
		return mechanism.Offer{}
	}
	why := reason.LineEditorOnly.Of()
	if len(b.Then) > 0 {
		why = why.And(reason.LineEditorFirst.Of(b.Chord)...)
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: p}
}

// isControl says whether a character is none of a text: Enter and Tab do something else in a command line than to insert
// what they type.
func isControl(r rune) bool { return r < ' ' || r >= 0x7F && r < 0xA0 }

// spell is a stroke as the editor has it. A first one that types wants Ctrl or Alt, not both, which is AltGr; what Shift
// makes of a key that types is another character.
func spell(m *mechanism.Machine, c keys.Chord, second bool) (string, bool) {
	name, ok := nameOf(m, c.Key)
	types := c.Key.Section() == keys.Writing || c.Key.String() == "Space"
	switch {
	case !ok, c.Mods&^(keys.Ctrl|keys.Alt|keys.Shift) != 0, types && c.Mods.Has(keys.Ctrl|keys.Alt):
		return "", false
	case types && c.Mods.Has(keys.Shift), types && c.Mods == 0 && !second:
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

// nameOf is a key's name: its own, or the letter or digit that it types.
func nameOf(m *mechanism.Machine, k keys.Key) (string, bool) {
	if name, ok := named[k.String()]; ok {
		return name, true
	}
	if k.Section() == keys.Function && isNumbered(k.String()) {
		return k.String(), true
	}
	if typed := m.Layouts[0].Characters(k); k.Section() == keys.Writing && len(typed) > 0 && isPlain(typed[0]) {
		return string(typed[0]), true
	}
	return "", false
}

// isNumbered says whether a name is that of a numbered function key.
func isNumbered(name string) bool { return len(name) > 1 && name[0] == 'F' && name[1] <= '9' }

// isPlain says whether a character is a letter or a digit that names a key.
func isPlain(r rune) bool { return r >= 'a' && r <= 'z' || r >= '0' && r <= '9' }

// keyOf is the key of a name in the list of functions.
func keyOf(m *mechanism.Machine, name string) keys.Key {
	if len(name) == 1 {
		place, _ := m.Latin().Find(rune(name[0]))
		return place.Key
	}
	all := keys.All()
	return all[slices.IndexFunc(all, func(k keys.Key) bool { return k.String() == name })]
}
