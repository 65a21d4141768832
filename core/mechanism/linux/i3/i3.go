// Package i3 writes and reads what the window managers i3 and sway include in their
// configuration: a file of bindings, which the user's own configuration names in
// one include line. The two share one language; where they differ, it is said here.
//
// i3 finds the keys of a keysym when it loads its configuration and takes those
// keys from then on, whatever layout is switched to; sway compares what each press
// gives under the layout in use. Both take effect when the configuration is loaded
// again. Neither can tell the left modifier from the right one. i3 sees NumLock as
// one more modifier on the numpad. A variable that the user's configuration sets is
// replaced in included files as well, also inside of words, so a command is written
// without dollar signs.
//
// Sources: i3's User's Guide (bindings, modes, include); sway(5), sway-input(5).
package i3

import (
	"fmt"
	"io/fs"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/reason"
)

// Mechanism is the hotkey stage of i3 or of sway; of sway for one user or for everyone.
type Mechanism struct{ Sway bool }

// half is the mechanism in one of its places.
type half struct {
	Mechanism
	everyone bool
}

func (t Mechanism) both() mechanism.Both {
	return mechanism.Both{Own: half{t, false}, All: half{t, true}}
}

// Take says how well a binding lands, for everyone if that is asked for and can be.
func (t Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	return t.both().Take(m, b)
}

// Write makes the settings of the user and those for everyone.
func (t Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	return t.both().Write(m, list)
}

// Read reads the settings of the user and those for everyone.
func (t Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	return t.both().Read(m, fsys)
}

func (t Mechanism) name() string {
	if t.Sway {
		return "sway"
	}
	return "i3"
}

// path is the file below the machine's folder, goes where it belongs.
func (t half) path() string {
	if t.everyone {
		return t.name() + "/everyone/leitstand.conf"
	}
	return t.name() + "/leitstand.conf"
}

func (t half) goes() string {
	if t.everyone {
		return everyone + "/leitstand.conf"
	}
	return "~/.config/" + t.name() + "/leitstand.conf"
}

// everyone is the folder that the configuration includes which comes with sway.
const everyone = "/etc/sway/config.d"

// Facts describes the mechanism.
func (t Mechanism) Facts() mechanism.Facts {
	f := mechanism.Facts{
		Name: t.name(), Stage: mechanism.Desktop, Evidence: mechanism.Tested,
		Basis: "chords pressed under i3 started commands, moved between workspaces and closed windows",
		When:  mechanism.Reload, Takes: "when i3 loads its configuration again",
	}
	if t.Sway {
		f.Basis, f.Takes = "chords pressed in a sway of the test's own started commands", "when sway loads its "+
			"configuration again"
	}
	return f
}

// FactsForAll describes the mechanism where it is for everyone.
func (t Mechanism) FactsForAll() mechanism.Facts {
	if !t.Sway {
		return mechanism.Facts{} // i3 has no place for all users
	}
	return mechanism.Facts{
		Name: "sway for everyone", Stage: mechanism.Desktop, Evidence: mechanism.Parsed, Everyone: true,
		Basis: "sway took the file as one of the folder that its own configuration includes",
		When:  mechanism.Reload, Takes: "when sway starts, or loads its configuration again",
	}
}

// Serves says whether the machine runs this window manager.
func (t Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Desktop == t.name() && m.Session != "console"
}

var tags = []accelerator.Tag{
	{Mod: keys.Hyper, Text: "Mod3+"}, {Mod: keys.Meta, Text: "Mod4+"}, {Mod: keys.Ctrl, Text: "Control+"},
	{Mod: keys.Alt, Text: "Mod1+"}, {Mod: keys.Shift, Text: "Shift+"},
}

// layouts are those under which the names of keys are found.
func (t Mechanism) layouts(m *mechanism.Machine) []*keys.Layout {
	if t.Sway {
		return m.Layouts
	}
	return m.Layouts[:1]
}

// longest is how long a line of i3's configuration may be.
const longest = 4000

