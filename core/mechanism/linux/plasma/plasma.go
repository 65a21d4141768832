// Package plasma writes and reads the global shortcuts of KDE Plasma: groups of the
// file ~/.config/kglobalshortcutsrc, one for each part of the desktop, and a desktop
// file for each program that has a shortcut; and the repeat of keys in
// ~/.config/kcminputrc.
//
// kglobalaccel reads the shortcuts when it starts, holds them in memory, and overwrites
// its file later. So each shortcut is set on the session's bus. A desktop file can have
// one once the session's index lists the file. A shortcut is spelled as Qt spells key sequences, by what a key types under the layout; KDE has
// no word for a Hyper of its own. It cannot tell the left modifier from the right one.
// An action can have several shortcuts. How the Exec line of a desktop file is split
// into words depends on what is installed, so a command with any special character
// is encoded in it.
//
// Chords for what all programs do, such as copy, are KDE's programs' own: they read them
// from ~/.config/kdeglobals when they start.
//
// Sources: KDE's documentation of KGlobalAccel and KConfig; Qt's of QKeySequence; the
// Desktop Entry specification; RFC 4648 (base64).
package plasma

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"
	"unicode"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/reason"
)

// Mechanism is the hotkey stage of Plasma, of one user or of everyone.
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
		Name: "plasma", Stage: mechanism.Desktop, Evidence: mechanism.Tested,
		Basis: "chords pressed in sessions of its own, on Wayland and X11, started programs, tiled and closed " +
			"windows; what other parts of the desktop do, by documentation only",
		When: mechanism.AtOnce, Takes: "at once",
	}
}

// FactsForAll describes the mechanism where it is for everyone.
func (t Mechanism) FactsForAll() mechanism.Facts {
	return mechanism.Facts{
		Name: "plasma for everyone", Stage: mechanism.Desktop, Evidence: mechanism.Tested, Everyone: true,
		Basis: "chords pressed in a program of KDE did what the system's file says, whatever the user's own said; " +
			"the repeat of keys by documentation only",
		When: mechanism.LogIn, Takes: "at log-in",
	}
}

// Serves says whether the machine runs Plasma.
func (Mechanism) Serves(m *mechanism.Machine) bool {
	return m.System == machine.Linux && m.Desktop == "plasma" && m.Session != "console"
}

// place is where an action's shortcut stands.
type place struct{ group, key, words string }

var actions = sync.OnceValue(func() map[string]place {
	list := map[string]place{
		"maximize": {
			"kwin", "Window Maximize", "Maximize Window",
		}, "minimize": {"kwin", "Window Minimize", "Minimize Window"},
		"full-screen": {
			"kwin", "Window Fullscreen", "Make Window Fullscreen",
		}, "close": {"kwin", "Window Close", "Close Window"},
		"move": {"kwin", "Window Move", "Move Window"}, "resize": {"kwin", "Window Resize", "Resize Window"},
		"next-window": {"kwin", "Walk Through Windows", "Walk Through Windows"},
		"next-window-of-app": {
			"kwin", "Walk Through Windows of Current Application", "Walk Through Windows of Current Application",
		},
		"app-windows": {
			"kwin", "ExposeClass", "Toggle Present Windows (Window class)",
		}, "overview": {"kwin", "Overview", "Toggle Overview"},
		"show-desktop":                 {"kwin", "Show Desktop", "Peek at Desktop"},
		"next-workspace":               {"kwin", "Switch to Next Desktop", "Switch to Next Desktop"},
		"previous-workspace":           {"kwin", "Switch to Previous Desktop", "Switch to Previous Desktop"},
		"window-to-next-workspace":     {"kwin", "Window to Next Desktop", "Window to Next Desktop"},
		"window-to-previous-workspace": {"kwin", "Window to Previous Desktop", "Window to Previous Desktop"},
		"lock": {
			"ksmserver", "Lock Session", "Lock Session",
		}, "log-out": {"ksmserver", "Log Out", "Log Out"},
		"power-off":       {"ksmserver", "Halt Without Confirmation", "Halt Without Confirmation"},
		"restart":         {"ksmserver", "Reboot Without Confirmation", "Reboot Without Confirmation"},
		"suspend":         {"org_kde_powerdevil", "Sleep", "Suspend"},
		"brightness-up":   {"org_kde_powerdevil", "Increase Screen Brightness", "Increase Screen Brightness"},
		"brightness-down": {"org_kde_powerdevil", "Decrease Screen Brightness", "Decrease Screen Brightness"},
		"play-pause": {
			"mediacontrol", "playpausemedia", "Play/Pause media playback",
		}, "stop": {"mediacontrol", "stopmedia", "Stop media playback"},
		"next-track": {
			"mediacontrol", "nextmedia", "Media playback next",
		}, "previous-track": {"mediacontrol", "previousmedia", "Media playback previous"},
		"volume-up": {
			"kmix", "increase_volume", "Increase Volume",
		}, "volume-down": {"kmix", "decrease_volume", "Decrease Volume"},
		"mute": {"kmix", "mute", "Mute"}, "mute-microphone": {"kmix", "mic_mute", "Mute Microphone"},
		"screenshot":        {"org.kde.spectacle.desktop", "FullScreenScreenShot", "Capture Entire Desktop"},
		"screenshot-window": {"org.kde.spectacle.desktop", "ActiveWindowScreenShot", "Capture Active Window"},
		"screenshot-area":   {"org.kde.spectacle.desktop", "RectangularRegionScreenShot", "Capture Rectangular Region"},
		"next-input-source": {
			"KDE Keyboard Layout Switcher", "Switch to Next Keyboard Layout", "Switch to Next Keyboard Layout",
		},
	}
	for name, side := range map[string]string{
		"tile-left": "Left", "tile-right": "Right", "tile-top": "Top", "tile-bottom": "Bottom",
		"tile-top-left": "Top Left", "tile-top-right": "Top Right", "tile-bottom-left": "Bottom Left",
		"tile-bottom-right": "Bottom Right",
	} {
		list[name] = place{"kwin", "Window Quick Tile " + side, "Quick Tile Window to the " + side}
	}
	for n := 1; n <= action.MaxWorkspace; n++ {
		list[fmt.Sprintf("workspace-%d", n)] = place{
			"kwin",
			fmt.Sprintf("Switch to Desktop %d", n),
			fmt.Sprintf("Switch to Desktop %d", n),
		}
		list[fmt.Sprintf("window-to-workspace-%d", n)] = place{
			"kwin",
			fmt.Sprintf("Window to Desktop %d", n),
			fmt.Sprintf("Window to Desktop %d", n),
		}
	}
	return list
})

