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
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the layout stage of a Linux desktop.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "xkb", Stage: mechanism.Layout, Evidence: mechanism.Tested,
		Basis: "keys pressed in an X server, under sway and in sessions of GNOME and Plasma on Wayland; the option " +
			"compiled by libxkbcommon",
		When: mechanism.LogIn, Takes: "at log-in",
	}
}

// Serves says whether the machine has layouts of this kind.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Session != "console"
}

// plan is a press as the layout has it, and whether the server presses another key in its place.
type plan struct {
	mechanism.Binding
	redirects bool
}

// Take says how well a binding lands in a layout.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	offer := take(m, b)
	as, _ := asChord(m, b)
	if offer.Verdict >= mechanism.Limited {
		offer.Plan = plan{as, offer.Else != nil || as.Effect.Kind == behaviour.Sends}
	}
	if offer.Else != nil {
		offer.Else.Plan = plan{as, false}
	}
	return offer
}

func take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if o := deeper(m, b.Chord.Key); o != "" && b.Level <= behaviour.Hotkey {
		return mechanism.Offer{Why: reason.OptionMakesMore.Of(o, b.Chord.Key)}
	}
	if c, ok := asChord(m, b); ok {
		return takeEditing(m, c)
	}
	if b.Board != "" && b.Level == behaviour.Position {
		return ofBoard(m, b)
	}
	if b.Level == behaviour.Hotkey && (b.Effect.Kind == behaviour.Sends || b.Effect.Kind == behaviour.Becomes) &&
		mechanism.Plain(b) {
		return otherChord(m, b)
	}
	layer := b.Layer
	b.Layer = ""
	if !mechanism.Plain(b) || b.Level != behaviour.Position {
		return mechanism.Offer{}
	}
	from, ok := b.Chord.Key.XKB()
	if !ok {
		return mechanism.Offer{Why: reason.UnreachedByLayout.Of(b.Chord.Key)}
	}
	if o := deeper(m, b.Effect.Key); o != "" && b.Effect.Kind == behaviour.Becomes {
		return mechanism.Offer{Why: reason.OptionMakesMoreOf.Of(o, b.Effect.Key)}
	}
	if sym, two := alike(m, b.Chord.Key); two {
		return mechanism.Offer{Why: reason.TwoKeysGive.Of(sym)}
	}
	code, _ := b.Chord.Key.Evdev()
	if code > 247 {
		return mechanism.Offer{Why: reason.BeyondX11.Of(from, code)}
	}
	if kind := b.Effect.Kind; layer != "" || kind == behaviour.Layers ||
		kind == behaviour.TapHold && b.Effect.Hold.Kind == behaviour.Layers {
		return layered(m, b, layer)
	}
	switch b.Effect.Kind {
	case behaviour.Sends:
		return chordOfKey(m, b, false)
	case behaviour.Modifier:
		if b.Effect.Mods == keys.Hyper {
			return hyper(m)
		}
		if _, ok := setMods(b.Effect.Mods); !ok {
			return mechanism.Offer{Why: reason.HoldsNot.Of(strings.Join(b.Effect.Mods.Names(), "+"))}
		}
		return mechanism.Offer{
			Verdict: mechanism.Limited,
			Why:     reason.HyperIsSeveral.Of(strings.Join(b.Effect.Mods.Names(), "+")),
		}
	case behaviour.Becomes:
		if _, ok := m.Layouts[0].Symbols(b.Effect.Key); !ok {
			return mechanism.Offer{Why: reason.NoMeaning.Of(m.Layouts[0].Name, b.Effect.Key)}
		}
		if s, _ := m.Layouts[0].Symbols(b.Effect.Key); strings.HasPrefix(s.Level[0], "Hyper_") {
			return mechanism.Offer{Why: reason.HyperByOption.Of(b.Effect.Key)}
		}
		if wayland, _ := sessions(m); wayland && leavesOpen(m, b.Chord.Key, b.Effect.Key) {
			return mechanism.Offer{Why: reason.LevelKept.Of(b.Effect.Key, b.Chord.Key)}
		}
		if sym, two := alike(m, b.Effect.Key); two {
			return mechanism.Offer{Why: reason.FirstKeyIsModifier.Of(sym)}
		}
		o := mechanism.Offer{Verdict: mechanism.Limited, Why: reason.KeycodesDiffer.Of()}
		if b.Chord.Key == b.Effect.Key && isVoid(m, b.Effect.Key) {
			o.Does = &behaviour.Effect{Kind: behaviour.Nothing} // which the key does by itself
		}
		return o
	case behaviour.Nothing, behaviour.Composes:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.KeycodesDiffer.Of()}
	case behaviour.Types:
		return typesOne(b.Effect)
	default: // the others are no layout's
	}
	return mechanism.Offer{}
}

// isVoid says whether a key gives nothing under any of the layouts, as an option has it.
func isVoid(m *mechanism.Machine, k keys.Key) bool {
	for g := range m.Layouts {
		if s, ok := m.Symbols(g, k); !ok || !s.Equal(oneLevel("VoidSymbol")) {
			return false
		}
	}
	return true
}

// typesOne says how well a key types a text: a layout has a character for a key.
func typesOne(e behaviour.Effect) mechanism.Offer {
	if len([]rune(e.Text)) == 1 {
		return mechanism.Offer{Verdict: mechanism.Exact}
	}
	return mechanism.Offer{Why: reason.OneCharacter.Of()}
}

