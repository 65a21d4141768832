package compile

import (
	"fmt"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/target"
)

// beyondFiles says why no mechanism takes a press, where none of them has its own
// reason: by what the press needs, and whether a running process could do it.
func beyondFiles(m *machine.Machine, b behaviour.Binding) target.Answer {
	// What needs a running process everywhere, and what does where the system has
	// no file for it.
	need, elsewhere := "", ""
	if b.Level == behaviour.Typing && b.Board == "" && (m.System == machine.MacOS || m.System == machine.IPadOS) {
		return target.Answer{Words: "not written yet: a text replacement of the system's own"}
	}
	switch {
	case b.Effect.Kind == behaviour.TapHold:
		need = "only a running process can tell a tap from a hold"
	case b.Level == behaviour.Typing && b.Board != "":
		need = "only a running process can tell which board a text comes from"
	case b.Level == behaviour.Typing:
		need = "only a running process sees an abbreviation"
	case b.Level == behaviour.Hotkey && b.Board != "":
		need = "only a running process can tell which board a chord comes from"
	case len(b.Apps) > 0:
		need = "only a running process knows which program is in front"
	case b.Effect.Kind == behaviour.Plays:
		need = "only a running process can play a macro"
	case b.Effect.Kind == behaviour.Composes:
		elsewhere = "compose characters"
	case b.Layer != "" || b.Effect.Kind == behaviour.Layers:
		elsewhere = "hold a layer"
	case b.Effect.Kind == behaviour.Types:
		elsewhere = "type a text"
	case b.Effect.Kind == behaviour.Sends:
		elsewhere = "give another chord"
	case len(b.Then) > 0:
		elsewhere = "follow a sequence of strokes"
	case b.Level == behaviour.Hotkey && b.Chord.Key == keys.None:
		elsewhere = "act on a modifier alone"
	}
	// A layout of one's own has characters and texts on both.
	characters := b.Effect.Kind == behaviour.Composes || b.Effect.Kind == behaviour.Types
	if elsewhere != "" && m.System != machine.Linux && (!characters || personal(m)) {
		need = "only a running process can " + elsewhere + " here"
	}
	switch {
	case need != "" && personal(m):
		return target.Answer{Words: fmt.Sprintf("%s lets no program see the keyboard", m.System.Title())}
	case need != "":
		return target.Answer{Verdict: target.Resident, Words: need}
	case m.System == machine.Linux && m.Desktop == machine.None && m.Session != machine.Console && b.Level == behaviour.Hotkey:
		return target.Answer{Words: "the machine has no desktop, which would have shortcuts"}
	case elsewhere != "" && m.System != machine.Linux:
		return target.Answer{Words: "not written yet: a keyboard layout of our own, which could " + elsewhere}
	case elsewhere != "":
		return target.Answer{Words: "not written yet: a way to " + elsewhere + " here"}
	case b.Option.Kind == behaviour.Native:
		return target.Answer{Words: b.Option.For + " has no store of settings: what its files say is said in its own configuration"}
	case personal(m):
		return target.Answer{Words: m.System.Title() + " has no setting for it"}
	case b.Level == behaviour.Setting:
		return target.Answer{Words: "not written yet: this setting"}
	default:
		return target.Answer{Words: "not written yet: a way to do this here"}
	}
}
