package scancodemap

import (
	"bytes"
	"io/fs"
	"slices"
	"strings"

	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a registry file has a scancode map in it.
func (Mechanism) Knows(name string, text []byte) bool {
	if !strings.HasSuffix(strings.ToLower(name), ".reg") {
		return false
	}
	plain := bytes.ToLower(bytes.ReplaceAll(text, []byte{0}, nil)) // UTF-16, of which only ASCII matters
	return bytes.Contains(plain, []byte(`"scancode map"=hex:`))
}

// Import reads what the registry editor exports, and what people write, which is often in
// an 8-bit encoding.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	lines := string(text)
	if bytes.HasPrefix(text, []byte{0xFF, 0xFE}) {
		wide, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(text)
		if err != nil {
			return got, err
		}
		lines = string(wide)
	}
	// A running system exports one of its numbered control sets, too.
	layout := func(key string) bool {
		return strings.HasSuffix(strings.ToLower(key), strings.ToLower(`\Control\Keyboard Layout`))
	}
	value, err := valueIn(
		strings.Split(strings.ReplaceAll(lines, "\r\n", "\n"), "\n"), layout, func(string) error { return nil },
	)
	if err != nil {
		return got, err
	}
	got.Left = others(lines)
	list, err := parseMap(value)
	for _, b := range list {
		if b.Effect.Kind == behaviour.Other {
			got.Leave(0, b.Press(), b.Effect.Words)
		} else {
			got.Bindings = append(got.Bindings, b)
		}
	}
	return got, err
}

// others are the values of a registry file beside the scancode map.
func others(text string) []mechanism.Left {
	var list []mechanism.Left
	key := ""
	for n, line := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		switch {
		case strings.HasPrefix(line, "["):
			key = strings.Trim(line, "[]")
		case (strings.HasPrefix(line, `"`) || strings.HasPrefix(line, "@")) &&
			!strings.HasPrefix(strings.ToLower(line), `"scancode map"`):
			name, _, _ := strings.Cut(line, "=")
			if readElsewhere(key, strings.Trim(name, `"`)) {
				continue
			}
			list = append(
				list,
				mechanism.Left{
					Line: n + 1,
					Text: key + " " + name,
					Why:  "this value of the registry is not read",
				},
			)
		}
	}
	return list
}

// readElsewhere reports whether another reader of registry files has a value.
func readElsewhere(key, name string) bool {
	key, name = strings.ToLower(key), strings.ToLower(name)
	switch {
	case strings.HasSuffix(key, `\accessibility\keyboard response`):
		return slices.Contains([]string{
			"autorepeatdelay", "autorepeatrate", "bouncetime", "delaybeforeacceptance", "flags",
		}, name)
	case strings.HasSuffix(key, `\explorer\advanced`):
		return name == "disabledhotkeys"
	case strings.HasSuffix(key, `\policies\microsoft\windows\gamedvr`):
		return name == "allowgamedvr"
	case strings.HasSuffix(key, `\currentversion\policies\system`):
		return name == "disablelockworkstation"
	}
	return strings.Contains(key, `\explorer\appkey\`)
}
