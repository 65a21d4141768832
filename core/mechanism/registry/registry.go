// Package registry lists the native mechanisms: a new one is a folder and a line here.
package registry

import (
	"io/fs"
	"slices"

	"leitstand/core/change"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/byhand"
	"leitstand/core/mechanism/linux/compose"
	"leitstand/core/mechanism/linux/console"
	"leitstand/core/mechanism/linux/dconf"
	"leitstand/core/mechanism/linux/hwdb"
	"leitstand/core/mechanism/linux/i3"
	"leitstand/core/mechanism/linux/plasma"
	"leitstand/core/mechanism/linux/xfce"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/macos/globals"
	"leitstand/core/mechanism/macos/hidutil"
	"leitstand/core/mechanism/macos/hotkeys"
	"leitstand/core/mechanism/macos/keylayout"
	"leitstand/core/mechanism/macos/menukeys"
	"leitstand/core/mechanism/macos/modifierpanel"
	"leitstand/core/mechanism/macos/services"
	"leitstand/core/mechanism/macos/textkeys"
	"leitstand/core/mechanism/macos/texts"
	"leitstand/core/mechanism/native"
	"leitstand/core/mechanism/stock"
	"leitstand/core/mechanism/windows/appkeys"
	"leitstand/core/mechanism/windows/explorer"
	"leitstand/core/mechanism/windows/filter"
	"leitstand/core/mechanism/windows/layout"
	"leitstand/core/mechanism/windows/lineeditor"
	"leitstand/core/mechanism/windows/responses"
	"leitstand/core/mechanism/windows/scancodemap"
	"leitstand/core/mechanism/windows/shelllink"
	"leitstand/core/mechanism/windows/terminal"
)

// Mechanism is one native mechanism.
type Mechanism interface {
	Facts() mechanism.Facts
	// Serves says whether the machine has the mechanism.
	Serves(m *mechanism.Machine) bool
	mechanism.Mechanism
}

// Reader is a mechanism whose files can be read back.
type Reader interface {
	// Read says what the mechanism's files below a machine's folder do; no files
	// do nothing.
	Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error)
}

// list holds every mechanism, the lowest stage first.
var list = []Mechanism{
	hidutil.Mechanism{},
	modifierpanel.Mechanism{},
	scancodemap.Mechanism{},
	filter.Mechanism{},
	hwdb.Mechanism{},
	xkb.Mechanism{},
	console.Mechanism{},
	keylayout.Mechanism{},
	layout.Mechanism{},
	compose.Mechanism{},
	xfce.Mechanism{},
	plasma.Mechanism{},
	dconf.Mechanism{Desktop: "gnome"},
	dconf.Mechanism{Desktop: "mate"},
	dconf.Mechanism{Desktop: "cinnamon"},
	i3.Mechanism{},
	i3.Mechanism{Sway: true},
	shelllink.Mechanism{},
	appkeys.Mechanism{},
	stock.Mechanism{},
	explorer.Mechanism{},
	responses.Mechanism{},
	hotkeys.Mechanism{},
	menukeys.Mechanism{},
	textkeys.Mechanism{},
	globals.Mechanism{},
	services.Mechanism{},
	native.Mechanism{Store: change.Dconf},
	native.Mechanism{Store: change.Xfconf},
	native.Mechanism{Store: change.KDE},
	native.Mechanism{Store: change.Defaults},
	native.Mechanism{Store: change.Registry},
	texts.Mechanism{},
	terminal.Mechanism{},
	lineeditor.Mechanism{},
	byhand.Mechanism{},
}

// Importer is a mechanism of whose kind others write files, too.
type Importer interface {
	// For is the machines whose files they are: a system, and a desktop or a session if
	// it is one only.
	For() machine.Machine
	// Knows says whether a file is of the mechanism's kind, by its name, with the folders as far
	// as they are known, and its text.
	Knows(name string, text []byte) bool
	// Import is what a file does on a machine, and what of it cannot be told; given holds
	// all files to read, by their names. The error says that the file as a whole cannot be
	// read.
	Import(m *mechanism.Machine, text []byte, given fs.FS) (mechanism.Imported, error)
}

// Importers lists the mechanisms that read files of others.
func Importers() []Importer {
	var those []Importer
	for _, t := range list {
		if i, ok := t.(Importer); ok {
			those = append(those, i)
		}
	}
	return those
}

// List is every mechanism, the lowest stage first.
func List() []Mechanism { return slices.Clone(list) }

// Add adds a mechanism to the list; what it returns takes it out again.
func Add(t Mechanism) (remove func()) {
	was := list
	list = append(slices.Clone(list), t)
	return func() { list = was }
}

// Serving lists the mechanisms of a machine.
func Serving(m *mechanism.Machine) []Mechanism {
	var those []Mechanism
	for _, t := range list {
		if t.Serves(m) {
			those = append(those, t)
		}
	}
	return those
}
