package live

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"leitstand/core/folder"
)

// stateName is where the journal is below the user's home. (The XDG Base Directory specification.)
const stateName = "~/.local/state/leitstand"

// StateFolder is the path of the folder that the journal is in.
func (m *Machine) StateFolder() string {
	if dir := m.env("XDG_STATE_HOME"); filepath.IsAbs(dir) && m.Root == "" {
		return filepath.Join(dir, "leitstand")
	}
	return m.named(stateName)
}

// Book is the journal in its folder, with the copies and scripts beside it. What is read of it decides what is written on
// the machine. So it is read only where the folder and its files belong to the user that Leitstand runs as, and nobody
// else can write them; and none of them is reached by a link.
type Book struct{ m *Machine }

// Book is the machine's.
func (m *Machine) Book() Book { return Book{m} }

const (
	journalFile  = "journal.json"
	copiesFolder = "copies"
	madeFile     = "made" // how many folders above the book's were made with it
	partOf       = ".part"
	newFolder    = ".leitstand-new" // ends the name of folders that are made until they are whole
)

// largestJournal is the size in bytes up to which a journal is read.
const largestJournal = 64 << 20

// above opens the innermost folder that is there of those that lead to the book's, and names those that are missing: none
// where the book's own is there.
func (b Book) above() (dir *os.Root, missing []string, err error) {
	if b.m.Root != "" {
		if dir, err = os.OpenRoot(b.m.Root); err != nil {
			return nil, nil, err
		}
		missing = strings.Split(b.m.inRoot(stateName), "/")
		for len(missing) > 0 {
			info, err := dir.Lstat(missing[0])
			if errors.Is(err, fs.ErrNotExist) {
				return dir, missing, nil
			}
			if err == nil && !info.IsDir() {
				err = fmt.Errorf("%s is a link or a file, where the journal has its folder", filepath.Join(dir.Name(), missing[0]))
			}
			var next *os.Root
			if err == nil {
				next, err = dir.OpenRoot(missing[0])
			}
			_ = dir.Close()
			if err != nil {
				return nil, nil, err
			}
			dir, missing = next, missing[1:]
		}
		return dir, nil, nil
	}
	real, err := followed(b.m.StateFolder())
	if err != nil {
		return nil, nil, err
	}
	for {
		if _, err := os.Lstat(real); !errors.Is(err, fs.ErrNotExist) || real == filepath.Dir(real) {
			break
		}
		missing, real = append([]string{filepath.Base(real)}, missing...), filepath.Dir(real)
	}
	dir, err = os.OpenRoot(real)
	return dir, missing, err
}

// open opens the book's folder. It fails with fs.ErrNotExist where there is none.
func (b Book) open() (*os.Root, error) {
	dir, missing, err := b.above()
	if err != nil {
		return nil, err
	}
	if missing != nil {
		_ = dir.Close()
		return nil, fs.ErrNotExist
	}
	info, err := dir.Stat(".")
	if err == nil {
		err = trusted(info, b.m.StateFolder())
	}
	if err != nil {
		_ = dir.Close()
		return nil, err
	}
	return dir, nil
}

// ErrUntrusted is for a file or a folder of Leitstand's own that somebody else could have written.
var ErrUntrusted = errors.New("it is not used, since somebody else could have written it: look at it, then take their " +
	"rights away (chown, chmod go-w), or move it away")

// trusted returns an error unless a file or a folder belongs to the user that this runs as, and nobody else can write it.
func trusted(info fs.FileInfo, name string) error {
	uid, _, known := owner(info)
	switch {
	case known && uid != os.Geteuid():
		return fmt.Errorf("%s belongs to another user (number %d): %w", name, uid, ErrUntrusted)
	case known && info.Mode().Perm()&0o022 != 0:
		return fmt.Errorf("%s can be written by others (mode %o): %w", name, info.Mode().Perm(), ErrUntrusted)
	case !info.IsDir() && !info.Mode().IsRegular():
		return fmt.Errorf("%s is no file: %w", name, ErrUntrusted)
	case info.Mode().IsRegular() && known && !folder.Alone(info):
		return fmt.Errorf("%s has a second name: %w", name, ErrUntrusted)
	}
	return nil
}

// read reads a file of a folder of the book's.
func read(dir *os.Root, name string) ([]byte, error) {
	info, err := dir.Lstat(name)
	if err != nil {
		return nil, err
	}
	whole := filepath.Join(dir.Name(), name)
	if err := trusted(info, whole); err != nil {
		return nil, err
	}
	f, err := dir.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	opened, err := f.Stat()
	switch {
	case err != nil:
		return nil, err
	case !os.SameFile(info, opened):
		return nil, fmt.Errorf("%s: %w", whole, ErrUntrusted)
	case opened.Size() > largestJournal:
		return nil, fmt.Errorf("%s has more than %d MB", whole, largestJournal>>20)
	}
	return io.ReadAll(f)
}

