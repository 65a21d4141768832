// Package keylayout writes and reads keyboard layouts of macOS.
//
// A layout is an XML file in ~/Library/Keyboard Layouts, or in /Library/Keyboard Layouts for everyone. It says
// for each virtual keycode and each set of modifiers what is typed: a text of up to 20 units of UTF-16, or an
// action, which depends on a state that an earlier key left: that is how dead keys are made. The modifiers are
// Shift, Option, Control, Command and CapsLock, their sides alike in practice. The system lists a new file
// after the next log-in, under Input Sources, Others; it acts once it is chosen in the input menu.
//
// A layout types; it has no arrows, no chords and no programs. Ours are the machine's own with the mapping on
// top, made of a list of what those type: the accents join as Unicode's composition has it, which is why it is
// added beside the user's, and is never said to be exact.
//
// Sources: Apple Technical Note TN2056 "Installable Keyboard Layouts"; the comments of the system's
// KeyboardLayout.dtd.
package keylayout

import (
	"slices"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is keyboard layouts of macOS.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "keylayout", Stage: mechanism.Layout, Evidence: mechanism.Documented,
		Basis: "public documentation; the file read by a validating parser and by a reader of its own",
		When:  mechanism.LogIn, Takes: "when the layout is chosen in the input menu, after the next log-in",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// state is what is held while a key is pressed, as far as layouts tell it apart.
type state uint8

const (
	plain state = iota
	shifted
	capitals
	option
	optionShifted
	optionCapitals
	states
)

// held are the modifiers of each state, and whether CapsLock is on.
var held = [states]struct {
	mods keys.Mods
	caps bool
}{{}, {keys.Shift, false}, {0, true}, {keys.Alt, false}, {keys.Alt | keys.Shift, false}, {keys.Alt, true}}

// The states of a key by itself, and those of an Option key.
var (
	alone      = []state{plain, shifted, capitals}
	withOption = []state{option, optionShifted, optionCapitals}
)

// plan is what a key types in some states.
type plan struct {
	in    []state
	waits string // the one-shot layer after whose key it is pressed, "" for none
	text  string
	as    keys.Key // as this key, instead
	next  string   // the one-shot layer that it begins, instead
	// composes: it begins the mapping's abbreviations, instead; word is one, which gives the text.
	composes bool
	word     string
}

// mostUnits is the longest text of a key, in units of UTF-16.
const mostUnits = 20

// Take says how well a binding lands in a layout.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Board != "" || len(b.Then)+len(b.Apps) > 0 || b.Level > behaviour.Typing {
		return mechanism.Offer{}
	}
	p, why := placed(m, b)
	if b.Level == behaviour.Typing {
		p, why = abbreviation(m, b)
	}
	if why == nil && p == nil {
		return mechanism.Offer{}
	}
	if p == nil {
		return mechanism.Offer{Why: why}
	}
	if p.text != "" && len(p.in) > 0 && p.waits == "" && already(m, b.Chord.Key, held[p.in[0]].mods, p.text) {
		return mechanism.Offer{} // without a layout of ours
	}
	if len(m.Assumed) > 0 {
		return mechanism.Offer{Why: reason.LayoutNotKnown.Of(m.Assumed[0])}
	}
	if p.composes || p.word != "" {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: *p}
	}
	o := mechanism.Offer{Verdict: mechanism.Limited, Why: why.And(lost(m, b.Chord.Key, p)...), Plan: *p}
	switch {
	case len(p.in) > 0 && !changes(m, b.Chord.Key, p) && (b.Layer == "" || slices.Equal(p.in, withOption)):
		return mechanism.Offer{} // it types so without a layout of ours
	case len(p.in) > 0 && !changes(m, b.Chord.Key, p):
		o.Does = &behaviour.Effect{Kind: behaviour.Becomes, Key: b.Chord.Key}
		return o
	case p.as == keys.None:
		return o
	}
	text, _ := m.Layouts[0].Type(keys.TypeState{}, p.as, 0)
	with, _ := m.Layouts[0].Type(keys.TypeState{}, p.as, keys.Shift)
	if text != "" && (len(p.in) == 1 || text == with) { // it is no key but what that types
		o.Does = &behaviour.Effect{Kind: behaviour.Types, Text: text}
	}
	return o
}

