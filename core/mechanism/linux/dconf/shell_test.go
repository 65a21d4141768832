package dconf_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/godbus/dbus/v5"
	"github.com/godbus/dbus/v5/prop"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/dconf"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// shell stands in for GNOME's shell: it takes the accelerators that the settings daemon
// asks for, and can tell it that one was pressed. Which press an accelerator is, it
// does not know; that is tested with the window manager.
type shell struct {
	mu    sync.Mutex
	accel map[string]uint32
	conn  *dbus.Conn
}

const (
	shellName = "org.gnome.Shell"
	shellPath = dbus.ObjectPath("/org/gnome/Shell")
)

func (s *shell) GrabAccelerators(list []struct {
	Accel       string
	Mode, Flags uint32
}) ([]uint32, *dbus.Error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	ids := make([]uint32, len(list))
	for i, a := range list {
		ids[i] = uint32(len(s.accel) + 1)
		s.accel[a.Accel] = ids[i]
	}
	return ids, nil
}

func (s *shell) UngrabAccelerators([]uint32) (bool, *dbus.Error)              { return true, nil }
func (s *shell) ShowOSD(map[string]dbus.Variant) *dbus.Error                  { return nil }
func (s *shell) UngrabAccelerator(uint32) (bool, *dbus.Error)                 { return true, nil }
func (s *shell) GrabAccelerator(string, uint32, uint32) (uint32, *dbus.Error) { return 1 << 20, nil }

func (s *shell) id(accel string) uint32 {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.accel[accel]
}

// gsd-media-keys, given the compiled keyfile and the commands of STEPS.md, asks for the
// chords and starts their commands, exactly so.
func TestStartedByGnomeSettingsDaemon(t *testing.T) {
	realtest.Pressed(t, "gnome", "GNOME Settings Daemon", "chords start programs")
	need(t)
	const daemon = "/usr/libexec/gsd-media-keys"
	realtest.NeedFile(t, daemon, "gnome-settings-daemon")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	starts := map[string]mechanism.Binding{
		"<Hyper>t": sample.Launch(
			keys.Hyper, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, "", "50%"}},
		),
		"<Super><Shift>g": sample.Launch(
			keys.Meta|keys.Shift, "KeyG",
			behaviour.Launch{Command: []string{"~/record it", "two", "~/log 3"}, Dir: "~"},
		),
		"<Control><Alt>F11": sample.Launch(
			keys.Ctrl|keys.Alt, "F11", behaviour.Launch{Command: []string{program, "three"}},
		),
	}
	want := map[string]string{
		"<Hyper>t":          "one\x00" + sample.Nasty + "\x00\x0050%\x00in ",
		"<Super><Shift>g":   "two\x00" + home + "/log 3\x00in " + home + "\x00",
		"<Control><Alt>F11": "three\x00in ",
	}
	var list []mechanism.Binding
	for _, b := range starts {
		list = append(list, b)
	}
	out, err := mechanism.Write(dconf.Mechanism{Desktop: "gnome"}, machine("gnome", "de"), list)
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(filepath.Join(home, "dconf"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(home, out.Files()[0].Path), out.Files()[0].Data, 0o644))

	address := server.Bus(env)
	conn, err := dbus.Connect(address)
	require.NoError(t, err)
	t.Cleanup(func() { conn.Close() })
	s := &shell{accel: map[string]uint32{}, conn: conn}
	require.NoError(t, conn.Export(s, shellPath, shellName))
	_, err = prop.Export(conn, shellPath, prop.Map{shellName: {"Mode": {Value: "user"}, "ShellVersion": {Value: "43"}}})
	require.NoError(t, err)
	reply, err := conn.RequestName(shellName, dbus.NameFlagDoNotQueue)
	require.NoError(t, err)
	require.Equal(t, dbus.RequestNameReplyPrimaryOwner, reply)
	steps := strings.Join(append(out.Steps()[0].Lines, out.Steps()[1].Lines...), "\n")
	server.On(address, env, "cd "+home+" && "+steps+"\n"+daemon)

	for accel := range starts {
		realtest.WaitFor(t, "the daemon to ask for "+accel, func() bool { return s.id(accel) != 0 })
		done := recording.Expect(want[accel], nil)
		require.NoError(
			t, conn.Emit(shellPath, shellName+".AcceleratorActivated", s.id(accel), map[string]dbus.Variant{}),
		)
		realtest.WaitFor(t, accel, done)
	}
}
