package folder

import (
	"errors"
	"io/fs"
	"os"
)

// Alone reports whether a file has one name only, which Windows does not tell of one that is not open; so all files are
// written in place there.
func Alone(fs.FileInfo) bool { return false }

// Keep is not needed where all files are written in place.
func Keep(_, _ *os.File, _ fs.FileInfo) error {
	return errors.New("owners and attributes are not copied here")
}
