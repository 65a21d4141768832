package plasma

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
)

// For is a machine with Plasma.
func (Mechanism) For() machine.Machine {
	return machine.Machine{System: machine.Linux, Desktop: "plasma"}
}

var (
	shortcutLines = mechanism.Pattern(`(?m)^(_k_friendly_name|_launch)=|^\[(kwin|ksmserver|kmix|services\]\[[^\]]+)\]$`)
	settingLines  = mechanism.Pattern(
		`(?m)^(RepeatDelay|RepeatRate)=|^\[(ModifierOnlyShortcuts|Shortcuts|ButtonRebinds\]\[Mouse)\]`,
	)
)

// Knows says whether a text is one of the files that hold shortcuts and the repeat.
func (t Mechanism) Knows(name string, text []byte) bool {
	name = path.Base(name)
	return isOurs(name) || shortcutLines().Match(text) || settingLines().Match(text) && strings.HasPrefix(name, "k")
}

// Import reads a settings file as Plasma keeps it: the shortcuts that are not what they
// are when nobody has changed them, modifiers alone, and how fast keys repeat.
func (Mechanism) Import(m *mechanism.Machine, text []byte, given fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	if bytes.HasPrefix(text, []byte("[Desktop Entry]")) {
		return got, nil // which is read when a shortcut names it
	}
	r := &reader{m: m, program: func(name string) ([]byte, error) { return fs.ReadFile(given, name) }}
	var off []mechanism.Freed
	for l := range keyfile.Lines(string(text)) {
		if !l.Key {
			continue
		}
		group := strings.TrimPrefix(strings.TrimSuffix(l.Group, immutable), services)
		value := l.Value
		name, _, _ := strings.Cut(l.Name, "[") // what marks it as locked or translated
		var err error
		switch {
		case group == "Keyboard" && strings.HasPrefix(name, "Repeat"):
			err = r.repeat(group, name, value)
		case group == buttonGroup:
			err = r.rebound(name, value)
		case group == "Shortcuts":
			err = r.shared(group, name, value)
		case group == "ModifierOnlyShortcuts":
			err = r.aloneShortcut(group, name, value)
		case strings.HasPrefix(name, "_k_") || !shortcutLines().Match(text):
		default:
			fields := listed(value)
			if len(fields) > 1 && fields[0] == fields[1] {
				continue
			}
			if len(fields) > 1 && (fields[0] == "none" || fields[0] == "") {
				off = append(off, mechanism.Freed{Line: l.Number, Text: l.Text, Chords: stock(m, group, name)})
				continue
			}
			err = r.changed(group, name, fields[0])
		}
		if err != nil {
			got.Leave(l.Number, l.Text, err.Error())
		}
	}
	got.Bindings = r.found.List()
	for _, f := range off {
		got.Free(f.Line, f.Text, f.Chords)
	}
	return got, nil
}

// changed reads the chords of a shortcut.
func (r *reader) changed(group, name, chords string) error {
	e, err := r.does(group, name)
	if err != nil {
		return errors.New("its desktop file says what it starts, and is not among the files to read")
	}
	if e.Kind == behaviour.Other {
		return fmt.Errorf("it %s", e.Words)
	}
	for chord := range strings.SplitSeq(chords, "\t") {
		if chord == "none" || chord == "" {
			continue
		}
		list, err := r.chords(chord)
		if err != nil {
			return err
		}
		for _, c := range list {
			own := slices.ContainsFunc(stock(r.m, group, name), c.Overlaps)
			from := behaviour.AnyOf(list)
			if own {
				from = behaviour.Provenance{Kept: true}
			}
			r.found.Add(
				mechanism.Binding{
					Level:      behaviour.Hotkey,
					Chord:      c,
					Effect:     e,
					Provenance: from,
				},
				ambiguous,
			)
		}
	}
	return nil
}

// listed parts a value into its fields: a comma of a field's own has a backslash, and a
// tab, which parts the chords of a field, is spelled out.
func listed(value string) []string {
	fields := []string{""}
	last := &fields[0]
	for i := 0; i < len(value); i++ {
		switch c := value[i]; {
		case c == ',':
			fields = append(fields, "")
			last = &fields[len(fields)-1]
		case c == '\\' && i+1 < len(value) && value[i+1] == 't':
			*last += "\t"
			i++
		case strings.HasPrefix(value[i:], `\\,`):
			*last += ","
			i += 2
		case c == '\\' && i+1 < len(value):
			i++
			*last += value[i : i+1]
		default:
			*last += value[i : i+1]
		}
	}
	return fields
}
