package live

import "io/fs"

// owner is not known here: files have lists of rights.
func owner(fs.FileInfo) (uid, gid int, known bool) { return 0, 0, false }
