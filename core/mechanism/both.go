package mechanism

import (
	"io/fs"
	"slices"
)

// Place is one of the places of a mechanism: that of each user, or that for all users.
type Place interface {
	Take(m *Machine, b Binding) Offer
	Write(m *Machine, list []Taken) (Output, error)
	Read(m *Machine, fsys fs.FS) ([]Binding, error)
}

// Both is a mechanism that has a place of the user's own, and one for all users.
type Both struct{ Own, All Place }

// Take says how well a binding lands: what is for everyone for everyone, if it can be.
func (p Both) Take(m *Machine, b Binding) Offer {
	var all Offer
	if b.Everyone {
		if all = p.All.Take(m, b); all.Verdict >= Limited {
			all.ForAll = true
			return all
		}
	}
	own := p.Own.Take(m, b)
	if len(all.Why) > 0 && !slices.Equal(all.Why, own.Why) {
		own.Verdict, own.Why = min(own.Verdict, Limited), all.Why.And(own.Why...)
	}
	return own
}

// Write makes the changes in the user's own place, and those in that for all users.
func (p Both) Write(m *Machine, list []Taken) (Output, error) {
	all, own := []Taken{}, []Taken{}
	for _, b := range list {
		if b.ForAll {
			all = append(all, b)
		} else {
			own = append(own, b)
		}
	}
	var out Output
	for _, part := range []struct {
		place Place
		list  []Taken
	}{{p.All, all}, {p.Own, own}} {
		if len(part.list) == 0 && len(list) > 0 {
			continue
		}
		o, err := part.place.Write(m, part.list)
		if err != nil {
			return Output{}, err
		}
		out.Changes = append(out.Changes, o.Changes...)
	}
	return Changed(out.Changes), nil
}

// Read reads both places.
func (p Both) Read(m *Machine, fsys fs.FS) ([]Binding, error) {
	all, err := p.All.Read(m, fsys)
	if err != nil {
		return nil, err
	}
	own, err := p.Own.Read(m, fsys)
	if len(all) == 0 {
		return own, err
	}
	return append(all, own...), err
}