// write writes a file of a folder of the book's, whole or not at all, onto the disk.
func write(dir *os.Root, name string, data []byte) error {
	unfinished := name + partOf
	if err := dir.Remove(unfinished); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	f, err := dir.OpenFile(unfinished, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err = errors.Join(err, folder.Sync(f), f.Close()); err == nil {
		err = dir.Rename(unfinished, name)
	}
	if err != nil {
		return errors.Join(err, dir.Remove(unfinished))
	}
	syncFolder(dir)
	return nil
}

// Read reads the journal.
func (b Book) Read() ([]byte, error) {
	dir, err := b.open()
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	return read(dir, journalFile)
}

// Write writes the journal, whole or not at all, onto the disk.
func (b Book) Write(data []byte) error { return b.put("", journalFile, data) }

// put writes a file into the book's folder, or into one of its folders.
func (b Book) put(in, name string, data []byte) error {
	dir, err := b.make()
	if err == nil {
		defer dir.Close()
		if in != "" {
			if err = dir.Mkdir(in, 0o700); err == nil || errors.Is(err, fs.ErrExist) {
				var sub *os.Root
				if sub, err = openOwn(dir, in); err == nil {
					defer sub.Close()
					dir = sub
				}
			}
		}
	}
	if err == nil {
		err = write(dir, name, data)
	}
	if err != nil {
		return fmt.Errorf("the journal cannot be kept: %w", err)
	}
	return nil
}

// openOwn opens a folder of the book's folder.
func openOwn(dir *os.Root, name string) (*os.Root, error) {
	info, err := dir.Lstat(name)
	if err != nil {
		return nil, err
	}
	whole := filepath.Join(dir.Name(), name)
	if err := trusted(info, whole); err != nil {
		return nil, err
	}
	if !info.IsDir() {
		return nil, fmt.Errorf("%s is no folder: %w", whole, ErrUntrusted)
	}
	return dir.OpenRoot(name)
}

// Keep keeps a copy of what is in a file.
func (b Book) Keep(digest string, data []byte) error {
	if is, err := b.Copy(digest); err == nil && bytes.Equal(is, data) {
		return nil
	}
	return b.put(copiesFolder, digest, data)
}

// copies opens the folder of copies.
func (b Book) copies() (*os.Root, error) {
	dir, err := b.open()
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	return openOwn(dir, copiesFolder)
}

// Copy is a copy that was kept.
func (b Book) Copy(digest string) ([]byte, error) {
	if len(digest) != len(folder.Digest(nil)) || strings.Trim(digest, "0123456789abcdef") != "" {
		return nil, fmt.Errorf("%s is no digest", strconv.Quote(digest))
	}
	dir, err := b.copies()
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	return read(dir, digest)
}

// Retain removes all copies but some.
func (b Book) Retain(digests map[string]bool) error {
	dir, err := b.copies()
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	names, err := fs.Glob(dir.FS(), "*")
	for _, name := range names {
		if !digests[name] {
			err = errors.Join(err, dir.Remove(name))
		}
	}
	_ = dir.Close()
	if len(digests) == 0 && err == nil {
		if above, fault := b.open(); fault == nil {
			defer above.Close()
			err = above.Remove(copiesFolder)
		}
	}
	return err
}

// Remove removes the journal, and all copies.
func (b Book) Remove() error {
	dir, err := b.open()
	if err != nil {
		return err
	}
	defer dir.Close()
	if err := dir.Remove(journalFile); err != nil {
		return err
	}
	return b.Retain(nil)
}

// make makes the folder, with all that are missing above it in one step, so that a run that is killed leaves none of
// them that nobody removes.
func (b Book) make() (*os.Root, error) {
	if b.m.Root != "" {
		if err := b.m.makeHome(); err != nil {
			return nil, err
		}
	}
	dir, missing, err := b.above()
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	if len(missing) == 0 {
		return b.open()
	}
	aside := "." + missing[0] + newFolder
	if err := removeNew(dir, aside); err != nil {
		return nil, err
	}
	parts := append([]string{aside}, missing[1:]...)
	for i := range parts {
		if err := dir.Mkdir(path.Join(parts[:i+1]...), 0o700); err != nil {
			return nil, err
		}
	}
	whole := path.Join(parts...)
	if err := dir.WriteFile(path.Join(whole, madeFile), fmt.Appendln(nil, len(missing)-1), 0o600); err != nil {
		return nil, errors.Join(err, removeNew(dir, aside))
	}
	if err := renameNew(dir, aside, missing[0]); err != nil {
		return nil, errors.Join(err, removeNew(dir, aside))
	}
	syncFolder(dir)
	return b.open()
}

// removeNew removes the folders of a run that was killed while it made them. One that has anything else in it is none of
// these.
func removeNew(dir *os.Root, name string) error {
	info, err := dir.Lstat(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err == nil && !info.IsDir() {
		err = fs.ErrExist
	}
	var found []string
	if err == nil {
		err = fs.WalkDir(dir.FS(), name, func(p string, e fs.DirEntry, err error) error {
			if err == nil && !e.IsDir() && e.Name() != madeFile {
				err = fs.ErrExist
			}
			found = append([]string{p}, found...)
			return err
		})
	}
	if errors.Is(err, fs.ErrExist) {
		return fmt.Errorf("%s is there, and was not made by leitstand: move it away", filepath.Join(dir.Name(), name))
	}
	for _, p := range found {
		err = errors.Join(err, dir.Remove(p))
	}
	return err
}

// sweep removes what a run that was killed has left unfinished in the book's folder, or above it.
func (b Book) sweep() {
	dir, missing, err := b.above()
	if err != nil {
		return
	}
	defer dir.Close()
	if len(missing) > 0 {
		_ = removeNew(dir, "."+missing[0]+newFolder) // what is not ours stays
		return
	}
	for _, pattern := range []string{"*" + partOf, copiesFolder + "/*" + partOf} {
		names, _ := fs.Glob(dir.FS(), pattern)
		for _, name := range names {
			_ = dir.Remove(name)
		}
	}
}

// Lock waits until no other run changes the machine. The lock is on the user's home, or on the folder that stands for a
// machine: they stay, whatever is installed and restored. It ends with the process and those that it has started.
func (b Book) Lock() (unlock func(), err error) {
	at := b.m.Root
	if at == "" {
		at = b.m.Home
	}
	patience := b.m.Patience
	if patience == 0 {
		patience = time.Minute
	}
	held, err := lockFolder(at, patience)
	if errors.Is(err, fs.ErrNotExist) && b.m.Root != "" { // nothing is there that could be changed
		return func() {}, nil
	}
	if err != nil {
		return nil, err
	}
	b.m.lock = held
	b.sweep()
	return func() {
		// A folder that nothing is kept in goes again.
		if _, err := b.Read(); errors.Is(err, fs.ErrNotExist) {
			b.remove()
		}
		b.m.lock = nil
		_ = held.Close()
	}, nil
}

// remove removes the folder, and those that were made with it, as far as they are empty.
func (b Book) remove() {
	dir, err := b.open()
	if err != nil {
		return
	}
	_ = b.Retain(nil)
	for _, script := range []string{restore, restoreAdministrator, administrator} { // of a run that was killed
		_ = dir.Remove(script)
	}
	made := 0
	if text, err := read(dir, madeFile); err == nil {
		made, _ = strconv.Atoi(strings.TrimSpace(string(text))) // none where it is no number
	}
	names, err := fs.Glob(dir.FS(), "*")
	_ = dir.Close()
	if err != nil || slices.ContainsFunc(names, func(name string) bool { return name != madeFile }) {
		return // something is kept
	}
	// The outermost folder that was made, as long as nothing else is in those below it.
	at := stateName
	if b.m.Root == "" {
		at = b.m.StateFolder()
	}
	for range min(made, strings.Count(at, "/")-1) {
		if names, err := b.m.List(path.Dir(at)); err != nil || len(names) != 1 {
			break
		}
		at = path.Dir(at)
	}
	above, err := b.m.find(at)
	if err != nil {
		return
	}
	defer above.close()
	// In one step, so that a run that is killed leaves nothing that nobody knows to be Leitstand's.
	aside := "." + above.base + newFolder
	if removeNew(above.dir, aside) == nil && renameNew(above.dir, above.base, aside) == nil {
		if removeNew(above.dir, aside) != nil { // somebody has put something there meanwhile
			_ = renameNew(above.dir, aside, above.base)
		}
		syncFolder(above.dir)
	}
}

// CheckHome returns an error where this runs as root in the home of somebody else. What is kept there is theirs, and what
// would be written there, too, would be root's.
func (m *Machine) CheckHome() error {
	if os.Geteuid() != 0 {
		return nil
	}
	at, err := m.find("~/")
	if err != nil {
		return nil //nolint:nilerr // a home that is not there is nobody's
	}
	defer at.close()
	info, err := at.dir.Lstat(at.base)
	if err != nil {
		return nil //nolint:nilerr // as before
	}
	uid, _, known := owner(info)
	if !known || uid == 0 {
		return nil
	}
	if m.Root != "" {
		return fmt.Errorf("%s belongs to the user with the number %d, and this runs as root; run it as that user, or "+
			"with HOME=/root for root's own mapping", m.named("~/"), uid)
	}
	return fmt.Errorf("HOME is %s, which belongs to the user with the number %d, and this runs as root; run it as that "+
		"user, without sudo (what needs an administrator is asked for then), or with HOME=/root for root's own mapping",
		m.Home, uid)
}
