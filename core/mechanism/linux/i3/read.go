package i3

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
	"leitstand/core/mechanism/form/command"
)

// Read reads a file of bindings: what the chords and sequences do, and how fast
// keys repeat.
func (t half) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	file, layouts := "i3/leitstand.conf", m.Layouts[:1] // the names of keys are those of the first layout
	switch {
	case t.everyone:
		file, layouts = "sway/everyone/leitstand.conf", m.Layouts
	case t.Sway:
		file, layouts = "sway/leitstand.conf", m.Layouts
	}
	text, err := fs.ReadFile(fsys, file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	if err := t.included(fsys); err != nil {
		return nil, err
	}
	r := &reader{sway: t.Sway, layouts: layouts, modes: modes{}, alone: map[string]string{}}
	n := 0
	for line := range strings.Lines(string(text)) {
		n++
		if err := r.line(strings.TrimSpace(line)); err != nil {
			return nil, fmt.Errorf("%s:%d: %w", file, n, err)
		}
	}
	if r.mode != "" || r.input {
		return nil, fmt.Errorf("%s: a brace is not closed", file)
	}
	if err := r.released(); err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	r.found.Grow(min(r.acting, mostFollowed))
	for _, b := range r.modes.of("") {
		if err := r.follow(b, nil, 0, behaviour.Provenance{}); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
	}
	list := r.found.List()
	for i := range list {
		list[i].Everyone = t.everyone
	}
	return list, nil
}

// included makes sure that the user's own configuration, where it is at hand, includes the
// bindings; those for everyone are in a folder that it includes.
func (t half) included(fsys fs.FS) error {
	if t.everyone {
		return nil
	}
	name, line := "i3", "include ~/.config/i3/leitstand.conf"
	if t.Sway {
		name, line = "sway", "include ~/.config/sway/leitstand.conf"
	}
	text, err := fs.ReadFile(fsys, name+"/config")
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	} else if err != nil {
		return err
	}
	if !slices.Contains(strings.Split(string(text), "\n"), line) {
		return fmt.Errorf("%s/config: it lacks the line %q, so that nothing of it counts", name, line)
	}
	return nil
}

// bound is a line of bindings.
type bound struct {
	chord keys.Chord
	does  string
	of    behaviour.Provenance // where the keysym is that of more than one key
}

// modes are the bindings of each mode, of "" those outside of all.
type modes map[string]*[]bound

func (m modes) of(name string) []bound {
	if list := m[name]; list != nil {
		return *list
	}
	return nil
}

type reader struct {
	sway    bool
	shell   bool // others may have written the file
	layouts []*keys.Layout
	mode    string // the mode whose block is open
	input   bool   // the block of an input is open
	// ownDelay: the delay that the server is told is not the mapping's.
	ownDelay bool
	modes    modes
	into     *[]bound                // the bindings of the mode that is open; nil before the first
	named    map[string][]keys.Chord // by how they are spelled
	alone    map[string]string       // what modifiers do by their release, by keysym
	found    behaviour.Found
	bound    int // bindings in all
	acting   int // those that neither lead to a mode nor only end one
	followed int // bindings of modes that were followed
}

func (r *reader) line(line string) error {
	word, rest, _ := strings.Cut(line, " ")
	switch {
	case line == "# The delay of 660 ms is the X server's own.":
		r.ownDelay = true
	case line == "" || strings.HasPrefix(line, "#"):
	case line == "}" && (r.mode != "" || r.input):
		r.enter("")
		r.input = false
	case r.input && (word == "repeat_delay" || word == "repeat_rate"):
		return r.setting(map[string]string{"repeat_delay": "delay", "repeat_rate": "rate"}[word], rest)
	case word == "mode" && r.mode == "" && !r.input:
		name, ok := strings.CutSuffix(rest, " {")
		if name, ok = unquote(name, ok); !ok {
			return fmt.Errorf("%q opens no mode", line)
		}
		r.enter(name)
	case line == "input type:keyboard {" && r.sway && r.mode == "":
		r.input = true
	case word == "exec_always" && !r.sway:
		return r.server(strings.Fields(rest))
	case word == "bindsym" && !r.input:
		if sym, ok := strings.CutPrefix(rest, releases); ok && r.mode == "" {
			name, does, _ := strings.Cut(sym, " ")
			if _, twice := r.alone[name]; twice {
				return fmt.Errorf("%q is bound twice", name)
			}
			r.alone[name] = does
			return nil
		}
		rest, over := strings.CutPrefix(rest, wordOver)
		spelled, does, _ := strings.Cut(rest, " ")
		list, err := r.chords(spelled, over)
		r.bind(list, does)
		return err
	default:
		return fmt.Errorf("%q is nothing that we know", line)
	}
	return nil
}

