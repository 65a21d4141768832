package plasma

import (
	"fmt"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/reason"
)

// buttons are the buttons of a mouse that kwin can have give keys, by its names for them in
// the group of kcminputrc: from Plasma 5.27 on, in a Wayland session. (KDE's announcement
// of Plasma 5.27; the settings module of a mouse.)
var buttons = map[string]string{"MouseBack": "ExtraButton1", "MouseForward": "ExtraButton2"}

const buttonGroup = "ButtonRebinds][Mouse"

// ofButton says how well a button of a mouse becomes a key or a chord.
func ofButton(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	to, ok := gives(b.Effect)
	switch {
	case buttons[b.Chord.Key.String()] == "" || b.Board != "" || b.Layer != "" || len(b.Apps) > 0 || !ok:
		return mechanism.Offer{Why: reason.PlasmaButtonsGiveKeys.Of()}
	case !desktop.Since(m, "5.27"):
		return mechanism.Offer{Why: reason.PlasmaButtonsFrom.Of()}
	case m.Session != "wayland":
		return mechanism.Offer{Why: reason.PlasmaButtonsWayland.Of()}
	}
	if _, left := accelerator.Spell(tags, to.Mods); left != 0 {
		return mechanism.Offer{Why: reason.NoSuchModifier.Of("Plasma's shortcuts", strings.Join(left.Names(), ", "))}
	}
	names, _ := spell(m, to)
	if len(names) == 0 {
		return mechanism.Offer{Why: reason.NoNameInPlasma.Of(to.String())}
	}
	for _, s := range accelerator.Translated(m.Layouts[0], to) {
		if _, shift, _ := qt(m, s); another(m, to, s, shift) != keys.None {
			return mechanism.Offer{Why: reason.PlasmaByCharacter.Of(another(m, to, s, shift), to)}
		}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: plan{
		file: "kcminputrc", key: "[" + buttonGroup + "]" + buttons[b.Chord.Key.String()],
		value: change.Text("Key," + names[0]),
	}}
}

// gives is what a button becomes.
func gives(e behaviour.Effect) (keys.Chord, bool) {
	switch e.Kind {
	case behaviour.Becomes:
		return keys.Chord{Key: e.Key}, !e.Key.IsModifier()
	case behaviour.Sends:
		return e.Chord, true
	default: // no key
	}
	return keys.Chord{}, false
}

// rebound reads what a button of a mouse gives.
func (r *reader) rebound(name, value string) error {
	text, ok := strings.CutPrefix(value, "Key,")
	for code, known := range buttons {
		if known != name || !ok {
			continue
		}
		k, _ := keys.ByCode(code)
		list, err := r.chords(text)
		if err != nil {
			return err
		}
		e := behaviour.Effect{Kind: behaviour.Sends, Chord: list[0]}
		if list[0].Mods == 0 {
			e = behaviour.Effect{Kind: behaviour.Becomes, Key: list[0].Key}
		}
		r.found.Add(mechanism.Binding{Chord: keys.Chord{Key: k}, Effect: e}, "is set twice")
		return nil
	}
	return fmt.Errorf("[%s] %s=%s is no button that we know", buttonGroup, name, value)
}
