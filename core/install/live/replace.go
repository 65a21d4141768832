package live

import (
	"errors"
	"io/fs"
	"os"
)

// replace exchanges two files in several steps, where one step is not to be had: the second has a further name before the
// first takes its place.
func replace(dir *os.Root, a, b string) error {
	const further = ".leitstand-replaced"
	if err := dir.Link(b, a+further); err != nil {
		return err
	}
	if err := dir.Rename(a, b); err != nil {
		return errors.Join(err, dir.Remove(a+further))
	}
	return dir.Rename(a+further, a)
}

// moveNew renames a file to a name that no file has.
func moveNew(dir *os.Root, from, to string) error {
	if err := dir.Link(from, to); err != nil {
		if _, there := dir.Lstat(to); there == nil {
			return fs.ErrExist
		}
		return dir.Rename(from, to) // a file system without further names
	}
	return dir.Remove(from)
}
