package live_test

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/install"
	"leitstand/core/install/live"
	"leitstand/internal/realtest"
)

// tried puts what a mapping says in place on trial.
func (d *desk) tried(rules string) {
	d.t.Helper()
	book := d.machine.Book()
	s, err := install.Begin(install.Installer{Machine: d.machine, Book: book}, time.Now(), book.Lock)
	require.NoError(d.t, err)
	defer s.End()
	plan, err := s.Plan(install.Wanted{Installed: install.Installed{Machine: "office", Items: d.items(rules)}})
	require.NoError(d.t, err)
	require.False(d.t, plan.Empty())
	require.NoError(d.t, s.Carry(s.Journal, plan, install.Terms{Until: time.Now().Add(time.Hour), For: time.Hour}))
}

// over is the end of the trial, as somebody sees it who has lived longer than the session.
func (d *desk) over() error {
	d.t.Helper()
	m := &live.Machine{Home: d.machine.Home, Env: d.machine.Env}
	book := m.Book()
	s, err := install.Begin(install.Installer{Machine: m, Book: book}, time.Now(), book.Lock)
	if err != nil {
		return err
	}
	defer s.End()
	left, err := s.Revert(s.Journal)
	return errors.Join(left, err)
}

// fileHas waits until a program has written something into a file of the user's.
func (d *desk) fileHas(name, text string) {
	d.t.Helper()
	realtest.WaitFor(d.t, text+" in "+name, func() bool {
		data, err := os.ReadFile(filepath.Join(d.machine.Home, name))
		return err == nil && strings.Contains(string(data), text)
	})
}

const tryOut = "launch \"Ctrl+Alt+g\" { run = [\"PROGRAM\", \"one\"] }\naction \"Meta+F7\" { does = \"close\" }\n" +
	"repeat { delay = \"300ms\" }\n"

// A session may end during a trial. dconf's database is then written without its bus.
func TestTrialOfDconfIsTakenBackWithoutItsSession(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "dconf", "dconf-cli")
	for _, desktop := range []string{"gnome", "mate"} {
		server := realtest.XServer(t)
		home, env := realtest.Home(t)
		session := server.Session(env, tellBus+"dconf write /org/gnome/desktop/peripherals/keyboard/delay \"uint32 444\"\n"+
			"dconf write /org/gnome/desktop/wm/keybindings/close \"['<Super>F4']\"\nsleep 1000")
		all := server.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+busOf(t, home))...)
		d := &desk{
			t: t, machine: &live.Machine{Home: home, Env: all}, recording: realtest.Recorder(t, home),
			head: machine(desktop, "x11"),
		}
		realtest.WaitFor(t, "the user's own settings", func() bool {
			v, err := d.machine.Get(change.Dconf, "/org/gnome/desktop/wm/keybindings/close")
			return err == nil && v != nil
		})
		before, err := d.machine.DumpDconf()
		require.NoError(t, err)
		d.tried(tryOut)
		session.End()
		there, err := d.machine.DumpDconf()
		require.NoError(t, err)
		require.NotEqual(t, string(before), string(there))
		require.NoError(t, d.over())
		after, err := d.machine.DumpDconf()
		require.NoError(t, err)
		assert.Equal(t, string(before), string(after), desktop)
	}
}

// Xfce's store is then in its files, unless another session of the user keeps it.
func TestTrialInXfceIsTakenBackWithoutItsSession(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	const shortcuts = ".config/xfce4/xfconf/xfce-perchannel-xml/xfce4-keyboard-shortcuts.xml"
	session := server.Session(env, "xfconf-query -c keyboards -p /Default/KeyRepeat/Delay -n -t uint -s 444\n"+
		"xfconf-query -c xfce4-keyboard-shortcuts -p /commands/custom/override -n -t bool -s true\n"+
		"xfconf-query -c xfce4-keyboard-shortcuts -p /commands/custom/F8 -n -t string -s xterm\n"+tellBus+"sleep 1000")
	all := server.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+busOf(t, home))...)
	d := &desk{
		t: t, machine: &live.Machine{Home: home, Env: all}, recording: realtest.Recorder(t, home),
		head: machine("xfce", "x11"),
	}
	had := func(bus string) string {
		cmd := exec.Command("sh", "-c", "xfconf-query -c xfce4-keyboard-shortcuts -lv; xfconf-query -c keyboards -lv")
		cmd.Env = append(all, "DBUS_SESSION_BUS_ADDRESS="+bus)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	before := had(busOf(t, home))
	require.Contains(t, before, "444")
	d.tried(tryOut)
	d.fileHas(shortcuts, "&lt;Primary&gt;&lt;Alt&gt;g") // the daemon saves each channel in its own time
	d.fileHas(strings.ReplaceAll(shortcuts, "xfce4-keyboard-shortcuts", "keyboards"), `value="300"`)
	session.End()

	next, end := server.Bus(env), "DBUS_SESSION_BUS_ADDRESS="
	require.NotEqual(t, before, had(next))
	assert.ErrorContains(t, d.over(), "the session is over", "another session keeps the store")
	cmd := exec.Command("gdbus", "call", "--session", "--dest", "org.freedesktop.DBus", "--object-path",
		"/org/freedesktop/DBus", "--method", "org.freedesktop.DBus.GetConnectionUnixProcessID", "org.xfce.Xfconf")
	cmd.Env = append(all, end+next)
	pid, err := cmd.Output()
	require.NoError(t, err)
	fields := strings.Fields(strings.Trim(string(pid), "(,)\n"))
	require.NoError(t, exec.Command("kill", fields[len(fields)-1]).Run())
	realtest.WaitFor(t, "the end of the daemon", func() bool { return d.over() == nil })
	assert.Equal(t, before, had(next))
}

// So are the shortcuts of Plasma's keeper.
func TestTrialInPlasmaIsTakenBackWithoutItsSession(t *testing.T) {
	t.Parallel()
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	s := realtest.PlasmaSession(t, home, env, home, "")
	d := &desk{
		t: t, machine: &live.Machine{Home: home, Env: s.Env()}, recording: recording, head: machine("plasma", "wayland"),
	}
	chords := func(m *live.Machine) (list []change.Value) {
		for _, name := range []string{"Window Close", "Window Quick Tile Left"} {
			v, err := m.Get(change.Keeper, "[kwin]"+name)
			require.NoError(t, err)
			list = append(list, v)
		}
		return list
	}
	before := chords(d.machine)
	d.tried("action \"Meta+F7\" { does = \"close\" }\naction \"Alt+F4\" {\n  does  = \"tile-left\"\n  override = true\n}\n" +
		"launch \"Ctrl+Alt+g\" { run = [\"PROGRAM\", \"one\"] }\n")
	d.fileHas(".config/kglobalshortcutsrc", "Meta+F7")
	s.End()
	require.NoError(t, d.over())
	text, err := os.ReadFile(filepath.Join(home, ".config/kglobalshortcutsrc"))
	require.NoError(t, err)
	assert.NotContains(t, string(text), "Meta+F7")
	assert.NotContains(t, string(text), "[leitstand-")
	again := realtest.PlasmaSession(t, home, env, home, "")
	assert.Equal(t, before, chords(&live.Machine{Home: home, Env: again.Env()}))
}
