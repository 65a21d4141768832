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
	"slices"
	"strings"

	"leitstand/core/diag"
	"leitstand/core/keys"
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

// Machine is one computer the user sits at.
type Machine struct {
	Name    string
	Range   diag.Range
	System  System
	Version string // the system's version, "" if not said
	Desktop string // linux only; "none" if not said
	// DesktopVersion is the version of the desktop, numbers with dots between; "" if not said.
	DesktopVersion string
	Session        string   // linux only: wayland, x11 or console; "" means any
	Layouts        []string // XKB names, the first is the one after log-in
	Options        []string // those of XKB's rules that the user has, by their names
	Boards         []string // names of the boards used with it, beside its own
	Admin          bool     // whether its user may write system-wide settings
	Allow          []string // codes of findings that are meant on this machine
	Hosts          []string // patterns of the names of the computers it stands for; none for its own name
}

// Is says whether the machine stands for the computer of a name. Case does not matter.
func (m *Machine) Is(host string) bool {
	if len(m.Hosts) == 0 {
		return strings.EqualFold(m.Name, host)
	}
	return slices.ContainsFunc(m.Hosts, func(pattern string) bool {
		ok, _ := path.Match(strings.ToLower(pattern), strings.ToLower(host)) // a wrong one is refused when it is read
		return ok
	})
}

// System is an operating system.
type System string

// The systems a machine can have.
const (
	Linux    System = "linux"
	MacOS    System = "macos"
	Windows  System = "windows"
	IPadOS   System = "ipados"
	ChromeOS System = "chromeos"
)

// Systems lists them as the mapping spells them.
var Systems = []string{string(Linux), string(MacOS), string(Windows), string(IPadOS), string(ChromeOS)}

// Title is the system's name as its maker writes it.
func (s System) Title() string {
	return map[System]string{Linux: "Linux", MacOS: "macOS", Windows: "Windows", IPadOS: "iPadOS", ChromeOS: "ChromeOS"}[s]
}

// Place names the machine's system, and on Linux its desktop, in words.
func (m *Machine) Place() string {
	desktop := map[string]string{
		"gnome": "GNOME", "plasma": "Plasma", "xfce": "Xfce", "mate": "MATE", "cinnamon": "Cinnamon", "i3": "i3", "sway": "sway",
	}[m.Desktop]
	if m.System == Linux && m.Session == "console" {
		return m.System.Title() + " console"
	}
	if m.System != Linux || desktop == "" {
		return m.System.Title()
	}
	return m.System.Title() + " with " + desktop
}

// Board is one physical keyboard.
type Board struct {
	Name    string
	Range   diag.Range
	IDs     []BoardID
	Shape   []string // the words of its shape: ansi, iso or jis, and its form
	Legends string   // what is printed on it: pc or mac
	Lacks   []keys.Key
	Broken  []keys.Key
	Sends   map[keys.Key]keys.Key // what its own firmware sends for a cap
}

// Bus is the way in which a board is attached.
type Bus string

// The buses, and the two identities that need no numbers.
const (
	USB         Bus = "usb"
	Bluetooth   Bus = "bluetooth"
	BuiltIn     Bus = "built-in"
	AnyExternal Bus = "any external"
)

// BoardID is one identity of a board. Vendor and Product are the numbers of the
// USB or Bluetooth device, 0 for built-in and any external.
type BoardID struct {
	Bus             Bus
	Vendor, Product uint16
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
	if r.Start.Line < 1 || r.Start.Line > len(lines) {
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