// leavesOpen says whether a key gives nothing on a level on which the key that is to act as it
// gives something: laid over that, nothing is no change.
func leavesOpen(m *mechanism.Machine, from, to keys.Key) bool {
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

// alike says whether another key gives the same modifier's keysym as a key does, or two would that give Caps_Lock beside
// something else, as an option has a shift key.
func alike(m *mechanism.Machine, k keys.Key) (sym string, two bool) {
	for g := range m.Layouts {
		if s, ok := m.Symbols(g, k); ok && slices.Index(s.Level, "Caps_Lock") > 0 {
			return "Caps_Lock", true
		}
	}
	s, ok := m.Layouts[0].Symbols(k)
	if !ok || len(m.Options) == 0 || keys.RealModifier(s.Level[0]) == "" {
		return "", false
	}
	givers := slices.Concat(m.Layouts[0].Giving(s.Level[0], 0), m.Layouts[0].Giving(s.Level[0], 1))
	return s.Level[0], slices.ContainsFunc(givers, func(o keys.Key) bool { return o != k })
}

// hyper says how well a key can be Hyper. We put it on Mod3, which nothing else uses as
// xkeyboard-config comes; options may have it, or Hyper, already.
func hyper(m *mechanism.Machine) mechanism.Offer {
	for _, o := range m.Layouts[0].Extra.Options {
		if o.Touches("Mod3") ||
			slices.ContainsFunc([]string{"Hyper_L", "Hyper_R", "ISO_Level5_Shift", "ISO_Level5_Latch"}, o.Touches) {
			return mechanism.Offer{Why: reason.OptionHasHyper.Of(o.Name)}
		}
	}
	for _, l := range m.Layouts {
		if l.FifthLevel() {
			return mechanism.Offer{Why: reason.LayoutHasMod3.Of(l.Name)}
		}
	}
	return mechanism.Offer{Verdict: mechanism.Exact}
}

// thirdTaken says whether a key may turn Mod3 on that is not our Hyper.
func thirdTaken(m *mechanism.Machine) bool { return hyper(m).Verdict != mechanism.Exact }

// deeper names an option of the machine that gives a key modifiers or actions by the
// key's name, "" if there is none.
func deeper(m *mechanism.Machine, k keys.Key) string {
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

// layered says how well a key that switches a layer on lands, or one that has a
// meaning in it. A layer is one more group for each of the machine's layouts: that
// takes no modifier from anybody, so Shift, AltGr and Hyper stay what they are.
func layered(m *mechanism.Machine, b mechanism.Binding, layer string) mechanism.Offer {
	e, inLayer := b.Effect, layer != ""
	var passes reason.List
	if len(m.Layouts) > 1 && e.Kind == behaviour.Layers {
		passes = reason.LayoutSwitchPasses.Of()
	}
	switch {
	case inLayer && m.IsModifier(b.Chord.Key) && e.Kind != behaviour.Leaves:
		return mechanism.Offer{Why: reason.ModifierInLayers.Of()}
	case inLayer && !slices.Contains(m.GroupLayers(), layer),
		e.Kind == behaviour.Layers && !slices.Contains(m.GroupLayers(), e.Layer):
		fit := strings.Join(m.GroupLayers(), ", ")
		if fit == "" {
			fit = "none"
		}
		return mechanism.Offer{Why: reason.TooManyGroups.Of(len(m.Layouts), fit)}
	case e.Kind == behaviour.TapHold:
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of("tell a tap from a hold")}
	case e.Kind == behaviour.Layers && e.How == behaviour.Once && m.Session != "x11":
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.LayerOnX11.Of()}
	case e.Kind == behaviour.Layers && e.Dead:
		return mechanism.Offer{Why: reason.LayerKeepsOthers.Of()}
	case e.Kind == behaviour.Layers && inLayer:
		return mechanism.Offer{Why: reason.LayerLeadsNowhere.Of()}
	case e.Kind == behaviour.Layers && e.How == behaviour.Once:
		return mechanism.Offer{
			Verdict: mechanism.Limited,
			Why:     reason.KeycodesDiffer.Of().And(reason.HeldHoldsLayer.Of()...).And(passes...),
		}
	case e.Kind == behaviour.Leaves && len(m.Layouts) > 1:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.LeavesForFirst.Of().And(passes...)}
	case e.Kind == behaviour.Layers,
		e.Kind == behaviour.Leaves,
		e.Kind == behaviour.Nothing,
		e.Kind == behaviour.Composes:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.KeycodesDiffer.Of().And(passes...)}
	case e.Kind == behaviour.Becomes:
		s, ok := m.Layouts[0].Symbols(e.Key)
		switch {
		case !ok:
			return mechanism.Offer{Why: reason.NoMeaning.Of(m.Layouts[0].Name, e.Key)}
		case e.Key.IsModifier() || keys.RealModifier(s.Level[0]) != "":
			return mechanism.Offer{Why: reason.ModifierWhateverLayer.Of()}
		}
		if _, x11 := sessions(m); x11 {
			if _, typed := keys.KeysymRune(s.Level[0]); !typed {
				passes = passes.And(reason.CtrlByPlainKey.Of()...)
			}
		}
		offer := mechanism.Offer{Verdict: mechanism.Limited, Why: reason.KeycodesDiffer.Of().And(passes...)}
		if chordOfKey(m, b, true).Verdict == mechanism.Exact { // where that key is what the layouts make it
			return mechanism.Offer{Verdict: mechanism.Exact, Else: &offer}
		}
		return offer
	case e.Kind == behaviour.Types:
		return typesOne(e)
	case e.Kind == behaviour.Sends:
		return chordOfKey(m, b, true)
	case e.Kind == behaviour.Plays:
		return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of("play a macro")}
	}
	return mechanism.Offer{Why: reason.KeysAndCharactersOnly.Of()}
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
