// Package filter writes and reads chords that the keyboard filter of Windows blocks.
//
// The filter is an optional feature of the editions for enterprises, schools and devices (Client-KeyboardFilter, the
// service MsKeyboardFilter). What it blocks are instances of classes in root\standardcimv2\embedded: WEKF_PredefinedKey
// by an id such as Win+L, WEKF_Scancode by the names of modifiers and the set 1 make code of a key, WEKF_CustomKey by
// names. Who may change them is an administrator, by PowerShell. What is blocked does nothing in any program, for all
// users and on all boards, and at once; administrators too, where DisableKeyboardFilterForAdministrators of
// WEKF_Settings is false. The left Meta key, pressed five times (BreakoutKeyScanCode), leads to the sign-in screen.
//
// It blocks only, and chords only here: single keys are the scancode map's. Keys with a prefix, such as the arrows,
// and those of the numpad share their codes, so they are left out. Of chords that the system keeps for itself, it has
// ids.
//
// Source: Microsoft, "Keyboard Filter", with the pages of its WMI provider.
package filter

import (
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the keyboard filter.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "filter", Stage: mechanism.Kernel, Evidence: mechanism.Documented,
		Basis: "the public manual; the script is parsed by a grammar of PowerShell",
		When:  mechanism.Restart, Takes: "at once where the filter is on already, else after a restart", Everyone: true,
	}
}

// Serves says whether the machine runs Windows.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Windows }

// The modifiers of a chord by their names there, in the order in which they are spelled.
var modifiers = []struct {
	mods keys.Mods
	name string
}{{keys.Ctrl, "Ctrl"}, {keys.Alt, "Alt"}, {keys.Shift, "Shift"}, {keys.Meta, "Win"}}

// entry is what blocks a chord: an id, or modifiers and a make code.
type entry struct {
	id   string
	mods string
	code int
}

// Take says whether a press is a chord that is to do nothing, and that the filter can block.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey || b.Effect.Kind != behaviour.Nothing || b.Chord.Mods == 0 {
		return mechanism.Offer{}
	}
	switch e, ok := entryOf(m, b.Chord); {
	case !ok:
		return mechanism.Offer{}
	case !m.KeyboardFilter:
		return mechanism.Offer{Why: reason.FilterNotAsked.Of(m.Name)}
	case !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("the keyboard filter")}
	default:
		o := mechanism.Offer{Verdict: mechanism.Exact, Plan: e}
		if char, types := byAltGr(m, b.Chord); types {
			o.Verdict, o.Why = mechanism.Limited, reason.LinkAltGr.Of(string(char))
		}
		return o
	}
}

// entryOf is what blocks a chord.
func entryOf(m *mechanism.Machine, c keys.Chord) (entry, bool) {
	for _, u := range desktop.Stock(m) {
		if u.Fixed && u.Chord.Overlaps(c) {
			return entry{id: ids[u.Name]}, ids[u.Name] != "" && u.Chord == c
		}
	}
	code, ok := c.Key.Scancode()
	if !ok || !isAlone(c.Key, code) || c.Mods&^(keys.Ctrl|keys.Alt|keys.Shift|keys.Meta) != 0 {
		return entry{}, false
	}
	var names []string
	for _, mod := range modifiers {
		if c.Mods.Has(mod.mods) {
			names = append(names, mod.name)
		}
	}
	return entry{mods: strings.Join(names, "+"), code: code}, true
}

// isAlone says whether a make code is that of one key alone, and the key no modifier and no lock that shares its code.
func isAlone(k keys.Key, code int) bool {
	return code < 0x80 && k.Section() != keys.Numpad && !k.IsModifier() && k.String() != "ScrollLock"
}

// ids are those of the chords that the system keeps for itself, by the names of what it does on them.
var ids = map[string]string{"lock": "Win+L", "security screen": "Ctrl+Alt+Del"}

// byAltGr is the character that AltGr types with the key, where that is the chord: AltGr is Ctrl and Alt together.
func byAltGr(m *mechanism.Machine, c keys.Chord) (rune, bool) {
	if c.Mods&^keys.Shift != keys.Ctrl|keys.Alt || m.OwnAltGr {
		return 0, false
	}
	for _, l := range m.Layouts {
		text, _ := l.Type(keys.TypeState{}, c.Key, keys.AltGr|c.Mods&keys.Shift)
		for _, char := range text {
			return char, true
		}
	}
	return 0, false
}
