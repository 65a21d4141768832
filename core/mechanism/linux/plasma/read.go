package plasma

import (
	"cmp"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/mechanism/form/keyfile"
)

// Read reads the groups of the settings files and the desktop files they name.
func (t half) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	if t.everyone {
		return readForAll(m, fsys)
	}
	r := &reader{
		m:       m,
		fsys:    fsys,
		program: func(name string) ([]byte, error) { return fs.ReadFile(fsys, "plasma/"+name) },
	}
	for _, f := range []struct {
		path string
		key  func(group, name, value string) error
	}{{"plasma/kglobalshortcutsrc", r.shortcut}, {"plasma/kcminputrc", r.repeat}, {"plasma/kwinrc", r.aloneShortcut}, {"plasma/kdeglobals", r.shared}} {
		if err := r.groups(f.path, f.key); err != nil {
			return nil, err
		}
	}
	// Of two actions with one chord either may have it, whoever had it first.
	list := r.found.List()
	for i, b := range list {
		list[i].Contested = !b.Kept &&
			slices.ContainsFunc(
				r.own, func(o mechanism.Binding) bool { return o.Place() == b.Place() && !o.Effect.Equal(b.Effect) },
			)
	}
	return list, nil
}

const ambiguous = "does one thing or another"

// services is where the keeper of Plasma 6 has the groups of desktop files, whose values are
// the chords alone. It moves them there when it starts.
const services = "services]["

type reader struct {
	m    *mechanism.Machine
	fsys fs.FS
	// program reads the desktop file of a program of ours.
	program func(name string) ([]byte, error)
	found   behaviour.Found
	named   []string            // the groups of shortcuts
	own     []mechanism.Binding // what actions have anyhow
}

func (r *reader) groups(path string, key func(group, name, value string) error) error {
	text, err := fs.ReadFile(r.fsys, path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	} else if err != nil {
		return err
	}
	err = keyfile.Each(string(text), func(l keyfile.Line) error {
		return key(strings.TrimPrefix(l.Group, services), l.Name, l.Value)
	})
	if err != nil {
		return fmt.Errorf("%s:%w", path, err)
	}
	return nil
}

func (r *reader) repeat(group, name, value string) error {
	if group == buttonGroup {
		return r.rebound(name, value)
	}
	n, err := strconv.Atoi(value)
	if group != "Keyboard" || name != "RepeatDelay" && name != "RepeatRate" || err != nil || n <= 0 {
		return fmt.Errorf("[%s] %s=%s is no setting that we know", group, name, value)
	}
	b := behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(n))
	if name == "RepeatRate" {
		b = behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(n))
	}
	r.found.Add(b, "is set twice")
	return nil
}

// does are the actions by group and key; workspaces and tiles by what their names
// begin with.
var does = map[string]string{
	"kwin/Window Maximize": "maximize", "kwin/Window Minimize": "minimize", "kwin/Window Fullscreen": "full-screen",
	"kwin/Window Close": "close",
	"kwin/Window Move":  "move", "kwin/Window Resize": "resize", "kwin/Walk Through Windows": "next-window",
	"kwin/Walk Through Windows of Current Application": "next-window-of-app", "kwin/ExposeClass": "app-windows",
	"kwin/Overview": "overview", "kwin/Show Desktop": "show-desktop",
	"kwin/Switch to Next Desktop": "next-workspace", "kwin/Switch to Previous Desktop": "previous-workspace",
	"kwin/Window to Next Desktop":     "window-to-next-workspace",
	"kwin/Window to Previous Desktop": "window-to-previous-workspace",
	"ksmserver/Lock Session":          "lock", "ksmserver/Log Out": "log-out",
	"ksmserver/Halt Without Confirmation": "power-off", "ksmserver/Reboot Without Confirmation": "restart",
	"org_kde_powerdevil/Sleep":                      "suspend",
	"org_kde_powerdevil/Increase Screen Brightness": "brightness-up",
	"org_kde_powerdevil/Decrease Screen Brightness": "brightness-down",
	"ksmserver/Shut Down":                           "power-off", "ksmserver/Reboot": "restart", // from Plasma 6 on
	"mediacontrol/playpausemedia": "play-pause", "mediacontrol/stopmedia": "stop",
	"mediacontrol/nextmedia": "next-track", "mediacontrol/previousmedia": "previous-track",
	"kmix/increase_volume": "volume-up", "kmix/decrease_volume": "volume-down", "kmix/mute": "mute",
	"kmix/mic_mute": "mute-microphone",
	"org.kde.spectacle.desktop/FullScreenScreenShot":              "screenshot",
	"org.kde.spectacle.desktop/ActiveWindowScreenShot":            "screenshot-window",
	"org.kde.spectacle.desktop/RectangularRegionScreenShot":       "screenshot-area",
	"KDE Keyboard Layout Switcher/Switch to Next Keyboard Layout": "next-input-source",
}

