package folder

import (
	"errors"
	"io/fs"
)

// Regular is a file system of which only files and folders are opened: a device never ends,
// and a pipe waits.
func Regular(fsys fs.FS) fs.FS { return regular{fsys} }

type regular struct{ fs.FS }

var errNoFile = errors.New("it is no file, but a device or a pipe")

func (r regular) Open(name string) (fs.File, error) {
	info, err := fs.Stat(r.FS, name)
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() && !info.IsDir() {
		return nil, &fs.PathError{Op: "open", Path: name, Err: errNoFile}
	}
	return r.FS.Open(name)
}

// Stat asks without opening.
func (r regular) Stat(name string) (fs.FileInfo, error) { return fs.Stat(r.FS, name) }

// ReadLink and Lstat look at links themselves.
func (r regular) ReadLink(name string) (string, error)   { return fs.ReadLink(r.FS, name) }
func (r regular) Lstat(name string) (fs.FileInfo, error) { return fs.Lstat(r.FS, name) }
