// Package xfce writes and reads the keyboard shortcuts of the Xfce desktop:
// the channel xfce4-keyboard-shortcuts of its settings store, as the XML that
// the store keeps under ~/.config/xfce4/xfconf/xfce-perchannel-xml.
//
// How fast keys repeat stands in the channel keyboards, which xfsettingsd hands to the
// X server.
//
// xfsettingsd grabs the chords under /commands/custom and starts their commands,
// xfwm4 those under /xfwm4/custom and does what they name to windows; a change made through xfconf-query takes effect at once. The store's daemon
// holds the channel in memory, so the file must not be replaced beneath a
// running session: the file we write is for a home without one, and STEPS.md has
// the same as commands for a running desktop.
//
// For everyone, the same file lies in a folder of the system's, where each property is
// locked: it counts for all users, whatever their own files say.
//
// xfwm4 has one chord for each action: where the settings have several, it takes any one of them.
//
// It cannot tell the left modifier from the right one, and knows no Fn. A
// command is split into words by GLib's shell rules, without expansion.
//
// Sources: the Xfce documentation of xfconf and of keyboard settings; GLib's
// documentation of g_shell_parse_argv; GTK's of accelerator names.
package xfce

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/reason"
)

// Mechanism is the hotkey stage of an Xfce desktop, of one user or of everyone.
type Mechanism struct{}

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

// Facts describes the mechanism.
func (t Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "xfce", Stage: mechanism.Desktop, Evidence: mechanism.Tested,
		Basis: "chords pressed under xfsettingsd and xfwm4 started their commands and tiled windows",
		When:  mechanism.AtOnce, Takes: "at once through `xfconf-query`, otherwise at log-in",
	}
}

// FactsForAll describes the mechanism where it is for everyone.
func (t Mechanism) FactsForAll() mechanism.Facts {
	return mechanism.Facts{
		Name: "xfce for everyone", Stage: mechanism.Desktop, Evidence: mechanism.Tested, Everyone: true,
		Basis: "chords pressed under xfsettingsd started what the system's file locks, whatever the user's own said",
		When:  mechanism.LogIn, Takes: "at log-in",
	}
}

// Serves says whether the machine runs Xfce.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Desktop == "xfce" && m.Session != "console"
}

// modTags are the modifiers in the order in which Xfce spells them.
var modTags = []accelerator.Tag{
	{Mod: keys.Shift, Text: "<Shift>"}, {Mod: keys.Ctrl, Text: "<Primary>"}, {Mod: keys.Alt, Text: "<Alt>"},
	{Mod: keys.Meta, Text: "<Super>"}, {Mod: keys.Hyper, Text: "<Hyper>"},
}

// Single reports whether Xfce has one chord only for an action: its window manager takes one of those that the settings
// have, and ignores the others.
func (Mechanism) Single(action string) bool { return actions()[action] != "" }

// Calls is the desktop's own name of an action, "" if it has none.
func (Mechanism) Calls(action string) string { return strings.TrimSuffix(actions()[action], "_key") }

