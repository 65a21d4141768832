// Package mapping is the language: it reads a mapping file, or a folder of
// them, into typed rules that remember where they stand. It knows keys and
// chords, and nothing of any platform.
//
// The syntax is HCL's native syntax. Strings are literal: "${" is two
// characters like any others.
package mapping

import (
	"fmt"
	"path"

	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// Version is the version of the language that this program reads. Within it words are
// added, and none changes its meaning.
const Version = 1

// Mapping is everything that the files say, in their order.
type Mapping struct {
	Version   int        // the language's version
	Machines  []*Machine // empty in a mapping that is for the machine it lies on
	Boards    []*Board
	Apps      []*App
	Modifiers []*Modifier
	Rules     []Rule
	Unread    Unread

	machines map[string]*Machine
	boards   map[string]*Board
	apps     map[string]*App
	lines    map[string][]string // source lines by file
}

// Unread is what of the files could not be read, so that what is found in the rest may be
// due to that.
type Unread struct {
	Definitions bool // of machines, boards, programs, modifiers or constants, or what HCL itself refuses
	Kinds       []Kind
}

// App is a program under one name, as each system calls it.
type App struct {
	Name     string
	File     string // the group's file that it is private to, "" for none
	Range    diag.Range
	Commands map[System][]Text // program and arguments; never an empty list
}

// Modifier is a name of the user's own for modifiers that differ by system.
type Modifier struct {
	Name  string
	File  string // the group's file that it is private to, "" for none
	Range diag.Range
	Mods  map[System]keys.Mods
	Other keys.Mods // for the systems not in Mods; 0 if not said
}

// On is what the name stands for on a system, 0 if nothing.
func (m *Modifier) On(s System) keys.Mods {
	if mods, ok := m.Mods[s]; ok {
		return mods
	}
	return m.Other
}

// Text is a string of the mapping and the place where it stands.
type Text struct {
	Value string
	Range diag.Range
}

// KeyAt is a key named in the mapping.
type KeyAt struct {
	Key   keys.Key
	Range diag.Range
}

// ChordAt is a chord spelled in the mapping.
type ChordAt struct {
	Chord keys.Spelling
	Range diag.Range
}

// Machine finds a machine by its name.
func (m *Mapping) Machine(name string) (*Machine, bool) { x, ok := m.machines[name]; return x, ok }

// Board finds a board by its name.
func (m *Mapping) Board(name string) (*Board, bool) { x, ok := m.boards[name]; return x, ok }

// Modifier finds a modifier of the user's own by its name, as a file sees it: one of a
// group's file before one of all.
func (m *Mapping) Modifier(name, file string) (*Modifier, bool) {
	for _, of := range []string{file, ""} {
		for _, x := range m.Modifiers {
			if x.Name == name && x.File == of {
				return x, true
			}
		}
	}
	return nil, false
}

// ModifierNames are the user's own modifiers that a file sees; "" is for those of all.
func (m *Mapping) ModifierNames(file string) []string {
	var names []string
	for _, x := range m.Modifiers {
		if x.File == "" || x.File == file {
			names = append(names, x.Name)
		}
	}
	return names
}

// App finds a program by its name, as a file sees it.
func (m *Mapping) App(name, file string) (*App, bool) {
	if x, ok := m.apps[private(name, file)]; ok && file != "" {
		return x, true
	}
	x, ok := m.apps[name]
	return x, ok
}

// private is where a name of a group's file stands among the names of all.
func private(name, file string) string {
	if file == "" {
		return name
	}
	return file + "\x00" + name
}

// SourceLine is the text of a place's line, "" if there is none.
func (m *Mapping) SourceLine(r diag.Range) string {
	lines := m.lines[r.File]
	if r.Start.Line < 1 || int(r.Start.Line) > len(lines) {
		return ""
	}
	return lines[r.Start.Line-1]
}

// Place names a place in a few words: its line, and its file where there are several.
func (m *Mapping) Place(r diag.Range) string {
	if len(m.lines) > 1 {
		return fmt.Sprintf("%s:%d", path.Base(r.File), r.Start.Line)
	}
	return fmt.Sprintf("line %d", r.Start.Line)
}

// What a mapping says of machines is as package machine has it.
type (
	Machine = machine.Machine
	Board   = machine.Board
	BoardID = machine.BoardID
	System  = machine.System
	Bus     = machine.Bus
)

// The systems that a machine can have, and the ways in which a board is attached.
const (
	Linux       = machine.Linux
	MacOS       = machine.MacOS
	Windows     = machine.Windows
	IPadOS      = machine.IPadOS
	ChromeOS    = machine.ChromeOS
	USB         = machine.USB
	Bluetooth   = machine.Bluetooth
	BuiltIn     = machine.BuiltIn
	AnyExternal = machine.AnyExternal
)
