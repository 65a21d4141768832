package realtest

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Plasma names the programs of the Plasma that is installed.
type Plasma struct {
	Version string
	Keeper  string // what keeps the shortcuts, as a line of shell
	Writer  string // what writes settings
}

// FindPlasma requires the parts of Plasma 6, or of 5.
func FindPlasma(t testing.TB) Plasma {
	t.Helper()
	p := Plasma{Keeper: "kglobalaccel5", Writer: "kwriteconfig5"}
	if found, _ := filepath.Glob("/usr/lib/*/libexec/kglobalacceld"); len(found) > 0 {
		p = Plasma{Keeper: "QT_QPA_PLATFORM=xcb " + found[0], Writer: "kwriteconfig6"}
	} else {
		Need(t, p.Keeper, "libkf5globalaccel-bin")
	}
	p.Version = Version("kwin-x11")
	Need(t, p.Writer, "libkf5config-bin or libkf6config-bin")
	Need(t, "gdbus", "libglib2.0-bin")
	return p
}

// menu names all programs to KDE's database of them, as the desktop's own does, which comes
// with more of it than the tests need.
const menu = `<!DOCTYPE Menu PUBLIC "-//freedesktop//DTD Menu 1.0//EN" "http://www.freedesktop.org/standards/menu-spec/1.0/menu.dtd">
<Menu><Name>Applications</Name><DefaultAppDirs/><DefaultDirectoryDirs/><Include><All/></Include></Menu>
`

// Menu lets KDE's programs find those of a home.
func (Plasma) Menu(t testing.TB, home string) {
	t.Helper()
	dir := filepath.Join(home, ".config/menus")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "applications.menu"), []byte(menu), 0o644))
}

// PlasmaSession starts Plasma's compositor, which keeps its shortcuts, runs a shell script
// as its user, and ends the session and begins another, as the steps ask. Keys and buttons
// of a mouse are pressed by the compositor's interface for tests.
func PlasmaSession(t testing.TB, home string, env []string, dir, script string) *Session {
	t.Helper()
	Need(t, "kwin_wayland", "kwin-wayland")
	FindPlasma(t).Menu(t, home)
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
		cmd := s.command(
			`exec "$HOME/kwin_wayland" --virtual --width 1000 --height 600 --no-lockscreen --socket ` + display,
		)
		out := &lockedBuffer{}
		cmd.Stdout, cmd.Stderr = out, out
		isolate(cmd)
		require.NoError(t, cmd.Start())
		end := sync.OnceFunc(func() {
			endGroup(cmd)
			_ = cmd.Wait()
		})
		s.ends = append(s.ends, end)
		t.Cleanup(func() {
			end()
			if t.Failed() {
				t.Logf("kwin\n%s", out.From(0))
			}
		})
		s.env = append(slices.Clone(plain), "WAYLAND_DISPLAY="+display)
		WaitFor(t, "kwin", func() bool {
			names, _ := s.command(
				"gdbus call --session --dest org.freedesktop.DBus --object-path / --method " +
					"org.freedesktop.DBus.ListNames",
			).Output()
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
