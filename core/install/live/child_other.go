//go:build !linux

package live

import "os/exec"

// runChild runs a program, which holds the lock until it has ended.
func (m *Machine) runChild(cmd *exec.Cmd) error {
	m.lend(cmd)
	return cmd.Run()
}

// startChild starts a program.
func (m *Machine) startChild(cmd *exec.Cmd) error { return cmd.Start() }
