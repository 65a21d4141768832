package install

import (
	"io/fs"

	"leitstand/core/change"
)

// overlay is a machine with what is to be changed on top of it, and nothing written. Calls are not made.
type overlay struct {
	m  Machine
	is map[Place]State // as read
	to map[Place]State // as it is to be
}

func newOverlay(m Machine) *overlay {
	return &overlay{m: m, is: map[Place]State{}, to: map[Place]State{}}
}

// now is what a place has on the machine.
func (o *overlay) now(p Place) (State, error) {
	if s, ok := o.is[p]; ok {
		return s, nil
	}
	var s State
	var err error
	if p.Path != "" {
		s.File, err = o.m.File(p.Path)
	} else {
		s.Value, err = o.m.Get(p.Store, p.Key)
	}
	if err == nil {
		o.is[p] = s
	}
	return s, err
}

// then is what a place is to have.
func (o *overlay) then(p Place) (State, error) {
	if s, ok := o.to[p]; ok {
		return s, nil
	}
	return o.now(p)
}

// ReadFile reads a file.
func (o *overlay) ReadFile(path string) ([]byte, error) {
	s, err := o.then(Place{Path: path})
	if err == nil && s.File.Data == nil {
		err = fs.ErrNotExist
	}
	return s.File.Data, err
}

// WriteFile writes a file, which keeps its owner and its mode.
func (o *overlay) WriteFile(path string, data []byte) error {
	p := Place{Path: path}
	s, err := o.then(p)
	if err != nil {
		return err
	}
	if s.File.Data == nil {
		s.File.Mode = 0o644
	}
	if data == nil {
		data = []byte{}
	}
	if next := (State{File: File{Data: data}}); !s.Same(next) {
		s.File.Data = data
		s.File.Time = next.File.Time
		o.to[p] = s
	}
	return nil
}

// RemoveFile removes a file.
func (o *overlay) RemoveFile(path string) error {
	o.to[Place{Path: path}] = State{}
	return nil
}

// Get is the value of a key.
func (o *overlay) Get(store, key string) (change.Value, error) {
	s, err := o.then(Place{Store: store, Key: key})
	return s.Value, err
}

// Set gives a key a value.
func (o *overlay) Set(store, key string, v change.Value) error {
	o.to[Place{Store: store, Key: key}] = State{Value: change.AsKept(store, v)}
	return nil
}

// Call is not made.
func (o *overlay) Call([]string) error { return nil }

// Store is a machine to be read from, as changes and their readers ask for it. Nothing that is written to it reaches
// the machine.
func Store(m Machine) change.Store { return newOverlay(m) }

// InstalledStore is a machine as it was when all that is installed was in place.
func InstalledStore(m Machine, was Installed) change.Store {
	o := newOverlay(m)
	for _, h := range was.Held {
		o.to[h.Place] = h.After
	}
	return o
}
