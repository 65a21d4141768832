//go:build unix

package folder

import (
	"errors"
	"os"
	"time"

	"golang.org/x/sys/unix"
)

// patience is how long a run waits for another one that writes to the same folder.
const patience = 20 * time.Second

// Lock waits until no other run writes to the folder. The lock is on the folder itself, and
// ends with the process.
func Lock(root *os.Root) (unlock func(), err error) {
	f, err := root.Open(".")
	if err != nil {
		return nil, err
	}
	if err := LockOpen(f, patience); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return func() { _ = f.Close() }, nil
}

// LockOpen waits until nobody else has locked an open folder, for as long as its patience lasts. The lock ends when the
// folder is closed.
func LockOpen(f *os.File, patience time.Duration) error {
	for waited := time.Duration(0); ; waited += 10 * time.Millisecond {
		err := unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
		switch {
		case err == nil:
			return nil
		case !errors.Is(err, unix.EWOULDBLOCK) && !errors.Is(err, unix.EINTR): // a file system without locks
			return nil
		case waited > patience:
			return errors.New("another run of leitstand is writing there, and does not end")
		}
		time.Sleep(10 * time.Millisecond)
	}
}
