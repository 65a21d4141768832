package folder

import (
	"errors"
	"os"
	"path/filepath"
	"time"

	"golang.org/x/sys/windows"
)

// patience is how long a run waits for another one that writes to the same folder.
const patience = 20 * time.Second

// lockFile is open, and deleted when it is closed, while a run writes.
const lockFile = ".leitstand-lock"

// Lock waits until no other run writes to the folder: nobody else can open the file, which
// goes when its process ends.
func Lock(root *os.Root) (unlock func(), err error) {
	name, err := windows.UTF16PtrFromString(filepath.Join(root.Name(), lockFile))
	if err != nil {
		return nil, err
	}
	for waited := time.Duration(0); ; waited += 10 * time.Millisecond {
		h, err := windows.CreateFile(name, windows.GENERIC_WRITE, 0, nil, windows.CREATE_NEW,
			windows.FILE_ATTRIBUTE_NORMAL|windows.FILE_FLAG_DELETE_ON_CLOSE|windows.FILE_FLAG_OPEN_REPARSE_POINT, 0)
		switch {
		case err == nil:
			return func() { _ = windows.CloseHandle(h) }, nil
		case !errors.Is(err, windows.ERROR_FILE_EXISTS) && !errors.Is(err, windows.ERROR_SHARING_VIOLATION) &&
			!errors.Is(err, windows.ERROR_ACCESS_DENIED):
			return nil, err
		case waited > patience:
			return nil, errors.New("another run of leitstand is writing there, and does not end")
		}
		time.Sleep(10 * time.Millisecond)
	}
}
