package live

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"strings"
	"syscall"

	"leitstand/core/change"
	"leitstand/core/folder"
	"leitstand/core/install"
)

// A file is written beside its place, under a name that nobody else uses, and then exchanged with what is there in one
// step of the kernel. Only then is it known what was there: what somebody has written meanwhile is exchanged back. The
// name says what is in it, so that a run that was killed between can be put right:
//
//	.NAME.leitstand-MARK-part        is being written
//	.NAME.leitstand-MARK-NEW-OLD     is NEW, and then OLD or what somebody else has written
//
// NEW and OLD begin the digests of what the file is to have and had.

// File is a file as it is.
func (m *Machine) File(name string) (install.File, error) {
	at, err := m.find(name)
	if errors.Is(err, fs.ErrNotExist) {
		return install.File{}, nil
	}
	if err != nil {
		return install.File{}, err
	}
	defer at.close()
	f, _, err := at.read()
	return f, err
}

// read reads a file. One without data is none; what is neither a file nor none is an error.
func (s spot) read() (install.File, fs.FileInfo, error) {
	info, err := s.dir.Lstat(s.base)
	if errors.Is(err, fs.ErrNotExist) {
		return install.File{}, nil, nil
	}
	if err != nil {
		return install.File{}, nil, err
	}
	if !info.Mode().IsRegular() {
		return install.File{}, nil, errNoFile
	}
	if info.Size() > install.Largest {
		return install.File{}, nil, fmt.Errorf("it has more than %d MB, and Leitstand changes no file as large",
			install.Largest>>20)
	}
	f, err := s.dir.OpenFile(s.base, os.O_RDONLY|syscall.O_NONBLOCK, 0) // a pipe may be there by now, and waits for nobody
	if errors.Is(err, fs.ErrNotExist) {
		return install.File{}, nil, nil
	}
	if err != nil {
		return install.File{}, nil, err
	}
	defer f.Close()
	opened, err := f.Stat()
	if err == nil && !os.SameFile(info, opened) {
		err = change.ErrChanged
	}
	if err != nil {
		return install.File{}, nil, err
	}
	data, err := io.ReadAll(io.LimitReader(f, install.Largest+1))
	if err != nil {
		return install.File{}, nil, err
	}
	is := install.File{Data: data, Mode: opened.Mode().Perm(), Time: opened.ModTime()}
	if data == nil {
		is.Data = []byte{}
	}
	is.UID, is.GID, is.Owned = owner(opened)
	return is, opened, nil
}

// Mark begins a run: it names what is written beside files.
func (m *Machine) Mark(mark string) { m.mark = mark }

// aside begins the names of files that are written beside one.
func (m *Machine) aside(base string) string { return "." + base + ".leitstand-" + m.mark + "-" }

// part ends the name of a file that is being written.
const part = "part"

// brief returns the first 16 digits of the digest of data, or "none" for no file.
func brief(data []byte) string {
	if data == nil {
		return "none"
	}
	return folder.Digest(data)[:16]
}

// Put writes a file, whole or not at all. One that is there keeps its owner, its permissions and attributes.
func (m *Machine) Put(name string, was, f install.File) error {
	if f.Data != nil {
		if err := m.make(name); err != nil {
			return err
		}
	}
	at, err := m.find(name)
	if errors.Is(err, fs.ErrNotExist) && was.Data == nil { // neither the file nor its folder is there, nor needs to be
		return nil
	}
	if err != nil {
		return err
	}
	defer at.close()
	is, info, err := at.read()
	switch {
	case err != nil:
		return err
	case !bytes.Equal(is.Data, was.Data) || (is.Data == nil) != (was.Data == nil):
		return change.ErrChanged
	case f.Data == nil && is.Data == nil:
		return nil
	case info != nil && info.Mode().Perm()&0o222 == 0:
		return errReadOnly
	case info != nil && f.Data != nil && !folder.Alone(info):
		err = m.overwrite(at, is.Data, f.Data)
	default:
		err = m.exchange(at, is, info, f.Data, f.Mode)
	}
	if err != nil {
		return err
	}
	if f.Data != nil {
		err = m.restamp(at, f)
	}
	syncFolder(at.dir)
	return err
}

// exchange puts new data in the place of what is there, or of nothing, or nothing in the place of that.
func (m *Machine) exchange(at spot, is install.File, info fs.FileInfo, data []byte, mode fs.FileMode) error {
	whole := m.aside(at.base) + brief(data) + "-" + brief(is.Data)
	if data != nil {
		err := m.writeAside(at, whole, info, data, mode)
		if errors.Is(err, errKeep) {
			return m.overwrite(at, is.Data, data)
		}
		if err != nil {
			return err
		}
	}
	// Writing took a while. A program that reads the file after the exchange, and writes it after what somebody has saved
	// was put back, would not have that: so the moment is kept short.
	now, found, err := at.read()
	if err == nil && (!bytes.Equal(now.Data, is.Data) || info != nil && !os.SameFile(info, found)) {
		err = change.ErrChanged
	}
	switch {
	case err != nil:
	case data == nil:
		err = renameNew(at.dir, at.base, whole)
	case is.Data == nil:
		if err = renameNew(at.dir, whole, at.base); errors.Is(err, fs.ErrExist) {
			err = change.ErrChanged
		}
	default:
		err = exchange(at.dir, whole, at.base)
	}
	if err != nil {
		if data != nil {
			err = errors.Join(err, at.dir.Remove(whole))
		}
		return err
	}
	if is.Data == nil {
		return nil
	}
	return m.settle(at, whole, info, is.Data)
}