// Take says how well a binding lands in Xfce's shortcuts.
func (t half) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	switch {
	case t.everyone && !b.Everyone:
		return mechanism.Offer{}
	case t.everyone && !m.Admin:
		return mechanism.Offer{Why: reason.NoAdministrator.Of("a setting for everyone")}
	}
	if b.Level == behaviour.Setting {
		return mechanism.Repeat(b, plan{repeat: repeatName(b), value: repeatValue(b)})
	}
	if b.Level == behaviour.Hotkey && b.Chord.Key == keys.None {
		return alone(m, b)
	}
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	switch b.Effect.Kind {
	case behaviour.Launches:
	case behaviour.Nothing: // a program that does nothing takes the press from all others
		if b.Level != behaviour.Hotkey {
			return mechanism.Offer{}
		}
	case behaviour.Acts:
		if b.Level != behaviour.Hotkey || actions()[b.Effect.Action] == "" && commands[b.Effect.Action] == nil {
			return mechanism.Offer{Why: reason.NoSuchShortcut.Of("Xfce", b.Effect.Action)}
		}
	default:
		return mechanism.Offer{}
	}
	_, left := accelerator.Spell(modTags, b.Chord.Mods)
	switch {
	case left != 0:
		return mechanism.Offer{Why: reason.NoSuchModifier.Of("Xfce's shortcuts", strings.Join(left.Names(), ", "))}
	case b.Chord.Mods.Has(keys.Hyper) && m.Hyper != machine.RealHyper:
		return mechanism.Offer{Why: reason.NoHyperKey.Of()}
	}
	to, held := planOf(b)
	if held != nil {
		return mechanism.Offer{Why: held}
	}
	layouts := m.Layouts
	if to.group == manager {
		if t.everyone {
			return mechanism.Offer{Why: reason.XfceChordOfUser.Of()}
		}
		layouts = layouts[:1] // xfwm4 looks for the key once
	}
	names, missing := keysyms(layouts, b.Chord)
	if b.Chord.Mods == 0 && slices.ContainsFunc(names, accelerator.IsModifier) {
		return mechanism.Offer{Why: reason.XfceModifierStays.Of()}
	}
	if len(names) == 0 {
		return mechanism.Offer{Why: reason.NoKeysym.Of(b.Chord.Key.String())}
	}
	mods, _ := accelerator.Spell(modTags, b.Chord.Mods)
	for _, n := range names {
		to.names = append(to.names, mods+n)
	}
	elsewhere := accelerator.Elsewhere(layouts, b.Chord, names[0], accelerator.Translated)
	switch {
	case len(missing) == 0 && elsewhere != keys.None:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.XfceTypesTheSame.Of(elsewhere), Plan: to}
	case len(missing) > 0:
		return mechanism.Offer{
			Verdict: mechanism.Limited,
			Why:     reason.ByCharacter.Of("Xfce", strings.Join(missing, ", "), names[0]),
			Plan:    to,
		}
	}
	for _, u := range desktop.Stock(m) {
		if to.group == manager && u.Key == actions()[b.Effect.Action] && !u.Chord.Overlaps(b.Chord) {
			return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.OneChord.Of("Xfce", u.Chord), Plan: to}
		}
	}
	switch {
	case b.Effect.Launch().Confirm:
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.QuestionByZenity.Of(), Plan: to}
	case b.Effect.Kind == behaviour.Acts && !t.Asks(m, b.Effect.Action):
		return mechanism.Offer{Verdict: mechanism.Limited, Why: reason.WithoutQuestion.Of(), Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// manager is the group of the window manager's shortcuts.
const manager = "xfwm4"

// plan is the names of a chord, the group of shortcuts and what they do there; or how keys repeat.
type plan struct {
	names  []string
	group  string
	value  change.Value
	repeat string
}

// planOf is the group of a shortcut and what it says, or why a command cannot stand there.
func planOf(b mechanism.Binding) (plan, reason.List) {
	if own := actions()[b.Effect.Action]; own != "" {
		return plan{group: manager, value: change.Text(own)}, nil
	}
	l := b.Effect.Launch()
	switch b.Effect.Kind {
	case behaviour.Acts:
		l.Command = commands[b.Effect.Action]
	case behaviour.Nothing:
		l.Command = []string{"true"}
	default: // what is started
	}
	words := command.Words(l)
	for _, r := range strings.Join(words, "") {
		// XML forbids most control characters, even as references.
		if r < ' ' && r != '\t' && r != '\n' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
			return plan{}, reason.CommandNotHeld.Of("Xfce's settings file", fmt.Sprintf("the character U+%04X", r))
		}
	}
	return plan{group: "commands", value: change.Text(command.Line(words))}, nil
}

// actions are what xfwm4 does by itself, under its own names.
var actions = sync.OnceValue(func() map[string]string {
	names := map[string]string{
		"tile-left": "tile_left_key", "tile-right": "tile_right_key", "tile-top": "tile_up_key",
		"tile-bottom":   "tile_down_key",
		"tile-top-left": "tile_up_left_key", "tile-top-right": "tile_up_right_key",
		"tile-bottom-left": "tile_down_left_key", "tile-bottom-right": "tile_down_right_key",
		"maximize": "maximize_window_key", "minimize": "hide_window_key", "full-screen": "fullscreen_key",
		"close": "close_window_key",
		"move":  "move_window_key", "resize": "resize_window_key", "next-window": "cycle_windows_key",
		"next-window-of-app": "switch_window_key",
		"show-desktop":       "show_desktop_key", "next-workspace": "next_workspace_key",
		"previous-workspace":           "prev_workspace_key",
		"window-to-next-workspace":     "move_window_next_workspace_key",
		"window-to-previous-workspace": "move_window_prev_workspace_key",
	}
	for n := 1; n <= action.MaxWorkspace; n++ {
		names[fmt.Sprintf("workspace-%d", n)] = fmt.Sprintf("workspace_%d_key", n)
		names[fmt.Sprintf("window-to-workspace-%d", n)] = fmt.Sprintf("move_window_workspace_%d_key", n)
	}
	return names
})

// Asks says whether Xfce asks before an action.
func (Mechanism) Asks(_ *mechanism.Machine, name string) bool {
	return name != "power-off" && name != "restart"
}

// commands are what programs of Xfce do.
var commands = map[string][]string{
	"lock": {"xflock4"}, "log-out": {"xfce4-session-logout"}, "suspend": {"xfce4-session-logout", "--suspend"},
	"power-off": {"xfce4-session-logout", "--halt"}, "restart": {"xfce4-session-logout", "--reboot"},
	"launcher": {"xfce4-popup-applicationsmenu"}, "screenshot": {"xfce4-screenshooter", "--fullscreen"},
	"screenshot-window": {"xfce4-screenshooter", "--window"}, "screenshot-area": {"xfce4-screenshooter", "--region"},
}

// keysyms are the names of a chord's key in Xfce's shortcuts: the keysym that the
// key gives with the chord's Shift, lower case for a letter. xfsettingsd holds it
// against the keysym that a press gives under the layout in use, so a key needs a
// name for each layout.
func keysyms(layouts []*keys.Layout, c keys.Chord) (names, missing []string) {
	return accelerator.Names(layouts, c, accelerator.Translated)
}
