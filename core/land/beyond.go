package land

import (
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// stockReasons says what a press that nothing takes does by itself, and by which chord the system
// does what the press should, on a system whose own chords no mechanism sets.
func stockReasons(m *mechanism.Machine, b behaviour.Binding) reason.List {
	if m.System == machine.Linux || b.Level != behaviour.Hotkey {
		return nil
	}
	var why reason.List
	if u, used := desktop.NewTable(m).Of(b.Chord); used && !u.Fixed {
		why = reason.OwnedBy.Of(m.System.Title(), b.Chord, u.Words)
	}
	if since := desktop.Later(m, b.Effect.Action); since != "" {
		return why.And(reason.DoneSince.Of(m.System.Title(), since)...)
	}
	var chords []string
	for _, u := range desktop.Stock(m) {
		if b.Effect.Kind == behaviour.Acts && u.Name == b.Effect.Action {
			chords = append(chords, u.Chord.String())
		}
	}
	if chords != nil {
		why = why.And(reason.DoneBy.Of(m.System.Title(), strings.Join(chords, " or "))...)
	}
	return why
}

// keptBySystem says that a system has a chord before any setting can say something of it, nil where it has not.
// What the consoles of Linux keep is struck where it lands: a desktop takes each chord.
func keptBySystem(m *mechanism.Machine, b behaviour.Binding) reason.List {
	if m.System == machine.Linux || b.Level != behaviour.Hotkey || b.Chord.Key == keys.None {
		return nil
	}
	if u, used := desktop.NewTable(m).Of(b.Chord); used && u.Fixed {
		return reason.SystemKeeps.Of(m.System.Title(), b.Chord, u.Words)
	}
	return nil
}

// beyondFiles says why no mechanism takes a press, where none of them has its own
// reason: by what the press needs, and whether a running process could do it.
func beyondFiles(m *machine.Machine, b behaviour.Binding) mechanism.Offer {
	if b.Option.Kind == behaviour.Accents {
		return mechanism.Offer{Why: reason.NoAccents.Of(m.System.Title())}
	}
	// What needs a running process everywhere, and what does where the system has
	// no file for it.
	need, elsewhere := "", ""
	switch {
	case b.Board != "" && (m.System == machine.Windows || m.System == machine.MacOS):
		return mechanism.Offer{Why: reason.BoardsNotTold.Of(m.System.Title())}
	case b.Board != "" && b.Level == behaviour.Position:
		need = "do this for one board"
	case b.Effect.Kind == behaviour.TapHold:
		need = "tell a tap from a hold"
	case b.Level == behaviour.Typing && b.Board != "":
		need = "tell which board a text comes from"
	case b.Level == behaviour.Typing:
		need = "see an abbreviation"
	case b.Level == behaviour.Hotkey && b.Board != "":
		need = "tell which board a chord comes from"
	case len(b.Apps) > 0:
		need = "know which program is in front"
	case b.Effect.Kind == behaviour.Chooses:
		need = "choose an item of a program's menu"
	case b.Effect.Kind == behaviour.Plays:
		need = "play a macro"
	case b.Effect.Kind == behaviour.Composes:
		elsewhere = "compose characters"
	case b.Effect.Kind == behaviour.Layers:
		elsewhere = "hold a layer"
	case b.Layer != "":
		elsewhere = "do this in a layer"
	case b.Effect.Kind == behaviour.Types:
		elsewhere = "type a text"
	case b.Effect.Kind == behaviour.Sends, b.Effect.Kind == behaviour.Becomes && b.Level == behaviour.Hotkey:
		elsewhere = "give another chord"
	case len(b.Then) > 0:
		elsewhere = "follow a sequence of strokes"
	case b.Level == behaviour.Hotkey && b.Chord.Key == keys.None:
		elsewhere = "act on a modifier alone"
	case b.Effect.Kind == behaviour.Acts && m.System == machine.Windows:
		elsewhere = "have the system do it by a chord of one's own"
	}
	if elsewhere != "" && m.System != machine.Linux {
		need = elsewhere + " here"
	}
	switch {
	case need != "" && personal(m):
		return mechanism.Offer{Why: reason.NoProgramsThere.Of(m.System.Title())}
	case need != "":
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of(need)}
	case m.System == machine.Linux && m.Desktop == machine.None && m.Session != machine.Console &&
		b.Level == behaviour.Hotkey:
		return mechanism.Offer{Why: reason.NoDesktop.Of()}
	case elsewhere != "":
		return mechanism.Offer{Why: reason.WayHere.Of(elsewhere)}
	case b.Option.Kind == behaviour.Native:
		return mechanism.Offer{Why: reason.NoStore.Of(b.Option.For)}
	case personal(m):
		return mechanism.Offer{Why: reason.NoSettingThere.Of(m.System.Title())}
	case b.Level == behaviour.Setting:
		return mechanism.Offer{Why: reason.ThisSetting.Of()}
	default:
		return mechanism.Offer{Why: reason.WayHere.Of("do this")}
	}
}
