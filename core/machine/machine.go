// Package machine has the kinds of machine that a mapping can be for: systems, desktops,
// sessions, keyboards. What is known of a desktop beside what it does stands in one row of
// one list.
package machine

import (
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/diag"
	"leitstand/core/keys"
)

// Most is how many machines, and how many boards, a mapping may have: each machine is compiled and proved by itself.
const Most = 500

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
	// LayoutLibrary: on Windows, a keyboard layout of our own may be installed, which the kernel reads.
	LayoutLibrary bool
	// KeyboardFilter: Windows is an edition with the keyboard filter, which may be used.
	KeyboardFilter bool
	// Own are layouts read of libraries of the system's own, in place of those of their names.
	Own   []OwnLayout
	Hosts []string // patterns of the names of the computers it stands for; none for its own name
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

// Place names the machine's system, and on Linux its desktop with the version that is said, in
// words.
func (m *Machine) Place() string {
	desktop, known := FindDesktop(m.Desktop)
	if m.System == Linux && m.Session == Console {
		return m.System.Title() + " console"
	}
	if m.System != Linux || !known {
		return m.System.Title()
	}
	return strings.TrimSpace(m.System.Title() + " with " + desktop.Title + " " + m.DesktopVersion)
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

// Details of a machine is everything it says, one "name value" each.
func (m *Machine) Details() []string {
	list := []string{"system " + string(m.System)}
	if m.Version != "" {
		list = append(list, "version "+m.Version)
	}
	if m.System == Linux {
		list = append(list, "desktop "+m.Desktop)
		if m.DesktopVersion != "" {
			list = append(list, "desktop_version "+m.DesktopVersion)
		}
		if m.Session != "" {
			list = append(list, "session "+m.Session)
		}
	}
	list = append(list, "layouts "+strings.Join(m.Layouts, ", "))
	if len(m.Options) > 0 {
		list = append(list, "options "+strings.Join(m.Options, ", "))
	}
	if len(m.Boards) > 0 {
		list = append(list, "boards "+strings.Join(m.Boards, ", "))
	}
	if !m.Admin {
		list = append(list, "rights user")
	}
	if m.LayoutLibrary {
		list = append(list, "layout_library")
	}
	if m.KeyboardFilter {
		list = append(list, "keyboard_filter")
	}
	for _, l := range m.Own {
		list = append(list, "system_layouts "+l.Name+" "+l.ID)
	}
	if len(m.Hosts) > 0 {
		list = append(list, "hosts "+strings.Join(m.Hosts, ", "))
	}
	if len(m.Allow) > 0 {
		list = append(list, "allow "+strings.Join(m.Allow, ", "))
	}
	return list
}

// Details of a board is everything it says, one "name value" each.
func (b *Board) Details() []string {
	var ids []string
	for _, id := range b.IDs {
		ids = append(ids, id.String())
	}
	list := []string{"ids " + strings.Join(ids, ", "), "legends " + b.Legends}
	if len(b.Shape) > 0 {
		list = append(list, "shape "+strings.Join(b.Shape, ", "))
	}
	for _, k := range b.Lacks {
		list = append(list, "lacks "+k.String())
	}
	for _, k := range b.Broken {
		list = append(list, "broken "+k.String())
	}
	for _, k := range keys.All() {
		if to, ok := b.Sends[k]; ok {
			list = append(list, fmt.Sprintf("sends %s = %s", k, to))
		}
	}
	return list
}

// String is the identity as a mapping spells it.
func (id BoardID) String() string {
	if id.Bus == BuiltIn || id.Bus == AnyExternal {
		return string(id.Bus)
	}
	return fmt.Sprintf("%s:%04x:%04x", id.Bus, id.Vendor, id.Product)
}

// ParseBoardID reads an identity as String spells it.
func ParseBoardID(text string) (BoardID, bool) {
	switch text {
	case string(BuiltIn), string(AnyExternal):
		return BoardID{Bus: Bus(text)}, true
	}
	f := strings.Split(text, ":")
	if len(f) != 3 || f[0] != string(USB) && f[0] != string(Bluetooth) {
		return BoardID{}, false
	}
	var number [2]uint16
	for i := range number {
		n, err := strconv.ParseUint(f[i+1], 16, 16)
		if err != nil || len(f[i+1]) != 4 {
			return BoardID{}, false
		}
		number[i] = uint16(n)
	}
	return BoardID{Bus(f[0]), number[0], number[1]}, true
}

// External says whether all identities of a board are those of one that is plugged in or
// connected by radio.
func (b *Board) External() bool {
	return len(b.IDs) > 0 &&
		!slices.ContainsFunc(b.IDs, func(id BoardID) bool { return id.Bus != USB && id.Bus != Bluetooth })
}

// OwnLayout is a layout as a library of a machine's system has it.
type OwnLayout struct {
	*keys.Layout
	File []byte // the library
}

// OwnLayout is the one of a name that was read of a library, nil for none.
func (m *Machine) OwnLayout(name string) *keys.Layout {
	for _, l := range m.Own {
		if l.Name == name {
			return l.Layout
		}
	}
	return nil
}
