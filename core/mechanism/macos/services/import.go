package services

import (
	"bytes"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/command"
	"leitstand/core/mechanism/form/equivalent"
)

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is an export of the domain pbs, or a quick action that goes with one.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte("NSServicesStatus")) || isWorkflow(text)
}

func isWorkflow(text []byte) bool { return bytes.Contains(text, []byte("AMDocumentVersion")) }

// Import reads the chords of services: those of quick actions that are given, too, and run a line of shell.
func (Mechanism) Import(m *mechanism.Machine, text []byte, given fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	if isWorkflow(text) {
		return got, nil // which its chord's file reads
	}
	var domain struct {
		Status map[string]struct {
			Key string `plist:"key_equivalent"`
		} `plist:"NSServicesStatus"`
	}
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return got, err
	}
	workflows := map[string]string{} // their folders, by their names
	err := fs.WalkDir(given, ".", func(name string, _ fs.DirEntry, err error) error {
		if dir := path.Dir(name); path.Base(name) == "document.wflow" {
			workflows[strings.TrimSuffix(path.Base(path.Dir(dir)), ".workflow")] = dir
		}
		return err
	})
	if err != nil {
		return got, err
	}
	for _, name := range slices.Sorted(maps.Keys(domain.Status)) {
		key := domain.Status[name].Key
		title, quick := strings.CutSuffix(strings.TrimPrefix(name, "(null) - "), " - runWorkflowAsService")
		dir, there := workflows[title]
		chord, known := equivalent.Read(m, key)
		var line string
		if quick && there {
			line, err = lineOf(given, dir)
		}
		switch said := fmt.Sprintf("%s by %q", title, key); {
		case key == "":
		case !known:
			got.Leave(0, said, "no key of this machine has that key equivalent")
		case !quick || !there:
			got.Leave(0, said, "a service that is in no file of those given")
		case err != nil:
			got.Leave(0, said, err.Error())
		default:
			l, err := command.ReadMacScript(line)
			if err != nil {
				l = command.ReadShell(line)
			}
			b := mechanism.Binding{Level: behaviour.Hotkey, Chord: chord, Effect: behaviour.Launching(l)}
			got.Bindings = append(got.Bindings, b)
		}
	}
	return got, nil
}