func actionOf(group, key string) string {
	for from, to := range map[string]string{"Window Quick Tile ": "tile-", "Switch to Desktop ": "workspace-", "Window to Desktop ": "window-to-workspace-"} {
		if rest, ok := strings.CutPrefix(key, from); ok && group == "kwin" {
			return to + strings.ReplaceAll(strings.ToLower(rest), " ", "-")
		}
	}
	return does[group+"/"+key]
}

// does is what a shortcut does.
func (r *reader) does(group, key string) (behaviour.Effect, error) {
	if name := actionOf(group, key); name != "" {
		return behaviour.Effect{Kind: behaviour.Acts, Action: name}, nil
	}
	if key == "_launch" {
		return r.started(group)
	}
	return behaviour.Effect{Kind: behaviour.Other, Words: "has " + group + " do " + key}, nil
}

func (r *reader) shortcut(group, key, value string) error {
	fields := strings.SplitN(value, ",", 3)
	if len(fields) != 3 && !(len(fields) == 1 && strings.HasSuffix(group, ".desktop")) {
		return fmt.Errorf("%s has not the three fields of a shortcut", key)
	}
	r.named = append(r.named, group)
	e, err := r.does(group, key)
	if err != nil {
		return err
	}
	for chord := range strings.SplitSeq(fields[0], `\t`) {
		if chord == "none" || chord == "" {
			continue
		}
		list, err := r.chords(chord)
		if err != nil {
			return err
		}
		for _, c := range list {
			own := slices.ContainsFunc(desktop.Stock(r.m), func(u desktop.Use) bool {
				return u.Key == group && u.Name == key && u.Chord.Overlaps(c)
			})
			from := behaviour.AnyOf(list)
			if own {
				from = behaviour.Provenance{Kept: true}
			}
			b := mechanism.Binding{
				Level:      behaviour.Hotkey,
				Chord:      c,
				Effect:     e,
				Provenance: from,
			}
			if own {
				r.own = append(r.own, b)
			}
			r.found.Add(b, ambiguous)
		}
	}
	return nil
}

// keysyms are the keysyms of Qt's names.
var keysyms = map[string]string{
	"Esc": "Escape", "Return": "Return", "Backspace": "BackSpace", "Tab": "Tab", "Del": "Delete", "Ins": "Insert",
	"PgUp": "Prior", "PgDown": "Next",
	"Home": "Home", "End": "End", "Left": "Left", "Right": "Right", "Up": "Up", "Down": "Down", "Pause": "Pause",
	"Print":      "Print",
	"ScrollLock": "Scroll_Lock", "Menu": "Menu", "Space": "space", "Volume Up": "XF86AudioRaiseVolume",
	"Volume Down": "XF86AudioLowerVolume",
	"Volume Mute": "XF86AudioMute", "Media Play": "XF86AudioPlay", "Media Stop": "XF86AudioStop",
	"Media Previous": "XF86AudioPrev", "Media Next": "XF86AudioNext",
	"Tools": "XF86Tools", "Microphone Mute": "XF86AudioMicMute", "Touchpad Toggle": "XF86TouchpadToggle",
}

// launcher is the keysym of a key that Qt calls a launcher, "" for another: Qt 5 gives them
// numbers that are two more, in hexadecimal.
func (r *reader) launcher(name string) string {
	digit, ok := strings.CutPrefix(name, "Launch (")
	n, err := strconv.ParseUint(strings.TrimSuffix(digit, ")"), 16, 8)
	if !ok || err != nil {
		return ""
	}
	if !desktop.Since(r.m, "6") {
		n -= 2
	}
	return fmt.Sprintf("XF86Launch%X", n)
}

