// Package stock is the mechanism that writes nothing: what a system does on a chord by itself
// needs no file. It stands for systems on which no mechanism of ours sets the chords of what the
// system does; on Linux, the desktops' own mechanisms say the same in their settings, whatever
// the user had there.
//
// It holds as long as nobody has changed the chord in the system's settings, which no folder of
// ours can show.
//
// Sources: those of core/desktop's list of systems.
package stock

import (
	"io/fs"
	"sync"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is what a system does by itself.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "stock", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "the systems' public lists of their chords", When: mechanism.Already, Takes: "already, as long as nobody has changed it in " +
			"the settings",
		Everyone: true, Itself: true,
	}
}

// Serves says whether a machine's system is one whose chords we know by lists only.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System != machine.Linux }

// Asks says that what ends the session is done after a question: on each of these systems.
func (Mechanism) Asks(*mechanism.Machine, string) bool { return true }

// Calls is the name that the list of chords has for an action: its own.
func (Mechanism) Calls(action string) string { return action }

// Take says whether the system does an action on that very chord, starts a program by it, or types a character.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if o := typed(m, b); o.Verdict > mechanism.Unavailable {
		return o
	}
	launches := b.Effect.Kind == behaviour.Launches
	if b.Level != behaviour.Hotkey || b.Effect.Kind != behaviour.Acts && !launches || b.Board != "" || b.Layer != "" ||
		len(b.Then) > 0 ||
		len(b.Apps) > 0 {
		return mechanism.Offer{}
	}
	for _, u := range desktop.Stock(m) {
		switch {
		case launches && !u.IsLaunch(b.Effect.Launch()), !launches && u.Name != b.Effect.Action,
			!u.Chord.Overlaps(b.Chord):
		case u.But != "":
			return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.StockBut.Of(u.But)}
		default:
			return mechanism.Offer{Verdict: mechanism.Exact}
		}
	}
	return mechanism.Offer{}
}

// typed answers for a layer that is the state of the Option keys and is held by one of them, and for what the
// layouts type by themselves on a chord, or in that layer.
func typed(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	layered := mechanism.Offer{Verdict: mechanism.Limited, Why: reason.MacLayerIsOption.Of()}
	if b.Board != "" || len(b.Then)+len(b.Apps)+len(m.Assumed) > 0 {
		return mechanism.Offer{}
	}
	if e := b.Effect; e.Kind == behaviour.Layers {
		on, state := m.LayerState(e.Layer)
		option := on.Key.String() == "AltLeft" || on.Key.String() == "AltRight"
		if state == intent.OptionState && option && b.Layer == "" && b.Chord.Key == on.Key {
			return layered
		}
		return mechanism.Offer{}
	}
	held, offer := b.Chord.Mods, mechanism.Offer{Verdict: mechanism.Exact}
	if _, state := m.LayerState(b.Layer); state == intent.OptionState {
		held, offer = keys.Alt, layered
	} else if b.Level != behaviour.Hotkey || b.Layer != "" {
		return mechanism.Offer{}
	}
	for _, l := range m.Layouts {
		text, after := l.Type(keys.TypeState{}, b.Chord.Key, held)
		with, afterShift := l.Type(keys.TypeState{}, b.Chord.Key, held|keys.Shift)
		nothing := b.Layer != "" && b.Effect.Kind == behaviour.Nothing &&
			text+with+after.Accents+afterShift.Accents == ""
		if !nothing && (b.Effect.Kind != behaviour.Types || b.Effect.Text == "" || text != b.Effect.Text) {
			return mechanism.Offer{}
		}
	}
	return offer
}

// Write has nothing to write.
func (Mechanism) Write(*mechanism.Machine, []mechanism.Taken) (mechanism.Output, error) {
	return mechanism.Changed(nil), nil
}

// Read says which actions the system does by itself: no file is needed for them.
func (Mechanism) Read(m *mechanism.Machine, _ fs.FS) ([]mechanism.Binding, error) {
	var list []mechanism.Binding
	for _, u := range desktop.Stock(m) {
		if actions()[u.Name] {
			list = append(list, mechanism.Binding{
				Level: behaviour.Hotkey, Chord: u.Chord, Provenance: behaviour.Provenance{Kept: true},
				Effect: behaviour.Effect{Kind: behaviour.Acts, Action: u.Name},
			})
		}
	}
	return list, nil
}

// actions are the names that mappings have for what systems do.
var actions = sync.OnceValue(func() map[string]bool {
	names := map[string]bool{}
	for _, a := range action.All() {
		names[a.Name] = true
	}
	return names
})
