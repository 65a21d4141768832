package live

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// ErrOutside is for a link that leads out of the folder that stands for a machine.
var ErrOutside = errors.New("a link leads out of the folder")

const maxLinks = 40 // as Linux has it

// spot is a file by the open folder that it is in, so that nobody can exchange a folder above it meanwhile.
type spot struct {
	dir  *os.Root
	base string
}

func (s spot) close() { _ = s.dir.Close() }

// named is the path of a file, whatever links are on it.
func (m *Machine) named(name string) string {
	if rest, ok := strings.CutPrefix(name, "~/"); ok {
		name = filepath.Join(m.Home, rest)
	}
	return filepath.Join(m.Root, name)
}

// find finds a file, by links as far as they do not lead out of the root. It fails with fs.ErrNotExist where its folder
// is not there.
func (m *Machine) find(name string) (spot, error) {
	if m.Root == "" {
		real, err := followed(m.named(name))
		if err != nil {
			return spot{}, err
		}
		dir, err := os.OpenRoot(filepath.Dir(real))
		return spot{dir, filepath.Base(real)}, err
	}
	root, err := os.OpenRoot(m.Root)
	if err != nil {
		return spot{}, err
	}
	defer root.Close()
	real, err := inside(root, m.inRoot(name))
	if err != nil {
		return spot{}, fmt.Errorf("%s: %w", name, err)
	}
	dir, err := root.OpenRoot(path.Dir(real))
	return spot{dir, path.Base(real)}, err
}

// inRoot is the path of a file below the folder that stands for a machine.
func (m *Machine) inRoot(name string) string {
	if rest, ok := strings.CutPrefix(name, "~/"); ok {
		name = path.Join(filepath.ToSlash(m.Home), rest)
	}
	return strings.TrimPrefix(path.Clean("/"+name), "/")
}

// followed is the path of a file of this machine without links. What is not there yet is below what is.
func followed(name string) (string, error) {
	at, rest := name, ""
	for hops := 0; ; {
		info, err := os.Lstat(at)
		switch {
		case err == nil && info.Mode()&fs.ModeSymlink != 0 && rest == "": // which may lead to what is not there
			to, err := os.Readlink(at)
			if err != nil {
				return "", err
			}
			if hops++; hops > maxLinks {
				return "", fmt.Errorf("%s: too many links", name)
			}
			if !filepath.IsAbs(to) {
				to = filepath.Join(filepath.Dir(at), to)
			}
			at = to
			continue
		case err == nil:
			real, err := filepath.EvalSymlinks(at)
			return filepath.Join(real, rest), err
		case !errors.Is(err, fs.ErrNotExist):
			return "", err
		}
		rest, at = filepath.Join(filepath.Base(at), rest), filepath.Dir(at)
	}
}

// inside is the path of a file below a root without links. A link that leads out of the root is ErrOutside, and so is
// one that begins at the root of all: what it means there is not known.
func inside(root *os.Root, name string) (string, error) {
	done, rest := ".", strings.Split(name, "/")
	for hops := 0; len(rest) > 0; {
		part := rest[0]
		rest = rest[1:]
		switch {
		case part == "" || part == ".":
			continue
		case part == ".." && done == ".":
			return "", ErrOutside
		case part == "..":
			done = path.Dir(done)
			continue
		}
		at := path.Join(done, part)
		info, err := root.Lstat(at)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			for _, r := range rest {
				if r == ".." {
					return "", ErrOutside
				}
			}
			return path.Join(append([]string{at}, rest...)...), nil
		case err != nil:
			return "", err
		case info.Mode()&fs.ModeSymlink == 0:
			done = at
			continue
		}
		to, err := root.Readlink(at)
		if err != nil {
			return "", err
		}
		if hops++; hops > maxLinks {
			return "", fmt.Errorf("%s: too many links", name)
		}
		if path.IsAbs(to) {
			return "", ErrOutside
		}
		rest = append(strings.Split(to, "/"), rest...)
	}
	return done, nil
}

// make makes the folders above a file, of the system's own mode where they are not the user's.
func (m *Machine) make(name string) error {
	missing := m.Missing(name)
	if m.Root != "" {
		if err := m.makeHome(); err != nil {
			return err
		}
	}
	for _, dir := range missing {
		at, err := m.find(dir)
		if err != nil {
			return err
		}
		err = at.dir.Mkdir(at.base, 0o755)
		if err == nil && (m.Root != "" || !strings.HasPrefix(dir, "~/")) { // whatever the mask of this process
			err = at.dir.Chmod(at.base, 0o755)
		}
		if err == nil || errors.Is(err, fs.ErrExist) {
			err = nil
			syncFolder(at.dir)
		}
		at.close()
		if err != nil {
			return err
		}
	}
	return nil
}

// makeHome makes the folder that stands for a machine, and the user's home in it, which stay.
func (m *Machine) makeHome() error {
	if err := os.MkdirAll(m.Root, 0o755); err != nil {
		return err
	}
	root, err := os.OpenRoot(m.Root)
	if err != nil {
		return err
	}
	defer root.Close()
	home := ""
	for part := range strings.SplitSeq(m.inRoot("~/"), "/") {
		home = path.Join(home, part)
		err := root.Mkdir(home, 0o755)
		if err == nil {
			err = root.Chmod(home, 0o755) // whatever the mask of this process
		}
		if err != nil && !errors.Is(err, fs.ErrExist) {
			return err
		}
	}
	return nil
}

// Missing are the folders above a file that are not there, the outermost first.
func (m *Machine) Missing(name string) (list []string) {
	for dir := path.Dir(name); dir != "." && dir != "/" && dir != "~"; dir = path.Dir(dir) {
		if at, err := m.find(dir); err == nil {
			_, err = at.dir.Lstat(at.base)
			at.close()
			if !errors.Is(err, fs.ErrNotExist) {
				break
			}
		} else if !errors.Is(err, fs.ErrNotExist) {
			break
		}
		list = append([]string{dir}, list...)
	}
	return list
}

// RemoveFolder removes a folder that is empty; one that is not stays, and so does one that is gone.
func (m *Machine) RemoveFolder(name string) error {
	at, err := m.find(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer at.close()
	dir, err := at.dir.Open(at.base)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	inside, err := dir.Readdirnames(1)
	_ = dir.Close()
	if len(inside) > 0 {
		return nil
	}
	if err = at.dir.Remove(at.base); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// syncFolder has a folder's names on the disk; not all file systems can.
func syncFolder(dir *os.Root) {
	if f, err := dir.Open("."); err == nil {
		_ = f.Sync()
		_ = f.Close()
	}
}

// List names the files of a folder; there are none where it is not there.
func (m *Machine) List(folder string) ([]string, error) {
	at, err := m.find(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer at.close()
	dir, err := at.dir.Open(at.base)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer dir.Close()
	names, err := dir.Readdirnames(-1)
	slices.Sort(names)
	return names, err
}

// User returns the number of the effective user, or "" with --root, where the machine has no other users.
func (m *Machine) User() string {
	if m.Root != "" {
		return ""
	}
	return strconv.Itoa(os.Geteuid())
}