var tags = []accelerator.Tag{
	{
		Mod:  keys.Meta,
		Text: "Meta+",
	}, {Mod: keys.Ctrl, Text: "Ctrl+"}, {Mod: keys.Alt, Text: "Alt+"}, {Mod: keys.Shift, Text: "Shift+"},
}

// qtNames are Qt's names of keysyms that type nothing.
var qtNames = map[string]string{
	"Escape": "Esc", "Return": "Return", "BackSpace": "Backspace", "Tab": "Tab", "Delete": "Del", "Insert": "Ins",
	"Prior": "PgUp", "Next": "PgDown",
	"Home": "Home", "End": "End", "Left": "Left", "Right": "Right", "Up": "Up", "Down": "Down", "Pause": "Pause",
	"Print":       "Print",
	"Scroll_Lock": "ScrollLock", "Menu": "Menu", "space": "Space",
	"XF86AudioRaiseVolume": "Volume Up", "XF86AudioLowerVolume": "Volume Down", "XF86AudioMute": "Volume Mute",
	"XF86AudioPlay": "Media Play",
	"XF86AudioStop": "Media Stop", "XF86AudioPrev": "Media Previous", "XF86AudioNext": "Media Next",
	"XF86Tools": "Tools", "XF86AudioMicMute": "Microphone Mute", "XF86TouchpadToggle": "Touchpad Toggle",
}

// launchNames are those of the keys that X calls launchers, up to Plasma 5 and from 6 on, whose
// Qt no longer counts from two further on.
var launchNames = map[bool]map[string]string{
	false: {
		"XF86Launch5": "Launch (7)",
		"XF86Launch6": "Launch (8)",
		"XF86Launch7": "Launch (9)",
		"XF86Launch8": "Launch (A)",
		"XF86Launch9": "Launch (B)",
	},
	true: {
		"XF86Launch5": "Launch (5)",
		"XF86Launch6": "Launch (6)",
		"XF86Launch7": "Launch (7)",
		"XF86Launch8": "Launch (8)",
		"XF86Launch9": "Launch (9)",
	},
}

// six is the version from which on Plasma is made with Qt 6.
const six = "6"

// qt spells a keysym, and says whether Shift is spelled beside it.
func qt(m *mechanism.Machine, keysym string) (name string, shift, ok bool) {
	if n, ok := qtNames[keysym]; ok {
		return n, true, true
	}
	if n, ok := launchNames[desktop.Since(m, six)][keysym]; ok {
		return n, true, true
	}
	if number, ok := strings.CutPrefix(keysym, "F"); ok && number != "" && strings.Trim(number, "0123456789") == "" {
		return keysym, true, true
	}
	r, ok := keys.KeysymRune(keysym)
	// A comma parts the fields of the file, a backslash escapes in it.
	if !ok || r <= ' ' || r == ',' || r == '\\' || strings.HasPrefix(keysym, "KP_") {
		return "", false, false
	}
	return string(unicode.ToUpper(r)), unicode.IsLetter(r), true
}

