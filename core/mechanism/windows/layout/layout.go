// Package layout writes and reads keyboard layouts of our own for Windows, as libraries (see
// core/keys/library).
//
// A layout has characters for Shift, AltGr and both; ours has a modifier of its own beside them, which no
// program sees, and so one held layer of characters. A key types up to four UTF-16 units for certain. Layers
// for one press are behind a dead key, and give one unit. No layout has arrows, chords or programs.
//
// The kernel reads such a library, so one is written only for a machine that asks for it (layout_library). It
// lies in the system's folder under a name that each build has for itself, since one that is loaded cannot be
// replaced, and is named in the registry; then it is added to the user's layouts, beside what is there. It is
// made of the system's own library, where the machine has that, or of a list of what the system's own layouts type,
// whose dead keys are not recorded: those of XKB's layout of the name are taken, and accents join as Unicode has it.
// It is chosen beside the user's own, so nothing here is said to be exact.
//
// Sources: Microsoft, the samples of keyboard layouts in the Windows driver kit; "Keyboard Layouts" in the
// registry as the Keyboard Layout Creator's manual describes it.
package layout

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is keyboard layouts of our own on Windows.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "layout", Stage: mechanism.Layout, Evidence: mechanism.Parsed,
		Basis: "Wine loaded the library, twice, and had the tables that were meant",
		When:  mechanism.Steps, Takes: "when the layout is chosen among the user's", Everyone: false,
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// state is what is held while a key is pressed.
type state uint8

const (
	plain state = iota
	shifted
	altGr
	altGrShifted
	layer
	layerShifted
	states
)

// held are the modifiers of the states but the layer's.
var held = [...]keys.Mods{0, keys.Shift, keys.AltGr, keys.AltGr | keys.Shift}

// plan is what a key types in some states.
type plan struct {
	in    []state
	waits string // the one-shot layer after whose key it is pressed, "" for none
	text  string
	as    keys.Key // as this key, instead
	next  string   // the one-shot layer that it begins, instead
	holds bool     // it is the layer's own modifier, instead
	key   bool     // it is the key as, or none, whatever is held, instead
	hyper bool     // it is Ctrl and Alt together, instead
	// composes: it begins the mapping's abbreviations, instead; word is one, which gives the text.
	composes bool
	word     string
}

// Take says how well a binding lands in a layout.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Board != "" || len(b.Then)+len(b.Apps) > 0 || b.Level > behaviour.Typing {
		return mechanism.Offer{}
	}
	p, why := placed(m, b)
	if b.Level == behaviour.Typing {
		p, why = abbreviation(m, b)
	}
	if p == nil && why == nil {
		p, why = ofPause(m, b)
	}
	if p == nil && why == nil {
		p, why = ofHyper(m, b)
	}
	switch {
	case p == nil && why != nil:
		return mechanism.Offer{Why: why}
	case p == nil || len(p.in) > 0 && p.next == "" && !p.composes && !changes(m, b.Chord.Key, p) && b.Layer == "":
		return mechanism.Offer{}
	case !m.LayoutLibrary:
		return mechanism.Offer{Why: reason.LibraryNotAsked.Of(m.Name)}
	case !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a layout library")}
	case len(m.Assumed) > 0:
		return mechanism.Offer{Why: reason.LayoutNotKnown.Of(m.Assumed[0])}
	}
	o := mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: *p}
	if len(p.in) == 0 || p.next != "" || p.composes {
		return o
	}
	if !changes(m, b.Chord.Key, p) {
		o.Does = &behaviour.Effect{Kind: behaviour.Becomes, Key: b.Chord.Key}
	} else if p.as != keys.None {
		text, _ := m.Layouts[0].Type(keys.TypeState{}, p.as, 0)
		if with, _ := m.Layouts[0].Type(keys.TypeState{}, p.as, keys.Shift); text != "" && text == with {
			o.Does = &behaviour.Effect{Kind: behaviour.Types, Text: text}
		} else if first, same := firstAlike(m, p.as); !same {
			return mechanism.Offer{}
		} else if first != p.as {
			o.Does = &behaviour.Effect{Kind: behaviour.Becomes, Key: first}
		}
	}
	return o
}