// placed is where a press is in a layout, nil where it is none of a layout's, and what differs there.
func placed(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	why := reason.MacOwnLayout.Of()
	if e := b.Effect; e.Kind == behaviour.Layers || e.Kind == behaviour.Leaves {
		on, is := m.LayerState(e.Layer)
		switch {
		case b.Level != behaviour.Position || on.Key != b.Chord.Key:
		case is == intent.DeadState && e.Kind == behaviour.Layers && b.Layer == "":
			return &plan{in: alone, next: e.Layer}, why.And(reason.MacLayerIsDead.Of()...)
		case is == intent.CapsState && (b.Layer == "" || b.Layer == e.Layer):
			return &plan{}, why.And(reason.MacLayerIsCaps.Of()...)
		case e.How == behaviour.Once && e.Kind == behaviour.Layers && !types(b.Chord.Key):
			return nil, reason.OnceKeyTypes.Of(b.Chord.Key)
		}
		return nil, nil
	}
	if b.Effect.Kind == behaviour.Composes && b.Level == behaviour.Position && !types(b.Chord.Key) {
		return nil, reason.ComposeKeyTypes.Of(b.Chord.Key)
	}
	if b.Level == behaviour.Typing || !types(b.Chord.Key) {
		return nil, nil
	}
	if b.Effect.Kind == behaviour.Composes && b.Level == behaviour.Position && b.Layer == "" {
		return &plan{in: alone, composes: true}, why.And(reason.LayoutComposes.Of()...)
	}
	p := &plan{}
	switch _, is := m.LayerState(b.Layer); {
	case b.Layer != "" && is == intent.OptionState:
		p.in, why = withOption, why.And(reason.MacLayerIsOption.Of()...)
	case b.Layer != "" && is == intent.CapsState:
		p.in, why = []state{capitals}, why.And(reason.MacLayerIsCaps.Of()...)
	case b.Layer != "" && is == intent.DeadState:
		p.in, p.waits, why = alone, b.Layer, why.And(reason.MacLayerIsDead.Of()...)
	case b.Layer != "":
		return nil, nil
	case b.Level == behaviour.Position && b.Effect.Kind == behaviour.Types:
		p.in = alone
	case b.Level == behaviour.Hotkey && b.Chord.Mods != 0: // without, it is asked for in its place
		mods := b.Chord.Mods
		if mods.Has(keys.AltGr) && !mods.Has(keys.Alt) { // either Option key is it
			mods = mods&^keys.AltGr | keys.Alt
		}
		p.in = slices.DeleteFunc(slices.Concat(alone, withOption), func(s state) bool { return held[s].mods != mods })
	}
	if len(p.in) == 0 {
		return nil, nil
	}
	switch e := b.Effect; {
	case e.Kind == behaviour.Types && strings.ContainsFunc(e.Text, isControl), !utf8.ValidString(e.Text):
		return nil, reason.LayoutControl.Of()
	case e.Kind == behaviour.Types && e.Text != "":
		if p.text = e.Text; len(utf16.Encode([]rune(e.Text))) > mostUnits {
			return nil, reason.LayoutTextLong.Of(mostUnits)
		}
	case e.Kind == behaviour.Nothing:
	case e.Kind == behaviour.Becomes && b.Layer != "" &&
		types(e.Key):
		p.as = e.Key
		for _, l := range m.Layouts {
			text, after := l.Type(keys.TypeState{}, e.Key, 0)
			switch {
			case text == "" && after.Accents == "":
				return nil, reason.LayoutKeyTypesNothing.Of(e.Key, l.Name)
			case text == "" && !slices.Equal(p.in, withOption):
				return nil, nil // a dead key behind a dead key, or one of two kinds
			}
		}
	default:
		return nil, nil
	}
	return p, why
}

// mostStrokes is how long an abbreviation is that is typed behind the Compose key.
const mostStrokes = 10

// abbreviation is one behind the Compose key, by what the keys type; nil where a layout has none.
func abbreviation(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	word := []rune(b.Word)
	if b.Effect.Kind != behaviour.Types || b.Effect.Text == "" || !m.Compose || len(word) > mostStrokes {
		return nil, nil
	}
	switch {
	case strings.ContainsFunc(b.Effect.Text, isControl), !utf8.ValidString(b.Effect.Text):
		return nil, reason.LayoutControl.Of()
	case len(utf16.Encode([]rune(b.Effect.Text))) > mostUnits:
		return nil, reason.LayoutTextLong.Of(mostUnits)
	}
	for _, l := range m.Layouts {
		for _, r := range word {
			if place, ok := l.FindExact(r); !ok || place.Mods&^(keys.Shift|keys.Alt) != 0 {
				return nil, reason.TypesNoSuch.Of(l.Name, string(r))
			}
		}
	}
	why := reason.MacOwnLayout.Of().And(reason.AfterComposeKey.Of()...)
	if b.Case != behaviour.InThisCase {
		why = why.And(reason.ComposeCaseCounts.Of()...)
	}
	return &plan{word: b.Word, text: b.Effect.Text}, why
}

// types says whether a key is one that a layout has type: those of the writing area and the space bar.
func types(k keys.Key) bool {
	return k != keys.None && (k.Section() == keys.Writing || k.String() == "Space")
}

// isControl says whether a character is none that a text has, or none of XML's.
func isControl(r rune) bool {
	return r < ' ' || r >= 0x7F && r < 0xA0 || r == 0xFFFE || r == 0xFFFF || r == utf8.RuneError
}

// changes says whether a plan has a key type something else than it does, under any of the layouts.
func changes(m *mechanism.Machine, k keys.Key, p *plan) bool {
	return slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		b := &board{base: l, alone: map[string]string{}}
		return slices.ContainsFunc(p.in, func(s state) bool {
			from, is := s, cell{text: p.text, next: p.next}
			if len(p.in) == 1 && s == capitals { // CapsLock is a layer
				from = plain
			}
			if p.as != keys.None {
				is = b.bare(p.as, from%option)
			}
			was := b.bare(k, from)
			return was.text != is.text || was.next != is.next
		})
	})
}

// already says whether the machine's layouts type a text by themselves.
func already(m *mechanism.Machine, k keys.Key, mods keys.Mods, text string) bool {
	return len(m.Assumed) == 0 && !slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		own, _ := l.Type(keys.TypeState{}, k, mods)
		return own != text
	})
}

// lost says which character a key no longer types, where the mapping takes its place with a modifier.
func lost(m *mechanism.Machine, k keys.Key, p *plan) reason.List {
	if len(p.in) == 0 || p.waits != "" || held[p.in[0]].mods == 0 {
		return nil
	}
	mods := held[p.in[0]].mods
	text, _ := m.Layouts[0].Type(keys.TypeState{}, k, mods)
	if text == "" || text == p.text {
		return nil
	}
	return reason.MacCharacterLost.Of(keys.Chord{Mods: mods, Key: k}, text)
}
