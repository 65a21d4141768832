// Package demo lays out the built-in example in a folder.
package demo

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"time"

	"leitstand/core/folder"
	"leitstand/core/install"
	"leitstand/examples"
)

// What the example consists of, below its folder.
const (
	Mapping  = "leitstand.hcl"
	Changed  = "changed.hcl"
	Compiled = "compiled"
	Root     = "gauge" // stands for the machine of that name
	Machine  = "gauge"
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

// Files are a machine's.
type Files interface {
	File(path string) (install.File, error)
	Put(path string, was, f install.File) error
}

// config is a file that belongs to the user of the machine, and gets a line of ours.
const config = "~/.config/i3/config"

// Use gives a machine's user a configuration, if there is none.
func Use(m Files) error {
	f, err := m.File(config)
	if err != nil || f.Data != nil {
		return err
	}
	return m.Put(config, f, install.File{Data: []byte("# The office's own.\nbindsym F8 exec xterm\n"), Mode: 0o644})
}

// Drift does what somebody may do who does not know where a line came from.
func Drift(m Files) error {
	f, err := m.File(config)
	if err != nil {
		return err
	}
	was := f
	f.Data = regexp.MustCompile(`(?m)^include .*\n`).ReplaceAll(f.Data, []byte("# tidied up\n"))
	f.Time = time.Time{}
	return m.Put(config, was, f)
}