// firstAlike is the first key that types what a key does, by itself and with Shift: of such keys a layout has one only. Same
// is false where that is another key under another of the machine's layouts.
func firstAlike(m *mechanism.Machine, k keys.Key) (first keys.Key, same bool) {
	type pair [2]struct{ text, waits string }
	pairOf := func(l *keys.Layout, k keys.Key) (p pair) {
		for i, mods := range []keys.Mods{0, keys.Shift} {
			text, after := l.Type(keys.TypeState{}, k, mods)
			p[i].text, p[i].waits = text, after.Accents
		}
		return p
	}
	for i, l := range m.Layouts {
		of := keys.None
		for _, o := range keys.All() {
			if types(o) && pairOf(l, o) == pairOf(l, k) {
				of = o
				break
			}
		}
		if of == keys.None || i > 0 && of != first {
			return keys.None, false
		}
		first = of
	}
	return first, true
}

// placed is where a press is in a layout, nil where it is none of a layout's, and what differs there.
func placed(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	why := beside(m)
	if e := b.Effect; e.Kind == behaviour.Layers {
		on, is := m.LayerState(e.Layer)
		switch {
		case b.Level != behaviour.Position || on.Key != b.Chord.Key || b.Layer != "":
		case is == intent.BitState:
			return &plan{holds: true}, why.And(reason.WindowsLayerCharacters.Of()...)
		case is == intent.DeadState && has(m, on.Key):
			return &plan{in: []state{plain, shifted}, next: e.Layer},
				why.And(reason.WindowsLayerCharacters.Of()...).And(reason.WindowsDeadAlone.Of()...)
		case e.How == behaviour.Once && !types(b.Chord.Key):
			return nil, reason.OnceKeyTypes.Of(b.Chord.Key)
		}
		return nil, nil
	}
	if b.Effect.Kind == behaviour.Composes && b.Level == behaviour.Position && !types(b.Chord.Key) {
		return nil, reason.ComposeKeyTypes.Of(b.Chord.Key)
	}
	if b.Effect.Kind == behaviour.Composes && b.Level == behaviour.Position && b.Layer == "" &&
		types(b.Chord.Key) && has(m, b.Chord.Key) {
		return &plan{in: []state{plain, shifted}, composes: true},
			why.And(reason.LayoutComposes.Of()...).And(reason.WindowsDeadAlone.Of()...)
	}
	function := b.Level != behaviour.Typing && isFunction(b.Chord.Key) && b.Layer == "" &&
		b.Effect.Kind == behaviour.Types
	if b.Level == behaviour.Typing || !types(b.Chord.Key) && !(function && b.Level == behaviour.Position) ||
		!has(m, b.Chord.Key) {
		return nil, nil
	}
	p := &plan{}
	switch _, is := m.LayerState(b.Layer); {
	case b.Layer != "" && is == intent.BitState:
		p.in = []state{layer, layerShifted}
	case b.Layer != "" && is == intent.DeadState:
		p.in, p.waits = []state{plain, shifted}, b.Layer
	case b.Layer != "":
		return nil, nil
	case b.Level == behaviour.Position && b.Effect.Kind == behaviour.Types:
		p.in = []state{plain, shifted}
	case b.Level == behaviour.Hotkey && b.Chord.Mods != 0:
		if on, ok := m.LayerOf(intent.BitState); ok && on.Key == b.Chord.Key {
			return nil, reason.WindowsLayerKeyTypesNothing.Of(on.Key)
		}
		if at := slices.Index(held[:], b.Chord.Mods); at > 0 {
			p.in = []state{state(at)}
			if l := withoutAltGr(m); l != nil && b.Chord.Mods.Has(keys.AltGr) {
				return nil, reason.WindowsNoAltGr.Of(l.Name)
			}
			if letter := m.Layouts[0].Characters(b.Chord.Key); len(letter) > 0 && unicode.IsLetter(letter[0]) {
				why = why.And(reason.WindowsNoCapital.Of(b.Chord.Key)...)
			}
		}
	}
	if len(p.in) == 0 {
		return nil, nil
	}
	if not, ok := p.gives(m, b); !ok {
		return nil, not
	}
	holder, held := m.LayerOf(intent.BitState)
	if p.waits != "" && (!typesOne(m, b.Chord.Key) || held && holder.Key == b.Chord.Key) {
		return nil, reason.WindowsDeadBase.Of(b.Chord.Key)
	}
	if p.waits != "" && onKeypad(m, b.Chord.Key) {
		why = why.And(reason.WindowsDeadKeypad.Of(b.Chord.Key)...)
	}
	return p, why
}

