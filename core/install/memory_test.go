package install_test

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/install"
)

// memory is a machine and its journal in memory, which fails, or is killed, at a step: before it, behind it, or in
// the middle of what it writes.
type memory struct {
	refuses string // a call that fails, as called has it
	files   map[string]install.File
	values  map[string]change.Value
	folders map[string]bool
	called  []string
	book    []byte
	copies  map[string][]byte
	user    string
	refused string // a file that cannot be written
	mark    string // of what is written beside files
	// unmarked are the files that were written with a mark that the journal did not have.
	unmarked []string

	step, failAt int
	how          string // before, after, short; killed or not
	dead         bool
}

func newMemory() *memory {
	return &memory{
		files: map[string]install.File{}, values: map[string]change.Value{}, folders: map[string]bool{"~/.config": true},
	}
}

// snapshot is all that the machine has, but for what was called.
func (m *memory) snapshot() string {
	var b []string
	for _, p := range slices.Sorted(maps.Keys(m.files)) {
		f := m.files[p]
		b = append(b, fmt.Sprintf("%s %q %o %d:%d %v", p, f.Data, f.Mode, f.UID, f.GID, f.Time.UnixNano()))
	}
	for _, k := range slices.Sorted(maps.Keys(m.values)) {
		b = append(b, fmt.Sprintf("%s = %#v", k, m.values[k]))
	}
	return fmt.Sprint(b, slices.Sorted(maps.Keys(m.folders)))
}

var errFails = errors.New("it fails")

// killed is thrown where the run is killed.
type killed struct{}

// doing counts a step that changes something; torn does half of it.
func (m *memory) doing(whole, torn func()) error {
	if m.dead {
		panic(killed{})
	}
	m.step++
	if m.step != m.failAt {
		whole()
		return nil
	}
	switch m.how {
	case "fails":
		return errFails
	case "fails behind":
		whole()
		return errFails
	case "killed behind":
		whole()
	case "killed within":
		torn()
	}
	m.dead = true
	panic(killed{})
}

func (m *memory) File(path string) (install.File, error) { return m.files[path], nil }

func (m *memory) Put(path string, was, f install.File) error {
	if is := m.files[path]; string(is.Data) != string(was.Data) || (is.Data == nil) != (was.Data == nil) {
		return change.ErrChanged
	}
	if path == m.refused {
		return errFails
	}
	if m.mark != "" && !bytes.Contains(m.book, []byte(m.mark)) {
		m.unmarked = append(m.unmarked, path)
	}
	return m.doing(func() {
		if f.Data == nil {
			delete(m.files, path)
			return
		}
		for _, dir := range m.Missing(path) {
			m.folders[dir] = true
		}
		m.files[path] = f
	}, func() {
		// A file with two names is written in place.
		if was, ok := m.files[path]; ok && f.Data != nil && len(f.Data) > 1 {
			half := len(f.Data) / 2
			rest := was.Data[min(half, len(was.Data)):]
			was.Data = slices.Concat(f.Data[:half], rest)
			m.files[path] = was
		}
	})
}

func (m *memory) Sweep(string) error { return nil }

func (m *memory) Mark(mark string) { m.mark = mark }

func (m *memory) User() string { return m.user }

func (m *memory) List(folder string) (names []string, err error) {
	for _, p := range slices.Sorted(maps.Keys(m.files)) {
		if path.Dir(p) == folder {
			names = append(names, path.Base(p))
		}
	}
	return names, nil
}

func (m *memory) Missing(path string) (list []string) {
	for i := len(path) - 1; i > 0; i-- {
		if path[i] == '/' && path[:i] != "~" && !m.folders[path[:i]] && !m.used(path[:i]) {
			list = append(list, path[:i])
		}
	}
	slices.Reverse(list)
	return list
}

// used says whether a folder has a file.
func (m *memory) used(path string) bool {
	for p := range m.files {
		if strings.HasPrefix(p, path+"/") {
			return true
		}
	}
	return false
}

func (m *memory) RemoveFolder(path string) error {
	if m.used(path) {
		return nil
	}
	return m.doing(func() { delete(m.folders, path) }, func() {})
}

func (m *memory) Get(store, key string) (change.Value, error) { return m.values[store+" "+key], nil }

func (m *memory) Keys(store, folder string) (list []install.Entry, err error) {
	for _, k := range slices.Sorted(maps.Keys(m.values)) {
		if of, key, _ := strings.Cut(k, " "); of == store && strings.HasPrefix(key, folder) {
			list = append(list, install.Entry{Key: key, Value: m.values[k]})
		}
	}
	return list, nil
}

func (m *memory) Set(store string, list []install.Entry) error {
	for _, e := range list {
		err := m.doing(func() {
			if e.Value == nil {
				delete(m.values, store+" "+e.Key)
			} else {
				m.values[store+" "+e.Key] = e.Value
			}
		}, func() {
			if store == change.Keeper {
				m.values[store+" "+e.Key] = change.Texts{}
			}
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func (m *memory) KeptIn(string, string) string { return "" }

func (m *memory) Call(words []string) error {
	if fmt.Sprint(words) == m.refuses {
		return errors.New("refused")
	}
	return m.doing(func() { m.called = append(m.called, fmt.Sprint(words)) }, func() {})
}

// Read is the journal.
func (m *memory) Read() ([]byte, error) {
	if m.book == nil {
		return nil, fs.ErrNotExist
	}
	return m.book, nil
}

func (m *memory) Write(data []byte) error {
	return m.doing(func() { m.book = slices.Clone(data) }, func() {})
}

func (m *memory) Remove() error { return m.doing(func() { m.book, m.copies = nil, nil }, func() {}) }

// Keep keeps a copy.
func (m *memory) Keep(digest string, data []byte) error {
	return m.doing(func() {
		if m.copies == nil {
			m.copies = map[string][]byte{}
		}
		m.copies[digest] = slices.Clone(data)
	}, func() {})
}

// Copy is one that was kept.
func (m *memory) Copy(digest string) ([]byte, error) {
	if data, ok := m.copies[digest]; ok {
		return data, nil
	}
	return nil, fs.ErrNotExist
}

// Retain forgets copies.
func (m *memory) Retain(digests map[string]bool) error {
	maps.DeleteFunc(m.copies, func(d string, _ []byte) bool { return !digests[d] })
	return nil
}