// Take says how well a binding lands.
func (t half) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if t.everyone {
		return t.takeForAll(m, b)
	}
	if b.Level == behaviour.Setting {
		return t.setting(b)
	}
	if b.Level != behaviour.Hotkey || b.Board != "" || b.Layer != "" || len(b.Apps) > 0 {
		return mechanism.Offer{}
	}
	var near reason.List
	switch b.Effect.Kind {
	case behaviour.Launches, behaviour.Nothing:
		if b.Effect.Launch().Confirm {
			near = reason.QuestionByZenity.Of()
		}
	case behaviour.Acts:
		c, ok := t.action(b.Effect.Action)
		if !ok {
			return mechanism.Offer{Why: reason.NoCommandFor.Of(t.name(), b.Effect.Action)}
		}
		near = c.near
	default:
		return mechanism.Offer{}
	}
	to := plan{does: t.does(b.Effect), strokes: make([][]string, 0, 1+len(b.Then))}
	for i := range 1 + len(b.Then) {
		c := b.Chord
		if i > 0 {
			c = b.Then[i-1]
		}
		switch {
		case c.Key == keys.None && b.Effect.Kind == behaviour.Nothing:
			return mechanism.Offer{Why: reason.NothingToSwitchOff.Of(t.name())}
		case c.Key == keys.None && len(b.Then) > 0:
			return mechanism.Offer{Why: reason.NoStrokeByModifier.Of()}
		}
		names, answer := t.chord(m, c)
		if answer.Verdict == mechanism.Unavailable {
			return answer
		}
		to.strokes = append(to.strokes, t.spell(c, names))
		if near == nil {
			near = answer.Why
		}
	}
	if len(b.Then) > 0 && near == nil {
		near = reason.OtherKeysPass.Of()
	}
	if len(to.does) > longest {
		return mechanism.Offer{Why: reason.CommandLong.Of()}
	}
	if near != nil {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: near, Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// plan is the strokes of a press, each as often as its key has a name, and the command; or a setting.
type plan struct {
	strokes [][]string
	does    string
	delay   string
	rate    string
	perKey  string // what the X server is told of a key
}

// takeForAll says how well a binding lands for everyone. Modes have names, of which a
// user's own file may have the same, so that there are none here.
func (t half) takeForAll(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case !t.Sway || !b.Everyone || len(b.Then) > 0 || b.Effect.Action == "move" || b.Effect.Action == "resize":
		return mechanism.Offer{}
	case !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a setting for everyone")}
	}
	answer := half{t.Mechanism, false}.Take(m, b)
	if answer.Verdict >= mechanism.Limited {
		answer.Verdict = mechanism.Limited
		answer.Why = answer.Why.And(reason.WhoseConfigIncludes.Of(everyone)...)
	}
	return answer
}

// chord says whether the window manager can have a chord, and the names of its key.
func (t Mechanism) chord(m *mechanism.Machine, c keys.Chord) (names []string, answer mechanism.Offer) {
	_, left := accelerator.Spell(tags, c.Mods)
	switch {
	case c.Key == keys.None && alone(c.Mods) == nil:
		return nil, mechanism.Offer{Why: reason.SeveralAlone.Of()}
	case c.Key != keys.None && left != 0:
		return nil, mechanism.Offer{
			Why: reason.NoSuchModifier.Of(t.name()+"'s bindings", strings.Join(left.Names(), ", ")),
		}
	case c.Mods.Has(keys.Hyper) && m.Hyper != machine.RealHyper:
		return nil, mechanism.Offer{Why: reason.NoHyperKey.Of()}
	}
	if c.Key == keys.None {
		return nil, mechanism.Offer{Verdict: mechanism.Limited, Why: reason.AlsoWithButton.Of()}
	}
	if c.Key.Section() == keys.Mouse {
		return nil, mechanism.Offer{Verdict: mechanism.Limited, Why: reason.OverWindow.Of()}
	}
	names, missing := accelerator.Names(t.layouts(m), c, accelerator.Plain)
	if len(names) == 0 {
		return nil, mechanism.Offer{Why: reason.NoKeysym.Of(c.Key.String())}
	}
	if len(missing) > 0 {
		return names, mechanism.Offer{
			Verdict: mechanism.Limited,
			Why:     reason.ByCharacter.Of(t.name(), strings.Join(missing, ", "), names[0]),
		}
	}
	if k := accelerator.Elsewhere(t.layouts(m), c, names[0], accelerator.Plain); k != keys.None {
		return names, mechanism.Offer{Verdict: mechanism.Limited, Why: reason.TypesTheSame.Of(t.name(), k)}
	}
	return names, mechanism.Offer{Verdict: mechanism.Exact}
}

// setting says whether a setting can be had. The X server can be told of single keys.
func (t Mechanism) setting(b mechanism.Binding) mechanism.Offer {
	switch k := b.Option.Key; b.Option.Kind {
	case behaviour.RepeatDelay:
		return mechanism.Repeat(b, plan{delay: strconv.Itoa(b.Effect.Delay())})
	case behaviour.RepeatOf:
		n, ok := k.Evdev()
		switch {
		case t.Sway:
			return mechanism.Repeat(b, nil)
		case !ok || n > 247:
			return mechanism.Offer{Why: reason.NoX11Key.Of(k)}
		}
		word := map[behaviour.Value]string{behaviour.Repeats(false): "-r", behaviour.Repeats(true): "r"}[b.Effect.Value]
		return mechanism.Offer{Verdict: mechanism.Exact,
			Plan: plan{perKey: fmt.Sprintf("exec_always --no-startup-id xset %s %d", word, n+8)}}
	default: // the rate
		return mechanism.Repeat(b, plan{rate: strconv.Itoa(b.Effect.Rate())})
	}
}
