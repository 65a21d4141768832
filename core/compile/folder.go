package compile

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"slices"

	"leitstand/core/target"
)

// WriteFolder puts each machine's files below dir, in a folder of its name.
// Everything is written aside first, so that a failure leaves what was there. Files
// of an earlier run that are no longer made are taken away; what others put into
// the folder stays. Links that lead out of dir are not followed.
func WriteFolder(dir string, builds []*Build) (err error) {
	if info, err := os.Stat(dir); err == nil && !info.IsDir() {
		return fmt.Errorf("%s is a file; name a folder to write to", dir)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	const aside = ".leitstand-new"
	if err := root.RemoveAll(aside); err != nil {
		return err
	}
	defer func() { err = errors.Join(err, root.RemoveAll(aside)) }()
	var names, stale []string
	for _, b := range builds {
		files := b.Folder()
		stale = append(stale, staleFiles(root.FS(), b.Machine.Name, files)...)
		for _, f := range files {
			name := path.Join(b.Machine.Name, f.Path)
			if err := root.MkdirAll(path.Join(aside, path.Dir(name)), 0o755); err != nil {
				return err
			}
			if err := root.WriteFile(path.Join(aside, name), f.Data, 0o644); err != nil {
				return err
			}
			if err := root.MkdirAll(path.Dir(name), 0o755); err != nil {
				return err
			}
			if info, err := root.Stat(name); err == nil && info.IsDir() {
				return fmt.Errorf("%s is a folder where a file should go; move it away", path.Join(dir, name))
			}
			names = append(names, name)
		}
	}
	for _, name := range names {
		if err := root.Rename(path.Join(aside, name), name); err != nil {
			return err
		}
	}
	for _, name := range stale {
		if err := root.Remove(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		// A folder that is empty now goes, too; one that is not stays.
		_ = root.Remove(path.Dir(name))
	}
	return nil
}

// staleFiles lists what the folder's own description says an earlier run made,
// and this one does not.
func staleFiles(fsys fs.FS, machine string, files []target.File) []string {
	text, err := fs.ReadFile(fsys, path.Join(machine, DescriptionFile))
	if err != nil {
		return nil
	}
	var was description
	if json.Unmarshal(text, &was) != nil {
		return nil
	}
	var stale []string
	for _, f := range was.Files {
		made := slices.ContainsFunc(files, func(n target.File) bool { return n.Path == f.Path })
		if !made && fs.ValidPath(f.Path) {
			stale = append(stale, path.Join(machine, f.Path))
		}
	}
	return stale
}
