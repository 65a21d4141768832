package console

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
	"leitstand/core/mechanism/form/octal"
)

// codes are the keys of what terminals have keys for.
var codes = map[string]string{
	"Return": "Enter", "Delete": "Backspace", "space": "Space", "Remove": "Delete", "Find": "Home", "Select": "End",
	"Prior": "PageUp", "Next": "PageDown",
	"Left": "ArrowLeft", "Right": "ArrowRight", "Up": "ArrowUp", "Down": "ArrowDown", "Escape": "Escape",
	"Tab": "Tab", "Insert": "Insert",
}

// Read reads a keymap.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	data, err := fs.ReadFile(fsys, file)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	if err := loadedByService(fsys); err != nil {
		return nil, err
	}
	r := reader{layout: m.Layouts[0], texts: map[string]string{}}
	lines := strings.Split(string(data), "\n")
	for n, line := range lines {
		if rest, ok := strings.CutPrefix(line, "string "); ok {
			name, text, ok := strings.Cut(rest, " = ")
			if !ok {
				return nil, fmt.Errorf("%s:%d: no string", file, n+1)
			}
			if r.texts[name], err = octal.Unquote(text); err != nil {
				return nil, fmt.Errorf("%s:%d: %w", file, n+1, err)
			}
		}
	}
	var list []mechanism.Binding
	for n, line := range lines {
		if line == "" || line[0] == '#' || strings.HasPrefix(line, "string ") {
			continue
		}
		b, err := r.line(line)
		if err != nil {
			return nil, fmt.Errorf("%s:%d: %w", file, n+1, err)
		}
		list = append(list, b)
	}
	return list, nil
}

type reader struct {
	layout *keys.Layout
	texts  map[string]string // of function keys
}

// line reads "alt shift keycode 35 = Delete".
func (r *reader) line(line string) (mechanism.Binding, error) {
	b := mechanism.Binding{Level: behaviour.Hotkey}
	names, rest, ok := strings.Cut(line, " keycode ")
	number, gives, is := strings.Cut(rest, " = ")
	code, err := strconv.Atoi(number)
	if !ok || !is || err != nil {
		return b, errors.New("no line of a keycode")
	}
	for _, name := range strings.Fields(names) {
		switch name {
		case "plain":
		case "shift":
			b.Chord.Mods |= keys.Shift
		case "altgr":
			b.Chord.Mods |= keys.AltGr
		case "control":
			b.Chord.Mods |= keys.Ctrl
		case "alt":
			b.Chord.Mods |= keys.Alt
		default:
			return b, fmt.Errorf("%q is no modifier that we write", name)
		}
	}
	if b.Chord.Key, ok = keys.ByEvdev(code); !ok {
		return b, fmt.Errorf("no key has the keycode %d", code)
	}
	b.Effect, err = r.effect(gives)
	return b, err
}

func (r *reader) effect(gives string) (behaviour.Effect, error) {
	sends := func(mods keys.Mods, k keys.Key) behaviour.Effect {
		if mods == 0 {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
		}
		return behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: mods, Key: k}}
	}
	acts := func(name string) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Acts, Action: name} }
	switch gives {
	case "VoidSymbol":
		return behaviour.Effect{Kind: behaviour.Nothing}, nil
	case "Incr_Console":
		return acts("next-workspace"), nil
	case "Decr_Console":
		return acts("previous-workspace"), nil
	}
	if number, ok := strings.CutPrefix(gives, "Console_"); ok {
		if n, err := strconv.ParseUint(number, 10, 8); err == nil && n > 0 {
			return acts("workspace-" + number), nil
		}
	}
	if text, ok := r.texts[gives]; ok {
		return behaviour.Effect{Kind: behaviour.Types, Text: text}, nil
	}
	if code, ok := codes[gives]; ok {
		k, _ := keys.ByCode(code)
		return sends(0, k), nil
	}
	if k, ok := keys.ByCode(gives); ok && gives[0] == 'F' && k.Section() == keys.Function {
		return sends(0, k), nil
	}
	var held keys.Mods
	char, ok := strings.CutPrefix(gives, "Meta_")
	if ok {
		held |= keys.Alt
	}
	if char, ok = strings.CutPrefix(char, "Control_"); ok {
		held |= keys.Ctrl
	}
	typed, size := utf8.DecodeRuneInString(char)
	if hex, ok := strings.CutPrefix(char, "U+"); ok && held == 0 {
		n, err := strconv.ParseUint(hex, 16, 21)
		if err != nil {
			return behaviour.Effect{}, fmt.Errorf("%q is no character", gives)
		}
		typed = rune(n)
	} else if held == 0 || size != len(char) {
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("gives %q", gives)}, nil
	}
	at, ok := r.layout.FindExact(typed)
	if !ok {
		return behaviour.Effect{}, fmt.Errorf("layout %s does not type %q", r.layout.Name, string(typed))
	}
	return sends(held|at.Mods, at.Key), nil
}

// loadedByService reads the unit that loads the keymap, without which it is worth nothing:
// after those of the distribution, at every start.
func loadedByService(fsys fs.FS) error {
	const file = "console/leitstand-console.service"
	text, err := fs.ReadFile(fsys, file)
	if err != nil {
		return fmt.Errorf("nothing loads the keymap: %w", err)
	}
	entries := keyfile.Keys(string(text))
	said := func(section, name string) string { return entries[[2]string{section, name}] }
	for _, unit := range []string{"systemd-vconsole-setup.service", "console-setup.service", "keyboard-setup.service"} {
		if !slices.Contains(strings.Fields(said("Unit", "After")), unit) {
			return fmt.Errorf("%s: %s may load its keymap after it", file, unit)
		}
	}
	if said("Service", "ExecStart") != "loadkeys /etc/leitstand/console.map" || said("Service", "Type") != "oneshot" ||
		said("Install", "WantedBy") != "multi-user.target" {
		return fmt.Errorf("%s: it does not load /etc/leitstand/console.map at every start", file)
	}
	return nil
}