// bind notes what chords do that the window manager cannot tell apart.
func (r *reader) bind(list []keys.Chord, does string) {
	if r.into = cmp.Or(r.into, r.modes[r.mode]); r.into == nil {
		r.into = &[]bound{}
		r.modes[r.mode] = r.into
	}
	for _, c := range list {
		*r.into = append(*r.into, bound{c, does, behaviour.AnyOf(list)})
		r.bound++
		if !strings.HasPrefix(does, "mode ") {
			r.acting++
		}
	}
}

// enter begins to read the block of a mode, or what is outside of all.
func (r *reader) enter(mode string) { r.mode, r.into = mode, nil }

func unquote(s string, ok bool) (string, bool) {
	if !ok || len(s) < 2 || s[0] != '"' || s[len(s)-1] != '"' {
		return "", false
	}
	return s[1 : len(s)-1], true
}

func (r *reader) setting(name, value string) error {
	n, err := strconv.Atoi(value)
	if err != nil || n < 0 {
		return fmt.Errorf("%q is no number", value)
	}
	b := behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(n))
	if name == "rate" {
		b = behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(n))
	}
	r.found.Add(b, "is set twice")
	return nil
}

// server reads what the X server's settings program is told.
func (r *reader) server(f []string) error {
	if len(f) > 0 && f[0] == "--no-startup-id" {
		f = f[1:]
	}
	switch {
	case len(f) >= 4 && len(f) <= 5 && strings.Join(f[:3], " ") == "xset r rate":
		if !r.ownDelay {
			if err := r.setting("delay", f[3]); err != nil {
				return err
			}
		}
		if len(f) == 5 {
			return r.setting("rate", f[4])
		}
		return nil
	case len(f) == 3 && f[0] == "xset" && (f[1] == "r" || f[1] == "-r"):
		n, err := strconv.Atoi(f[2])
		k, ok := keys.ByEvdev(n - 8)
		if err != nil || !ok {
			return fmt.Errorf("there is no key of keycode %s", f[2])
		}
		r.found.Add(
			behaviour.Set(behaviour.Option{Kind: behaviour.RepeatOf, Key: k}, behaviour.Repeats(f[1] == "r")),
			"is set twice",
		)
		return nil
	}
	return fmt.Errorf("%q is no setting that we know", strings.Join(f, " "))
}

// chords reads Mod4+Shift+t: more than one chord where keys type the same. Mod2 is
// NumLock, which only chooses a name of a key of the numpad.
func (r *reader) chords(text string, overWindow bool) ([]keys.Chord, error) {
	if list := r.named[text]; list != nil && !overWindow {
		return list, nil
	}
	mods, numlock, name, err := r.parted(text)
	if err != nil {
		return nil, err
	}
	if overWindow {
		k, err := buttonNamed(name)
		return []keys.Chord{{Mods: mods, Key: k}}, err
	}
	same, err := accelerator.Keys(r.layouts, name)
	if err != nil {
		return nil, err
	}
	var list []keys.Chord
	for _, k := range same {
		if s, _ := r.layouts[0].Symbols(k); r.sway || numlock == (s.Level[0] != name) {
			list = append(list, keys.Chord{Mods: mods, Key: k})
		}
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("%q does not hold whether NumLock is on or off", text)
	}
	if r.named == nil {
		r.named = map[string][]keys.Chord{}
	}
	r.named[text] = list
	return list, nil
}

