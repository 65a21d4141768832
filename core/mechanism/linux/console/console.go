// Package console writes and reads a keymap of the Linux text console, which loadkeys
// lays over the one that the console has, and a unit by which systemd does so at every
// start.
//
// The keymap says what a keycode gives under each set of Shift, AltGr, Ctrl and Alt:
// a character, a key of a terminal, a text, another console, or nothing. That is all
// that programs see, so a chord can become another one here, as long as terminals have
// a character for it; there is no Meta, no Hyper and no layer that takes no modifier,
// and no program is started. What a key is, a driver decides before (see hwdb). Loading
// needs an administrator, and holds for all consoles, not in graphical sessions.
//
// Sources: keymaps(5) and loadkeys(1) of kbd; the kernel's keyboard driver of virtual
// terminals, drivers/tty/vt/keyboard.c.
package console

import (
	"fmt"
	"strings"
	"unicode"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/octal"
	"leitstand/core/reason"
)

// Mechanism is the keymap of the text console.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "console", Stage: mechanism.Layout, Evidence: mechanism.Tested,
		Basis: "chords pressed on a kernel's console, and loadkeys' tables have each chord and text",
		When:  mechanism.AtOnce, Takes: "at once, and at every start", Everyone: true,
	}
}

// Serves says whether the machine is used by its text console.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Session == "console"
}

const (
	file = "console/leitstand.map"
	unit = "console/leitstand-console.service"
	// longest is how long a text may be, in bytes: the kernel takes 511.
	longest = 500
	// firstText to lastText are the numbers of the function keys that stand for texts;
	// those below have a meaning of their own.
	firstText, lastText = 100, 245
	// keycodes is how many keycodes the console has.
	keycodes = 256
)

// modifiers are the console's, in the order in which we write them.
var modifiers = []struct {
	mod  keys.Mods
	name string
}{{keys.Shift, "shift"}, {keys.AltGr, "altgr"}, {keys.Ctrl, "control"}, {keys.Alt, "alt"}}

// terminal is how keymaps call what terminals have keys for.
var terminal = map[string]string{
	"Escape": "Escape", "Tab": "Tab", "Enter": "Return", "Backspace": "Delete", "Space": "space", "Insert": "Insert",
	"Delete": "Remove",
	"Home":   "Find", "End": "Select", "PageUp": "Prior", "PageDown": "Next",
	"ArrowLeft": "Left", "ArrowRight": "Right", "ArrowUp": "Up", "ArrowDown": "Down",
	"F1": "F1", "F2": "F2", "F3": "F3", "F4": "F4", "F5": "F5", "F6": "F6", "F7": "F7", "F8": "F8", "F9": "F9",
	"F10": "F10",
	"F11": "F11", "F12": "F12", "F13": "F13", "F14": "F14", "F15": "F15", "F16": "F16", "F17": "F17", "F18": "F18",
	"F19": "F19", "F20": "F20",
}

// Take says how well a binding lands.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Level != behaviour.Hotkey || !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if !m.Admin {
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a keymap of the console")}
	}
	mods, left := prefix(b.Chord.Mods)
	code, ok := b.Chord.Key.Evdev()
	to := plan{press: fmt.Sprintf("%s keycode %d", mods, code)}
	switch {
	case left != 0:
		return mechanism.Offer{Why: reason.NoConsoleModifier.Of(left.Names()[0])}
	case !ok || code >= keycodes:
		return mechanism.Offer{Why: reason.NoConsoleKeycode.Of(b.Chord.Key)}
	}
	switch b.Effect.Kind {
	case behaviour.Nothing:
		to.gives = "VoidSymbol"
		return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
	case behaviour.Types:
		if len(b.Effect.Text) > longest || strings.ContainsRune(b.Effect.Text, 0) {
			return mechanism.Offer{Why: reason.ConsoleTextLong.Of(longest)}
		}
		to.text = b.Effect.Text
		return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
	case behaviour.Acts:
		if to.gives, ok = consoles(b.Effect.Action); ok {
			return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.WorkspaceIsConsole.Of(), Plan: to}
		}
		return mechanism.Offer{Why: reason.NoConsoleAction.Of()}
	case behaviour.Launches:
		return mechanism.Offer{Why: reason.NoConsolePrograms.Of()}
	case behaviour.Sends, behaviour.Becomes:
		return to.sends(m.Layouts[0], other(b.Effect))
	default: // the others are no keymap's
	}
	return mechanism.Offer{}
}

// plan is a press as a keymap spells it, and what it gives: a keysym, or a text.
type plan struct{ press, gives, text string }

// other is the chord that a press gives instead.
func other(e behaviour.Effect) keys.Chord {
	if e.Kind == behaviour.Becomes {
		return keys.Chord{Key: e.Key}
	}
	return e.Chord
}

