// Package compile lands a resolved mapping on a machine's native mechanisms and
// gathers their files. The mechanisms are asked from the lowest stage up, and
// each press lands in exactly one of them: the one with the best verdict, the
// lower one where two are equal.
package compile

import (
	"cmp"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/mapping"
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
	"leitstand/core/mechanism/macos/hidutil"
	"leitstand/core/mechanism/native"
	"leitstand/core/mechanism/stock"
	"leitstand/core/mechanism/windows/scancodemap"
	"leitstand/core/mechanism/windows/shelllink"
)

// Mechanism is one native mechanism.
type Mechanism interface {
	Facts() mechanism.Facts
	// Serves says whether the machine has the mechanism.
	Serves(m *mechanism.Machine) bool
	mechanism.Mechanism
}

// asking is a mechanism of a desktop that may ask before it does something.
type asking interface {
	Asks(m *mechanism.Machine, action string) bool
}

// general is a mechanism that has a place for all users beside the user's own.
type general interface {
	FactsForAll() mechanism.Facts
}

// Reader is a mechanism whose files can be read back.
type Reader interface {
	// Read says what the mechanism's files below a machine's folder do; no files
	// do nothing.
	Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error)
}

// registry holds every mechanism, the lowest stage first.
var registry = []Mechanism{
	hidutil.Mechanism{},
	scancodemap.Mechanism{},
	hwdb.Mechanism{},
	xkb.Mechanism{},
	console.Mechanism{},
	compose.Mechanism{},
	xfce.Mechanism{},
	plasma.Mechanism{},
	dconf.Mechanism{Desktop: "gnome"},
	dconf.Mechanism{Desktop: "mate"},
	dconf.Mechanism{Desktop: "cinnamon"},
	i3.Mechanism{},
	i3.Mechanism{Sway: true},
	shelllink.Mechanism{},
	stock.Mechanism{},
	native.Mechanism{Store: change.Dconf},
	native.Mechanism{Store: change.Xfconf},
	native.Mechanism{Store: change.KDE},
	native.Mechanism{Store: change.Defaults},
	native.Mechanism{Store: change.Registry},
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
	var list []Importer
	for _, t := range registry {
		if i, ok := t.(Importer); ok {
			list = append(list, i)
		}
	}
	return list
}

// serving lists the mechanisms of a machine.
func serving(m *mechanism.Machine) []Mechanism {
	var list []Mechanism
	for _, t := range registry {
		if t.Serves(m) {
			list = append(list, t)
		}
	}
	return list
}

// Build is one machine, compiled.
type Build struct {
	*intent.Intent
	Landings []Landing               // in the order of Entries
	Files    []mechanism.File        // those that the system reads; Folder has all
	Used     []mechanism.Facts       // the mechanisms that took something
	Place    func(diag.Range) string // names a line of the mapping
	parts    []part
	gone     []Gone // since the folder was compiled before
	undo     []part // how that is taken out
}

// Resolve works out what a mapping means on a machine, fallbacks chosen by what
// its mechanisms can have.
func Resolve(mp *mapping.Mapping, m *machine.Machine) (*intent.Intent, diag.List) {
	in, _, diags := resolve(mp, m)
	return in, diags
}

// resolve works out what a mapping means on a machine, and where its presses land. What a rule asks for
// first may be there by itself and not beside the other rules: then what the rule names instead is
// taken, as if no mechanism had it.
func resolve(mp *mapping.Mapping, m *machine.Machine) (*intent.Intent, *Build, diag.List) {
	for c := (&carrier{granted: map[wish]bool{}, refused: refusals{}}); ; {
		in, diags := intent.Resolve(mp, m, c)
		b := landed(in, c.refused)
		if !c.refuse(b.Landings) {
			return in, b, diags
		}
	}
}

// Machine compiles a mapping for one machine. What does not land in full is told
// as warnings, or as errors where the rule needs it exact.
func Machine(mp *mapping.Mapping, m *machine.Machine) (*Build, diag.List, error) {
	_, b, diags := resolve(mp, m)
	b.Place = mp.Place
	diags = append(diags, findings(mp, b)...)
	if diags.HasErrors() {
		return b, diags, nil
	}
	if err := b.Write(); err != nil {
		return nil, diags, err
	}
	return b, append(diags, setTwice(mp, b)...), nil
}

