package cli

import (
	"os/exec"
	"syscall"
)

// detach has a process live without the console.
func detach(cmd *exec.Cmd) {
	const detachedProcess = 0x00000008
	cmd.SysProcAttr = &syscall.SysProcAttr{CreationFlags: syscall.CREATE_NEW_PROCESS_GROUP | detachedProcess}
}

// outlive has nothing to ignore: there is no console whose end would be told.
func outlive() {}