// spell names a chord, once for each layout that needs a name of its own, and the
// layouts that are left without one.
func spell(m *mechanism.Machine, c keys.Chord) (names, missing []string) {
	if c.Key == keys.None {
		return []string{aloneNames[c.Mods]}, nil
	}
	for i, l := range m.Layouts {
		for _, s := range accelerator.Translated(l, c) {
			name, shift, ok := qt(m, s)
			// Without Shift in its spelling, what a key types with it must say it.
			unsaid := !shift && c.Mods.Has(keys.Shift) && slices.Contains(accelerator.Plain(l, c), s)
			if !ok || unsaid {
				continue
			}
			mods := c.Mods
			if !shift {
				mods &^= keys.Shift
			}
			text, _ := accelerator.Spell(tags, mods)
			switch {
			case slices.Contains(names, text+name):
			case i == 0 && c.Key.Section() == keys.Numpad && another(m, c, s, shift) != keys.None:
				// An option may have the numpad type what others type, whose name it would be.
			case i > 0 && another(m, c, s, shift) != keys.None:
				missing = append(missing, l.Name)
			default:
				names = append(names, text+name)
			}
		}
	}
	return names, missing
}

// another is the key of another chord that a keysym's name means under any layout,
// which may be the same key with or without Shift.
func another(m *mechanism.Machine, c keys.Chord, keysym string, shift bool) keys.Key {
	for _, same := range alike(keysym) {
		for _, l := range m.Layouts {
			for level := range 2 {
				for _, k := range l.Giving(same, level) {
					other := k != c.Key
					if !shift { // Shift is part of what the name says
						other = other || (level == 1) != c.Mods.Has(keys.Shift)
					}
					if other {
						return k
					}
				}
			}
		}
	}
	return keys.None
}

// capitals are the letters that have a capital in common, by that, where they are several: ı and
// i have I.
var capitals = sync.OnceValue(func() map[rune][]string {
	first, shared := map[rune]rune{}, map[rune][]rune{}
	for _, r16 := range unicode.Ll.R16 {
		for r := rune(r16.Lo); r <= rune(r16.Hi) && r < 0x2000; r += rune(r16.Stride) {
			capital := unicode.ToUpper(r)
			if other, known := first[capital]; !known {
				first[capital] = r
			} else if shared[capital] == nil {
				shared[capital] = []rune{other, r}
			} else {
				shared[capital] = append(shared[capital], r)
			}
		}
	}
	all := map[rune][]string{}
	for capital, runes := range shared {
		for _, r := range runes {
			all[capital] = append(all[capital], keys.RuneKeysym(r))
		}
	}
	return all
})

// alike are the keysyms that Qt calls as it calls one.
func alike(keysym string) []string {
	if r, ok := keys.KeysymRune(keysym); ok {
		if same := capitals()[unicode.ToUpper(r)]; same != nil {
			return append(slices.Clone(same), keysym)
		}
	}
	return []string{keysym}
}

// Calls is the desktop's own name of an action, "" if it has none.
func (Mechanism) Calls(action string) string { return actions()[action].key }

// Asks says whether Plasma asks before an action.
func (Mechanism) Asks(m *mechanism.Machine, name string) bool {
	p, _ := placeOf(m, name)
	return !strings.Contains(p.key, "Without Confirmation")
}

// asking are the places of what Plasma does from 6 on, and asks before.
var asking = map[string]place{
	"power-off": {"ksmserver", "Shut Down", "Shut Down"},
	"restart":   {"ksmserver", "Reboot", "Reboot"},
}

// placeOf is where an action's shortcut stands on a machine.
func placeOf(m *mechanism.Machine, action string) (place, bool) {
	if p, ok := asking[action]; ok && desktop.Since(m, six) {
		return p, true
	}
	p, ok := actions()[action]
	return p, ok
}

// plan is what a press needs in Plasma's files.
type plan struct {
	names    []string  // its chord as Plasma spells it, once for each layout that needs it
	own      place     // where the action stands that it does
	standard *standard // what it is to KDE's programs
	app      string    // the program's own desktop file, "" for one of ours
	exec     string    // what one of ours runs
	alone    bool      // a modifier alone, by the window manager's file
	file     string    // of a setting, with its key and value
	key      string
	value    change.Value
}

