// Package xkb writes and reads keyboard layouts of the X Keyboard Extension.
//
// A Wayland session gets an option, leitstand:mapping, in the user's own XKB
// folder ~/.config/xkb, which libxkbcommon reads when the compositor loads its
// keymap: at log-in, or when the option is switched on. An X11 session gets a
// complete keymap, which xkbcomp loads into the server at log-in.
//
// A layout changes what a key means, not which key it is: programs that look at
// keycodes (games, virtual machines, the code of a browser's key events) see the
// old key. It holds for all boards alike, and not on the text console. On the
// log-in screen it does not hold either, since that belongs to another user.
//
// Sources: the X Keyboard Extension protocol; libxkbcommon's "XKB text format"
// and "user configuration"; xkeyboard-config's rules/evdev.
package xkb

import (
	"fmt"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/target"
)

// Target is the layout stage of a Linux desktop.
type Target struct{}

// Facts describes the mechanism.
func (Target) Facts() target.Facts {
	return target.Facts{
		Name: "xkb", Stage: target.Layout, Evidence: target.Pressed,
		Basis: "keys pressed in an X server; the option compiled by libxkbcommon",
		Takes: "at log-in",
	}
}

// Serves says whether the machine has layouts of this kind.
func (Target) Serves(m *target.Machine) bool {
	return m.System == mapping.Linux && m.Session != "console"
}

const keycodesDiffer = "programs that look at keycodes (games, virtual machines) still see the old key"

// Take says how well a binding lands in a layout.
func (Target) Take(m *target.Machine, b target.Binding) target.Answer {
	if !target.Plain(b) {
		return target.Answer{}
	}
	if b.Level != behaviour.Position {
		return target.Answer{}
	}
	from, ok := b.Chord.Key.XKB()
	switch {
	case !ok:
		return target.Answer{Words: fmt.Sprintf("%s does not reach the layout", b.Chord.Key)}
	case b.Board != "":
		return target.Answer{Words: "a layout holds for all boards alike"}
	}
	code, _ := b.Chord.Key.Evdev()
	if code > 247 {
		return target.Answer{Words: fmt.Sprintf("X11 sees no key beyond evdev code 247, and %s is %d", from, code)}
	}
	switch b.Effect.Kind {
	case behaviour.Modifier:
		if b.Effect.Mods == keys.Hyper {
			return target.Answer{Verdict: target.Exact}
		}
		if _, ok := setMods(b.Effect.Mods); !ok {
			return target.Answer{Words: "a key cannot hold " + strings.Join(b.Effect.Mods.Names(), "+") + " in a layout"}
		}
		return target.Answer{Verdict: target.Near, Words: "Hyper is " + strings.Join(b.Effect.Mods.Names(), "+") + " here"}
	case behaviour.Becomes:
		if _, ok := m.Layouts[0].Symbols(b.Effect.Key); !ok {
			return target.Answer{Words: fmt.Sprintf("layout %s gives %s no meaning", m.Layouts[0].Name, b.Effect.Key)}
		}
		return target.Answer{Verdict: target.Near, Words: keycodesDiffer}
	case behaviour.Nothing:
		return target.Answer{Verdict: target.Near, Words: keycodesDiffer}
	}
	return target.Answer{}
}

// setMods is the action of a key that holds modifiers.
func setMods(mods keys.Mods) (string, bool) {
	var names []string
	for _, m := range []struct {
		mod  keys.Mods
		name string
	}{{keys.Shift, "Shift"}, {keys.Ctrl, "Control"}, {keys.Alt, "Alt"}, {keys.Meta, "Super"}, {keys.AltGr, "LevelThree"}} {
		if mods.Has(m.mod) {
			names = append(names, m.name)
			mods &^= m.mod
		}
	}
	return "SetMods(modifiers=" + strings.Join(names, "+") + ")", mods == 0 && len(names) > 0
}

// sessions says which kinds of session the machine may run.
func sessions(m *intent.Machine) (wayland, x11 bool) {
	return m.Session != "x11", m.Session != "wayland"
}
