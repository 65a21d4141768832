//go:build unix

package folder

import (
	"errors"
	"io/fs"
	"os"
	"strings"
	"syscall"

	"golang.org/x/sys/unix"
)

// Alone reports whether a file has one name only.
func Alone(info fs.FileInfo) bool {
	s, ok := info.Sys().(*syscall.Stat_t)
	return ok && s.Nlink == 1
}

// Keep gives a file the owner and the extended attributes of another. The error is that it cannot have them.
func Keep(from, to *os.File, info fs.FileInfo) error {
	s, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return errors.New("its owner is not known")
	}
	if err := to.Chown(int(s.Uid), int(s.Gid)); err != nil {
		return err
	}
	has, gets := int(from.Fd()), int(to.Fd())
	n, err := unix.Flistxattr(has, nil)
	if errors.Is(err, unix.ENOTSUP) || n == 0 {
		return nil
	} else if err != nil {
		return err
	}
	list := make([]byte, n)
	if n, err = unix.Flistxattr(has, list); err != nil {
		return err
	}
	for name := range strings.SplitSeq(strings.TrimSuffix(string(list[:n]), "\x00"), "\x00") {
		size, err := unix.Fgetxattr(has, name, nil)
		if err != nil {
			return err
		}
		value := make([]byte, size)
		if size, err = unix.Fgetxattr(has, name, value); err != nil {
			return err
		}
		if err := unix.Fsetxattr(gets, name, value[:size], 0); err != nil {
			return err
		}
	}
	return to.Chmod(info.Mode()) // which a change of the owner may have changed
}
