package realtest

import "os/exec"

// Group puts a command that is to be started, and all it starts, into a group of their own, and returns what kills
// them.
func Group(cmd *exec.Cmd) (kill func()) {
	isolate(cmd)
	return func() { endGroup(cmd) }
}
