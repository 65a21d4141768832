// Package byhand is the mechanism of last resort: somebody who follows written
// steps. It covers settings that exist in a system's panels but in no file that
// a program could write: the modifier keys of iPadOS and ChromeOS, and a Mac's
// keyboard shortcuts for programs, which its Shortcuts app keeps to itself. On an iPad a shortcut
// has keys by Full Keyboard Access, which gives Tab and the arrow keys other meanings as well.
//
// Sources: Apple, "Use an external keyboard with iPad: change the modifier
// keys", "Use Full Keyboard Access on iPad", "Use text replacements on iPad" and "Run a shortcut with a
// keyboard shortcut"; Google, "Chromebook
// keyboard shortcuts: change your keyboard settings".
package byhand

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"mvdan.cc/sh/v3/syntax"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
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
		Name: "steps", Stage: mechanism.Person, Evidence: mechanism.Documented,
		Basis: "the systems' public manuals",
		When:  mechanism.Steps, Takes: "when the steps are done",
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
	if o, ok := inSettings(m, b); ok {
		return o
	}
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if m.System == machine.ChromeOS && isButton(b.Chord) {
		if e := b.Effect.Kind; e == behaviour.Sends || e == behaviour.Becomes {
			return byHand(m, b, reason.ByMousePanel.Of())
		}
		return mechanism.Offer{Why: reason.MousePanelChords.Of(b.Chord.Key)}
	}
	if b.Level == behaviour.Hotkey && b.Chord.Key.Section() == keys.Mouse {
		return mechanism.Offer{Why: reason.ShortcutsOfKeys.Of(b.Chord.Key)}
	}
	if b.Effect.Kind == behaviour.Acts && m.System == machine.ChromeOS && b.Level == behaviour.Hotkey {
		if shortcut(m, b.Effect.Action) == "" {
			return mechanism.Offer{}
		}
		return byHand(m, b, reason.ByKeyShortcuts.Of())
	}
	if b.Effect.Kind == behaviour.Launches {
		switch l := b.Effect.Launch(); {
		case m.System == machine.ChromeOS && shelf(b.Chord) != 0 && len(l.Command) == 0:
			return byHand(m, b, reason.ByShelf.Of(b.Chord, shelf(b.Chord)))
		case m.System == machine.ChromeOS:
			return mechanism.Offer{Why: reason.NoHotkeysThere.Of(m.System.Title())}
		case m.System == machine.IPadOS && len(l.Command) > 0:
			return mechanism.Offer{Why: reason.NoCommandsThere.Of(m.System.Title())}
		}
		const can = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta
		if left := b.Chord.Mods &^ can; left != 0 {
			return mechanism.Offer{Why: reason.ShortcutsModifiers.Of(strings.Join(left.Names(), ", "))}
		}
		if b.Chord.Mods == 0 && b.Chord.Key.Section() != keys.Function {
			return mechanism.Offer{Why: reason.ShortcutsWantModifier.Of()}
		}
		if m.System == machine.IPadOS {
			return byHand(m, b, reason.ByFullKeyboardAccess.Of())
		}
		for _, u := range desktop.Numbered(m) { // which go before the app's
			if u.Chord.Key != keys.None && u.Chord.Overlaps(b.Chord) && !b.Override {
				return mechanism.Offer{Why: reason.MacOwned.Of(b.Chord, u.Words)}
			}
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

// shortcut is what a system does, in words, where its settings give it other chords; "" for nothing.
func shortcut(m *mechanism.Machine, action string) string {
	for _, u := range desktop.Stock(m) {
		if u.Name == action && !u.Fixed {
			return u.Words
		}
	}
	return ""
}

// isButton says whether a chord is a button of a mouse alone, other than the two that everything is done with.
func isButton(c keys.Chord) bool {
	return c.Mods == 0 && slices.Contains(keys.Buttons(), c.Key) && c.Key.String() != "MouseLeft" &&
		c.Key.String() != "MouseRight"
}

// shelf is the place on the shelf whose program a chord of ChromeOS starts, 0 for none.
func shelf(c keys.Chord) int {
	digit, ok := strings.CutPrefix(c.Key.String(), "Digit")
	if !ok || c.Mods != keys.Alt || digit < "1" || digit > "8" {
		return 0
	}
	return int(digit[0] - '0')
}

// inSettings answers for what is no press: how keys repeat, and abbreviations.
func inSettings(m *mechanism.Machine, b mechanism.Binding) (o mechanism.Offer, ok bool) {
	if m.System == machine.MacOS || b.Board != "" || len(b.Apps) > 0 {
		return o, false
	}
	switch {
	case b.Option.Kind == behaviour.RepeatDelay || b.Option.Kind == behaviour.RepeatRate:
		return byHand(m, b, reason.BySlider.Of()), true
	case b.Level != behaviour.Typing || b.Effect.Kind != behaviour.Types || m.System != machine.IPadOS:
	case strings.ContainsFunc(b.Word+b.Effect.Text, unicode.IsControl):
		return mechanism.Offer{Why: reason.ReplacementOneLine.Of()}, true
	default:
		return byHand(m, b, reason.ByTextReplacement.Of()), true
	}
	return o, false
}

// byHand offers what a person is told.
func byHand(m *mechanism.Machine, b mechanism.Binding, why reason.List) mechanism.Offer {
	h, err := step(m, b)
	if err != nil {
		return mechanism.Offer{Why: reason.CommandNotHeld.Of("a line of the shell", err)}
	}
	return mechanism.Offer{Verdict: mechanism.Manual, Why: why, Plan: h}
}

// Write makes steps and no file.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
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
	switch {
	case b.Level == behaviour.Setting:
		return slider(m, b), nil
	case b.Level == behaviour.Typing:
		h.Says = "In Settings, General, Keyboard, **Text Replacement**, add the first line as the phrase, and the second as " +
			"its shortcut."
		h.Unsays = fmt.Sprintf("In Settings, General, Keyboard, **Text Replacement**, take out `%s`.", b.Word)
		h.Lines = []string{b.Effect.Text, b.Word}
		return h, nil
	case b.Effect.Kind == behaviour.Acts:
		h.Says = fmt.Sprintf(
			"In Settings, Device, Keyboard and inputs, **View keyboard shortcuts**, look for what %s, and give it "+
				"**%s** as well.",
			shortcut(m, b.Effect.Action),
			b.Chord,
		)
		h.Unsays = fmt.Sprintf(
			"In Settings, Device, Keyboard and inputs, **View keyboard shortcuts**, take **%s** from what %s.",
			b.Chord,
			shortcut(m, b.Effect.Action),
		)
		return h, nil
	case m.System == machine.ChromeOS && isButton(b.Chord):
		to := b.Effect.Chord
		if b.Effect.Kind == behaviour.Becomes {
			to = keys.Chord{Key: b.Effect.Key}
		}
		h.Says = fmt.Sprintf(
			"In Settings, Device, **Mouse**, customize the buttons: press the button %s, choose **Key combination**, and "+
				"press **%s**.",
			b.Chord.Key, to,
		)
		h.Unsays = fmt.Sprintf("In Settings, Device, **Mouse**, set the button %s to its default.", b.Chord.Key)
		return h, nil
	case m.System == machine.ChromeOS && b.Effect.Kind == behaviour.Launches:
		what := b.Effect.Launch().App + b.Effect.Launch().Open
		h.Says = fmt.Sprintf(
			"Install `%s` as an app if it is none yet, pin it to the shelf, and drag it to place %d.",
			what,
			shelf(b.Chord),
		)
		h.Unsays = fmt.Sprintf("Unpin `%s` from the shelf.", what)
		return h, nil
	case b.Effect.Kind != behaviour.Launches:
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
	return launchStep(m, b)
}

// launchStep is how a program gets a chord in the Shortcuts app.
func launchStep(m *mechanism.Machine, b mechanism.Binding) (h change.Hand, err error) {
	does := ""
	switch l := b.Effect.Launch(); {
	case l.App != "" && m.System == machine.IPadOS:
		does = fmt.Sprintf("the action **Open App** with the program whose identifier is `%s`", l.App)
	case l.App != "":
		does = fmt.Sprintf(
			"the action **Open App** with the program whose identifier is `%s` (the list there has names; "+
				"`mdfind 'kMDItemCFBundleIdentifier == \"%s\"'` shows it)",
			l.App,
			l.App,
		)
	case l.Open != "":
		does = fmt.Sprintf("the action **Open URLs** with `%s`", l.Open)
	default:
		line, err := shellLine(l)
		if err != nil {
			return h, err
		}
		does, h.Lines = "the action **Run Shell Script** with this line (which the app's settings allow under Advanced, "+
			"**Allow Running Scripts**)", []string{
			line,
		}
	}
	if b.Effect.Launch().Confirm {
		does = "the action **Show Alert**, with its cancel button, and then " + does
	}
	chord := macChord(m, b.Chord)
	const make = "In the Shortcuts app, make a shortcut of "
	if m.System == machine.IPadOS {
		h.Says = fmt.Sprintf(
			make+"%s. In Settings, Accessibility, Keyboards (Keyboards & Typing on newer systems), switch **Full Keyboard Access** on, and under "+
				"**Commands** give the shortcut the keys **%s**.",
			does,
			chord,
		)
		h.Unsays = fmt.Sprintf(
			"In the Shortcuts app, delete the shortcut with the keys **%s**, and switch **Full Keyboard "+
				"Access** off if you do not use it.",
			chord,
		)
		return h, nil
	}
	h.Says = fmt.Sprintf(make+"%s; in its details, choose **Add Keyboard Shortcut** and press **%s**.", does, chord)
	h.Unsays = fmt.Sprintf("In the Shortcuts app, delete the shortcut with the keyboard shortcut **%s**.", chord)
	return h, nil
}

// slider says how keys repeat in a system's own words.
func slider(m *mechanism.Machine, b mechanism.Binding) (h change.Hand) {
	where, delay, rate := "In Settings, Accessibility, Keyboards (Keyboards & Typing on newer systems), **Key Repeat**", "Delay Until Repeat", "Key Repeat Interval"
	if m.System == machine.ChromeOS {
		where, delay, rate = "In Settings, Device, Keyboard and inputs, **Enable keyboard auto-repeat**",
			"Delay before repeat", "Repeat rate"
	}
	name, to := delay, fmt.Sprintf("%d ms", b.Effect.Delay())
	if b.Option.Kind == behaviour.RepeatRate {
		name, to = rate, fmt.Sprintf("%d times a second (one in %.3f s)", b.Effect.Rate(), 1/float64(b.Effect.Rate()))
	}
	h.Says = fmt.Sprintf("%s, set **%s** as near to %s as it goes.", where, name, to)
	h.Unsays = fmt.Sprintf("%s, set **%s** back to what it was.", where, name)
	return h
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