// onKeypad says whether the numeric keypad types a character of a key, under any layout of the machine.
func onKeypad(m *mechanism.Machine, k keys.Key) bool {
	return slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		for _, mods := range []keys.Mods{0, keys.Shift} {
			if text, _ := l.Type(keys.TypeState{}, k, mods); text != "" && strings.Contains("0123456789*+-/.,", text) {
				return true
			}
		}
		return false
	})
}

// Beginnings is how many beginnings of abbreviations a layout can wait for, each by an accent of its own.
func (Mechanism) Beginnings() int { return composing }

// mostStrokes is how long an abbreviation is that is typed behind the Compose key.
const mostStrokes = 10

// abbreviation is one behind the Compose key, by what the keys type; nil where a layout has none.
func abbreviation(m *mechanism.Machine, b mechanism.Binding) (*plan, reason.List) {
	word, units := []rune(b.Word), utf16.Encode([]rune(b.Effect.Text))
	switch {
	case b.Effect.Kind != behaviour.Types || len(units) == 0 || !m.Compose || len(word) > mostStrokes:
		return nil, nil
	case strings.ContainsFunc(b.Effect.Text, isControl), !utf8.ValidString(b.Effect.Text):
		return nil, reason.LayoutControl.Of()
	case len(units) > 1:
		return nil, reason.WindowsDeadOne.Of()
	}
	for _, l := range m.Layouts {
		for _, r := range word {
			place, ok := l.FindExact(r)
			if !ok || place.Mods&^(keys.Shift|keys.AltGr) != 0 || r > 0xFFFF || isControl(r) {
				return nil, reason.TypesNoSuch.Of(l.Name, string(r))
			}
		}
	}
	why := beside(m).And(reason.AfterComposeKey.Of()...)
	if b.Case != behaviour.InThisCase {
		why = why.And(reason.ComposeCaseCounts.Of()...)
	}
	return &plan{word: b.Word, text: b.Effect.Text}, why
}

// gives notes what a press types; not ok where a layout cannot, and why.
func (p *plan) gives(m *mechanism.Machine, b mechanism.Binding) (why reason.List, ok bool) {
	switch e := b.Effect; {
	case e.Kind == behaviour.Types && e.Text != "":
		units := utf16.Encode([]rune(e.Text))
		most := library.MostUnits
		if p.waits != "" {
			most = 1
		}
		if !utf8.ValidString(e.Text) || strings.ContainsFunc(e.Text, isControl) {
			return reason.LayoutControl.Of(), false
		}
		if _, once := m.LayerOf(intent.DeadState); (once || m.Compose) && len(units) > 1 && len(units) <= most {
			return reason.WindowsUnitsBesideDead.Of(), false
		}
		if len(units) > most {
			return reason.LayoutTextLong.Of(most), false
		}
		p.text = e.Text
	case e.Kind == behaviour.Nothing && p.waits == "":
	case e.Kind == behaviour.Becomes && b.Layer != "" && types(e.Key) && has(m, e.Key):
		for _, l := range m.Layouts {
			if text, after := l.Type(keys.TypeState{}, e.Key, 0); text == "" && after.Accents == "" {
				return reason.LayoutKeyTypesNothing.Of(e.Key, l.Name), false
			}
		}
		if p.as = e.Key; p.waits != "" && (!typesOne(m, e.Key) || shiftIsNothing(m, b.Chord.Key)) {
			return nil, false
		}
	default:
		return nil, false
	}
	return nil, true
}

