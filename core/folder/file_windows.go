package folder

import (
	"errors"
	"io/fs"
)

// alone says whether a file has one name only, which Windows does not tell of one that is
// not open.
func alone(fs.FileInfo) bool { return false }

// keep would give a file what another has beside its content.
func keep(_, _ string, _ fs.FileInfo) error {
	return errors.New("what a file has beside its content is kept by writing it in place")
}
