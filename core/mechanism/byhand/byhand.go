// Package byhand is the mechanism of last resort: somebody who follows written
// steps. It covers settings that exist in a system's panels but in no file that
// a program could write: the modifier keys of iPadOS and ChromeOS, and a Mac's
// keyboard shortcuts for programs, which its Shortcuts app keeps to itself.
//
// Sources: Apple, "Use an external keyboard with iPad: change the modifier
// keys" and "Run a shortcut with a keyboard shortcut"; Google, "Chromebook
// keyboard shortcuts: change your keyboard settings".
package byhand

import (
	"fmt"
	"slices"
	"strings"

	"mvdan.cc/sh/v3/syntax"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the stage of a person at the machine.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "steps", Stage: mechanism.Person, Evidence: mechanism.Modelled,
		Basis: "the systems' public manuals",
		Takes: "when the steps are done",
	}
}

// Serves says whether the system has settings that are reached by hand only.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System != machine.Linux && m.System != machine.Windows
}

// panel is a system's setting for modifier keys.
type panel struct {
	from, to map[string]string // key codes without their side, and the panel's words
	nothing  string
	words    string
}

var panels = map[machine.System]panel{
	machine.IPadOS: {
		from: map[string]string{
			"CapsLock": "Caps Lock",
			"Control":  "Control",
			"Alt":      "Option",
			"Meta":     "Command",
			"Fn":       "Globe",
		},
		to: map[string]string{
			"CapsLock": "Caps Lock",
			"Control":  "Control",
			"Alt":      "Option",
			"Meta":     "Command",
			"Fn":       "Globe",
			"Escape":   "Escape",
		},
		nothing: "No Action",
		words:   "In Settings, General, Keyboard, Hardware Keyboard, Modifier Keys (shown while a board is attached)",
	},
	machine.ChromeOS: {
		from: map[string]string{
			"CapsLock":  "Caps Lock",
			"Control":   "Ctrl",
			"Alt":       "Alt",
			"Meta":      "Launcher",
			"Escape":    "Escape",
			"Backspace": "Backspace",
		},
		to: map[string]string{
			"CapsLock":  "Caps Lock",
			"Control":   "Ctrl",
			"Alt":       "Alt",
			"Meta":      "Launcher",
			"Escape":    "Escape",
			"Backspace": "Backspace",
		},
		nothing: "Disabled",
		words:   "In Settings, Device, Keyboard and inputs, Customize keyboard keys",
	},
}

// sideless is a key's code without its side, and whether it had one.
func sideless(k keys.Key) (string, bool) {
	code := k.String()
	for _, side := range []string{"Left", "Right"} {
		if base := strings.TrimSuffix(code, side); base != code &&
			slices.Contains([]string{"Control", "Alt", "Meta", "Shift"}, base) {
			return base, true
		}
	}
	return code, false
}

// Take says whether there is a setting for a binding.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if b.Effect.Kind == behaviour.Launches {
		if m.System != machine.MacOS {
			return mechanism.Offer{Why: reason.NoHotkeysThere.Of(m.System.Title())}
		}
		const can = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta
		if left := b.Chord.Mods &^ can; left != 0 {
			return mechanism.Offer{Why: reason.ShortcutsModifiers.Of(strings.Join(left.Names(), ", "))}
		}
		if b.Chord.Mods == 0 && b.Chord.Key.Section() != keys.Function {
			return mechanism.Offer{Why: reason.ShortcutsWantModifier.Of()}
		}
		return byHand(m, b, reason.ByShortcutsApp.Of())
	}
	p, ok := panels[m.System]
	if !ok || b.Level != behaviour.Position {
		return mechanism.Offer{}
	}
	from, sided := sideless(b.Chord.Key)
	why := reason.ByPanel.Of()
	if sided {
		why = reason.ByPanelBothSides.Of()
	}
	if _, ok := p.from[from]; !ok {
		return mechanism.Offer{Why: reason.PanelModifiersOnly.Of(m.System.Title(), b.Chord.Key)}
	}
	switch b.Effect.Kind {
	case behaviour.Nothing:
		return byHand(m, b, why)
	case behaviour.Becomes:
		to, _ := sideless(b.Effect.Key)
		if _, ok := p.to[to]; ok {
			return byHand(m, b, why)
		}
		return mechanism.Offer{Why: reason.PanelNotThat.Of(m.System.Title(), b.Effect.Key)}
	default: // no panel has the others
	}
	if b.Effect.Kind == behaviour.Modifier {
		return mechanism.Offer{Why: reason.NoHyper.Of(m.System.Title())}
	}
	return mechanism.Offer{}
}

