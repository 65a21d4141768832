package dconf

import (
	"errors"
	"fmt"
	"io/fs"
	"math"
	"path"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/mechanism/form/keyfile"
)

// Read reads a keyfile: what the desktop's actions and the user's own shortcuts are
// bound to, and how fast keys repeat.
func (t half) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	file := "dconf/" + t.Desktop + ".ini"
	prefix := "leitstand"
	if t.everyone {
		file, prefix = "dconf/everyone/"+t.Desktop+".ini", "leitstand-everyone"
	}
	text, err := fs.ReadFile(fsys, file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	r := &reader{
		desktop:  t.Desktop,
		m:        m,
		stock:    desktop.Spelled(m),
		own:      map[string]*shortcut{},
		prefix:   prefix,
		everyone: t.everyone,
	}
	err = keyfile.Each(string(text), func(l keyfile.Line) error { return r.key("/"+l.Group+"/", l.Name, l.Value) })
	if err != nil {
		return nil, fmt.Errorf("%s:%w", file, err)
	}
	listed := map[string]bool{} // by name
	for _, l := range r.listed {
		listed[path.Base(l)] = true
	}
	for i := range len(r.own) {
		s := r.own[fmt.Sprintf("%s%d", prefix, i)]
		if s == nil {
			return nil, fmt.Errorf("%s: the shortcut %s%d is missing", file, prefix, i)
		}
		if s.binding == "" || s.command == "" || s.name == "" {
			return nil, fmt.Errorf("%s: the shortcut %s%d lacks its name, command or binding", file, prefix, i)
		}
		if (t.everyone || r.listed != nil) && r.desktop != "mate" && !listed[fmt.Sprintf("%s%d", prefix, i)] {
			return nil, fmt.Errorf("%s: the shortcut %s%d is in no list", file, prefix, i)
		}
		e := started(s.command)
		if err := r.bind(s.binding, e, custom); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
	}
	if t.everyone {
		if err := r.locked(fsys); err != nil {
			return nil, err
		}
	}
	return r.found.List(), nil
}

// locked makes sure that every key is locked, so that it holds for everyone.
func (r *reader) locked(fsys fs.FS) error {
	text, err := fs.ReadFile(fsys, "dconf/everyone/locks")
	if err != nil {
		return err
	}
	locks := strings.Split(string(text), "\n")
	for _, key := range r.seen {
		open := strings.HasSuffix(key, "/custom-keybindings") || strings.HasSuffix(key, "/custom-list")
		if !open && !slices.Contains(locks, key) {
			return fmt.Errorf("dconf/everyone/locks: %s is not locked, so a user may change it", key)
		}
	}
	return nil
}

// shortcut is one of the user's own.
type shortcut struct{ name, command, binding string }

type reader struct {
	desktop string
	m       *mechanism.Machine
	stock   map[string][]string
	own     map[string]*shortcut
	found   behaviour.Found
	// everyone: the settings are for all users of the machine.
	everyone bool
	prefix   string   // of the names of the user's own shortcuts
	listed   []string // the shortcuts that are in use
	seen     []string // every key of the file
}

var customs = map[string]string{
	"/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/": "gnome",
	"/org/mate/desktop/keybindings/":                                    "mate",
	"/org/cinnamon/desktop/keybindings/custom-keybindings/":             "cinnamon",
}

// lists are the folders with the list of the user's own shortcuts that are in use.
var lists = map[string]string{
	"gnome":    "/org/gnome/settings-daemon/plugins/media-keys/",
	"cinnamon": "/org/cinnamon/desktop/keybindings/",
}

// stillDoes says whether the desktop does something on a chord, as long as the file does not
// say otherwise.
func (r *reader) stillDoes(c keys.Chord) bool {
	return slices.ContainsFunc(desktop.Stock(r.m), func(u desktop.Use) bool {
		return u.Key != "" && !slices.Contains(r.seen, u.Key) && u.Chord.Overlaps(c)
	})
}

