package compare

import (
	"errors"
	"io/fs"
	"maps"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/mechanism"
)

// Side is one machine as it is somewhere: what its keys do, and its files.
type Side struct {
	Machine  string
	Bindings []behaviour.Binding
	Files    map[string][]byte
	Broken   string // why what its keys do cannot be told
	// Parts are files that others own, and have parts of ours: as files they are not compared.
	Parts map[string]bool
}

// SideOf is a machine as a mapping compiles it.
func SideOf(b *compile.Build) (Side, error) {
	s := Side{Machine: b.Machine.Name, Files: map[string][]byte{}, Parts: map[string]bool{}}
	folder, err := b.Simulated()
	if err != nil {
		return s, err
	}
	for _, f := range b.Files() {
		s.Files[f.Path] = f.Data
	}
	s.part(b.Changes())
	read, err := compile.Read(b.Machine, folder)
	s.Bindings = read.Bindings
	return s, err
}

// SideIn is a machine as a store has it, in the places of changes.
func SideIn(b *compile.Build, places []change.Change, store change.Store) (Side, error) {
	s := Side{Machine: b.Machine.Name, Files: map[string][]byte{}, Parts: map[string]bool{}}
	files, err := change.View(places, inUse(places, store))
	if err != nil {
		return s, err
	}
	var folder mechanism.Folder
	s.part(places)
	for _, f := range files {
		if f.Data == nil {
			continue
		}
		folder = append(folder, mechanism.File(f))
		s.Files[f.Path] = f.Data
	}
	read, err := compile.Read(b.Machine, folder)
	if err != nil {
		s.Broken = err.Error()
	}
	s.Bindings = read.Bindings
	return s, nil
}

// used is a machine that runs, so that it has what every one has.
type used struct {
	change.Store
	has map[[2]string]change.Value // by store and key
}

func inUse(places []change.Change, store change.Store) used {
	u := used{store, map[[2]string]change.Value{}}
	for _, c := range places {
		if s, ok := c.(change.Setting); ok && s.Assumed {
			u.has[[2]string{s.Store, s.Key}] = s.To
		}
	}
	return u
}

// Get is the value of a key.
func (u used) Get(store, key string) (change.Value, error) {
	v, err := u.Store.Get(store, key)
	if v == nil && err == nil {
		v = u.has[[2]string{store, key}]
	}
	return v, err
}

// part notes the files of others.
func (s Side) part(changes []change.Change) {
	for _, c := range changes {
		switch c.(type) {
		case change.Line, change.Block:
			s.Parts[c.Note().In] = true
		default: // a file of ours, or a store's
			s.Parts[c.Note().In] = s.Parts[c.Note().In] || c.Note().Shown
		}
	}
}

// SideOfFolder is a machine of a compiled folder.
func SideOfFolder(folder fs.FS, name string) (Side, error) {
	s := Side{Machine: name}
	var err error
	if s.Bindings, s.Files, err = read(folder, name); err != nil && s.Files != nil {
		s.Broken, err = err.Error(), nil
	}
	maps.DeleteFunc(s.Files, func(path string, _ []byte) bool { return path == compile.DescriptionFile || compile.ServesSteps(path) })
	return s, err
}

// Sides holds two machines against each other, whatever they are called.
func Sides(was, is Side) MachineDifference {
	d := MachineDifference{Machine: is.Machine, Files: differences(was.Files, is.Files)}
	d.Files = slices.DeleteFunc(d.Files, func(f FileDifference) bool {
		return was.Parts[f.Path] || is.Parts[f.Path] || was.Machine != is.Machine // each has its own
	})
	for _, s := range []Side{was, is} {
		if d.Broken == "" {
			d.Broken = s.Broken
		}
	}
	if d.Broken == "" {
		d.Presses = behaviour.Compare(was.Bindings, is.Bindings)
	}
	return d
}

// Stores says what presses do otherwise when a machine has what one store has, and then what another has, in the places
// of changes.
func Stores(b *compile.Build, places []change.Change, was, is change.Store) ([]behaviour.Change, error) {
	before, err := SideIn(b, places, was)
	if err != nil {
		return nil, err
	}
	after, err := SideIn(b, places, is)
	if err != nil {
		return nil, err
	}
	if d := Sides(before, after); d.Broken != "" {
		return nil, errors.New(d.Broken)
	}
	return behaviour.Compare(before.Bindings, after.Bindings), nil
}

// Since says of each press in which a machine differs from a mapping where that comes from: the machine was changed
// since it was installed, or the mapping was.
func Since(presses []behaviour.Change, installed, now Side) map[behaviour.Place]Origin {
	found := map[behaviour.Place]Origin{}
	differs := map[behaviour.Place]bool{}
	for _, c := range behaviour.Compare(installed.Bindings, now.Bindings) {
		differs[c.Place] = true
	}
	for _, c := range presses {
		if found[c.Place] = OfMapping; differs[c.Place] {
			found[c.Place] = OfMachine
		}
	}
	return found
}

// Origin is where a difference comes from.
type Origin string

// The origins.
const (
	OfMachine Origin = "machine" // somebody has changed the machine since it was installed
	OfMapping Origin = "mapping" // the mapping says something else by now
)
