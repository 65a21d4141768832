// Package textkeys writes and reads the key bindings of macOS's text system: what chords do while a text is
// edited.
//
// The file ~/Library/KeyBindings/DefaultKeyBinding.dict is a property list: a dictionary from a key
// equivalent to the name of an editing command, to a list of them (insertText: with a text), or to a
// further dictionary for the strokes that follow. It is laid over the system's own list, whole; a program
// reads it when it starts.
//
// Only programs with Apple's text system look at it: no terminal, and few that exist for several systems.
// Chords with Command go to the menus first. The first stroke of a sequence does nothing else any more,
// so what types a character cannot be one. Function keys reach programs only with Fn, unless the
// settings have them as such.
//
// Source: Apple, "Text System Defaults and Key Bindings" (Cocoa Event Handling Guide); AppKit's
// NSStandardKeyBindingResponding for the commands.
package textkeys

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/equivalent"
	"leitstand/core/reason"
)

// Mechanism is the key bindings of the text system.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "textkeys", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "public documentation; the property list read by a parser of its own, the steps run against stand-ins",
		When:  mechanism.ProgramStart, Takes: "in each program when it is started anew",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// plan is the strokes as key equivalents, and what they do.
type plan struct {
	strokes []string
	command string // of editing, or
	text    string // what is inserted
	// shifted is the stroke of a layer's key with Shift, and selecting its command; "" for none.
	shifted, selecting string
}

// Take says how well a binding lands in the text system.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	first := b
	first.Then = nil
	why := reason.MacTextOnly.Of()
	if _, state := m.LayerState(b.Layer); state == intent.OptionState {
		first.Layer, first.Level, first.Chord.Mods = "", behaviour.Hotkey, keys.Alt
		why = why.And(reason.MacLayerIsOption.Of()...)
	}
	if !mechanism.Plain(first) || first.Level != behaviour.Hotkey {
		return mechanism.Offer{}
	}
	var p plan
	switch e := b.Effect; {
	case e.Kind == behaviour.Types && e.Text == "":
		return mechanism.Offer{}
	case e.Kind == behaviour.Types && strings.ContainsFunc(e.Text, unheld):
		return mechanism.Offer{Why: reason.CommandNotHeld.Of("a property list", "a control character")}
	case e.Kind == behaviour.Types:
		p.text = e.Text
	case e.Kind == behaviour.Becomes:
		p.command = commands()[e.Key.String()]
	case e.Kind == behaviour.Sends && e.Chord.Mods != 0:
		p.command = commands()[e.Chord.String()]
	}
	if p.command == "" && p.text == "" {
		return mechanism.Offer{} // no editing command does it
	}
	for i, c := range append([]keys.Chord{first.Chord}, b.Then...) {
		text, not := equivalent.Spell(m, c)
		switch {
		case not != nil:
			return mechanism.Offer{Why: not}
		case i == 0 && types(c):
			return mechanism.Offer{Why: reason.MacWouldEndTyping.Of(c)}
		}
		p.strokes = append(p.strokes, text)
		if equivalent.WithFn(c) {
			why = why.And(reason.MacFunctionKeys.Of()...)
		}
		if c.Mods.Has(keys.Meta) {
			why = why.And(reason.MacMenusFirst.Of()...)
		}
	}
	if with := selecting(b.Effect); b.Layer != "" && with != "" {
		shifted := keys.Chord{Mods: first.Chord.Mods | keys.Shift, Key: b.Chord.Key}
		if stroke, not := equivalent.Spell(m, shifted); not == nil {
			p.shifted, p.selecting = stroke, with
		}
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: p}
}

// selecting is what a key of a layer does with Shift held, "" for nothing.
func selecting(e behaviour.Effect) string {
	if e.Kind == behaviour.Becomes {
		e.Chord = keys.Chord{Key: e.Key}
	}
	e.Chord.Mods |= keys.Shift
	return commands()[e.Chord.String()]
}

// unheld are characters that a property list in XML does not hold.
func unheld(r rune) bool { return r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF }

// types says whether a chord types by itself, or edits as everybody expects.
func types(c keys.Chord) bool {
	plain := slices.Contains(
		[]keys.Section{keys.Writing, keys.Functional, keys.International, keys.Numpad},
		c.Key.Section(),
	)
	return c.Mods&^keys.Shift == 0 && plain
}

//go:embed commands.tsv
var commandsText string

// commands are the editing commands by the chord that has them in the system's own list.
var commands = sync.OnceValue(func() map[string]string {
	all := map[string]string{}
	for line := range strings.Lines(commandsText) {
		if chord, command, ok := strings.Cut(strings.TrimSuffix(line, "\n"), "\t"); ok && line[0] != '#' {
			all[chord] = command
		}
	}
	return all
})
