// Package compose writes and reads a file of compose sequences, by which programs
// turn the keysyms of presses into text: it goes into the user's ~/.XCompose, since GTK 3
// reads no file that is included there. A sequence of one key is a snippet, and one that begins with the Compose
// key an abbreviation.
//
// Programs read the file when they start. Those of GTK and Qt do, and those that use
// Xlib or libxkbcommon for it; not every terminal on Wayland takes a sequence of a
// single key. A sequence is made of keysyms, not of chords: no Ctrl, Alt or Meta. The
// text goes into the field that has the keyboard, nowhere else.
//
// Sources: the manual page Compose(5) of X11; libxkbcommon's "Compose and dead keys".
package compose

import (
	"slices"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/octal"
	"leitstand/core/reason"
)

// Mechanism is the stage at which programs make text of keysyms.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "compose", Stage: mechanism.Desktop, Evidence: mechanism.Tested,
		Basis: "texts typed so into programs of Xlib, GTK and Qt",
		When:  mechanism.ProgramStart, Takes: "when a program starts",
	}
}

// Serves says whether the machine's programs read such a file.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Session != "console"
}

const (
	file = "compose/leitstand.compose"
	// begins and ends stand around our lines in the user's file.
	begins, ends = "# leitstand begins", "# leitstand ends"
	// longest is how long a text may be, in bytes: libxkbcommon reads lines whose
	// text is shorter than 256.
	longest = 240
)

// Take says how well a binding lands.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case b.Effect.Kind == behaviour.Types && b.Level == behaviour.Typing && len(b.Apps) == 0:
		return abbreviation(m, b)
	case b.Effect.Kind != behaviour.Types || b.Level != behaviour.Hotkey || !mechanism.Plain(b):
		return mechanism.Offer{}
	case b.Chord.Mods != 0:
		return mechanism.Offer{Why: reason.ComposeAnyModifier.Of()}
	case len(b.Effect.Text) > longest:
		return mechanism.Offer{Why: reason.ComposeTextLong.Of(longest)}
	}
	names, missing := accelerator.Names(m.Layouts, b.Chord, accelerator.Plain)
	if len(names) == 0 {
		return mechanism.Offer{Why: reason.NoKeysym.Of(b.Chord.Key.String())}
	}
	if slices.ContainsFunc(names, func(n string) bool { _, ok := keys.KeysymValue(n); return !ok }) {
		return mechanism.Offer{Why: reason.ComposeNewKeysym.Of(b.Chord.Key.String())}
	}
	if slices.ContainsFunc(names, modifies) {
		return mechanism.Offer{Why: reason.ComposeModifier.Of(b.Chord.Key.String())}
	}
	if slices.ContainsFunc(names, startsSequences) {
		return mechanism.Offer{Why: reason.ComposesAccents.Of(b.Chord.Key.String())}
	}
	to := plan{text: octal.Quote(b.Effect.Text)}
	for _, n := range names {
		to.sequences = append(to.sequences, "<"+n+">")
	}
	why := reason.ComposingPrograms.Of()
	if len(missing) > 0 {
		why = why.And(reason.ComposeByCharacter.Of(missing, names[0])...)
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: to}
}

// plan is the sequences of keysyms that give a text, as the file spells both.
type plan struct {
	sequences []string
	text      string
}

// mostKeys is how many keys a sequence can have in libxkbcommon.
const mostKeys = 10

// abbreviation says how well one lands, which takes the Compose key before it.
func abbreviation(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case !m.Compose:
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.NeedsCompose.Of()}
	case len(b.Effect.Text) > longest:
		return mechanism.Offer{Why: reason.ComposeTextLong.Of(longest)}
	case utf8.RuneCountInString(b.Word) >= mostKeys:
		return mechanism.Offer{Why: reason.ComposeLong.Of(mostKeys - 1)}
	}
	if begunWords()[b.Word] {
		return mechanism.Offer{Why: reason.ComposeGoesOn.Of(b.Word)}
	}
	for _, r := range b.Word {
		if _, ok := m.Layouts[0].FindExact(r); !ok {
			return mechanism.Offer{Why: reason.TypesNoSuch.Of(m.Layouts[0].Name, string(r))}
		}
	}
	sequence := "<Multi_key>"
	for _, r := range b.Word {
		sequence += " <" + keys.RuneKeysym(r) + ">"
	}
	why := reason.AfterCompose.Of()
	if b.Case != behaviour.InThisCase {
		why = why.And(reason.ComposeCaseCounts.Of()...)
	}
	return mechanism.Offer{
		Verdict: mechanism.Limited,
		Why:     why,
		Plan:    plan{[]string{sequence}, octal.Quote(b.Effect.Text)},
	}
}

// modifies says whether a keysym changes the keyboard's state, by the ranges of the
// X protocol's keysyms: such a press is no part of a sequence.
func modifies(keysym string) bool {
	v, _ := keys.KeysymValue(keysym)
	return v >= 0xFFE1 && v <= 0xFFEE || v >= 0xFE01 && v <= 0xFE13 || v == 0xFF7E || v == 0xFF7F
}

// Write makes the file of sequences.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var text strings.Builder
	text.WriteString(begins + ": the snippets of the keyboard mapping\n")
	for _, b := range list {
		to := b.Plan.(plan)
		for _, s := range to.sequences {
			text.WriteString(s + " : " + to.text + "\n")
		}
	}
	text.WriteString(ends + "\n")
	return mechanism.Changed([]change.Change{change.Block{
		About: change.About{Serves: mechanism.Presses(list), In: file,
			Says: "Put the snippets at the end of `~/.XCompose`, in place of those of an earlier run; where " +
				"there is no such file, what your language has comes first. Programs see them when they start again.",
			Unsays: "Delete the snippets from the file."},
		Path: "~/.XCompose", Begins: begins, Ends: ends, Text: text.String(), First: "include \"%L\"\n",
	}}), nil
}
