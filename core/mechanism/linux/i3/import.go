package i3

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/accelerator"
)

// For is a machine with the window manager.
func (t Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Linux, Desktop: t.name()}
}

var (
	bindings = mechanism.Pattern(`(?m)^\s*bind(sym|code)\s`)
	// onlySway are lines that i3's language has not.
	onlySway = mechanism.Pattern(`(?m)^\s*(input|output|seat)\s|\bsway(msg|nag|bg|idle|lock)?\b`)
)

// Knows says whether a text is a configuration with bindings. The two languages are told
// apart by the folder or by what only one of them has.
func (t Mechanism) Knows(name string, text []byte) bool {
	if !bindings().Match(text) {
		return false
	}
	switch folder := path.Base(path.Dir(name)); folder {
	case "i3", "sway":
		return folder == t.name()
	}
	return onlySway().Match(text) == t.Sway
}

// Import reads a configuration as people write it: with variables, blocks, and all that
// is not about keys, which is passed over.
func (t Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	im := &importer{from: map[int]source{}, vars: &variables{}}
	im.reader = reader{
		sway:    t.Sway,
		shell:   true,
		layouts: t.layouts(m),
		modes:   modes{},
		alone:   map[string]string{},
	}
	for n, line := range continued(string(text)) {
		im.line(n, strings.TrimSpace(line))
	}
	if err := im.released(); err != nil {
		im.got.Leave(0, "--release", err.Error())
	}
	im.follow()
	return im.got, nil
}

// importer reads a configuration line by line.
type importer struct {
	reader
	got    mechanism.Imported
	from   map[int]source // of the bindings outside of modes, by their place
	vars   *variables
	passed int // open braces of blocks that are not about keys
}

// source is where a binding stands.
type source struct {
	line int
	text string
}

// line reads a line.
func (im *importer) line(n int, line string) {
	word, rest, _ := strings.Cut(line, " ")
	opens := strings.HasSuffix(line, "{")
	switch {
	case line == "" || line[0] == '#':
		return
	case im.passed > 0 && line == "}":
		im.passed--
		return
	case im.passed > 0:
		if im.sway && strings.HasPrefix(word, "xkb_") && inputSetting().MatchString(line) {
			im.got.Leave(n, line, "options and layouts of a single board are not taken over")
		}
		if opens {
			im.passed++
		}
		return
	case word == "set" || word == "set_from_resource":
		im.vars.set(strings.Fields(rest), word == "set")
		return
	}
	written := line
	if line = im.vars.replace(line); len(line) > mostExpanded {
		im.got.Leave(n, written[:min(len(written), 200)], "its variables stand for more than we put in")
		return
	}
	before := len(im.modes.of(""))
	if m := toWorkspace().FindStringSubmatch(commandOf(line)); m != nil && m[3] != "" {
		im.got.Leave(n, line, "the workspace's name is left out, and its number stays")
	}
	if err := im.foreign(line); err == errPassed {
		im.pass(n, line, word)
		if opens {
			im.passed++
		}
	} else if err != nil {
		im.got.Leave(n, line, err.Error())
	}
	for i := before; i < len(im.modes.of("")); i++ {
		im.from[i] = source{n, line}
	}
}

// pass notes a line that binds nothing.
func (im *importer) pass(n int, line, word string) {
	layouts := im.sway && (strings.HasPrefix(line, "xkb_") || strings.HasPrefix(line, "input ")) // which Layouts reads
	switch why, about := concerns(line); {
	case about:
		im.got.Leave(n, line, why)
	case line != "}" && !layouts:
		im.got.Pass(word)
	}
}

// follow finds what the bindings outside of modes lead to.
func (im *importer) follow() {
	all := im.found
	for i, b := range im.modes.of("") {
		im.found = behaviour.Found{}
		if err := im.reader.follow(b, nil, 0, behaviour.Provenance{}); err != nil {
			im.got.Leave(im.from[i].line, im.from[i].text, err.Error())
			continue
		}
		for _, found := range im.found.List() {
			if found.Effect.Kind == behaviour.Other {
				im.got.Leave(im.from[i].line, im.from[i].text, found.String())
			} else {
				all.Add(found, "does one thing or another")
			}
		}
	}
	im.got.Bindings = all.List()
}

// commandOf is the command of a line that binds one.
func commandOf(line string) string {
	f := strings.Fields(line)
	for len(f) > 1 && strings.HasPrefix(f[1], "--") {
		f = append(f[:1], f[2:]...)
	}
	if len(f) < 3 || !strings.HasPrefix(f[0], "bind") {
		return ""
	}
	return strings.TrimSpace(strings.Join(f[2:], " "))
}

