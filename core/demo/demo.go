// Package demo lays out the built-in example in a folder.
package demo

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"leitstand/core/folder"
	"leitstand/examples"
)

// What the example consists of, below its folder.
const (
	Mapping  = "leitstand.hcl"
	Changed  = "changed.hcl"
	Compiled = "compiled"
)

// One line of the example, and what the changed mapping has in its place.
var (
	line    = []byte(`fallback = "ControlLeft" # where a system has no Hyper,`)
	instead = []byte(`fallback = "Escape" # where a system has no Hyper,`)
)

// Write puts the example mapping and its changed copy into dir, which is made
// if it is not there. A file that is there and says something else is left alone,
// and is an error.
func Write(dir string) error {
	changed := bytes.Replace(examples.TideOffice, line, instead, 1)
	if bytes.Equal(changed, examples.TideOffice) {
		return fmt.Errorf("the example has no line %q", line)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	files := map[string][]byte{Mapping: examples.TideOffice, Changed: changed}
	for name, text := range files {
		path := filepath.Join(dir, name)
		if _, err := os.Lstat(path); errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if was, err := os.ReadFile(path); err != nil || !bytes.Equal(was, text) {
			return fmt.Errorf("%s is there already and is not the example; name another folder", path)
		}
		delete(files, name)
	}
	for name, text := range files {
		if err := folder.NewFile(filepath.Join(dir, name), text); err != nil {
			return err
		}
	}
	return nil
}
