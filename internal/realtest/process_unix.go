//go:build unix

package realtest

import (
	"os/exec"
	"syscall"
)

// isolate puts a command and all it starts into a process group of their own.
func isolate(cmd *exec.Cmd) { cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} }

// endGroup ends a command's process group.
func endGroup(cmd *exec.Cmd) { _ = syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