// Write has each mechanism write what landed in it.
func (b *Build) Write() error {
	taken := make([]mechanism.Taken, 0, len(b.Landings))
	for _, t := range serving(b.Machine) {
		for _, forAll := range []bool{true, false} {
			first := len(taken)
			var facts mechanism.Facts
			for i := range b.Landings {
				if l := &b.Landings[i]; l.Mechanism == t && l.Offer.ForAll == forAll {
					taken, facts = append(taken, mechanism.Taken{Binding: &l.Binding, Offer: &l.Offer}), l.Facts()
				}
			}
			if len(taken) == first {
				continue
			}
			out, err := t.Write(b.Machine, taken[first:len(taken):len(taken)])
			if err != nil {
				return fmt.Errorf("machine %s: %w", b.Machine.Name, err)
			}
			facts = weighed(facts, b.Machine)
			b.Used = append(b.Used, facts)
			b.Files = append(b.Files, out.Files...)
			b.parts = append(b.parts, part{facts, out})
		}
	}
	return nil
}

// Folder lists all files of the machine's folder: those that the system reads, what a
// person does with them, and what the machine is.
func (b *Build) Folder() []mechanism.File {
	all := append(slices.Clone(b.Files), mechanism.File{Path: StepsFile, Data: stepsPage(b)})
	all = append(all, mechanism.File{Path: DescriptionFile, Data: describe(b.Machine, all, b.Landings)})
	slices.SortFunc(all, func(x, y mechanism.File) int { return cmp.Compare(x.Path, y.Path) })
	return all
}

// StandIn is what is there in place of what the rule asks for: the press of a fallback, or
// what the key does.
func (l *Landing) StandIn() string {
	if l.Binding.Level == behaviour.Hotkey {
		return l.Binding.Press()
	}
	return l.Binding.String()
}

// ReadFolder reads a folder that compile wrote, for the machine that it says it is for.
func ReadFolder(fsys fs.FS) (*intent.Machine, Reading, error) {
	m, err := Described(fsys)
	if err != nil {
		return nil, Reading{}, err
	}
	got, err := Read(m, fsys)
	return m, got, err
}

// Reading is what the files of a machine's folder say.
type Reading struct {
	Bindings []behaviour.Binding // of all mechanisms
	Layout   *xkb.Layout         // nil where the machine has no XKB
}

// Read reads a machine's folder back: what its files do.
func Read(m *intent.Machine, fsys fs.FS) (Reading, error) {
	var all Reading
	for _, t := range serving(m) {
		r, ok := t.(Reader)
		if !ok {
			continue
		}
		var list []behaviour.Binding
		var err error
		if _, ok := t.(xkb.Mechanism); ok { // which says more than bindings, and takes the longest to read
			if all.Layout, err = xkb.Open(m, fsys); err == nil {
				list = all.Layout.Bindings()
			}
		} else {
			list, err = r.Read(m, fsys)
		}
		if err != nil {
			return Reading{}, err
		}
		all.Bindings = append(slices.Grow(all.Bindings, len(list)), list...)
	}
	behaviour.Sort(all.Bindings)
	return all, nil
}

// Written lists what the machine's files should do: the presses that landed in
// a mechanism with files.
func (b *Build) Written() []behaviour.Binding {
	list := make([]behaviour.Binding, 0, len(b.Landings))
	for _, l := range b.Landings {
		if _, ok := l.Mechanism.(Reader); ok {
			list = append(list, l.Written())
		}
	}
	behaviour.Sort(list)
	return list
}

// Written is what the landing's file should say.
func (l Landing) Written() behaviour.Binding {
	b := l.Binding
	if l.Offer.Does != nil {
		b.Effect = *l.Offer.Does
	}
	return b
}

// weighed is what a mechanism says of itself, its evidence held against what was pressed in
// the version of the machine's desktop, where it is the desktop that does it.
func weighed(facts mechanism.Facts, m *intent.Machine) mechanism.Facts {
	version := ""
	if facts.Stage == mechanism.Desktop && strings.HasPrefix(facts.Name, m.Desktop) {
		version = desktop.Version(m)
	}
	return facts.Weigh(mechanism.Record(), version)
}
