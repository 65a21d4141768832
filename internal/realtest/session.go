package realtest

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Session is a desktop's session on Wayland, on a screen that nobody sees.
type Session struct {
	t     testing.TB
	env   []string
	dir   string
	press func(evdev int, down bool) error // of keys, and of a mouse's buttons where they can be pressed
	ends  []func()
}

// End kills the session, and all that was started in it.
func (s *Session) End() {
	for _, end := range slices.Backward(s.ends) {
		end()
	}
}

// display is the name of the session's Wayland display.
const display = "gauge"

// newSession starts a bus and does what a shell script in a folder says, as a user does
// before a log-in. The environment is a Home's.
func newSession(t testing.TB, env []string, dir, script string) (s *Session, bus string) {
	t.Helper()
	Need(t, "dbus-daemon", "dbus")
	s = &Session{t: t, dir: dir, env: append(slices.Clone(env), "LC_ALL=C.UTF-8", "LIBGL_ALWAYS_SOFTWARE=1")}
	daemon := s.Start("dbus-daemon --session --nofork --print-address")
	WaitFor(t, "the bus", func() bool {
		for line := range strings.Lines(daemon.Output()) {
			if strings.HasPrefix(line, "unix:") && strings.HasSuffix(line, "\n") {
				bus = strings.TrimSpace(line)
			}
		}
		return bus != ""
	})
	// What asks for the system's services finds the bus, and nobody on it.
	s.env = append(s.env, "DBUS_SESSION_BUS_ADDRESS="+bus, "DBUS_SYSTEM_BUS_ADDRESS="+bus)
	s.Run(script)
	return s, bus
}

// Start starts a shell script in the session and ends it with the test.
func (s *Session) Start(script string) *Background {
	s.t.Helper()
	b := &Background{out: &lockedBuffer{}}
	cmd := s.command(script)
	cmd.Stdout, cmd.Stderr = b.out, b.out
	isolate(cmd)
	require.NoError(s.t, cmd.Start())
	b.end = sync.OnceFunc(func() {
		endGroup(cmd)
		_ = cmd.Wait()
	})
	s.ends = append(s.ends, b.end)
	s.t.Cleanup(func() {
		b.end()
		if s.t.Failed() {
			s.t.Logf("%s\n%s", script, b.Output())
		}
	})
	return b
}

// Run does what a shell script says, which may print nothing.
func (s *Session) Run(script string) {
	s.t.Helper()
	out, err := s.command("set -e\n" + script).CombinedOutput()
	require.NoError(s.t, err, "%s", out)
	require.Empty(s.t, string(out))
}

func (s *Session) command(script string) *exec.Cmd {
	cmd := exec.Command("sh", "-c", script)
	cmd.Env = append(os.Environ(), s.env...)
	cmd.Dir = s.dir
	return cmd
}

// Tap presses a chord, by event codes.
func (s *Session) Tap(evdev ...int) {
	s.t.Helper()
	for _, code := range evdev {
		require.NoError(s.t, s.press(code, true))
	}
	for _, code := range slices.Backward(evdev) {
		require.NoError(s.t, s.press(code, false))
	}
}

// TapUntil presses a chord again and again until something is done, since a session that
// has just begun may not have asked for its keys yet.
func (s *Session) TapUntil(what string, done func() bool, evdev ...int) {
	s.t.Helper()
	WaitFor(s.t, what, func() bool {
		s.Tap(evdev...)
		time.Sleep(time.Second / 2)
		return done()
	})
}

// Steps are the lines that a person copies out of a STEPS.md, but for those of an
// administrator, and those that take all back.
func Steps(t testing.TB, dir string) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(dir, "STEPS.md"))
	require.NoError(t, err)
	var lines []string
	forth, _, _ := strings.Cut(string(text), "\n## To undo it\n")
	code := false
	for line := range strings.Lines(forth) {
		switch trimmed := strings.TrimSpace(line); {
		case strings.HasPrefix(trimmed, "```"):
			code = !code
		case code && !strings.HasPrefix(trimmed, "sudo "):
			lines = append(lines, strings.TrimPrefix(line, "   "))
		}
	}
	return strings.Join(lines, "")
}

// Env is the environment of the session's programs.
func (s *Session) Env() []string { return append(os.Environ(), s.env...) }
