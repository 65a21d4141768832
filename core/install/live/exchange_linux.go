package live

import (
	"errors"
	"io/fs"
	"os"

	"golang.org/x/sys/unix"
)

// exchange exchanges two files of a folder in one step. (renameat2(2), RENAME_EXCHANGE.) A file system that cannot do it
// has the first take the place of the second.
func exchange(dir *os.Root, a, b string) error {
	err := rename(dir, a, b, unix.RENAME_EXCHANGE)
	if errors.Is(err, errors.ErrUnsupported) {
		return replace(dir, a, b)
	}
	return err
}

// renameNew renames a file to a name that no file has. It fails with fs.ErrExist where one has.
func renameNew(dir *os.Root, from, to string) error {
	err := rename(dir, from, to, unix.RENAME_NOREPLACE)
	if errors.Is(err, errors.ErrUnsupported) {
		return moveNew(dir, from, to)
	}
	return err
}

func rename(dir *os.Root, from, to string, flags uint) error {
	f, err := dir.Open(".")
	if err != nil {
		return err
	}
	defer f.Close()
	err = unix.Renameat2(int(f.Fd()), from, int(f.Fd()), to, flags)
	if errors.Is(err, unix.EINVAL) || errors.Is(err, unix.ENOSYS) || errors.Is(err, unix.ENOTSUP) {
		return errors.ErrUnsupported
	}
	if err != nil {
		return &fs.PathError{Op: "rename", Path: to, Err: err}
	}
	return nil
}