// concerns says of a line that is no binding whether it is about the keyboard all the same,
// and why it is left.
func concerns(line string) (why string, about bool) {
	word, _, _ := strings.Cut(line, " ")
	started := word == "exec" || word == "exec_always"
	switch {
	case word == "include":
		return "the files that it includes are not read; name them beside this one", true
	case started && strings.Contains(line, "setxkbmap"):
		return "a layout and its options belong into the machine's block: layouts = […], options = […]", true
	case started &&
		slices.ContainsFunc([]string{"xmodmap", "xkbcomp", "xinput", "xset"}, func(p string) bool { return strings.Contains(line, p) }):
		return "a program that changes the keyboard by itself is not looked into", true
	}
	return "", false
}

var inputSetting = mechanism.Pattern(
	`^(?:input\s+(?:"?\*"?|type:keyboard)\s+)?(xkb_layout|xkb_variant|xkb_options)\s+(.*)$`,
)

// Layouts reads the layouts and the options of XKB that a configuration of sway sets for
// all keyboards.
func (t Mechanism) Layouts(text []byte) (layouts, options []string) {
	var names, variants []string
	all := false // in a block for all keyboards
	for _, line := range continued(string(text)) {
		line = strings.TrimSpace(line)
		switch {
		case line == "input type:keyboard {" || line == "input * {" || line == `input "*" {`:
			all = true
		case line == "}":
			all = false
		}
		m := inputSetting().FindStringSubmatch(line)
		if m == nil || !t.Sway || !all && !strings.HasPrefix(line, "input") {
			continue
		}
		list := strings.Split(strings.ReplaceAll(strings.Trim(m[2], `"'`), " ", ""), ",")
		switch m[1] {
		case "xkb_layout":
			names = list
		case "xkb_variant":
			variants = list
		default:
			options = list
		}
	}
	for i, name := range names {
		variant := ""
		if i < len(variants) {
			variant = variants[i]
		}
		layouts = append(layouts, keys.JoinLayout(name, variant))
	}
	return layouts, options
}

// errPassed says that a line is not about keys.
var errPassed = errors.New("not about keys")

// flags are words before a chord that change nothing of what it does.
var flags = []string{
	"--locked", "--to-code", "--no-warn", "--inhibited", "--no-repeat", "--border", "--exclude-titlebar",
}

// foreign reads a line of somebody else's.
func (r *reader) foreign(line string) error {
	word, rest, _ := strings.Cut(line, " ")
	switch {
	case word == "bindsym" || word == "bindcode":
		return r.foreignBinding(word == "bindcode", strings.TrimSpace(rest))
	case word == "mode" && strings.HasSuffix(line, "{") && r.mode == "":
		name := strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(rest, "--pango_markup "), "{"))
		r.enter(strings.Trim(name, `"`))
		return nil
	case line == "}" && (r.mode != "" || r.input):
		r.enter("")
		r.input = false
		return nil
	case r.sway && r.mode == "" && (line == "input type:keyboard {" || line == "input * {"):
		r.input = true
		return nil
	case r.input && (word == "repeat_delay" || word == "repeat_rate"),
		strings.HasPrefix(word, "exec") && strings.Contains(line, "xset r rate"):
		return r.line(strings.Replace(line, "exec ", "exec_always ", 1))
	}
	return errPassed
}

func (r *reader) foreignBinding(byCode bool, rest string) error {
	release, over := false, false
	var spelled string
	for {
		spelled, rest, _ = strings.Cut(rest, " ")
		rest = strings.TrimSpace(rest)
		if !strings.HasPrefix(spelled, "--") {
			break
		}
		switch {
		case spelled == strings.TrimSpace(releases):
			release = true
		case spelled == strings.TrimSpace(wordOver):
			over = true
		case !slices.Contains(flags, spelled):
			return fmt.Errorf("of a binding with %s nothing is known here", spelled)
		}
	}
	does := canonical(rest)
	byItself := slices.ContainsFunc(
		accelerator.ModifierKeys, func(a accelerator.ModifierKey) bool { return slices.Contains(a.Keysyms, spelled) },
	)
	switch {
	case release && byItself && r.mode == "":
		r.alone[spelled] = does
		return nil
	case byItself:
		return errors.New("it acts as soon as a modifier is pressed, also where that begins a chord")
	case release:
		return errors.New("it acts when the key is let go, for which the language has no word")
	case byCode:
		mods, _, number, err := r.parted(spelled)
		n, bad := strconv.Atoi(number)
		if err = cmp.Or(err, bad); err != nil {
			return err
		}
		k, ok := keys.ByEvdev(n - 8)
		if !ok {
			return fmt.Errorf("there is no key of keycode %d", n)
		}
		r.bind([]keys.Chord{{Mods: mods, Key: k}}, does)
		return nil
	}
	list, err := r.chords(spelled, over || strings.HasPrefix(spelled[strings.LastIndexByte(spelled, '+')+1:], "button"))
	r.bind(list, does)
	return err
}

