package console

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/octal"
)

// For is a machine that is used by its text console.
func (Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Linux, Session: "console"}
}

// keycodeLine is a line of a keymap: modifiers, a keycode, and what it gives in each column.
var keycodeLine = mechanism.Pattern(`^\s*((?:(?:plain|shift|altgr|control|alt)\s+)*)keycode\s+(\d+)\s*=\s*(.*?)\s*$`)

// ofX11 are lines that keycodes and keysyms of X11 have, and no keymap of the console.
var ofX11 = mechanism.Pattern(
	`(?m)^\s*(clear|add|remove|keysym|pointer)\s|^\s*keycode\s+\d+\s*=.*(_L|_R|NoSymbol|XF86\w+|ISO_\w+|Mode_switch)\b`,
)

// Knows says whether a text is a keymap of the console.
func (Mechanism) Knows(_ string, text []byte) bool {
	if ofX11().Match(text) {
		return false
	}
	for line := range strings.Lines(string(text)) {
		if keycodeLine().MatchString(line) {
			return true
		}
	}
	return false
}

// held are modifiers as a keymap gives them to a key.
var held = map[string]string{
	"Control":    "ControlLeft",
	"Alt":        "AltLeft",
	"AltGr":      "AltRight",
	"Shift":      "ShiftLeft",
	"Caps_Lock":  "CapsLock",
	"CtrlL_Lock": "ControlLeft",
}

// Import reads a keymap as people write it. A line with several columns says what a key
// gives under several modifiers, which other lines of such a file depend on; it is left.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	r := reader{layout: m.Layouts[0], texts: map[string]string{}}
	lines := strings.Split(string(text), "\n")
	for n, line := range lines {
		rest, ok := strings.CutPrefix(strings.TrimSpace(line), "string ")
		if !ok {
			continue
		}
		name, quoted, _ := strings.Cut(rest, "=")
		typed, err := octal.Unquote(strings.TrimSpace(quoted))
		if err != nil {
			got.Leave(n+1, strings.TrimSpace(line), err.Error())
			continue
		}
		r.texts[strings.TrimSpace(name)] = typed
	}
	var found behaviour.Found
	for n, line := range lines {
		line, _, _ = strings.Cut(line, "!") // a comment
		line = strings.TrimSpace(line)
		word, _, _ := strings.Cut(line, " ")
		if line == "" || line[0] == '#' ||
			slices.Contains(
				[]string{"string", "keymaps", "include", "charset", "strings", "compose", "alt_is_meta"}, word,
			) {
			continue
		}
		b, err := r.foreign(line)
		if err == nil && b.Effect.Kind == behaviour.Other {
			err = fmt.Errorf("it %s", b.Effect.Words)
		}
		if err != nil {
			got.Leave(n+1, line, err.Error())
			continue
		}
		found.Add(b, "is given twice")
	}
	got.Bindings = found.List()
	return got, nil
}

// foreign reads a line of somebody else's.
func (r *reader) foreign(line string) (mechanism.Binding, error) {
	f := keycodeLine().FindStringSubmatch(line)
	if f == nil {
		return mechanism.Binding{}, errors.New("it is no line of a keycode")
	}
	mods := strings.Join(strings.Fields(f[1]), " ")
	columns := strings.Fields(f[3])
	if len(columns) != 1 {
		return mechanism.Binding{}, fmt.Errorf("it has %d columns", len(columns))
	}
	gives := strings.TrimPrefix(columns[0], "+")
	if mods == "" {
		mods = "plain"
	}
	if code, ok := held[gives]; ok {
		b, err := r.line(mods + " keycode " + f[2] + " = VoidSymbol")
		k, _ := keys.ByCode(code)
		b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: k}
		return b, err
	}
	return r.line(mods + " keycode " + f[2] + " = " + gives)
}
