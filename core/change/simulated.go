package change

import (
	"fmt"
	"io/fs"
	"maps"
)

// Simulated is a machine in memory.
type Simulated struct {
	Files  map[string][]byte
	Values map[string]Value // by store and key, parted by a colon
	Called [][]string
	// FailAt is the number of the step, from 1, that fails; 0 for none.
	FailAt int
	steps  int
}

// NewSimulated makes a machine that has nothing.
func NewSimulated() *Simulated {
	return &Simulated{Files: map[string][]byte{}, Values: map[string]Value{}}
}

// Clone is a machine that has the same.
func (m *Simulated) Clone() *Simulated {
	return &Simulated{Files: maps.Clone(m.Files), Values: maps.Clone(m.Values)}
}

// step counts what is done to the machine.
func (m *Simulated) step() error {
	if m.steps++; m.steps == m.FailAt {
		return fmt.Errorf("step %d fails", m.steps)
	}
	return nil
}

// ReadFile reads a file.
func (m *Simulated) ReadFile(path string) ([]byte, error) {
	data, ok := m.Files[path]
	if !ok {
		return nil, fs.ErrNotExist
	}
	return data, nil
}

// WriteFile writes a file.
func (m *Simulated) WriteFile(path string, data []byte) error {
	if err := m.step(); err != nil {
		return err
	}
	m.Files[path] = data
	return nil
}

// RemoveFile removes a file.
func (m *Simulated) RemoveFile(path string) error {
	if err := m.step(); err != nil {
		return err
	}
	delete(m.Files, path)
	return nil
}

// Get is the value of a key.
func (m *Simulated) Get(store, key string) (Value, error) { return m.Values[store+":"+key], nil }

// Set gives a key a value.
func (m *Simulated) Set(store, key string, v Value) error {
	if err := m.step(); err != nil {
		return err
	}
	if v == nil {
		delete(m.Values, store+":"+key)
		return nil
	}
	m.Values[store+":"+key] = v
	return nil
}

// Call notes a call.
func (m *Simulated) Call(words []string) error {
	if err := m.step(); err != nil {
		return err
	}
	m.Called = append(m.Called, words)
	return nil
}
