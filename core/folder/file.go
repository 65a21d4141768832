package folder

import (
	"bytes"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
)

// NewFile makes a file that is not there yet, whole or not at all.
func NewFile(name string, data []byte) error {
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err = errors.Join(err, f.Close()); err != nil {
		err = errors.Join(err, os.Remove(name))
	}
	return err
}

// NewFiles makes files of a folder, by their names in it: all of them or none. The last one must not be there yet; of
// the others, one that is there with just these bytes stays.
func NewFiles(dir string, files []File) (err error) {
	var made []string
	defer func() {
		for _, name := range made {
			if err != nil {
				err = errors.Join(err, os.Remove(name))
			}
		}
	}()
	for i, f := range files {
		name := filepath.Join(dir, f.Path)
		is, readErr := os.ReadFile(name)
		if last := i == len(files)-1; !last && readErr == nil && bytes.Equal(is, f.Data) {
			continue
		}
		if err := NewFile(name, f.Data); err != nil {
			return err
		}
		made = append(made, name)
	}
	return nil
}

// Renew makes a file that may be there already, whole or not at all.
func Renew(name string, data []byte) error {
	info, err := os.Stat(name)
	if errors.Is(err, fs.ErrNotExist) {
		return NewFile(name, data)
	} else if err != nil {
		return err
	}
	if !info.Mode().IsRegular() { // a device never ends, and a pipe waits
		return &fs.PathError{Op: "write", Path: name, Err: errNoFile}
	}
	was, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	return Replace([]Edit{{Name: name, Was: was, New: data}})
}

// Edit is a file, and what it is to hold.
type Edit struct {
	Name     string
	Was, New []byte
	// Aside is the name of the file beside it that has the new text until it changes places, "" for any. One of that
	// name is left of an earlier run.
	Aside string
}

// Create makes a file that is not there yet with what it is to hold, whole or not at all; aside is the name of the file
// beside it that has it until then.
func Create(name, aside string, data []byte, mode fs.FileMode) error {
	if err := os.Remove(aside); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := writeSynced(aside, data, mode); err != nil {
		return errors.Join(err, os.Remove(aside))
	}
	if err := os.Link(aside, name); err == nil || errors.Is(err, fs.ErrExist) {
		return errors.Join(err, os.Remove(aside))
	}
	return os.Rename(aside, name) // a file system without a second name for a file
}

// Replace writes files anew, all of them or none, as a careful editor does: through links,
// keeping owner, permissions, further names and attributes. What cannot keep all of them in
// one step is written in place, with a copy beside it meanwhile.
func Replace(edits []Edit) error {
	ready := make([]replacement, 0, len(edits))
	defer func() {
		for _, r := range ready {
			_ = os.Remove(r.beside) // what is left of it
		}
	}()
	for _, e := range edits {
		r, err := prepare(e)
		if r.beside != "" {
			ready = append(ready, r)
		}
		if err != nil {
			return err
		}
	}
	for i, r := range ready {
		if err := r.do(edits[i].New); err != nil {
			for k := range i { // back to what they were
				err = errors.Join(err, overwrite(ready[k].name, edits[k].Was))
			}
			return err
		}
	}
	return nil
}

// replacement is a file with what takes its place, or a copy of it, written beside it.
type replacement struct {
	name, beside string
	inPlace      bool
}

func prepare(e Edit) (replacement, error) {
	name, err := filepath.EvalSymlinks(e.Name)
	if err != nil {
		return replacement{}, err
	}
	info, err := os.Lstat(name)
	if err != nil {
		return replacement{}, err
	}
	if !info.Mode().IsRegular() {
		return replacement{}, fmt.Errorf("%s is no file", e.Name)
	}
	if info.Mode().Perm()&0o222 == 0 {
		return replacement{}, fmt.Errorf("%s is read-only", e.Name)
	}
	f, err := os.OpenFile(name, os.O_WRONLY, 0) // which says whether we may write it
	if err != nil {
		return replacement{}, err
	}
	_ = f.Close()
	var random [6]byte
	_, _ = rand.Read(random[:]) // which never fails
	r := replacement{
		name:   name,
		beside: filepath.Join(filepath.Dir(name), "."+filepath.Base(name)+"."+hex.EncodeToString(random[:])),
	}
	if e.Aside != "" {
		if err := os.Remove(e.Aside); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return replacement{}, err
		}
		r.beside = e.Aside
	}
	if err := writeSynced(r.beside, e.New, info.Mode().Perm()); err != nil {
		_ = os.Remove(r.beside)
		return replacement{}, err
	}
	if !Alone(info) || keep(name, r.beside, info) != nil {
		r.inPlace = true
		return r, errors.Join(os.Remove(r.beside), writeSynced(r.beside, e.Was, info.Mode().Perm()))
	}
	return r, nil
}

// keep is Keep by the names of the files.
func keep(from, to string, info fs.FileInfo) error {
	has, err := os.Open(from)
	if err != nil {
		return err
	}
	defer has.Close()
	gets, err := os.OpenFile(to, os.O_WRONLY, 0)
	if err != nil {
		return err
	}
	return errors.Join(Keep(has, gets, info), gets.Close())
}

func (r replacement) do(text []byte) error {
	if r.inPlace {
		return overwrite(r.name, text)
	}
	return os.Rename(r.beside, r.name)
}

// overwrite writes a file in place.
func overwrite(name string, text []byte) error {
	f, err := os.OpenFile(name, os.O_WRONLY, 0)
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	return errors.Join(err, f.Truncate(int64(len(text))), Sync(f), f.Close())
}

func writeSynced(name string, text []byte, mode fs.FileMode) error {
	f, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode)
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	return errors.Join(err, f.Chmod(mode), Sync(f), f.Close())
}

// Sync has what was written to a file on the disk, where its file system can do that at all. (fsync(2): EINVAL.)
func Sync(f *os.File) error {
	if err := f.Sync(); !errors.Is(err, syscall.EINVAL) && !errors.Is(err, errors.ErrUnsupported) {
		return err
	}
	return nil
}
