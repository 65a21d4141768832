// Package services writes and reads quick actions of macOS: entries of the Services menu, each of which
// runs a line of shell, with a chord.
//
// A quick action is a bundle in ~/Library/Services: its Info.plist says what the menu shows, and its
// document.wflow, a property list of Automator's, what is run. The chord is a key equivalent in the
// preferences pbs, by the menu's title. The system looks for new bundles when `pbs -flush` tells it to,
// and at log-in; programs that run see them when they are started anew.
//
// It is a menu's chord: it works where the program in front has a Services menu, which few of those have
// that are not made with Apple's own tools; that program's own chords go first, as do the system's
// shortcuts; and it takes longer than a hotkey. A program's bare name is looked for in the system's
// own folders only.
//
// Sources: Apple, "Services Implementation Guide" and "Use Automator to create quick actions on Mac"; the
// manual pages defaults(1) and open(1). The form of document.wflow and of the preferences is that of
// what Automator and the system's panel write.
package services

import (
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/mechanism/form/equivalent"
	"leitstand/core/reason"
)

// Mechanism is quick actions.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "services", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "what Automator and the system's panel write, by public reports; the bundles read by parsers of " +
			"their own, the steps run against stand-ins, the lines run by a shell",
		When: mechanism.ProgramStart, Takes: "in each program when it is started anew",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// plan is what a press needs.
type plan struct {
	name       string // of the quick action
	equivalent string
	line       string
	off        []string // the system's shortcuts that have the chord
}

// Take says how well a binding lands in a quick action.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey || b.Effect.Kind != behaviour.Launches {
		return mechanism.Offer{}
	}
	text, why := equivalent.Spell(m, b.Chord)
	switch {
	case why != nil:
		return mechanism.Offer{Why: why}
	case b.Chord.Mods&^keys.Shift == 0 && b.Chord.Key.Section() != keys.Function || b.Chord.Key.String() == "Escape":
		return mechanism.Offer{Why: reason.MacWantsModifier.Of(b.Chord)}
	}
	p := plan{name: nameOf(b.Chord), equivalent: text, line: command.MacScript(b.Effect.Launch())}
	if strings.ContainsFunc(
		p.line,
		func(r rune) bool { return r < ' ' && r != '\t' && r != '\n' || r == 0xFFFE || r == 0xFFFF },
	) {
		return mechanism.Offer{Why: reason.CommandNotHeld.Of("a property list", "a control character")}
	}
	why = reason.MacService.Of()
	for _, u := range desktop.Stock(m) {
		switch {
		case !u.Chord.Overlaps(b.Chord):
		case strings.HasPrefix(u.Key, desktop.NumberedKeys) && b.Override:
			p.off = append(p.off, u.Key)
		case strings.HasPrefix(u.Key, desktop.NumberedKeys):
			return mechanism.Offer{Why: reason.MacOwned.Of(b.Chord, u.Words)}
		default: // what programs do, or the system before any setting, which is found elsewhere
			why = why.And(reason.MacProgramsFirst.Of(u.Words)...)
		}
	}
	if equivalent.WithFn(b.Chord) {
		why = why.And(reason.MacFunctionKeys.Of()...)
	}
	if l := b.Effect.Launch(); len(l.Command) > 0 && !strings.Contains(l.Command[0], "/") {
		why = why.And(reason.MacBareName.Of(l.Command[0])...)
	}
	return mechanism.Offer{Verdict: mechanism.Limited, Why: why, Plan: p}
}

// nameOf is what the quick action of a chord is called: a name for files, too.
func nameOf(c keys.Chord) string { return "Leitstand-" + strings.ReplaceAll(c.String(), "+", "-") }
