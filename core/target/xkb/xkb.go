// Package xkb writes and reads keyboard layouts of the X Keyboard Extension.
//
// A Wayland session gets an option, leitstand:mapping, in the user's own XKB
// folder ~/.config/xkb, which libxkbcommon reads when the compositor loads its
// keymap: at log-in, or when the option is switched on. An X11 session gets a
// complete keymap, which xkbcomp loads into the server at log-in.
//
// A layout changes what a key means, not which key it is: programs that look at
// keycodes (games, virtual machines, the code of a browser's key events) see the
// old key. It does not hold on the text console, and not on the log-in screen, which
// belongs to another user. In an X11 session and under sway a board may have a layout of
// its own; elsewhere a layout holds for all boards alike.
//
// A layer is one more group of the keymap for each of the machine's layouts. XKB has
// four groups, so two layouts leave room for one layer, one layout for three.
//
// Sources: the X Keyboard Extension protocol; libxkbcommon's "XKB text format"
// and "user configuration"; xkeyboard-config's rules/evdev.
package xkb

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/target"
)

// Target is the layout stage of a Linux desktop.
type Target struct{}

// Facts describes the mechanism.
func (Target) Facts() target.Facts {
	return target.Facts{
		Name: "xkb", Stage: target.Layout, Evidence: target.Pressed,
		Basis: "keys pressed in an X server, under sway and in sessions of GNOME and Plasma on Wayland; the option compiled by libxkbcommon",
		Takes: "at log-in",
	}
}

// Serves says whether the machine has layouts of this kind.
func (Target) Serves(m *target.Machine) bool {
	return m.System == machine.Linux && m.Session != "console"
}

// KeycodesDiffer is the difference that there is where a layout changes what a key means
// and not which key it is.
const KeycodesDiffer = "programs that look at keycodes (games, virtual machines) still see the old key"

// Take says how well a binding lands in a layout.
func (Target) Take(m *target.Machine, b target.Binding) target.Answer {
	if o := deeper(m, b.Chord.Key); o != "" && b.Level <= behaviour.Hotkey {
		return target.Answer{Words: fmt.Sprintf("option %s makes more of %s than keysyms, and a layout cannot take that back", o, b.Chord.Key)}
	}
	if c, ok := asChord(m, b); ok {
		return takeEditing(m, c)
	}
	if b.Board != "" && b.Level == behaviour.Position {
		return ofBoard(m, b)
	}
	if b.Level == behaviour.Hotkey && (b.Effect.Kind == behaviour.Sends || b.Effect.Kind == behaviour.Becomes) && target.Plain(b) {
		return otherChord(m, b)
	}
	inLayer := b.Layer != ""
	b.Layer = ""
	if !target.Plain(b) || b.Level != behaviour.Position {
		return target.Answer{}
	}
	from, ok := b.Chord.Key.XKB()
	if !ok {
		return target.Answer{Words: fmt.Sprintf("%s does not reach the layout", b.Chord.Key)}
	}
	if o := deeper(m, b.Effect.Key); o != "" && b.Effect.Kind == behaviour.Becomes {
		return target.Answer{Words: fmt.Sprintf("option %s makes more of %s than keysyms, and a layout cannot do the same with another key", o, b.Effect.Key)}
	}
	if sym, two := alike(m, b.Chord.Key); two {
		return target.Answer{Words: fmt.Sprintf("two keys give %s, by an option, and the other would become the modifier", sym)}
	}
	code, _ := b.Chord.Key.Evdev()
	if code > 247 {
		return target.Answer{Words: fmt.Sprintf("X11 sees no key beyond evdev code 247, and %s is %d", from, code)}
	}
	if kind := b.Effect.Kind; inLayer || kind == behaviour.Layers || kind == behaviour.TapHold && b.Effect.Hold.Kind == behaviour.Layers {
		return layered(m, b, inLayer)
	}
	switch b.Effect.Kind {
	case behaviour.Sends:
		return chordOfKey(m, b, false)
	case behaviour.Modifier:
		if b.Effect.Mods == keys.Hyper {
			return hyper(m)
		}
		if _, ok := setMods(b.Effect.Mods); !ok {
			return target.Answer{Words: "a key cannot hold " + strings.Join(b.Effect.Mods.Names(), "+") + " in a layout"}
		}
		return target.Answer{Verdict: target.Near, Words: "Hyper is " + strings.Join(b.Effect.Mods.Names(), "+") + " here"}
	case behaviour.Becomes:
		if _, ok := m.Layouts[0].Symbols(b.Effect.Key); !ok {
			return target.Answer{Words: fmt.Sprintf("layout %s gives %s no meaning", m.Layouts[0].Name, b.Effect.Key)}
		}
		if s, _ := m.Layouts[0].Symbols(b.Effect.Key); strings.HasPrefix(s.Level[0], "Hyper_") {
			return target.Answer{Words: fmt.Sprintf("%s is Hyper by an option, and a layout makes no other key that Hyper", b.Effect.Key)}
		}
		if wayland, _ := sessions(m); wayland && leavesOpen(m, b.Chord.Key, b.Effect.Key) {
			return target.Answer{Words: fmt.Sprintf("%s gives nothing on a level where %s gives a sign, which libxkbcommon keeps there", b.Effect.Key, b.Chord.Key)}
		}
		if sym, two := alike(m, b.Effect.Key); two {
			return target.Answer{Words: fmt.Sprintf("two keys give %s, by an option, and only the first of them is the modifier", sym)}
		}
		return target.Answer{Verdict: target.Near, Words: KeycodesDiffer}
	case behaviour.Nothing, behaviour.Composes:
		return target.Answer{Verdict: target.Near, Words: KeycodesDiffer}
	case behaviour.Types:
		return typesOne(b.Effect)
	default: // the others are no layout's
	}
	return target.Answer{}
}

