package compare

import (
	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/intent"
	"leitstand/core/mechanism"
)

// Stores says what presses do otherwise when a machine has what one store has, and then what another has, in the places
// of changes.
func Stores(m *intent.Machine, places []change.Change, was, is change.Store) ([]behaviour.Change, error) {
	before, err := stored(m, places, was)
	if err != nil {
		return nil, err
	}
	after, err := stored(m, places, is)
	if err != nil {
		return nil, err
	}
	return behaviour.Compare(before, after), nil
}

// stored reads what a store has in the places of changes.
func stored(m *intent.Machine, places []change.Change, s change.Store) ([]behaviour.Binding, error) {
	files, err := change.View(places, s)
	if err != nil {
		return nil, err
	}
	var folder mechanism.Folder
	for _, f := range files {
		if f.Data != nil {
			folder = append(folder, mechanism.File(f))
		}
	}
	read, err := compile.Read(m, folder)
	return read.Bindings, err
}
