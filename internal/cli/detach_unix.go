//go:build unix

package cli

import (
	"os/exec"
	"os/signal"
	"syscall"
)

// detach has a process live in a session of its own.
func detach(cmd *exec.Cmd) { cmd.SysProcAttr = &syscall.SysProcAttr{Setsid: true} }

// outlive ignores that a terminal or a session ends.
func outlive() { signal.Ignore(syscall.SIGHUP, syscall.SIGINT, syscall.SIGQUIT) }