// Take says how well a binding lands.
func (t half) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if t.everyone {
		return takeForAll(m, b)
	}
	switch {
	case b.Level == behaviour.Setting:
		return when(mechanism.LogIn, repeat(b))
	case b.Level == behaviour.Hotkey && b.Chord.Key == keys.None && b.Board == "" && b.Layer == "" && len(b.Apps) == 0:
		a := alone(m, b)
		if a.Verdict == mechanism.Unavailable {
			return a
		}
		if !desktop.Since(m, six) {
			a.Plan = oldAlone(m, b)
			return a
		}
	case b.Level == behaviour.Position && b.Chord.Key.Section() == keys.Mouse:
		return when(mechanism.LogIn, ofButton(m, b))
	case !mechanism.Plain(b) || b.Level != behaviour.Hotkey:
		return mechanism.Offer{}
	}
	o := t.shortcut(m, b)
	if to, ok := o.Plan.(plan); ok && to.standard != nil {
		o = when(mechanism.ProgramStart, o)
	}
	return o
}

// when is an offer that takes effect later than shortcuts do.
func when(w mechanism.When, o mechanism.Offer) mechanism.Offer {
	if o.Verdict > mechanism.Unavailable {
		o.When = w
	}
	return o
}

// repeat says whether a setting can be had.
func repeat(b mechanism.Binding) mechanism.Offer {
	to := plan{file: "kcminputrc", key: "[Keyboard]RepeatRate", value: change.Int(b.Effect.Rate())}
	if b.Option.Kind == behaviour.RepeatDelay {
		to.key, to.value = "[Keyboard]RepeatDelay", change.Int(b.Effect.Delay())
	}
	return mechanism.Repeat(b, to)
}

// planOf is what a shortcut does, by the place of an action or by what is started.
func planOf(m *mechanism.Machine, b mechanism.Binding) plan {
	to := plan{}
	if b.Effect.Kind == behaviour.Acts {
		if s, ok := standardOf(b.Effect.Action); ok {
			to.standard = &s
		} else {
			to.own, _ = placeOf(m, b.Effect.Action)
		}
		return to
	}
	if l := b.Effect.Launch(); l.Dir == "" && !l.Confirm {
		to.app = l.App
	}
	to.exec = exec(b.Effect)
	return to
}

// shortcut says how well a chord lands as one of the desktop's.
func (t half) shortcut(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	var differs reason.List
	to := planOf(m, b)
	switch b.Effect.Kind {
	case behaviour.Launches, behaviour.Nothing:
		if b.Effect.Launch().Confirm {
			differs = differs.And(reason.QuestionByZenity.Of()...)
		}
	case behaviour.Acts:
		if to.own.group == "" && to.standard == nil {
			return mechanism.Offer{Why: reason.NoSuchShortcut.Of("Plasma", b.Effect.Action)}
		}
		if !t.Asks(m, b.Effect.Action) {
			differs = differs.And(reason.WithoutQuestion.Of()...)
		}
	default:
		return mechanism.Offer{}
	}
	if _, left := accelerator.Spell(tags, b.Chord.Mods); left != 0 {
		return mechanism.Offer{Why: reason.NoSuchModifier.Of("Plasma's shortcuts", strings.Join(left.Names(), ", "))}
	}
	if b.Chord.Key != keys.None && b.Chord.Key.Section() == keys.Mouse {
		return mechanism.Offer{Why: reason.OnlyKeysAreShortcuts.Of()}
	}
	var missing []string
	if to.names, missing = spell(m, b.Chord); len(to.names) == 0 {
		return mechanism.Offer{Why: reason.NoNameInPlasma.Of(b.Chord.Key.String())}
	}
	if to.standard != nil {
		if !parts(b.Chord, to.names) {
			return mechanism.Offer{Why: reason.PlasmaSemicolon.Of()}
		}
		differs = differs.And(takeStandard(*to.standard, b, to.names)...)
	}
	if len(missing) > 0 {
		differs = differs.And(reason.ByCharacter.Of("Plasma", strings.Join(missing, ", "), to.names[0])...)
	}
	if b.Chord.Key != keys.None {
		if s := accelerator.Translated(m.Layouts[0], b.Chord); len(s) > 0 {
			_, shift, _ := qt(m, s[0])
			if k := another(m, b.Chord, s[0], shift); k != keys.None {
				differs = differs.And(reason.MayTypeTheSame.Of("Plasma", k)...)
			}
		}
	}
	for _, u := range desktop.Stock(m) {
		if (u.Key != to.own.group || u.Name != to.own.key) && u.Chord.Overlaps(b.Chord) && !b.Override &&
			b.Effect.Kind != behaviour.Nothing {
			differs = differs.And(reason.PlasmaUsedToo.Of(u.Words)...)
		}
	}
	if len(differs) > 0 {
		return mechanism.Offer{Verdict: mechanism.Limited, Why: differs, Plan: to}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// stock are the shortcuts that an action has when nobody has changed it.
func stock(m *mechanism.Machine, group, key string) []keys.Chord {
	var list []keys.Chord
	for _, u := range desktop.Stock(m) {
		if u.Key == group && u.Name == key && !slices.Contains(list, u.Chord) {
			list = append(list, u.Chord)
		}
	}
	return list
}
