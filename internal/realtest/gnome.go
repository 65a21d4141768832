package realtest

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/require"
)

// Gnome is a GNOME session on Wayland, on a screen that nobody sees. Its keys are pressed
// by the interface through which remote desktops press them.
type Gnome struct {
	t        testing.TB
	env      []string
	dir      string
	keyboard dbus.BusObject
}

// GnomeSession starts a bus, does what a shell script in a folder says, as a user does
// before a log-in, and starts GNOME's shell and what starts programs for it. The
// environment is a Home's.
func GnomeSession(t testing.TB, env []string, dir, script string) *Gnome {
	t.Helper()
	Need(t, "dbus-daemon", "dbus")
	Need(t, "gnome-shell", "gnome-shell")
	const mediaKeys = "/usr/libexec/gsd-media-keys"
	NeedFile(t, mediaKeys, "gnome-settings-daemon")
	g := &Gnome{t: t, dir: dir, env: append(slices.Clone(env), "LC_ALL=C.UTF-8", "LIBGL_ALWAYS_SOFTWARE=1", "XDG_CURRENT_DESKTOP=GNOME", "GDK_BACKEND=wayland", "WAYLAND_DISPLAY=gauge")}
	bus := g.Start("dbus-daemon --session --nofork --print-address")
	WaitFor(t, "the bus", func() bool { return strings.Contains(bus.Output(), "\n") })
	var address string
	for line := range strings.Lines(bus.Output()) {
		if strings.HasPrefix(line, "unix:") {
			address = strings.TrimSpace(line)
		}
	}
	// What asks for the system's services finds the bus, and nobody on it.
	g.env = append(g.env, "DBUS_SESSION_BUS_ADDRESS="+address, "DBUS_SYSTEM_BUS_ADDRESS="+address)
	g.Run(script)
	g.Start("exec gnome-shell --headless --virtual-monitor 1000x600 --no-x11 --wayland-display=gauge")
	conn, err := dbus.Connect(address)
	require.NoError(t, err)
	t.Cleanup(func() { conn.Close() })
	const service = "org.gnome.Mutter.RemoteDesktop"
	var session dbus.ObjectPath
	WaitFor(t, "GNOME's shell", func() bool {
		return conn.Object(service, "/org/gnome/Mutter/RemoteDesktop").Call(service+".CreateSession", 0).Store(&session) == nil
	})
	g.keyboard = conn.Object(service, session)
	require.NoError(t, g.keyboard.Call(service+".Session.Start", 0).Err)
	g.Start("exec " + mediaKeys)
	return g
}

// Start starts a shell script in the session and ends it with the test.
func (g *Gnome) Start(script string) *Background {
	g.t.Helper()
	b := &Background{out: &lockedBuffer{}}
	cmd := g.command(script)
	cmd.Stdout, cmd.Stderr = b.out, b.out
	isolate(cmd)
	require.NoError(g.t, cmd.Start())
	g.t.Cleanup(func() {
		endGroup(cmd)
		_ = cmd.Wait()
		if g.t.Failed() {
			g.t.Logf("%s\n%s", script, b.Output())
		}
	})
	return b
}

// Run does what a shell script says, which may print nothing.
func (g *Gnome) Run(script string) {
	g.t.Helper()
	out, err := g.command("set -e\n" + script).CombinedOutput()
	require.NoError(g.t, err, "%s", out)
	require.Empty(g.t, string(out))
}

func (g *Gnome) command(script string) *exec.Cmd {
	cmd := exec.Command("sh", "-c", script)
	cmd.Env = append(os.Environ(), g.env...)
	cmd.Dir = g.dir
	return cmd
}

// Tap presses a chord, by event codes.
func (g *Gnome) Tap(evdev ...int) {
	g.t.Helper()
	key := func(code int, down bool) {
		require.NoError(g.t, g.keyboard.Call("org.gnome.Mutter.RemoteDesktop.Session.NotifyKeyboardKeycode", 0, uint32(code), down).Err)
	}
	for _, code := range evdev {
		key(code, true)
	}
	for _, code := range slices.Backward(evdev) {
		key(code, false)
	}
}

// TapUntil presses a chord again and again until something is done, since a session that
// has just begun may not have asked for its keys yet.
func (g *Gnome) TapUntil(what string, done func() bool, evdev ...int) {
	g.t.Helper()
	WaitFor(g.t, what, func() bool {
		g.Tap(evdev...)
		time.Sleep(time.Second / 2)
		return done()
	})
}

// Steps are the lines that a person copies out of a STEPS.md, but for those of an
// administrator and those that take something back.
func Steps(t testing.TB, dir string) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(dir, "STEPS.md"))
	require.NoError(t, err)
	var lines []string
	back, code := false, false
	for line := range strings.Lines(string(text)) {
		switch trimmed := strings.TrimSpace(line); {
		case strings.HasPrefix(trimmed, "```"):
			code = !code
		case !code:
			if trimmed != "" {
				back = strings.Contains(trimmed, "To take")
			}
		case !back && !strings.HasPrefix(trimmed, "sudo "):
			lines = append(lines, strings.TrimPrefix(line, "   "))
		}
	}
	return strings.Join(lines, "")
}