// byHand offers what a person is told.
func byHand(m *mechanism.Machine, b mechanism.Binding, why reason.List) mechanism.Offer {
	h, err := step(m, b)
	if err != nil {
		return mechanism.Offer{Why: reason.CommandNotHeld.Of("a line of the shell", err)}
	}
	return mechanism.Offer{Verdict: mechanism.ByHand, Why: why, Plan: h}
}

// Write makes steps and no file.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	list = mechanism.Sorted(list)
	var changes []change.Change
	at := map[string]int{}
	for _, b := range list {
		h := b.Plan.(change.Hand)
		// A panel without sides has one line for both keys.
		if i, said := at[h.Says]; said {
			other := changes[i].(change.Hand)
			other.Serves = append(other.Serves, b.Press())
			changes[i] = other
			continue
		}
		at[h.Says] = len(changes)
		h.Serves = []string{b.Press()}
		changes = append(changes, h)
	}
	return mechanism.Changed(changes), nil
}

func step(m *mechanism.Machine, b mechanism.Binding) (change.Hand, error) {
	var h change.Hand
	if b.Effect.Kind != behaviour.Launches {
		p := panels[m.System]
		from, _ := sideless(b.Chord.Key)
		to := p.nothing
		if b.Effect.Kind == behaviour.Becomes {
			k, _ := sideless(b.Effect.Key)
			to = p.to[k]
		}
		board := ""
		if b.Board != "" {
			board = " for the board " + b.Board
		}
		h.Says = fmt.Sprintf("%s, set **%s** to **%s**%s.", p.words, p.from[from], to, board)
		h.Unsays = fmt.Sprintf(
			"%s, set **%s** back to what it was (**%s** when nobody has changed it)%s.", p.words, p.from[from],
			p.from[from], board,
		)
		return h, nil
	}
	does := ""
	switch l := b.Effect.Launch; {
	case l.App != "":
		does = fmt.Sprintf("the action **Open App** with the program `%s`", l.App)
	case l.Open != "":
		does = fmt.Sprintf("the action **Open URLs** with `%s`", l.Open)
	default:
		line, err := shellLine(l)
		if err != nil {
			return h, err
		}
		does, h.Lines = "the action **Run Shell Script** with this line", []string{line}
	}
	if b.Effect.Launch.Confirm {
		does = "the action **Show Alert**, with its cancel button, and then " + does
	}
	chord := macChord(m, b.Chord)
	h.Says = fmt.Sprintf(
		"In the Shortcuts app, make a shortcut of %s; in its details, choose **Add Keyboard Shortcut** and press **%s**.",
		does, chord,
	)
	h.Unsays = fmt.Sprintf("In the Shortcuts app, delete the shortcut with the keyboard shortcut **%s**.", chord)
	return h, nil
}

func shellLine(l behaviour.Launch) (string, error) {
	words := make([]string, len(l.Command))
	var err error
	for i, w := range l.Command {
		if words[i], err = syntax.Quote(w, syntax.LangBash); err != nil {
			return "", err
		}
	}
	line := strings.Join(words, " ")
	if l.Dir != "" {
		dir, err := syntax.Quote(l.Dir, syntax.LangBash)
		if err != nil {
			return "", err
		}
		line = "cd " + dir + " && " + line
	}
	return line, nil
}

// macChord is a chord in a Mac's own words and order, the key by what its cap
// should say.
func macChord(m *mechanism.Machine, c keys.Chord) string {
	var parts []string
	for _, m := range []struct {
		mod  keys.Mods
		word string
	}{{keys.Ctrl, "Control"}, {keys.Alt, "Option"}, {keys.Shift, "Shift"}, {keys.Meta, "Command"}} {
		if c.Mods.Has(m.mod) {
			parts = append(parts, m.word)
		}
	}
	return strings.Join(append(parts, m.Layouts[0].Cap(c.Key)), "-")
}
