package texts

import (
	"bytes"
	"io/fs"

	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is what the panel of text replacements writes.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte("phrase")) && bytes.Contains(text, []byte("shortcut")) &&
		(bytes.Contains(text, []byte("<plist")) || bytes.HasPrefix(text, []byte("bplist")))
}

// Import reads what the panel wrote.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	list, err := read(text)
	return mechanism.Imported{Bindings: list}, err
}
