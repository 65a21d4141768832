// Package live is the machine at hand, as changes are carried out on it: its files, the stores of its desktop, and its
// running programs.
//
// dconf's values are read and written by its own program. Xfce's are asked of its daemon, and the chords of Plasma's
// keeper of the keeper, both on the session's bus (org.xfce.Xfconf; org.kde.KGlobalAccel). KDE's settings are in files,
// of which only the lines of the keys are changed; programs that run read a file again before they write it (KDE's
// documentation of KConfig). Below a folder that stands for a machine, all stores are files, as their programs read
// them when they start, and nobody is told anything.
package live

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/folder"
	"leitstand/core/install"
)

// Machine is the machine at hand, or a folder that stands for one.
type Machine struct {
	// Root is the folder that stands for the machine's root, "" for the root itself.
	Root string
	Home string   // the user's home, on the machine
	Env  []string // of the programs that are run
	bus  bus
}

// ErrOutside is for a link that leads out of the folder that stands for a machine.
var ErrOutside = errors.New("a link leads out of the folder")

// path is where a file is: links are followed, but not out of the root.
func (m *Machine) path(name string) (string, error) {
	whole := m.named(name)
	// What is not there yet is below what is.
	at, rest := whole, ""
	for hops := 0; ; {
		info, err := os.Lstat(at)
		switch {
		case err == nil && info.Mode()&fs.ModeSymlink != 0 && rest == "":
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
			if err != nil {
				return "", err
			}
			return m.within(name, filepath.Join(real, rest))
		case !errors.Is(err, fs.ErrNotExist):
			return "", err
		}
		rest, at = filepath.Join(filepath.Base(at), rest), filepath.Dir(at)
	}
}

const maxLinks = 40 // as Linux has it

// within refuses what is not below the root.
func (m *Machine) within(name, real string) (string, error) {
	if m.Root == "" {
		return real, nil
	}
	root, err := filepath.EvalSymlinks(m.Root)
	if err != nil {
		return "", err
	}
	if rest, err := filepath.Rel(root, real); err != nil || rest == ".." || strings.HasPrefix(rest, "../") {
		return "", fmt.Errorf("%s: %w", name, ErrOutside)
	}
	return real, nil
}

// named is the path of a file, whatever links are on it.
func (m *Machine) named(name string) string {
	if rest, ok := strings.CutPrefix(name, "~/"); ok {
		name = filepath.Join(m.Home, rest)
	}
	return filepath.Join(m.Root, name)
}

// File is a file as it is.
func (m *Machine) File(name string) (install.File, error) {
	at, err := m.path(name)
	if err != nil {
		return install.File{}, err
	}
	info, err := os.Lstat(at)
	if errors.Is(err, fs.ErrNotExist) {
		return install.File{}, nil
	}
	if err != nil {
		return install.File{}, err
	}
	if !info.Mode().IsRegular() {
		return install.File{}, fmt.Errorf("%s is no file", name)
	}
	data, err := os.ReadFile(at)
	if err != nil {
		return install.File{}, err
	}
	f := install.File{Data: data, Mode: info.Mode().Perm(), Time: info.ModTime()}
	if data == nil {
		f.Data = []byte{}
	}
	f.UID, f.GID, f.Owned = owner(info)
	return f, nil
}

// Put writes a file, whole or not at all. One that is there keeps its owner, its permissions and attributes.
func (m *Machine) Put(name string, f install.File) error {
	at, err := m.path(name)
	if err != nil {
		return err
	}
	if f.Data == nil {
		if err := os.Remove(at); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return syncFolder(filepath.Dir(at))
	}
	was, err := os.ReadFile(at)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := folder.Create(at, aside(at), f.Data, f.Mode); err != nil {
			return err
		}
	case err != nil:
		return err
	default:
		if err := folder.Replace([]folder.Edit{{Name: at, Was: was, New: f.Data, Aside: aside(at)}}); err != nil {
			return err
		}
	}
	return errors.Join(m.restamp(at, f), syncFolder(filepath.Dir(at)))
}

// aside is the file beside one that has its new text until it is whole.
func aside(at string) string {
	return filepath.Join(filepath.Dir(at), "."+filepath.Base(at)+".leitstand-new")
}

