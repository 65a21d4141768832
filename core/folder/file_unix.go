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

// alone says whether a file has one name only.
func alone(info fs.FileInfo) bool {
	s, ok := info.Sys().(*syscall.Stat_t)
	return ok && s.Nlink == 1
}

// keep gives a file the owner and the extended attributes of another. The error says that
// it cannot have them.
func keep(from, to string, info fs.FileInfo) error {
	s, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return errors.New("its owner is not known")
	}
	if err := os.Lchown(to, int(s.Uid), int(s.Gid)); err != nil {
		return err
	}
	n, err := unix.Listxattr(from, nil)
	if errors.Is(err, unix.ENOTSUP) || n == 0 {
		return nil
	} else if err != nil {
		return err
	}
	list := make([]byte, n)
	if n, err = unix.Listxattr(from, list); err != nil {
		return err
	}
	for name := range strings.SplitSeq(strings.TrimSuffix(string(list[:n]), "\x00"), "\x00") {
		size, err := unix.Getxattr(from, name, nil)
		if err != nil {
			return err
		}
		value := make([]byte, size)
		if size, err = unix.Getxattr(from, name, value); err != nil {
			return err
		}
		if err := unix.Setxattr(to, name, value[:size], 0); err != nil {
			return err
		}
	}
	return os.Chmod(to, info.Mode().Perm()) // which a change of the owner may have changed
}