var (
	toWorkspace = mechanism.Pattern(`^(move (?:container |window )?to )?workspace (?:number )?"?(\d+)(:[^"]*)?"?$`)
	switchMode  = mechanism.Pattern(`[,;]?\s*mode "?default"?$`)
	entersMode  = mechanism.Pattern(`^mode "?([^"]*)"?$`)
	execs       = mechanism.Pattern(`^exec\s+(?:--no-startup-id\s+)?(.+)$`)
)

// Does is what a chord does that the window manager has in its own configuration.
func (t Mechanism) Does(u desktop.Use) behaviour.Effect {
	r := &reader{sway: t.Sway, shell: true}
	return r.effect(canonical(u.Words))
}

// canonical spells a command as we do, where it does the same.
func canonical(does string) string {
	leave := ""
	if at := switchMode().FindStringIndex(does); at != nil && at[0] > 0 {
		does, leave = strings.TrimSpace(does[:at[0]]), `; mode "default"`
	}
	switch m := toWorkspace().FindStringSubmatch(does); {
	case m != nil && m[1] != "":
		return "move container to workspace number " + m[2] + leave
	case m != nil:
		return "workspace number " + m[2] + leave
	}
	if m := entersMode().FindStringSubmatch(does); m != nil {
		return `mode "` + m[1] + `"` + leave
	}
	switch does {
	case "fullscreen":
		does = "fullscreen toggle"
	case "exit":
		does = "exec i3-nagbar -t warning -m 'End the session?' -B 'End it' 'i3-msg exit'"
	}
	m := execs().FindStringSubmatch(does)
	if m == nil {
		return does + leave
	}
	line := m[1]
	if q, ok := unquote(line, true); ok && !strings.Contains(strings.ReplaceAll(q, `\"`, ""), `"`) {
		line = strings.ReplaceAll(q, `\"`, `"`)
	}
	if strings.Contains(line, "i3-msg exit") || strings.Contains(line, "swaymsg exit") {
		line = "i3-nagbar -t warning -m 'End the session?' -B 'End it' 'i3-msg exit'"
	}
	if plain := strings.ReplaceAll(line, `\@`, "@"); programs[plain] != "" { // as sway's own sample has it
		line = plain
	}
	return "exec " + line + leave
}

// variables are those that a configuration sets, and how long their names are, the longest
// first.
type variables struct {
	of      map[string]string
	lengths []int
}

func (v *variables) set(f []string, plain bool) {
	if len(f) < 2 || f[0][0] != '$' {
		return
	}
	value := strings.Join(f[1:], " ")
	if !plain { // the second word is the resource, and what follows is for want of it
		if value = strings.Join(f[2:], " "); value == "" {
			return
		}
	}
	if v.of == nil {
		v.of = map[string]string{}
	}
	v.of[f[0]] = v.replace(value)
	if !slices.Contains(v.lengths, len(f[0])) {
		v.lengths = append(v.lengths, len(f[0]))
		slices.SortFunc(v.lengths, func(a, b int) int { return b - a })
	}
}

// mostExpanded is how long a line of a configuration may become when its variables are put
// in, in bytes.
const mostExpanded = 64 << 10

// replace puts in what variables stand for, the longest name first. What becomes
// longer than mostExpanded is cut off one byte after.
func (v *variables) replace(line string) string {
	if !strings.Contains(line, "$") {
		return line
	}
	var b strings.Builder
	for i := 0; i < len(line); {
		n := 0
		if line[i] == '$' {
			for _, long := range v.lengths {
				if value, ok := v.of[line[i:min(len(line), i+long)]]; ok {
					b.WriteString(value)
					n = long
					break
				}
			}
		}
		if n == 0 {
			b.WriteByte(line[i])
			n = 1
		}
		i += n
		if b.Len() > mostExpanded {
			return b.String()[:mostExpanded+1]
		}
	}
	return b.String()
}

// continued lists lines by their numbers, those that end in a backslash joined.
func continued(text string) func(yield func(int, string) bool) {
	return func(yield func(int, string) bool) {
		lines := strings.Split(text, "\n")
		for i := 0; i < len(lines); i++ {
			at, line := i+1, lines[i]
			for strings.HasSuffix(line, `\`) && i+1 < len(lines) {
				i++
				line = strings.TrimSuffix(line, `\`) + lines[i]
			}
			if !yield(at, line) {
				return
			}
		}
	}
}
