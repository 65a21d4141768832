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
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/macos/keylayout"
	"leitstand/core/mechanism/registry"
	"leitstand/core/mechanism/windows/layout"
)

// Build is one machine, compiled.
type Build struct {
	*land.Landed
	Used  []mechanism.Facts       // the mechanisms that took something
	Place func(diag.Range) string // names a line of the mapping
	order []*land.Landing         // the landings in the order of behaviour.Sort, once they have been asked for
	parts []part
	files []mechanism.File // once they have been asked for
	gone  []Gone           // since the folder was compiled before
	undo  []undone         // how that is taken out
}

// Machine compiles a mapping for one machine. What does not land in full is told
// as warnings, or as errors where the rule needs it exact.
func Machine(mp *mapping.Mapping, m *machine.Machine) (*Build, diag.List, error) {
	landed, diags := land.Resolve(mp, m)
	b := &Build{Landed: landed, Place: mp.Place}
	diags = append(diags, findings(mp, b)...)
	if diags.HasErrors() {
		return b, diags, nil
	}
	if err := b.Write(); err != nil {
		return nil, diags, err
	}
	b.DropPlans()
	return b, append(diags, setTwice(mp, b)...), nil
}

// Write has each mechanism write what landed in it.
func (b *Build) Write() error {
	taken := make([]mechanism.Taken, 0, len(b.Landings))
	for _, t := range registry.Serving(b.Machine) {
		for _, forAll := range []bool{true, false} {
			first := len(taken)
			var facts mechanism.Facts
			for _, l := range b.sorted() {
				if l.Mechanism == t && l.Offer.ForAll == forAll {
					taken, facts = append(taken, mechanism.Taken{Binding: &l.Binding, Offer: &l.Offer}), l.Place()
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
			b.parts = append(b.parts, part{facts, out})
		}
	}
	return nil
}

// Files are those that the system reads; Folder has all.
func (b *Build) Files() []mechanism.File {
	if b.files == nil {
		for _, p := range b.parts {
			b.files = append(b.files, p.out.Files()...)
		}
	}
	return b.files
}

// Folder lists all files of the machine's folder: those that the system reads, what a
// person does with them, and what the machine is.
func (b *Build) Folder() []mechanism.File {
	all := append(slices.Clone(b.Files()), mechanism.File{Path: StepsFile, Data: stepsPage(b)})
	if b.Machine.System == machine.MacOS && len(b.Changes())+len(b.undo) > 0 {
		all = append(all, mechanism.File{Path: AskFile, Data: []byte(change.Asking(b.Changes()))},
			mechanism.File{Path: change.PreferencesFile, Data: []byte(change.PreferencesScript)})
	}
	if b.Machine.System == machine.Windows && len(b.Changes())+len(b.undo) > 0 {
		batch := strings.NewReplacer("\n", "\r\n") // as batch files have it
		all = append(all, mechanism.File{Path: AskWindowsFile, Data: []byte(batch.Replace(change.AskingWindows(b.Changes())))},
			mechanism.File{Path: change.WindowsFile, Data: []byte(batch.Replace(change.WindowsScript))})
	}
	all = append(all, mechanism.File{Path: DescriptionFile, Data: describe(b.Machine, all, b.Landings)})
	slices.SortFunc(all, func(x, y mechanism.File) int { return cmp.Compare(x.Path, y.Path) })
	return all
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

// Typist is a layout that types, and a board.
type Typist interface {
	keys.Typist
	keys.Board
}

// Reading is what the files of a machine's folder say.
type Reading struct {
	Bindings []behaviour.Binding // of all mechanisms
	Layout   *xkb.Layout         // nil where the machine has no XKB
	// Typists are the layouts of our own on macOS and Windows, in the order of the machine's; nil for none.
	Typists []Typist
}

// Read reads a machine's folder back: what its files do.
func Read(m *intent.Machine, fsys fs.FS) (Reading, error) {
	var found Reading
	for _, t := range registry.Serving(m) {
		r, ok := t.(registry.Reader)
		if !ok {
			continue
		}
		var list []behaviour.Binding
		var err error
		switch t.(type) { // layouts say more than bindings, and take the longest to read
		case xkb.Mechanism:
			if found.Layout, err = xkb.Open(m, fsys); err == nil {
				list = found.Layout.Bindings()
			}
		case keylayout.Mechanism:
			var own []*keylayout.Layout
			own, err = keylayout.Open(m, fsys)
			list = keylayout.Bindings(m, own)
			for _, l := range own {
				found.Typists = append(found.Typists, l)
			}
		case layout.Mechanism:
			var own []*layout.Layout
			own, err = layout.Open(m, fsys)
			list = layout.Bindings(m, own)
			for _, l := range own {
				found.Typists = append(found.Typists, l)
			}
		default:
			list, err = r.Read(m, fsys)
		}
		if err != nil {
			return Reading{}, err
		}
		if found.Bindings == nil {
			found.Bindings = list
		} else {
			found.Bindings = append(found.Bindings, list...)
		}
	}
	behaviour.Sort(found.Bindings)
	return found, nil
}

// sorted are the landings in the order of behaviour.Sort.
func (b *Build) sorted() []*land.Landing {
	if b.order == nil {
		at := func(i int) *behaviour.Binding { return &b.Landings[i].Binding }
		for _, i := range behaviour.Indices(len(b.Landings), at) {
			b.order = append(b.order, &b.Landings[i])
		}
	}
	return b.order
}

// Written lists what the machine's files should do, in the order of behaviour.Sort: the presses that
// landed in a mechanism with files. They are not to be changed.
func (b *Build) Written() []*behaviour.Binding {
	list := make([]*behaviour.Binding, 0, len(b.Landings))
	for _, l := range b.sorted() {
		switch {
		case !l.ReadBack():
		case l.Offer.Does == nil:
			list = append(list, &l.Binding)
		default:
			written := l.Written()
			list = append(list, &written)
		}
	}
	return list
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
