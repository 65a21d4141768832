//go:build unix

package live

import (
	"errors"
	"fmt"
	"os"
	"strings"
	"syscall"
	"time"

	"leitstand/core/folder"
)

// lockFolder waits until no other run has a folder. The lock is on the open folder, and on those that share it.
func lockFolder(name string, patience time.Duration) (*os.File, error) {
	for {
		f, err := os.Open(name)
		if err != nil {
			return nil, err
		}
		if err := folder.LockOpen(f, patience); err != nil {
			return nil, errors.Join(fmt.Errorf("another leitstand is at work here%s, and does not end", holder(f)), f.Close())
		}
		// While this one waited, another folder may have taken the place of the one that it has.
		is, err := f.Stat()
		now, fault := os.Stat(name)
		if err == nil && fault == nil && os.SameFile(is, now) {
			return f, nil
		}
		if err = errors.Join(err, fault, f.Close()); err != nil {
			return nil, err
		}
	}
}

// holder names the process that has a folder, "" where the system does not tell. (proc_locks(5).)
func holder(f *os.File) string {
	info, err := f.Stat()
	if err != nil {
		return ""
	}
	text, err := os.ReadFile("/proc/locks")
	s, ok := info.Sys().(*syscall.Stat_t)
	if err != nil || !ok {
		return ""
	}
	for line := range strings.Lines(string(text)) {
		words := strings.Fields(line)
		if len(words) > 5 && words[1] == "FLOCK" && strings.HasSuffix(words[5], fmt.Sprint(":", s.Ino)) {
			return " (process " + words[4] + ")"
		}
	}
	return ""
}
