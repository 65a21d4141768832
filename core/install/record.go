package install

import (
	"path"
	"strings"
)

// recordFolder is the machine's own record of what is for all its users: an administrator's, and no user can write it.
const recordFolder = "/var/lib/leitstand"

// isRecord reports whether a file is one of the machine's own record.
func isRecord(name string) bool {
	return strings.HasPrefix(name, recordFolder+"/") && path.Clean(name) == name
}
