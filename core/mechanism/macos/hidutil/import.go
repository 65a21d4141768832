package hidutil

import (
	"bytes"
	"fmt"
	"io/fs"
	"slices"
	"strconv"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a launch agent sets keys.
func (Mechanism) Knows(_ string, text []byte) bool {
	return bytes.Contains(text, []byte("UserKeyMapping")) && bytes.Contains(text, []byte("hidutil"))
}

// hexadecimal is a number that Apple's examples write as JSON does not have it.
var hexadecimal = mechanism.Pattern(`0x[0-9A-Fa-f]+`)

// Import reads a launch agent that runs hidutil by itself or in a script. A device that it
// singles out is a board of its own.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	var job struct {
		Args []string `plist:"ProgramArguments"`
	}
	if _, err := plist.Unmarshal(text, &job); err != nil {
		return got, err
	}
	commands := [][]string{job.Args}
	if len(job.Args) == 3 && job.Args[1] == "-c" {
		var err error
		if commands, err = shellCommands(job.Args[2]); err != nil {
			return got, err
		}
	}
	for _, words := range commands {
		for i, w := range words {
			words[i] = hexadecimal().ReplaceAllStringFunc(w, func(hex string) string {
				n, err := strconv.ParseUint(hex, 0, 64)
				if err != nil {
					return hex
				}
				return strconv.FormatUint(n, 10)
			})
			if i > 0 && words[i-1] == "--matching" {
				if b, err := boardOf(words[i]); err != nil {
					return got, err
				} else if !slices.ContainsFunc(got.Boards, func(o *machine.Board) bool { return o.Name == b.Name }) {
					got.Boards = append(got.Boards, b)
				}
			}
		}
		if len(words) > 0 && words[0] == "hidutil" {
			words[0] = "/usr/bin/hidutil"
		}
	}
	in := *m
	in.Boards = got.Boards
	list, err := set(&in, commands)
	for _, b := range list {
		if b.Effect.Kind == behaviour.Other {
			got.Leave(0, b.Press(), b.Effect.Words)
		} else {
			got.Bindings = append(got.Bindings, b)
		}
	}
	return got, err
}

// boardOf is the board that a matching dictionary picks.
func boardOf(text string) (*machine.Board, error) {
	id, err := identity(text)
	if err != nil {
		return nil, err
	}
	name := map[machine.Bus]string{machine.BuiltIn: "built-in", machine.AnyExternal: "any-external"}[id.Bus]
	if name == "" {
		id.Bus = machine.USB // the buses are not told apart
		name = fmt.Sprintf("board-%04x-%04x", id.Vendor, id.Product)
	}
	return &machine.Board{Name: name, Legends: "pc", IDs: []machine.BoardID{id}}, nil
}
