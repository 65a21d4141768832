package shelllink

import (
	"bytes"
	"errors"
	"io/fs"
	"path"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a machine with Windows.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a file is a link.
func (Mechanism) Knows(name string, text []byte) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".lnk":
		return bytes.HasPrefix(text, []byte("\x4C\x00\x00\x00\x01\x14\x02\x00"))
	case ".url":
		return bytes.Contains(text, []byte("[InternetShortcut]"))
	}
	return false
}

// Import reads a link. One without a hotkey does nothing by the keyboard.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	read := readLink
	if bytes.Contains(text, []byte("[InternetShortcut]")) {
		read = func(m *mechanism.Machine, text []byte) (mechanism.Binding, error) { return readURL(m, string(text)) }
	}
	b, err := read(m, text)
	switch {
	case errors.Is(err, errNoHotkey):
		return got, nil
	case err != nil:
		return got, err
	}
	got.Bindings = append(got.Bindings, b)
	return got, nil
}