// folders hold the keys of actions.
var folders = []string{
	"/org/gnome/desktop/wm/keybindings/", "/org/gnome/mutter/keybindings/", "/org/gnome/mutter/wayland/keybindings/",
	"/org/gnome/shell/keybindings/",
	"/org/gnome/settings-daemon/plugins/media-keys/",
	"/org/mate/marco/window-keybindings/", "/org/mate/marco/global-keybindings/", "/org/mate/settings-daemon/" +
		"plugins/media-keys/",
	"/org/cinnamon/desktop/keybindings/", "/org/cinnamon/desktop/keybindings/wm/", "/org/cinnamon/desktop/" +
		"keybindings/media-keys/",
}

func (r *reader) key(folder, name, value string) error {
	v, err := parse(value)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	if !strings.HasPrefix(folder, "/org/"+r.desktop+"/") {
		return fmt.Errorf("%s is no folder of this desktop", folder)
	}
	r.seen = append(r.seen, folder+name)
	parent, last, _ := cutLast(strings.TrimSuffix(folder, "/"))
	switch {
	case folder+name == overlay:
		return r.readOverlay(v)
	case (name == "custom-keybindings" || name == "custom-list") && folder != lists[r.desktop]:
		return fmt.Errorf("%s is not where the desktop looks for its list", folder)
	case name == "custom-keybindings" || name == "custom-list":
		r.listed = v.texts
		return nil
	case customs[parent] == r.desktop && strings.HasPrefix(last, r.prefix):
		return r.shortcut(last, name, v)
	case strings.HasSuffix(folder, "/peripherals/keyboard/"):
		return r.setting(name, v)
	case !slices.Contains(folders, folder):
		return fmt.Errorf("%s is no folder of shortcuts", folder)
	}
	want := kindList
	if r.desktop == "mate" {
		want = kindText
	}
	if v.kind != want {
		return fmt.Errorf("%s is of another type than the desktop's", name)
	}
	e := behaviour.Effect{Kind: behaviour.Other, Words: "does " + name}
	if does := actionOf(r.desktop, name); does != "" {
		e = behaviour.Effect{Kind: behaviour.Acts, Action: does}
	}
	for _, accel := range v.texts {
		if accel == "disabled" || accel == "" {
			continue
		}
		how := added
		if slices.Contains(r.stock[folder+name], accel) {
			how = stock
		}
		if err := r.bind(accel, e, how); err != nil {
			return err
		}
	}
	return nil
}

func cutLast(path string) (folder, last string, ok bool) {
	i := strings.LastIndexByte(path, '/')
	return path[:i+1], path[i+1:], i >= 0
}

func (r *reader) shortcut(id, name string, v value) error {
	s := r.own[id]
	if s == nil {
		s = &shortcut{}
		r.own[id] = s
	}
	want := kindText
	if r.desktop == "cinnamon" && name == "binding" {
		want = kindList
	}
	if v.kind != want || len(v.texts) != 1 {
		return fmt.Errorf("%s is of another type than the desktop's", name)
	}
	commandKey := "command"
	if r.desktop == "mate" {
		commandKey = "action"
	}
	switch name {
	case "name":
		s.name = v.texts[0]
	case commandKey:
		s.command = v.texts[0]
	case "binding":
		s.binding = v.texts[0]
		if r.desktop == "mate" &&
			slices.ContainsFunc(
				[]string{"<Super>", "<Hyper>", "<Meta>"},
				func(tag string) bool { return strings.Contains(s.binding, tag) },
			) {
			return fmt.Errorf("%s: MATE's own shortcuts know the real modifiers only", s.binding)
		}
	default:
		return fmt.Errorf("a shortcut has no key %s", name)
	}
	return nil
}

func (r *reader) setting(name string, v value) error {
	want := kindUnsigned
	if r.desktop == "mate" {
		want = kindNumber
	}
	if v.kind != want || v.number <= 0 {
		return fmt.Errorf("%s is no number of the desktop's type above 0", name)
	}
	var b mechanism.Binding
	switch {
	case name == "delay":
		b = behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(v.number))
	case name == "rate" && r.desktop == "mate":
		b = behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(v.number))
	case name == "repeat-interval" && r.desktop != "mate":
		b = behaviour.Set(
			behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(math.Round(1000/float64(v.number))),
		)
	default:
		return fmt.Errorf("%s is no setting that we know", name)
	}
	b.Everyone = r.everyone
	r.found.Add(b, "is set twice")
	return nil
}

