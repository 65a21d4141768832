package xfce

import (
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/reason"
)

// whenReleased is the version from which on a modifier alone starts its program when it is let
// go, and no other key was pressed in between.
const whenReleased = "4.20"

// alone answers for a modifier that is pressed alone. Xfce's window manager has no such
// shortcuts, its settings daemon starts programs by them.
func alone(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	to, held := planOf(b)
	to.names = aloneNames(b.Chord.Mods)
	switch {
	case b.Board != "" || b.Layer != "" || len(b.Apps) > 0 || len(b.Then) > 0:
		return mechanism.Offer{}
	case !desktop.Since(m, whenReleased):
		return mechanism.Offer{Why: reason.XfceActsAtOnce.Of(whenReleased)}
	case b.Effect.Kind == behaviour.Acts && commands[b.Effect.Action] == nil:
		return mechanism.Offer{Why: reason.XfceStartsOnly.Of()}
	case b.Effect.Kind != behaviour.Launches && b.Effect.Kind != behaviour.Acts:
		return mechanism.Offer{}
	case held != nil:
		return mechanism.Offer{Why: held}
	case len(to.names) == 0:
		return mechanism.Offer{Why: reason.XfceNotAlone.Of(strings.Join(b.Chord.Mods.Names(), "+"))}
	case b.Effect.Kind == behaviour.Acts && !(Mechanism{}).Asks(m, b.Effect.Action):
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.WithoutQuestion.Of(), Plan: to}
	case b.Effect.Launch().Confirm:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.QuestionByZenity.Of(), Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// aloneNames are Xfce's names of a modifier that is pressed alone: its keysyms. A Hyper of ours
// is one key with another's place, so it has none.
func aloneNames(mods keys.Mods) []string {
	for _, l := range accelerator.ModifierKeys {
		switch {
		case len(l.Keysyms) < 2:
		case mods == l.Mod:
			return l.Keysyms
		case mods == l.Left:
			return l.Keysyms[:1]
		case mods == l.Right:
			return l.Keysyms[1:]
		}
	}
	return nil
}

// released reads the shortcuts that are modifiers alone, by keysym: either side where both
// do the same.
func released(found *behaviour.Found, does map[string]behaviour.Effect) {
	for _, l := range accelerator.ModifierKeys {
		add := func(mods keys.Mods, sym string) {
			if e, ok := does[sym]; ok {
				found.Add(
					mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods}, Effect: e},
					"does one thing or another",
				)
			}
		}
		first, last := l.Keysyms[0], l.Keysyms[len(l.Keysyms)-1]
		if a, ok := does[first]; ok {
			if z, both := does[last]; both && a.Equal(z) {
				add(l.Mod, first)
				continue
			}
		}
		for i, mods := range l.Sides() {
			add(mods, l.Keysyms[i])
		}
	}
}