// parted is a chord's modifiers, NumLock apart, and its key.
func (r *reader) parted(text string) (mods keys.Mods, numlock bool, key string, err error) {
	parts := strings.Split(text, "+")
	for _, p := range parts[:len(parts)-1] {
		if p == "Mod2" && !r.sway {
			numlock = true
			continue
		}
		m, ok := accelerator.Mod(p)
		if !ok || strings.EqualFold(p, "hyper") || strings.EqualFold(p, "super") {
			return 0, false, "", fmt.Errorf("%q is no modifier here", p)
		}
		mods |= m
	}
	return mods, numlock, parts[len(parts)-1], nil
}

// mostFollowed is how many bindings modes may lead to beyond twice those that there are: a
// mode that many others lead to counts as often.
const mostFollowed = 20000

// follow finds what a binding does, through the modes it leads to.
func (r *reader) follow(b bound, before []keys.Chord, depth int, of behaviour.Provenance) error {
	if b.of.Kept {
		of = b.of
	}
	strokes := append(before[:len(before):len(before)], b.chord)
	does, inside := b.does, depth > 0
	if inside {
		if does == `mode "default"` {
			return nil
		}
		does = strings.TrimSuffix(does, `; mode "default"`)
	}
	if name, ok := unquote(strings.TrimPrefix(does, "mode "), strings.HasPrefix(does, "mode ")); ok &&
		name != "leitstand move" &&
		name != "leitstand resize" {
		if depth > 8 {
			return errors.New("the modes lead deeper than we follow, or in a circle")
		}
		if r.followed += len(r.modes.of(name)); r.followed > mostFollowed+2*r.bound {
			return fmt.Errorf("the modes lead to more than %d bindings", r.followed-1)
		}
		list, ok := r.modes[name]
		if !ok {
			return fmt.Errorf("there is no mode %q", name)
		}
		for _, next := range *list {
			if err := r.follow(next, strokes, depth+1, of); err != nil {
				return err
			}
		}
		return nil
	}
	e := r.effect(does)
	leads := strings.HasPrefix(does, "mode ")
	if leads && !r.movesByArrows(e.Action) {
		return fmt.Errorf("there is no mode %q in which the arrow keys %s", "leitstand "+e.Action, e.Action)
	}
	if leads && does != b.does {
		e = behaviour.Effect{Kind: behaviour.Other, Words: "begins to " + e.Action + " and ends it at once"}
	}
	if inside && does == b.does && !leads {
		e = behaviour.Effect{Kind: behaviour.Other, Words: e.String() + " and stays in its mode"}
	}
	n := mechanism.Binding{
		Level:      behaviour.Hotkey,
		Chord:      strokes[0],
		Effect:     e,
		Provenance: of,
	}
	if len(strokes) > 1 {
		n.Then = strokes[1:]
	}
	r.found.Add(n, "does one thing or another, by layout or NumLock")
	return nil
}

// movesByArrows reports whether the mode for an action is there, and moves or resizes by the arrow keys.
func (r *reader) movesByArrows(action string) bool {
	list, ok := r.modes["leitstand "+action]
	if !ok {
		return false
	}
	for _, a := range arrows {
		does := map[string]string{"move": a.moves, "resize": a.resizes}[action]
		if !slices.ContainsFunc(*list, func(b bound) bool { return b.chord.String() == a.code && b.does == does }) {
			return false
		}
	}
	return true
}

// commands are what the commands of the window managers do.
var commands = map[string]string{
	"fullscreen toggle": "full-screen", "[con_id=__focused__] fullscreen toggle": "maximize",
	"move scratchpad": "minimize", "kill": "close", `mode "leitstand move"`: "move",
	`mode "leitstand resize"`: "resize",
	"focus next":              "next-window", "workspace next": "next-workspace", "workspace prev": "previous-workspace",
	"move container to workspace next":           "window-to-next-workspace",
	"move container to workspace prev":           "window-to-previous-workspace",
	"input type:keyboard xkb_switch_layout next": "next-input-source",
	"input type:keyboard xkb_switch_layout prev": "previous-input-source",
}