// source is where an accelerator comes from.
type source uint8

const (
	custom source = iota // a shortcut of the user's own
	added                // an action that got it
	stock                // an action that has it anyhow
)

// chords reads an accelerator as the desktop does: more than one chord where keys type
// the same.
func (r *reader) chords(accel string, from source) ([]keys.Chord, error) {
	layouts := r.m.Layouts
	switch {
	case from == stock: // the desktops' own spellings are wider than ours
		if c, ok := desktop.Accelerator(r.m, accel); ok {
			return []keys.Chord{c}, nil
		}
		return nil, nil
	case r.desktop == "mate" && from == custom:
		return accelerator.ParseTranslated(layouts, accel)
	case r.desktop == "mate":
		layouts = layouts[:1]
	}
	mods, keysym, err := accelerator.Parse(accel)
	if err != nil {
		return nil, err
	}
	same, err := accelerator.Keys(layouts, keysym)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", accel, err)
	}
	list := make([]keys.Chord, len(same))
	for i, k := range same {
		list[i] = keys.Chord{Mods: mods, Key: k}
	}
	return list, nil
}

// bind notes that an accelerator has an effect.
func (r *reader) bind(accel string, e behaviour.Effect, from source) error {
	list, err := r.chords(accel, from)
	of := behaviour.AnyOf(list)
	if from == stock {
		of = behaviour.Provenance{Kept: true}
	}
	for _, c := range list {
		// Of two keys that type the same, one may be the desktop's own, and the other switched off.
		of.Contested = from == custom && e.Kind == behaviour.Nothing && r.stillDoes(c)
		r.found.Add(
			mechanism.Binding{
				Level:      behaviour.Hotkey,
				Chord:      c,
				Effect:     e,
				Request:    behaviour.Request{Everyone: r.everyone},
				Provenance: of,
			},
			"does one thing or another",
		)
	}
	return err
}

// started reads a command line.
func started(line string) behaviour.Effect {
	words, err := command.Split(line)
	if err != nil || len(words) == 0 {
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("cannot be started: %q", line)}
	}
	switch strings.Join(words, "\x00") {
	case "true":
		return behaviour.Effect{Kind: behaviour.Nothing}
	case "systemctl\x00suspend":
		return behaviour.Effect{Kind: behaviour.Acts, Action: "suspend"}
	case "gnome-session-quit\x00--power-off":
		return behaviour.Effect{Kind: behaviour.Acts, Action: "power-off"}
	case "gnome-session-quit\x00--reboot", "cinnamon-session-quit\x00--reboot", "systemctl\x00reboot":
		return behaviour.Effect{Kind: behaviour.Acts, Action: "restart"}
	case "mate-screenshot\x00--area":
		return behaviour.Effect{Kind: behaviour.Acts, Action: "screenshot-area"}
	}
	return behaviour.Launching(command.Read(words))
}

// named are what the keys of the three desktops stand for.
var named = map[string]string{
	"toggle-tiled-left": "tile-left", "toggle-tiled-right": "tile-right", "tile-to-side-w": "tile-left",
	"tile-to-side-e": "tile-right",
	"push-tile-left": "tile-left", "push-tile-right": "tile-right", "push-tile-up": "tile-top",
	"push-tile-down":    "tile-bottom",
	"tile-to-corner-nw": "tile-top-left", "tile-to-corner-ne": "tile-top-right",
	"tile-to-corner-sw": "tile-bottom-left", "tile-to-corner-se": "tile-bottom-right",
	"toggle-maximized": "maximize", "minimize": "minimize", "toggle-fullscreen": "full-screen", "close": "close",
	"begin-move": "move", "begin-resize": "resize",
	"switch-windows": "next-window", "switch-group": "next-window-of-app", "toggle-overview": "overview",
	"show-desktop":            "show-desktop",
	"toggle-application-view": "launcher", "panel-main-menu": "launcher",
	"switch-to-workspace-right": "next-workspace", "switch-to-workspace-left": "previous-workspace",
	"move-to-workspace-right": "window-to-next-workspace", "move-to-workspace-left": "window-to-previous-workspace",
	"screensaver": "lock", "suspend": "suspend", "logout": "log-out", "power": "power-off", "shutdown": "power-off",
	"screenshot": "screenshot", "screenshot-window": "screenshot-window", "show-screenshot-ui": "screenshot-area",
	"run-command-screenshot": "screenshot", "run-command-window-screenshot": "screenshot-window",
	"window-screenshot": "screenshot-window", "area-screenshot": "screenshot-area",
	"play": "play-pause", "stop": "stop", "next": "next-track", "previous": "previous-track",
	"volume-up": "volume-up", "volume-down": "volume-down", "volume-mute": "mute", "mic-mute": "mute-microphone",
	"screen-brightness-up": "brightness-up", "screen-brightness-down": "brightness-down",
	"toggle-message-tray": "notifications",
	"switch-input-source": "next-input-source", "switch-input-source-backward": "previous-input-source",
}