// types says whether a key is one that a layout has type.
func types(k keys.Key) bool {
	return k != keys.None && (k.Section() == keys.Writing || k.String() == "Space")
}

// isFunction says whether a key is one of F1 to F24.
func isFunction(k keys.Key) bool {
	return k != keys.None && k.Section() == keys.Function && k.String()[0] == 'F' && k.String() != "Fn"
}

// has says whether a key has a virtual key and a scan code under every layout of the machine.
func has(m *mechanism.Machine, k keys.Key) bool {
	_, code := k.Scancode()
	return code && (len(m.Assumed) > 0 || !slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		_, ok := l.VirtualCode(k)
		return !ok
	}))
}

// withoutAltGr is a layout of the machine whose right Alt key is Alt; nil where it is AltGr under each.
func withoutAltGr(m *mechanism.Machine) *keys.Layout {
	at := slices.IndexFunc(m.Layouts, func(l *keys.Layout) bool { return !l.TypesWith(keys.AltGr) })
	if at < 0 {
		return nil
	}
	return m.Layouts[at]
}

// shiftIsNothing says whether a key types the same with Shift, under any layout of the machine: a dead key before it then
// cannot tell the two apart.
func shiftIsNothing(m *mechanism.Machine, k keys.Key) bool {
	return slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		one, _ := l.Type(keys.TypeState{}, k, 0)
		two, _ := l.Type(keys.TypeState{}, k, keys.Shift)
		return one == two
	})
}

// typesOne says whether a key types a character by itself and with Shift, under every layout of the machine.
func typesOne(m *mechanism.Machine, k keys.Key) bool {
	return !slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		one, _ := l.Type(keys.TypeState{}, k, 0)
		two, _ := l.Type(keys.TypeState{}, k, keys.Shift)
		return len(utf16.Encode([]rune(one))) != 1 || len(utf16.Encode([]rune(two))) != 1
	})
}

// isControl says whether a character is none of a text, or one that the tables mean something else by.
func isControl(r rune) bool {
	return r < ' ' || r >= 0x7F && r < 0xA0 || r >= 0xF000 && r <= 0xF002 ||
		r >= firstLayer && r < firstLayer+privates ||
		r == utf8.RuneError
}

// changes says whether a plan has a key type something else than it does, under any of the layouts.
func changes(m *mechanism.Machine, k keys.Key, p *plan) bool {
	type typed struct{ text, accents string }
	does := func(l *keys.Layout, k keys.Key, s state) typed {
		text, after := l.Type(keys.TypeState{}, k, held[s%layer])
		return typed{text, after.Accents}
	}
	return slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool {
		return slices.ContainsFunc(p.in, func(s state) bool {
			is := typed{text: p.text}
			if p.as != keys.None {
				is = does(l, p.as, s)
			}
			return is != does(l, k, s)
		})
	})
}

// beside says that ours is a layout beside the user's, and what of it is not the system's own.
func beside(m *mechanism.Machine) reason.List {
	why := reason.WindowsLayoutBeside.Of()
	if slices.ContainsFunc(m.Layouts, func(l *keys.Layout) bool { return !l.Own() }) {
		why = reason.WindowsOwnLayout.Of()
	}
	for _, l := range m.Layouts {
		if _, known := l.Decimal(); !known {
			why = why.And(reason.WindowsDecimalUnknown.Of(l.Name)...)
		}
	}
	return why
}