// typesOne says how well a key types a text: a layout has a character for a key.
func typesOne(e behaviour.Effect) target.Answer {
	if len([]rune(e.Text)) == 1 {
		return target.Answer{Verdict: target.Exact}
	}
	return target.Answer{Words: "a key of a layout types one character"}
}

// leavesOpen says whether a key gives nothing on a level on which the key that is to act as it
// gives something: laid over that, nothing is no change.
func leavesOpen(m *target.Machine, from, to keys.Key) bool {
	for g := range m.Layouts {
		over, _ := m.Symbols(g, to)
		under, _ := m.Symbols(g, from)
		for i, sym := range over.Level {
			if sym == "NoSymbol" && i < len(under.Level) && under.Level[i] != "NoSymbol" {
				return true
			}
		}
	}
	return false
}

// alike says whether another key gives the same modifier's keysym as a key does.
func alike(m *target.Machine, k keys.Key) (sym string, two bool) {
	s, ok := m.Layouts[0].Symbols(k)
	if !ok || len(m.Options) == 0 || keys.RealModifier(s.Level[0]) == "" {
		return "", false
	}
	givers := slices.Concat(m.Layouts[0].Giving(s.Level[0], 0), m.Layouts[0].Giving(s.Level[0], 1))
	return s.Level[0], slices.ContainsFunc(givers, func(o keys.Key) bool { return o != k })
}

// hyper says how well a key can be Hyper. We put it on Mod3, which nothing else uses as
// xkeyboard-config comes; options may have it, or Hyper, already.
func hyper(m *target.Machine) target.Answer {
	for _, o := range m.Layouts[0].Extra.Options {
		if o.Touches("Mod3") || slices.ContainsFunc([]string{"Hyper_L", "Hyper_R", "ISO_Level5_Shift", "ISO_Level5_Latch"}, o.Touches) {
			return target.Answer{Words: fmt.Sprintf("option %s has made other keys Hyper, or the modifier Mod3 its own", o.Name)}
		}
	}
	for _, l := range m.Layouts {
		if l.FifthLevel() {
			return target.Answer{Words: fmt.Sprintf("layout %s has its fifth level on Mod3, the one modifier that Hyper could have", l.Name)}
		}
	}
	return target.Answer{Verdict: target.Exact}
}

// thirdTaken says whether a key may turn Mod3 on that is not our Hyper.
func thirdTaken(m *target.Machine) bool { return hyper(m).Verdict != target.Exact }

