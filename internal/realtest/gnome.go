package realtest

import (
	"context"
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/require"
)

// GnomeSession starts GNOME's shell, and what starts programs for it, after a shell script
// that a user runs before. Keys are pressed as from a remote desktop. A shell that comes to
// a standstill while it starts, as one of some fifty did, is started again.
func GnomeSession(t testing.TB, _ string, env []string, dir, script string) *Session {
	t.Helper()
	Need(t, "gnome-shell", "gnome-shell")
	NeedFile(t, mediaKeys, "gnome-settings-daemon")
	s, bus := newSession(t, env, dir, script)
	s.env = append(s.env, "XDG_CURRENT_DESKTOP=GNOME")
	var err error
	for range 3 {
		if s.press, err = s.gnome(bus); err == nil {
			return s
		}
		t.Logf("GNOME's shell does not answer: %v", err)
	}
	require.NoError(t, err)
	return nil
}

const (
	mediaKeys     = "/usr/libexec/gsd-media-keys"
	remoteDesktop = "org.gnome.Mutter.RemoteDesktop"
)

// gnome starts the shell and what belongs to it, and returns what presses its keys; when
// one of them does not answer, both are ended.
func (s *Session) gnome(bus string) (press func(int, bool) error, err error) {
	plain := slices.Clone(s.env)
	shell := s.Start("exec gnome-shell --headless --virtual-monitor 1000x600 --no-x11 --wayland-display=" + display)
	s.env = append(s.env, "GDK_BACKEND=wayland", "WAYLAND_DISPLAY="+display)
	parts := []*Background{shell}
	defer func() {
		if err != nil {
			for _, p := range parts {
				p.end()
			}
			s.env = plain
		}
	}()
	conn, err := dbus.Connect(bus)
	if err != nil {
		return nil, err
	}
	s.t.Cleanup(func() { conn.Close() })
	call := func(object dbus.BusObject, method string, to any, args ...any) error {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		c := object.CallWithContext(ctx, method, 0, args...)
		if to != nil {
			return c.Store(to)
		}
		return c.Err
	}
	answers := func(object dbus.BusObject, method string, to any) (err error) {
		for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
			err = call(object, method, to)
			if err == nil || errors.Is(err, context.DeadlineExceeded) {
				break
			}
		}
		return err
	}
	var session dbus.ObjectPath
	if err := answers(conn.Object(remoteDesktop, "/org/gnome/Mutter/RemoteDesktop"), remoteDesktop+".CreateSession", &session); err != nil {
		return nil, err
	}
	remote := conn.Object(remoteDesktop, session)
	if err := call(remote, remoteDesktop+".Session.Start", nil); err != nil {
		return nil, err
	}
	parts = append(parts, s.Start("exec "+mediaKeys))
	if err := answers(conn.Object("org.gnome.SettingsDaemon.MediaKeys", "/org/gnome/SettingsDaemon/MediaKeys"), "org.freedesktop.DBus.Peer.Ping", nil); err != nil {
		return nil, err
	}
	time.Sleep(2 * time.Second) // what the two have to say to each other
	const config = "org.gnome.Mutter.DisplayConfig"
	if err := answers(conn.Object(config, "/org/gnome/Mutter/DisplayConfig"), config+".GetCurrentState", nil); err != nil { // which its main loop must answer
		return nil, err
	}
	return func(evdev int, down bool) error {
		return call(remote, remoteDesktop+".Session.NotifyKeyboardKeycode", nil, uint32(evdev), down)
	}, nil
}

// Dump is all that dconf has.
func (s *Session) Dump() string {
	s.t.Helper()
	out, err := s.command("dconf dump /").CombinedOutput()
	require.NoError(s.t, err, "%s", out)
	return string(out)
}