// sends says how well the console gives another chord.
func (to plan) sends(l *keys.Layout, c keys.Chord) mechanism.Offer {
	name, ok := keysym(l, c)
	to.gives = name
	if !ok {
		return mechanism.Offer{Why: reason.NoTerminalCharacter.Of(c)}
	}
	if !strings.HasPrefix(name, "U+") {
		return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
	}
	r := typed(l, c)
	if at, _ := l.FindExact(r); at.Key != c.Key || at.Mods != c.Mods {
		return mechanism.Offer{Why: reason.ConsoleCharacterTwice.Of(string(r), keys.Chord{Mods: at.Mods, Key: at.Key})}
	}
	if unicode.IsLetter(r) {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.CapsLockLess.Of(), Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// typed is the character of a chord of Shift and AltGr, 0 for none.
func typed(l *keys.Layout, c keys.Chord) rune {
	level := 0
	if c.Mods.Has(keys.Shift) {
		level++
	}
	if c.Mods.Has(keys.AltGr) {
		level += 2
	}
	if types := l.Characters(c.Key); c.Mods&^(keys.Shift|keys.AltGr) == 0 && level < len(types) {
		return types[level]
	}
	return 0
}

// keysym is how a keymap calls what a chord gives to a terminal, false for a chord
// that gives it nothing of its own.
func keysym(l *keys.Layout, c keys.Chord) (string, bool) {
	if name, ok := terminal[c.Key.String()]; ok && c.Mods == 0 {
		return name, true
	}
	if r := typed(l, c); r > ' ' {
		return fmt.Sprintf("U+%04x", r), true
	}
	if r := typed(l, keys.Chord{Key: c.Key, Mods: c.Mods & keys.Shift}); r|0x20 >= 'a' && r|0x20 <= 'z' {
		switch c.Mods &^ keys.Shift {
		case keys.Ctrl:
			return "Control_" + string(r), !c.Mods.Has(keys.Shift)
		case keys.Alt:
			return "Meta_" + string(r), true
		case keys.Ctrl | keys.Alt:
			return "Meta_Control_" + string(r), !c.Mods.Has(keys.Shift)
		}
	}
	return "", false
}

// consoles is the keysym of an action that changes the console.
func consoles(name string) (string, bool) {
	switch base, n, _ := action.Number(name); {
	case name == "next-workspace":
		return "Incr_Console", true
	case name == "previous-workspace":
		return "Decr_Console", true
	case base == "workspace":
		return fmt.Sprintf("Console_%d", n), true
	}
	return "", false
}

// prefix is how a keymap spells modifiers, and those that the console does not have.
func prefix(mods keys.Mods) (text string, left keys.Mods) {
	var names []string
	for _, m := range modifiers {
		if mods.Has(m.mod) {
			names = append(names, m.name)
			mods &^= m.mod
		}
	}
	if len(names) == 0 {
		names = []string{"plain"}
	}
	return strings.Join(names, " "), mods
}

// Write makes the keymap and the unit that loads it.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var text, strs strings.Builder
	text.WriteString("# The keyboard mapping of the text console; loadkeys reads it.\n")
	numbers := map[string]int{}
	for _, b := range list {
		to := b.Plan.(plan)
		if to.text != "" {
			n, known := numbers[to.text]
			if !known {
				if n = firstText + len(numbers); n > lastText {
					return mechanism.Output{}, fmt.Errorf(
						"the console holds %d texts, and the mapping has more", lastText-firstText+1,
					)
				}
				numbers[to.text] = n
				fmt.Fprintf(&strs, "string F%d = %s\n", n, octal.Quote(to.text))
			}
			to.gives = fmt.Sprintf("F%d", n)
		}
		fmt.Fprintf(&text, "%s = %s\n", to.press, to.gives)
	}
	text.WriteString(strs.String())
	about := change.About{Serves: mechanism.Presses(list), Everyone: true,
		Says: "As an administrator, copy the keymap and the unit that loads it at every start, and have it " +
			"loaded now.",
		Unsays: "Delete the keymap and the unit, and restart the machine.",
	}
	keymap, start := about, about
	keymap.In, start.In = file, unit
	return mechanism.Changed([]change.Change{
		change.File{About: keymap, Path: "/etc/leitstand/console.map", Data: []byte(text.String())},
		change.File{About: start, Path: "/etc/systemd/system/leitstand-console.service", Data: []byte(service)},
		change.NewCall(about, "console-units"),
		change.NewCall(about, "console-enable"),
		change.NewCall(about, "console-restart"),
	}), nil
}

// service lays the keymap over that of the distribution, whichever program loads that.
const service = `[Unit]
Description=Keyboard mapping of the text console
After=systemd-vconsole-setup.service console-setup.service keyboard-setup.service

[Service]
Type=oneshot
RemainAfterExit=yes
ExecStart=loadkeys /etc/leitstand/console.map

[Install]
WantedBy=multi-user.target
`