func actionOf(desktop, name string) string {
	if verb, number, ok := strings.Cut(name, "-to-workspace-"); ok && (verb == "switch" || verb == "move") {
		if n, err := strconv.Atoi(number); err == nil && n >= 1 && n <= 12 && number == strconv.Itoa(n) {
			return map[string]string{"switch": "workspace-", "move": "window-to-workspace-"}[verb] + number
		}
	}
	if desktop == "cinnamon" && name == "switch-to-workspace-down" {
		return "overview"
	}
	return named[name]
}

// kind is a type of the values that occur here.
type kind uint8

const (
	kindText kind = iota
	kindList
	kindNumber
	kindUnsigned
)

type value struct {
	kind   kind
	texts  []string
	number int64
}

// parse reads a value in GVariant's text format, as far as it occurs here.
func parse(text string) (value, error) {
	text = strings.TrimSpace(text)
	switch {
	case text == "@as []", text == "[]":
		return value{kind: kindList}, nil
	case strings.HasPrefix(text, "["):
		v := value{kind: kindList}
		rest := text[1:]
		for {
			s, after, err := unquote(strings.TrimLeft(rest, " "))
			if err != nil {
				return v, err
			}
			v.texts = append(v.texts, s)
			after = strings.TrimLeft(after, " ")
			if after == "]" {
				return v, nil
			}
			if rest, ok := strings.CutPrefix(after, ","); ok {
				after = rest
			} else {
				return v, errors.New("a list is not closed")
			}
			rest = after
		}
	case strings.HasPrefix(text, "'"), strings.HasPrefix(text, `"`):
		s, after, err := unquote(text)
		if err == nil && after != "" {
			err = fmt.Errorf("%q stands behind the text", after)
		}
		return value{kind: kindText, texts: []string{s}}, err
	}
	v := value{kind: kindNumber}
	if rest, ok := strings.CutPrefix(text, "uint32 "); ok {
		v.kind, text = kindUnsigned, rest
	}
	n, err := strconv.ParseInt(text, 10, 32)
	if err != nil {
		return v, fmt.Errorf("%q is no value", text)
	}
	v.number = n
	return v, nil
}

func unquote(text string) (s, after string, err error) {
	if text == "" || text[0] != '\'' && text[0] != '"' {
		return "", "", errors.New("a text in quotes is expected")
	}
	var b strings.Builder
	for i := 1; i < len(text); i++ {
		switch c := text[i]; {
		case c == text[0]:
			return b.String(), text[i+1:], nil
		case c != '\\':
			b.WriteByte(c)
		case i+1 == len(text):
			return "", "", errors.New("a text ends in a backslash")
		default:
			i++
			switch text[i] {
			case 'n':
				b.WriteByte('\n')
			case 't':
				b.WriteByte('\t')
			case 'u':
				if i+4 >= len(text) {
					return "", "", errors.New("a character's number is cut short")
				}
				n, err := strconv.ParseUint(text[i+1:i+5], 16, 16)
				if err != nil || n == 0 {
					return "", "", errors.New("no number of a character")
				}
				b.WriteRune(rune(n))
				i += 4
			case '\'', '\\', '"':
				b.WriteByte(text[i])
			default:
				return "", "", fmt.Errorf("\\%c means nothing here", text[i])
			}
		}
	}
	return "", "", errors.New("a quote is not closed")
}
