// Package folder writes sets of files below a folder that others use as well: each set in a
// folder of its name, with a record in it of what was written.
//
// What was not written by us is never touched: a file is ours only if the set's record names
// it with the digest that it has now. Links that lead out of the folder are not followed. Of
// two runs at once the second waits for the first. A run that is killed leaves every set as
// it was, or the next run completes it: all files are written aside first, then a journal
// says what goes where, and only then do files change places.
package folder

import (
	"bytes"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
)

// File is a file of a set, its path below the set's folder, with slashes.
type File struct {
	Path string
	Data []byte
}

// Set is the files of one folder.
type Set struct {
	Name  string
	Files []File
	// Record is the path of the file, one of Files, that names the others with their digests.
	Record string
}

// ReadRecord says which files a record names, by their digests, and whether it is one.
type ReadRecord func(text []byte) (digests map[string]string, ok bool)

// Digest is how a record names what is in a file: its SHA-256 in hexadecimal.
func Digest(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// Write puts sets below dir, which is made if it is not there. Of a set that was written
// before, files that are no longer in it go, unless somebody has changed them. The error
// names what is in the way; then nothing is written.
func Write(dir string, sets []Set, read ReadRecord) (err error) {
	if info, err := os.Stat(dir); err == nil && !info.IsDir() {
		return fmt.Errorf("%s is a file; name a folder to write to", dir)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return made(dir, err)
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	unlock, err := Lock(root)
	if err != nil {
		return fmt.Errorf("%s: %w", dir, err)
	}
	defer unlock()
	if err := stillThere(root, dir); err != nil {
		return err
	}
	t := &tree{root: root, dir: dir}
	if err := t.complete(); err != nil {
		return err
	}
	var j journal
	for _, s := range sets {
		if err := t.plan(&j, s, read); err != nil {
			return err
		}
	}
	aside, err := t.writeAside(sets, j)
	if err == nil {
		err = t.follow(aside, j)
	}
	return errors.Join(err, t.removeAll(aside))
}

// stillThere returns an error where an open folder is no longer the one of its name: while one run waited, another may
// have removed it. (Windows removes no folder that is open.)
func stillThere(root *os.Root, dir string) error {
	if runtime.GOOS == "windows" {
		return nil
	}
	is, err := root.Stat(".")
	now, fault := os.Stat(dir)
	if err != nil || fault != nil || !os.SameFile(is, now) {
		return errors.Join(fmt.Errorf("%s was removed or exchanged meanwhile; compile again", dir), err, fault)
	}
	return nil
}

// made says why a folder cannot be made: of a path, what is in the way.
func made(dir string, err error) error {
	for at := filepath.Clean(dir); ; at = filepath.Dir(at) {
		info, stat := os.Stat(at)
		switch {
		case stat == nil && !info.IsDir():
			return fmt.Errorf("the folder %s cannot be made: %s is a file", dir, at)
		case stat == nil && errors.Is(err, fs.ErrPermission):
			return fmt.Errorf("the folder %s cannot be made: no permission to write in %s", dir, at)
		case stat == nil || at == filepath.Dir(at):
			var p *fs.PathError
			if errors.As(err, &p) {
				err = p.Err
			}
			return fmt.Errorf("the folder %s cannot be made: %w", dir, err)
		}
	}
}

// tree is the folder that is written to.
type tree struct {
	root *os.Root
	dir  string
}

// plan notes what is to be done for a set, and finds what is in the way.
func (t *tree) plan(j *journal, s Set, read ReadRecord) error {
	ours := map[string]string{}
	if text, err := t.root.ReadFile(path.Join(s.Name, s.Record)); err == nil {
		if digests, ok := read(text); ok {
			maps.Copy(ours, digests)
			ours[s.Record] = Digest(text)
		}
	} else if !errors.Is(err, fs.ErrNotExist) && !isNoFolder(err) {
		return err
	}
	for _, f := range s.Files {
		name := path.Join(s.Name, f.Path)
		if err := t.parents(name); err != nil {
			return err
		}
		info, err := t.root.Lstat(name)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			j.Moves = append(j.Moves, move{Name: name})
			continue
		case err != nil:
			return err
		case info.IsDir():
			return fmt.Errorf("%s is a folder where a file should go; move it away", filepath.Join(t.dir, name))
		case !info.Mode().IsRegular():
			return fmt.Errorf(
				"%s is a link or a device where a file should go; move it away", filepath.Join(t.dir, name),
			)
		}
		was, err := t.root.ReadFile(name)
		if err != nil {
			return err
		}
		if bytes.Equal(was, f.Data) {
			continue
		}
		if Digest(was) != ours[f.Path] {
			return fmt.Errorf(
				"%s is there already, and not as we have written it: move it away, or name another folder",
				filepath.Join(t.dir, name),
			)
		}
		j.Moves = append(j.Moves, move{Name: name, Was: Digest(was)})
	}
	for p, digest := range ours {
		kept := slices.ContainsFunc(s.Files, func(f File) bool { return f.Path == p })
		if !kept && fs.ValidPath(p) && p != "." && p != s.Record {
			j.Removals = append(j.Removals, move{Name: path.Join(s.Name, p), Was: digest})
		}
	}
	slices.SortFunc(j.Removals, func(a, b move) int { return strings.Compare(a.Name, b.Name) })
	return nil
}

// parents refuses a file or a link where a folder should be.
func (t *tree) parents(name string) error {
	for dir := path.Dir(name); dir != "."; dir = path.Dir(dir) {
		info, err := t.root.Lstat(dir)
		if err == nil && info.IsDir() || errors.Is(err, fs.ErrNotExist) || isNoFolder(err) {
			continue
		} else if err != nil {
			return err
		}
		return fmt.Errorf("%s is a file or a link where a folder should be; move it away", filepath.Join(t.dir, dir))
	}
	return nil
}

// isNoFolder says whether a path goes through something that is no folder, which parents
// names.
func isNoFolder(err error) bool {
	var p *fs.PathError
	return errors.As(err, &p) && strings.Contains(p.Err.Error(), "not a directory")
}

// ours begins the names of folders in which we write aside, and what their mark says.
const (
	ours = ".leitstand-new-"
	mark = "unfinished"
	says = "Written by leitstand, and moved into place when it is whole. The next run ends what was begun.\n"
)

// writeAside writes the files that are to change places, and the journal when all are there.
func (t *tree) writeAside(sets []Set, j journal) (string, error) {
	var random [8]byte
	_, _ = rand.Read(random[:]) // which never fails
	aside := ours + hex.EncodeToString(random[:])
	if err := t.root.Mkdir(aside, 0o755); err != nil {
		return aside, err
	}
	if err := t.root.WriteFile(path.Join(aside, mark), []byte(says), 0o644); err != nil {
		return aside, err
	}
	for _, s := range sets {
		for _, f := range s.Files {
			name := path.Join(s.Name, f.Path)
			if !slices.ContainsFunc(j.Moves, func(m move) bool { return m.Name == name }) {
				continue
			}
			at := path.Join(aside, "files", name)
			if err := t.root.MkdirAll(path.Dir(at), 0o755); err != nil {
				return aside, err
			}
			if err := t.root.WriteFile(at, f.Data, 0o644); err != nil {
				return aside, err
			}
		}
	}
	return aside, t.writeJournal(aside, j)
}

// remove takes away a file or an empty folder, and no link's target. (Wine has no call for
// the way in which a root removes things.)
func (t *tree) remove(name string) error {
	err := t.root.Remove(name)
	if err == nil || errors.Is(err, fs.ErrNotExist) || runtime.GOOS != "windows" {
		return err
	}
	if err := t.parents(name); err != nil {
		return err
	}
	return os.Remove(filepath.Join(t.dir, filepath.FromSlash(name)))
}

// removeAll takes away a folder of ours with all that is in it.
func (t *tree) removeAll(name string) error {
	var names []string
	err := fs.WalkDir(t.root.FS(), name, func(p string, _ fs.DirEntry, err error) error {
		names = append(names, p)
		return err
	})
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	slices.Reverse(names) // what is in a folder before it; its mark, which says that it is ours, before the folder only
	slices.SortStableFunc(names, func(a, b string) int { return last(a) - last(b) })
	for _, n := range names {
		err = errors.Join(err, t.remove(n))
	}
	return err
}

func last(name string) int {
	switch {
	case path.Base(name) == mark && path.Dir(path.Dir(name)) == ".":
		return 1
	case path.Dir(name) == ".":
		return 2
	}
	return 0
}
