package mechanism

import (
	"bytes"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
	"time"
)

// Folder is files in memory as a file system, so that what was written can be read
// back without touching a disk.
type Folder []File

// Open opens a file or a folder.
func (f Folder) Open(name string) (fs.File, error) {
	if !fs.ValidPath(name) {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrInvalid}
	}
	for i := range f {
		if f[i].Path == name {
			return &openFile{entry{path.Base(name), int64(len(f[i].Data)), false}, bytes.NewReader(f[i].Data)}, nil
		}
	}
	list, err := f.ReadDir(name)
	if err != nil {
		return nil, err
	}
	return &openFolder{entry{path.Base(name), 0, true}, list}, nil
}

// ReadDir lists a folder in the order of its names.
func (f Folder) ReadDir(name string) ([]fs.DirEntry, error) {
	prefix := name + "/"
	if name == "." {
		prefix = ""
	}
	var list []fs.DirEntry
	for _, file := range f {
		rest, ok := strings.CutPrefix(file.Path, prefix)
		if !ok {
			continue
		}
		first, _, inside := strings.Cut(rest, "/")
		e := entry{name: first, folder: inside}
		if !inside {
			e.size = int64(len(file.Data))
		}
		if !slices.ContainsFunc(list, func(o fs.DirEntry) bool { return o.Name() == first }) {
			list = append(list, e)
		}
	}
	if list == nil && name != "." {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrNotExist}
	}
	slices.SortFunc(list, func(a, b fs.DirEntry) int { return strings.Compare(a.Name(), b.Name()) })
	return list, nil
}

// entry describes a file or folder in memory.
type entry struct {
	name   string
	size   int64
	folder bool
}

func (e entry) Name() string               { return e.name }
func (e entry) Size() int64                { return e.size }
func (e entry) IsDir() bool                { return e.folder }
func (e entry) ModTime() time.Time         { return time.Time{} }
func (e entry) Sys() any                   { return nil }
func (e entry) Type() fs.FileMode          { return e.Mode().Type() }
func (e entry) Info() (fs.FileInfo, error) { return e, nil }

func (e entry) Mode() fs.FileMode {
	if e.folder {
		return fs.ModeDir | 0o755
	}
	return 0o644
}

type openFile struct {
	entry
	*bytes.Reader
}

func (o *openFile) Stat() (fs.FileInfo, error) { return o.entry, nil }
func (o *openFile) Close() error               { return nil }

// Size is the entry's; the reader has one, too.
func (o *openFile) Size() int64 { return o.entry.size }

type openFolder struct {
	entry
	rest []fs.DirEntry
}

func (o *openFolder) Stat() (fs.FileInfo, error) { return o.entry, nil }
func (o *openFolder) Close() error               { return nil }
func (o *openFolder) Read([]byte) (int, error) {
	return 0, &fs.PathError{Op: "read", Path: o.name, Err: fs.ErrInvalid}
}

func (o *openFolder) ReadDir(n int) ([]fs.DirEntry, error) {
	if n <= 0 {
		n = len(o.rest)
	} else if len(o.rest) == 0 {
		return nil, io.EOF
	}
	n = min(n, len(o.rest))
	list := o.rest[:n]
	o.rest = o.rest[n:]
	return list, nil
}
