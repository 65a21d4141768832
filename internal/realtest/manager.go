package realtest

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// serviceManager is the program of a user's service manager on Debian.
const serviceManager = "/usr/lib/systemd/systemd"

// ServiceManager starts a user's service manager beside the sessions, as a log-in does, and gives its process. On a machine
// that no service manager has started, it is shown one that has, and nobody else is.
func (s *Server) ServiceManager(home string, env []string) int {
	s.t.Helper()
	NeedFile(s.t, serviceManager, "systemd")
	words := []string{serviceManager, "--user", "--unit=paths.target"}
	if _, err := os.Stat("/run/systemd/system"); err != nil {
		Need(s.t, "unshare", "util-linux")
		words = append([]string{
			"unshare", "--mount", "sh", "-ec",
			`mkdir -p /run/systemd; mount -t tmpfs none /run/systemd; mkdir /run/systemd/system; exec "$@"`, "sh",
		}, words...)
	}
	cmd := exec.Command(words[0], words[1:]...)
	cmd.Env, cmd.Dir = s.Env(env...), home
	out := &lockedBuffer{}
	cmd.Stdout, cmd.Stderr = out, out
	s.Background(cmd)
	s.t.Cleanup(func() {
		if s.t.Failed() {
			s.t.Logf("the service manager printed:\n%s", out.From(0))
		}
	})
	WaitFor(s.t, "the service manager", func() bool {
		_, err := os.Stat(filepath.Join(home, "run/systemd/private"))
		return err == nil
	})
	return cmd.Process.Pid
}

// Running are the processes of a program that have been started with these words.
func Running(program string, words ...string) (list []int) {
	found, _ := filepath.Glob("/proc/[0-9]*/cmdline")
	for _, at := range found {
		text, err := os.ReadFile(at)
		if err != nil {
			continue // it has ended
		}
		line := strings.Split(string(text), "\x00")
		if line[0] != program || !slices.Equal(line[1:min(len(line), 1+len(words))], words) {
			continue
		}
		if pid, err := strconv.Atoi(filepath.Base(filepath.Dir(at))); err == nil {
			list = append(list, pid)
		}
	}
	return list
}

// Parent is the process that a process belongs to, 0 if it has ended.
func Parent(pid int) int {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	_, line, _ := strings.Cut(string(text), "\nPPid:")
	line, _, _ = strings.Cut(line, "\n")
	parent, err := strconv.Atoi(strings.TrimSpace(line))
	if err != nil {
		return 0
	}
	return parent
}
