package shelllink

import (
	"bytes"
	"errors"
	"io/fs"
	"path"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/target"
)

// For is a machine with Windows.
func (Target) For() machine.Machine { return machine.Machine{System: machine.Windows} }

// Knows says whether a file is a link.
func (Target) Knows(name string, text []byte) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".lnk":
		return bytes.HasPrefix(text, []byte("\x4C\x00\x00\x00\x01\x14\x02\x00"))
	case ".url":
		return bytes.Contains(text, []byte("[InternetShortcut]"))
	}
	return false
}

// Import reads a link. One without a hotkey does nothing by the keyboard.
func (Target) Import(m *target.Machine, text []byte, _ fs.FS) (target.Imported, error) {
	var got target.Imported
	read := readLink
	if bytes.Contains(text, []byte("[InternetShortcut]")) {
		read = func(m *target.Machine, text []byte) (target.Binding, error) { return readURL(m, string(text)) }
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
