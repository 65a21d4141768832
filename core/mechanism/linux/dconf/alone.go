package dconf

import (
	"fmt"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// overlay is the key whose press alone shows GNOME's overview; the window manager does
// nothing else by a modifier alone.
const overlay = "/org/gnome/mutter/overlay-key"

// isModifierAlone says whether a binding is of modifiers alone.
func isModifierAlone(b mechanism.Binding) bool {
	return b.Level == behaviour.Hotkey && b.Chord.Key == keys.None && b.Board == "" && b.Layer == "" && len(b.Apps) == 0
}

// alone says how well a modifier alone lands.
func (t Mechanism) alone(b mechanism.Binding) mechanism.Offer {
	nothing, overview := b.Effect.Kind == behaviour.Nothing, b.Effect.Kind == behaviour.Acts &&
		b.Effect.Action == "overview"
	switch {
	case t.Desktop == "cinnamon":
		return mechanism.Offer{Why: reason.CinnamonMenuKeeps.Of()}
	case t.Desktop != "gnome":
		return mechanism.Offer{Why: reason.MateNotAlone.Of()}
	case b.Chord.Mods != keys.Meta || len(b.Then) > 0 || !nothing && !overview:
		return mechanism.Offer{Why: reason.GnomeOneAlone.Of()}
	case overview:
		return mechanism.Offer{
			Verdict: mechanism.Limited,
			Why:     reason.LeftOfTwo.Of(),
			Plan:    plan{set: map[string]change.Value{overlay: overlaid(b.Effect)}},
		}
	}
	return mechanism.Offer{
		Verdict: mechanism.Exact,
		Plan:    plan{set: map[string]change.Value{overlay: overlaid(b.Effect)}},
	}
}

// overlaid is the value of the overlay key.
func overlaid(e behaviour.Effect) change.Value {
	if e.Kind == behaviour.Nothing {
		return change.Text("")
	}
	return change.Text("Super_L")
}

// readOverlay reads the overlay key.
func (r *reader) readOverlay(v value) error {
	if v.kind != kindText || len(v.texts) != 1 {
		return fmt.Errorf("%s is of another type than the desktop's", overlay)
	}
	b := mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Meta}}
	switch v.texts[0] {
	case "":
		b.Effect = behaviour.Effect{Kind: behaviour.Nothing}
	case "Super_L":
		b.Effect = behaviour.Effect{Kind: behaviour.Acts, Action: "overview"}
	default:
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("leaves the overview to %q", v.texts[0])}
	}
	r.found.Add(b, "does one thing or another")
	return nil
}