// programs are what other programs do when they are started so.
var programs = map[string]string{
	"systemctl suspend": "suspend", "loginctl lock-session": "lock", "dmenu_run": "launcher", "scrot": "screenshot",
	"grim":            "screenshot",
	"scrot --focused": "screenshot-window", "scrot --select": "screenshot-area",
	"i3-nagbar -t warning -m 'End the session?' -B 'End it' 'i3-msg exit'": "log-out", "swaynag -t warning -m 'End " +
		"the session?' -B 'End it' 'swaymsg exit'": "log-out",
	"i3-nagbar -t warning -m 'Switch off?' -B 'Switch off' 'systemctl poweroff'": "power-off", "swaynag -t warning " +
		"-m 'Switch off?' -B 'Switch off' 'systemctl poweroff'": "power-off",
	"i3-nagbar -t warning -m 'Restart?' -B 'Restart' 'systemctl reboot'": "restart", "swaynag -t warning -m " +
		"'Restart?' -B 'Restart' 'systemctl reboot'": "restart",
	"playerctl play-pause": "play-pause", "playerctl stop": "stop", "playerctl next": "next-track",
	"playerctl previous":                       "previous-track",
	"pactl set-sink-volume @DEFAULT_SINK@ +5%": "volume-up", "pactl set-sink-volume @DEFAULT_SINK@ -5%": "volume-down",
	"pactl set-sink-mute @DEFAULT_SINK@ toggle":     "mute",
	"pactl set-source-mute @DEFAULT_SOURCE@ toggle": "mute-microphone",
	"brightnessctl set 5%+":                         "brightness-up", "brightnessctl set 5%-": "brightness-down",
}

// numbered are commands that end in the number of a workspace.
var numbered = map[string]string{
	"workspace number ":                   "workspace-",
	"move container to workspace number ": "window-to-workspace-",
}

// effect reads a command; of one that we did not write, a shell is given what is started.
func (r *reader) effect(does string) behaviour.Effect {
	e := r.written(does)
	if line, ok := strings.CutPrefix(does, "exec "); ok && r.shell && e.Kind == behaviour.Other {
		return behaviour.Launching(command.ReadShell(line))
	}
	return e
}

// written reads a command as we write it.
func (r *reader) written(does string) behaviour.Effect {
	other := func() behaviour.Effect {
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("does %q", does)}
	}
	acts := func(name string) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Acts, Action: name} }
	if does == "nop" {
		return behaviour.Effect{Kind: behaviour.Nothing}
	}
	if name, ok := commands[does]; ok {
		return acts(name)
	}
	for prefix, name := range numbered {
		if number, ok := strings.CutPrefix(does, prefix); ok && number != "" &&
			strings.Trim(number, "0123456789") == "" {
			return acts(name + number)
		}
	}
	line, ok := strings.CutPrefix(does, "exec ")
	if !ok {
		return other()
	}
	line = strings.TrimPrefix(line, "--no-startup-id ")
	if name, ok := programs[line]; ok {
		return acts(name)
	}
	if printed, ok := strings.CutPrefix(line, "eval \"`printf '"); ok {
		if line, ok = strings.CutSuffix(printed, "'`\""); !ok {
			return other()
		}
		if r.sway { // which takes one backslash of two
			if strings.Count(line, `\\`)*2 != strings.Count(line, `\`) {
				return other()
			}
			line = strings.ReplaceAll(line, `\\`, `\`)
		}
		if line, ok = octal(line); !ok {
			return other()
		}
	} else if strings.ContainsAny(line, "$;,\"\\") {
		return other() // the window manager takes these for its own
	}
	launch, err := command.ReadScript(line)
	if err != nil {
		return other()
	}
	return behaviour.Launching(launch)
}

// octal undoes what printf does with numbers.
func octal(s string) (string, bool) {
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] != '\\':
			if strings.IndexByte("'%`$\"", s[i]) >= 0 {
				return "", false
			}
			b.WriteByte(s[i])
		case i+3 < len(s):
			n, err := strconv.ParseUint(s[i+1:i+4], 8, 8)
			if err != nil {
				return "", false
			}
			b.WriteByte(byte(n))
			i += 3
		default:
			return "", false
		}
	}
	return b.String(), true
}