// settle removes what was in the place of a file, if it is what was expected. What is not is put back.
func (m *Machine) settle(at spot, whole string, info fs.FileInfo, expected []byte) error {
	now, found, err := (spot{at.dir, whole}).read()
	if err == nil && os.SameFile(info, found) && bytes.Equal(now.Data, expected) {
		return at.dir.Remove(whole)
	}
	return errors.Join(change.ErrChanged, m.putBack(at, whole))
}

// putBack puts what somebody has written in the place of a file there again. Where they have written there once more
// meanwhile, that stays in its place, and what they had written first stays beside it.
func (m *Machine) putBack(at spot, whole string) error {
	if err := renameNew(at.dir, whole, at.base); !errors.Is(err, fs.ErrExist) {
		return err
	}
	if err := exchange(at.dir, whole, at.base); err != nil {
		return err
	}
	is, _, err := (spot{at.dir, whole}).read()
	to, _, _ := strings.Cut(strings.TrimPrefix(whole, m.aside(at.base)), "-")
	if err == nil && brief(is.Data) == to { // ours
		return at.dir.Remove(whole)
	}
	return errors.Join(exchange(at.dir, whole, at.base), fmt.Errorf("%s was written twice meanwhile; what it had first "+
		"is in %s beside it", at.base, whole))
}

// errNoFile is for what is there in the place of a file.
var errNoFile = errors.New("it is no file, but a folder, a pipe or a device")

// errReadOnly is for a file that its owner keeps from being written.
var errReadOnly = errors.New("it is read-only; make it writable (chmod u+w)")

// errKeep is for a file whose owner or attributes another cannot have.
var errKeep = errors.New("it cannot keep what it has")

// writeAside writes data beside a file, with what the file has beside its bytes.
func (m *Machine) writeAside(at spot, whole string, info fs.FileInfo, data []byte, mode fs.FileMode) error {
	unfinished := m.aside(at.base) + part
	if info != nil {
		mode = info.Mode() // with all its bits
	} else if mode == 0 {
		mode = 0o644
	}
	f, err := at.dir.OpenFile(unfinished, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode.Perm()&0o700)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err == nil && info != nil {
		if fault := m.keep(at, f, info); fault != nil {
			err = errKeep
		}
	}
	if err == nil {
		err = f.Chmod(mode)
	}
	if err == nil {
		err = folder.Sync(f)
	}
	if err = errors.Join(err, f.Close()); err == nil {
		err = at.dir.Rename(unfinished, whole)
	}
	if err != nil {
		return errors.Join(err, at.dir.Remove(unfinished))
	}
	return nil
}

// keep gives a new file the owner and the attributes of the one that it takes the place of.
func (m *Machine) keep(at spot, to *os.File, info fs.FileInfo) error {
	from, err := at.dir.Open(at.base)
	if err != nil {
		return err
	}
	defer from.Close()
	return folder.Keep(from, to, info)
}

// overwrite writes a file in place, which has more than one name or cannot be replaced, with a copy beside it meanwhile.
func (m *Machine) overwrite(at spot, was, data []byte) error {
	copied := m.aside(at.base) + part
	beside, err := at.dir.OpenFile(copied, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	_, err = beside.Write(was)
	if err = errors.Join(err, folder.Sync(beside), beside.Close()); err == nil {
		err = overwrite(at, data)
	}
	return errors.Join(err, at.dir.Remove(copied))
}

func overwrite(at spot, data []byte) error {
	f, err := at.dir.OpenFile(at.base, os.O_WRONLY, 0)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return errors.Join(err, f.Truncate(int64(len(data))), folder.Sync(f), f.Close())
}

// Sweep removes what a writing of a file that was killed has left beside it. What somebody has written in the file's
// place meanwhile is put back.
func (m *Machine) Sweep(name string) error {
	at, err := m.find(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer at.close()
	names, err := fs.Glob(at.dir.FS(), globbed(m.aside(at.base))+"*")
	for _, whole := range names {
		err = errors.Join(err, m.sweep(at, whole))
	}
	return err
}

// globbed is a name as a pattern that only it matches.
func globbed(name string) string {
	return strings.NewReplacer(`\`, `\\`, `*`, `\*`, `?`, `\?`, `[`, `\[`).Replace(name)
}

func (m *Machine) sweep(at spot, whole string) error {
	states := strings.TrimPrefix(whole, m.aside(at.base))
	to, from, ok := strings.Cut(states, "-")
	if !ok { // it was never finished
		return at.dir.Remove(whole)
	}
	is, _, err := (spot{at.dir, whole}).read()
	if err != nil {
		return err
	}
	if have := brief(is.Data); have == to || have == from {
		return at.dir.Remove(whole)
	}
	now, _, err := at.read()
	if err == nil && (brief(now.Data) == to || now.Data == nil) {
		return m.putBack(at, whole)
	}
	return fmt.Errorf("%s has what somebody wrote into %s while leitstand was ended: %w", whole, at.base, errors.Join(
		change.ErrChanged, err))
}

// restamp gives a file the mode, the owner and the time that it had, where it differs.
func (m *Machine) restamp(at spot, f install.File) error {
	info, err := at.dir.Lstat(at.base)
	if err != nil {
		return err
	}
	if uid, gid, ok := owner(info); ok && f.Owned && (uid != f.UID || gid != f.GID) {
		if err := at.dir.Lchown(at.base, f.UID, f.GID); err != nil {
			return err
		}
	}
	if f.Mode != 0 && info.Mode().Perm() != f.Mode.Perm() {
		special := info.Mode() & (fs.ModeSetuid | fs.ModeSetgid | fs.ModeSticky)
		if err := at.dir.Chmod(at.base, f.Mode.Perm()|special); err != nil {
			return err
		}
	}
	if !f.Time.IsZero() {
		return at.dir.Chtimes(at.base, f.Time, f.Time)
	}
	return nil
}
