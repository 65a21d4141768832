//go:build unix

package live

import (
	"io/fs"
	"syscall"
)

// owner is the owner and the group of a file.
func owner(info fs.FileInfo) (uid, gid int, known bool) {
	s, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return 0, 0, false
	}
	return int(s.Uid), int(s.Gid), true
}