// Sweep removes what a writing of a file that broke off may have left beside it.
func (m *Machine) Sweep(name string) error {
	at, err := m.path(name)
	if err == nil {
		err = os.Remove(aside(at))
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// restamp gives a file the mode, the owner and the time that it had, where it differs.
func (m *Machine) restamp(at string, f install.File) error {
	info, err := os.Lstat(at)
	if err != nil {
		return err
	}
	if f.Mode != 0 && info.Mode().Perm() != f.Mode {
		if err := os.Chmod(at, f.Mode); err != nil {
			return err
		}
	}
	if uid, gid, ok := owner(info); ok && f.Owned && (uid != f.UID || gid != f.GID) {
		if err := os.Lchown(at, f.UID, f.GID); err != nil {
			return err
		}
	}
	if !f.Time.IsZero() {
		return os.Chtimes(at, f.Time, f.Time)
	}
	return nil
}

// Missing are the folders above a file that are not there, the outermost first.
func (m *Machine) Missing(name string) (list []string) {
	for dir := filepath.Dir(name); dir != "." && dir != "/" && dir != "~"; dir = filepath.Dir(dir) {
		if _, err := os.Stat(m.named(dir)); !errors.Is(err, fs.ErrNotExist) {
			break
		}
		list = append(list, dir)
	}
	slices.Reverse(list)
	return list
}

// RemoveFolder removes a folder that is empty.
func (m *Machine) RemoveFolder(name string) error {
	at, err := m.path(name)
	if err != nil {
		return err
	}
	inside, err := os.ReadDir(at)
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(inside) > 0 {
		return nil
	}
	if err == nil {
		err = os.Remove(at)
	}
	return err
}

// syncFolder has a folder's names on the disk; not all file systems can.
func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return nil //nolint:nilerr // what was in it is gone already
	}
	_ = f.Sync()
	return f.Close()
}

// Call runs a program, by words or by a line of shell. Below a folder that stands for a machine nobody is told.
func (m *Machine) Call(words []string) error {
	if m.Root != "" {
		return nil
	}
	expanded := slices.Clone(words)
	if words[0] != "sh" {
		for i, w := range expanded {
			if rest, ok := strings.CutPrefix(w, "~/"); ok {
				expanded[i] = filepath.Join(m.Home, rest)
			}
		}
	}
	_, err := m.run(nil, expanded[0], expanded[1:]...)
	if err != nil && !m.inSession() {
		return errors.Join(install.ErrAway, err)
	}
	return err
}

// inSession says whether there is a desktop to be told anything.
func (m *Machine) inSession() bool {
	return slices.ContainsFunc([]string{"DISPLAY", "WAYLAND_DISPLAY", "SWAYSOCK"}, func(v string) bool {
		return m.env(v) != ""
	})
}

// env looks a variable up, the last that is set.
func (m *Machine) env(name string) string {
	for _, v := range slices.Backward(m.Env) {
		if value, ok := strings.CutPrefix(v, name+"="); ok {
			return value
		}
	}
	return ""
}

// run runs a program of the system, with more in its environment, and returns what it prints.
func (m *Machine) run(more []string, program string, arguments ...string) (string, error) {
	cmd := exec.Command(program, arguments...)
	cmd.Env = slices.Concat(m.Env, more)
	var errs strings.Builder
	cmd.Stderr = &errs
	out, err := cmd.Output()
	if err != nil {
		err = fmt.Errorf("%s: %w: %s", strings.Join(append([]string{program}, arguments...), " "), err,
			strings.TrimSpace(errs.String()))
	}
	return string(out), err
}

// KeptIn is the file that has a key, "" where a program keeps it.
func (m *Machine) KeptIn(store, key string) string {
	if m.program(store) && (store != change.Keeper || !ours(key)) {
		return ""
	}
	return fileOf(store, key)
}

// program says whether a program keeps a store, and not its files alone.
func (m *Machine) program(store string) bool {
	switch {
	case m.Root != "":
		return false
	case store == change.Dconf:
		return true
	}
	return (store == change.Xfconf || store == change.Keeper) && !m.abandoned(store)
}

// Get is the user's own value of a key.
func (m *Machine) Get(store, key string) (change.Value, error) {
	if store == change.Registry && m.Root == "" {
		return registryValue(key)
	}
	if m.program(store) {
		switch store {
		case change.Dconf:
			return m.dconf(key)
		case change.Xfconf:
			return m.xfconf(key)
		case change.Keeper:
			return m.shortcut(key)
		}
	}
	return m.filed(store, key)
}

// Set gives keys of one store their values.
func (m *Machine) Set(store string, list []install.Entry) error {
	if m.program(store) {
		switch store {
		case change.Dconf:
			return m.setDconf(list)
		case change.Xfconf:
			return m.setXfconf(list)
		case change.Keeper:
			return m.setShortcuts(list)
		}
	}
	return m.setFiled(store, list)
}