// deeper names an option of the machine that gives a key modifiers or actions by the
// key's name, "" if there is none.
func deeper(m *target.Machine, k keys.Key) string {
	if k == keys.None {
		return ""
	}
	name, ok := k.XKB()
	extra := m.Layouts[0].Extra
	if !ok || extra.Joins[name] == nil && extra.Virtual[name] == nil && extra.Actions[name] == nil {
		return ""
	}
	for _, o := range extra.Options {
		if o.Touches(name) {
			return o.Name
		}
	}
	return ""
}

// mostGroups is how many groups a key can have.
const mostGroups = 4

// layered says how well a key that switches a layer on lands, or one that has a
// meaning in it. A layer is one more group for each of the machine's layouts: that
// takes no modifier from anybody, so Shift, AltGr and Hyper stay what they are.
func layered(m *target.Machine, b target.Binding, inLayer bool) target.Answer {
	e := b.Effect
	passes := ""
	if len(m.Layouts) > 1 && e.Kind == behaviour.Layers {
		passes = "; a key that switches to the next layout passes through the layer as well"
	}
	switch {
	case inLayer && m.IsModifier(b.Chord.Key) && e.Kind != behaviour.Leaves:
		return target.Answer{Words: "a key that is a modifier stays one in every layer of a layout"}
	case len(m.Layouts)*(1+len(m.Layers)) > mostGroups:
		return target.Answer{Words: fmt.Sprintf("XKB has %d groups for layouts and layers together, and %d layouts with %d layers need %d",
			mostGroups, len(m.Layouts), len(m.Layers), len(m.Layouts)*(1+len(m.Layers)))}
	case e.Kind == behaviour.TapHold:
		return target.Answer{Verdict: target.Resident, Words: "only a running process can tell a tap from a hold"}
	case e.Kind == behaviour.Layers && e.How == "once" && m.Session != "x11":
		return target.Answer{Verdict: target.Resident, Words: `only X11 has a layer for one key only: say session = "x11" if the machine has no Wayland session`}
	case e.Kind == behaviour.Layers && e.Dead:
		return target.Answer{Words: "in a layout, keys without a meaning in the layer keep their own"}
	case e.Kind == behaviour.Layers && inLayer:
		return target.Answer{Words: "a layer leads to no other in a layout"}
	case e.Kind == behaviour.Layers && e.How == "once":
		return target.Answer{Verdict: target.Near, Words: KeycodesDiffer + "; held down, it holds the layer" + passes}
	case e.Kind == behaviour.Leaves && len(m.Layouts) > 1:
		return target.Answer{Verdict: target.Near, Words: "another key than its own leaves the layer for the first layout" + passes}
	case e.Kind == behaviour.Layers, e.Kind == behaviour.Leaves, e.Kind == behaviour.Nothing, e.Kind == behaviour.Composes:
		return target.Answer{Verdict: target.Near, Words: KeycodesDiffer + passes}
	case e.Kind == behaviour.Becomes:
		s, ok := m.Layouts[0].Symbols(e.Key)
		switch {
		case !ok:
			return target.Answer{Words: fmt.Sprintf("layout %s gives %s no meaning", m.Layouts[0].Name, e.Key)}
		case e.Key.IsModifier() || keys.RealModifier(s.Level[0]) != "":
			return target.Answer{Words: "a key is a modifier in a layout whatever the layer, or never"}
		case chordOfKey(m, b, true).Verdict == target.Exact:
			return target.Answer{Verdict: target.Exact}
		}
		if _, x11 := sessions(m); x11 {
			if _, typed := keys.KeysymRune(s.Level[0]); !typed {
				passes += "; under X11, Ctrl with it reaches programs such as xterm as Ctrl with the plain key"
			}
		}
		return target.Answer{Verdict: target.Near, Words: KeycodesDiffer + passes}
	case e.Kind == behaviour.Types:
		return typesOne(e)
	case e.Kind == behaviour.Sends:
		return chordOfKey(m, b, true)
	case e.Kind == behaviour.Plays:
		return target.Answer{Verdict: target.Resident, Words: "only a running process can play a macro"}
	}
	return target.Answer{Words: "a key of a layout gives keys and characters only"}
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
