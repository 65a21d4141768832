package realtest

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// PlasmaSession starts Plasma's compositor, which keeps its shortcuts, runs a shell script
// as its user, and ends the session and begins another, as the steps ask. Keys and buttons
// of a mouse are pressed by the compositor's interface for tests.
func PlasmaSession(t testing.TB, home string, env []string, dir, script string) *Session {
	t.Helper()
	Need(t, "kwin_wayland", "kwin-wayland")
	Need(t, "kwriteconfig5", "libkf5config-bin")
	Need(t, "gdbus", "libglib2.0-bin")
	// The program asks for a capability by its file, without which it is not started where
	// there is none to be had; a copy of that name asks for none.
	path, err := exec.LookPath("kwin_wayland")
	require.NoError(t, err)
	program, err := os.ReadFile(path)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(home, "kwin_wayland"), program, 0o755))
	s, _ := newSession(t, env, dir, "")
	s.env = append(s.env, "XDG_CURRENT_DESKTOP=KDE", "KWIN_COMPOSE=Q", "KWIN_WAYLAND_NO_PERMISSION_CHECKS=1")
	plain := slices.Clone(s.env)
	begin := func() *exec.Cmd {
		s.env = plain
		cmd := s.command(`exec "$HOME/kwin_wayland" --virtual --width 1000 --height 600 --no-lockscreen --socket ` + display)
		out := &lockedBuffer{}
		cmd.Stdout, cmd.Stderr = out, out
		isolate(cmd)
		require.NoError(t, cmd.Start())
		t.Cleanup(func() {
			endGroup(cmd)
			_ = cmd.Wait()
			if t.Failed() {
				t.Logf("kwin\n%s", out.From(0))
			}
		})
		s.env = append(slices.Clone(plain), "WAYLAND_DISPLAY="+display)
		WaitFor(t, "kwin", func() bool {
			names, _ := s.command("gdbus call --session --dest org.freedesktop.DBus --object-path / --method org.freedesktop.DBus.ListNames").Output()
			return strings.Contains(string(names), "org.kde.kglobalaccel")
		})
		return cmd
	}
	first := begin()
	s.Run(script)
	time.Sleep(time.Second)
	require.NoError(t, first.Process.Signal(syscall.SIGTERM))
	late := time.AfterFunc(patience, func() { endGroup(first) })
	_ = first.Wait()
	late.Stop()
	begin()
	s.press = newFakeInput(t, filepath.Join(home, "run", display)).press
	return s
}
