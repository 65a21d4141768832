package realtest

import (
	"testing"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/require"
)

// GnomeSession starts GNOME's shell, and what starts programs for it, after a shell script
// that a user runs before. Keys are pressed as from a remote desktop.
func GnomeSession(t testing.TB, _ string, env []string, dir, script string) *Session {
	t.Helper()
	Need(t, "gnome-shell", "gnome-shell")
	const mediaKeys = "/usr/libexec/gsd-media-keys"
	NeedFile(t, mediaKeys, "gnome-settings-daemon")
	s, bus := newSession(t, env, dir, script)
	s.env = append(s.env, "XDG_CURRENT_DESKTOP=GNOME")
	s.Start("exec gnome-shell --headless --virtual-monitor 1000x600 --no-x11 --wayland-display=" + display)
	s.env = append(s.env, "GDK_BACKEND=wayland", "WAYLAND_DISPLAY="+display)
	conn, err := dbus.Connect(bus)
	require.NoError(t, err)
	t.Cleanup(func() { conn.Close() })
	const service = "org.gnome.Mutter.RemoteDesktop"
	var session dbus.ObjectPath
	WaitFor(t, "GNOME's shell", func() bool {
		return conn.Object(service, "/org/gnome/Mutter/RemoteDesktop").Call(service+".CreateSession", 0).Store(&session) == nil
	})
	remote := conn.Object(service, session)
	require.NoError(t, remote.Call(service+".Session.Start", 0).Err)
	s.press = func(evdev int, down bool) error {
		return remote.Call(service+".Session.NotifyKeyboardKeycode", 0, uint32(evdev), down).Err
	}
	s.Start("exec " + mediaKeys)
	return s
}
