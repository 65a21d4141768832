package live

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"leitstand/core/folder"
)

// StateFolder is where the journal is. (The XDG Base Directory specification.)
func (m *Machine) StateFolder() string {
	if dir := m.env("XDG_STATE_HOME"); filepath.IsAbs(dir) && m.Root == "" {
		return filepath.Join(dir, "leitstand")
	}
	return m.named("~/.local/state/leitstand")
}

// Book is the journal in its file.
type Book struct{ Folder string }

// name is the journal's file.
func (b Book) name() string { return filepath.Join(b.Folder, "journal.json") }

// Read reads the journal.
func (b Book) Read() ([]byte, error) { return os.ReadFile(b.name()) }

// Write writes it, whole or not at all, onto the disk.
func (b Book) Write(data []byte) error {
	if err := os.MkdirAll(b.Folder, 0o700); err != nil {
		return fmt.Errorf("the journal cannot be kept: %w", err)
	}
	part := b.name() + ".part"
	if err := writeSynced(part, data); err != nil {
		return fmt.Errorf("the journal cannot be kept: %w", errors.Join(err, os.Remove(part)))
	}
	if err := os.Rename(part, b.name()); err != nil {
		return err
	}
	return syncFolder(b.Folder)
}

// Remove removes the journal.
func (b Book) Remove() error { return os.Remove(b.name()) }

func writeSynced(name string, data []byte) error {
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return errors.Join(err, folder.Sync(f), f.Close())
}

// holderFile says who holds the lock.
const holderFile = "running"

// Lock waits until no other run changes the machine; it says who does after some seconds. The lock ends with the
// process.
func (b Book) Lock() (unlock func(), err error) {
	if err := b.make(); err != nil {
		return nil, err
	}
	root, err := os.OpenRoot(b.Folder)
	if err != nil {
		return nil, err
	}
	release, err := folder.Lock(root)
	if err != nil {
		who, _ := os.ReadFile(filepath.Join(b.Folder, holderFile))
		return nil, errors.Join(fmt.Errorf("another leitstand is at work here (process %s), and does not end",
			strings.TrimSpace(string(who))), root.Close())
	}
	holder := filepath.Join(b.Folder, holderFile)
	_ = os.WriteFile(holder, fmt.Appendln(nil, os.Getpid()), 0o600) // for a message only
	return func() {
		_ = os.Remove(holder)
		release()
		_ = root.Close()
		// A folder that nothing is kept in goes again.
		if _, err := b.Read(); errors.Is(err, fs.ErrNotExist) {
			b.remove()
		}
	}, nil
}

// madeFile says which folders were made for the journal's.
const madeFile = "made"

// make makes the folder, and notes those above it that are made with it.
func (b Book) make() error {
	var made []string
	for dir := filepath.Dir(b.Folder); ; dir = filepath.Dir(dir) {
		if _, err := os.Stat(dir); err == nil || dir == filepath.Dir(dir) {
			break
		}
		made = append(made, dir)
	}
	err := os.MkdirAll(b.Folder, 0o700)
	if err == nil && made != nil {
		err = os.WriteFile(filepath.Join(b.Folder, madeFile), []byte(strings.Join(made, "\n")), 0o600)
	}
	if err != nil {
		b.removeAll(made)
	}
	return err
}

// remove removes the folder, and those that were made with it, as far as they are empty.
func (b Book) remove() {
	made, _ := os.ReadFile(filepath.Join(b.Folder, madeFile)) // none where none was
	b.removeAll(slices.DeleteFunc(strings.Split(string(made), "\n"), func(dir string) bool { return dir == "" }))
}

// removeAll removes the folder, and those above it that were made, the innermost first.
func (b Book) removeAll(made []string) {
	_ = os.Remove(filepath.Join(b.Folder, madeFile))
	for _, dir := range append([]string{b.Folder}, made...) {
		if os.Remove(dir) != nil {
			return
		}
	}
}