// chords reads a key sequence of Qt: more than one chord where keys type the same.
func (r *reader) chords(text string) ([]keys.Chord, error) {
	for mods, name := range aloneNames {
		if text == name { // by itself, as Plasma 6 has it
			return []keys.Chord{{Mods: mods}}, nil
		}
	}
	var c keys.Chord
	rest := text
	for {
		head, after, ok := strings.Cut(rest, "+")
		if !ok || head == "" {
			break
		}
		m, known := accelerator.Mod(head)
		if head == "Meta" {
			m, known = keys.Meta, true
		}
		if !known || head != "Meta" && head != "Ctrl" && head != "Alt" && head != "Shift" {
			return nil, fmt.Errorf("%q names no modifier of Qt", text)
		}
		c.Mods |= m
		rest = after
	}
	for _, l := range r.m.Layouts {
		if name := cmp.Or(keysyms[rest], r.launcher(rest)); name != "" ||
			len(rest) > 1 && rest[0] == 'F' && rest[1] < 0x80 {
			if name == "" {
				name = rest
			}
			var list []keys.Chord
			for _, k := range l.Giving(name, 0) {
				list = append(list, keys.Chord{Mods: c.Mods, Key: k})
			}
			if len(list) > 0 {
				return list, nil
			}
			continue
		}
		char := []rune(rest)
		if len(char) != 1 {
			break
		}
		names := []string{keys.RuneKeysym(char[0]), keys.RuneKeysym(unicode.ToLower(char[0]))}
		var list []keys.Chord
		for level := range 2 {
			for _, k := range keys.All() {
				if types(l, k, level, char[0], names) {
					found := keys.Chord{Mods: c.Mods, Key: k}
					if level == 1 && !unicode.IsLetter(char[0]) {
						found.Mods |= keys.Shift
					}
					if !slices.Contains(list, found) {
						list = append(list, found)
					}
				}
			}
		}
		if len(list) > 0 {
			return list, nil
		}
	}
	return nil, fmt.Errorf("%q: no key of the machine's layouts is called so", text)
}

// types says whether Qt takes a character, a capital of which the keysyms have these
// names, from a key on a level: not from the numeric pad, which has names of its own.
func types(l *keys.Layout, k keys.Key, level int, char rune, names []string) bool {
	if typed := l.Characters(k); typed != nil {
		return level < len(typed) && unicode.ToUpper(typed[level]) == char
	}
	s, ok := l.Symbols(k)
	return ok && level < len(s.Level) && slices.Contains(names, s.Level[level])
}

// isOurs says whether a file is a desktop file that we write.
func isOurs(name string) bool {
	return strings.HasPrefix(name, "leitstand-") && strings.HasSuffix(name, ".desktop")
}

// started reads the desktop file of a program's shortcut.
func (r *reader) started(file string) (behaviour.Effect, error) {
	if !isOurs(file) {
		return behaviour.Launching(behaviour.Launch{App: file}), nil
	}
	text, err := r.program(file)
	if err != nil {
		return behaviour.Effect{}, err
	}
	entries := map[string]string{}
	for n, line := range strings.Split(strings.TrimSuffix(string(text), "\n"), "\n") {
		if n > 0 && strings.HasPrefix(line, "#") {
			continue
		}
		name, value, ok := strings.Cut(line, "=")
		if n == 0 && line != "[Desktop Entry]" || n > 0 && !ok {
			return behaviour.Effect{}, fmt.Errorf("%s:%d: not a line of a desktop file", file, n+1)
		}
		entries[name] = value
	}
	if entries["Type"] != "Application" || entries["Name"] == "" || entries["Exec"] == "" {
		return behaviour.Effect{}, fmt.Errorf("%s is no desktop file of a program", file)
	}
	line := entries["Exec"]
	if line == "true" {
		return behaviour.Effect{Kind: behaviour.Nothing}, nil
	}
	other := behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("starts %q", line)}
	if code, ok := strings.CutPrefix(line, `sh -c "echo `); ok {
		code, ok = strings.CutSuffix(code, ` | base64 -d | sh"`)
		script, err := base64.StdEncoding.Strict().DecodeString(code)
		if !ok || err != nil {
			return other, nil
		}
		l, err := command.ReadScript(string(script))
		if err != nil {
			return other, nil
		}
		return behaviour.Launching(l), nil
	}
	if strings.ContainsAny(line, "%\\'`$") {
		return other, nil
	}
	words, err := command.Split(line)
	if err != nil || len(words) == 0 {
		return other, nil
	}
	return behaviour.Launching(command.Read(words)), nil
}
