//go:build !linux

package live

import "os"

func exchange(dir *os.Root, a, b string) error { return replace(dir, a, b) }

func renameNew(dir *os.Root, from, to string) error { return moveNew(dir, from, to) }
