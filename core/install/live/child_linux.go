package live

import (
	"os/exec"
	"runtime"
	"syscall"
)

// runChild runs a program that ends when this process does, however that ends. Until it has, it holds the lock, so that no
// other run begins.
func (m *Machine) runChild(cmd *exec.Cmd) error {
	m.lend(cmd)
	// The signal is sent when the thread ends that has started the program. (prctl(2), PR_SET_PDEATHSIG.)
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	return cmd.Run()
}

// startChild starts a program that ends when this process does.
func (m *Machine) startChild(cmd *exec.Cmd) error {
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	return cmd.Start()
}
