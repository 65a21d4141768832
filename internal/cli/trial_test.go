package cli_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/godbus/dbus/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/install/live"
	"leitstand/internal/realtest"
)

// desk is a user's home and the sessions that begin and end in it.
type desk struct {
	t          *testing.T
	server     *realtest.Server
	home       string
	env        []string
	bus        string
	background *realtest.Background
}

// begin starts a session, with what a shell script starts in it.
func (d *desk) begin(script string) {
	d.t.Helper()
	bus := filepath.Join(d.home, "run/bus-address")
	_ = os.Remove(bus) // of the session before
	d.background = d.server.Session(d.env,
		"echo \"$DBUS_SESSION_BUS_ADDRESS\" > '"+bus+".new'; mv '"+bus+".new' '"+bus+"'\n"+script)
	realtest.WaitFor(d.t, "the session", func() bool {
		text, err := os.ReadFile(bus)
		d.bus = strings.TrimSpace(string(text))
		return err == nil
	})
}

func (d *desk) command(words ...string) *exec.Cmd {
	cmd := exec.Command(words[0], words[1:]...)
	cmd.Env = d.server.Env(append(d.env, "DBUS_SESSION_BUS_ADDRESS="+d.bus, "XDG_STATE_HOME=")...)
	cmd.Dir = d.home
	return cmd
}

func (d *desk) run(words ...string) string {
	d.t.Helper()
	out, err := d.command(words...).CombinedOutput()
	require.NoError(d.t, err, "%s", out)
	return string(out)
}

func (d *desk) has() map[string]string {
	found := files(d.t, d.home)
	for name := range found {
		if strings.HasPrefix(name, "/run/") || strings.HasPrefix(name, "/.local/state") {
			delete(found, name)
		}
	}
	return found
}

// notified answers notifications as somebody does who presses a button; "" presses none.
type notified struct {
	conn   *dbus.Conn
	answer string
	asked  chan []string
}

// Notify is the method of the notifications' interface.
func (n notified) Notify(_ string, _ uint32, _, title, text string, actions []string, _ map[string]dbus.Variant,
	_ int32,
) (uint32, *dbus.Error) {
	n.asked <- append([]string{title, text}, actions...)
	if n.answer != "" {
		go func() {
			_ = n.conn.Emit(
				"/org/freedesktop/Notifications",
				"org.freedesktop.Notifications.ActionInvoked",
				uint32(7),
				n.answer,
			)
		}()
	}
	return 7, nil
}

// CloseNotification is another.
func (notified) CloseNotification(uint32) *dbus.Error { return nil }

func (d *desk) notifications(answer string) chan []string {
	conn, err := dbus.Connect(d.bus)
	require.NoError(d.t, err)
	d.t.Cleanup(func() { _ = conn.Close() })
	n := notified{conn, answer, make(chan []string, 1)}
	require.NoError(d.t, conn.Export(n, "/org/freedesktop/Notifications", "org.freedesktop.Notifications"))
	_, err = conn.RequestName("org.freedesktop.Notifications", dbus.NameFlagDoNotQueue)
	require.NoError(d.t, err)
	return n.asked
}

// What takes effect at log-in is tried then: a notification asks after it, and an answer keeps it, or puts it back;
// without one it is put back, too.
func TestTrialAfterLogIn(t *testing.T) {
	t.Parallel()
	name := program(t, "linux")
	for _, answer := range []string{"keep", "back", ""} {
		d := &desk{t: t, server: realtest.XServer(t)}
		d.home, d.env = realtest.Home(t)
		mapping := filepath.Join(d.home, "m.hcl")
		require.NoError(t, os.WriteFile(mapping, []byte(
			"machine \"office\" {\n  system  = \"linux\"\n  desktop = \"plasma\"\n  session = \"wayland\"\n}\n"+
				"hyper \"CapsLock\" {}\n",
		), 0o644))
		d.begin("sleep 1000")
		never := d.has()
		d.run(name, "install", "-f", mapping, "--machine", "office", "--yes", "--trial", "10s")
		require.Contains(t, d.run(name, "keep"), "after the next one you are asked again")
		assert.Contains(t, d.run(name, "status"), "on trial until after the next log-in")
		d.background.End()
		require.NotEqual(t, never, d.has())

		d.begin("sleep 1000")
		asked := d.notifications(answer)
		job, err := os.ReadFile(filepath.Join(d.home, ".config/autostart/leitstand-trial.desktop"))
		require.NoError(t, err)
		_, line, _ := strings.Cut(string(job), "\nExec=")
		line, _, _ = strings.Cut(line, "\n")
		d.run("sh", "-c", line)
		assert.Equal(t, []string{
			"Keep the keyboard mapping?", "Try your keys. Without an answer all is as it was before.",
			"keep", "Keep", "back", "Put back",
		}, <-asked)
		if answer == "keep" {
			assert.NoFileExists(t, filepath.Join(d.home, ".config/autostart/leitstand-trial.desktop"))
			assert.FileExists(t, filepath.Join(d.home, ".config/xkb/symbols/leitstand"))
			assert.FileExists(t, filepath.Join(d.home, ".local/share/applications/leitstand-restore.desktop"))
			d.run(name, "restore", "--yes")
		}
		assert.Equal(t, never, d.has(), answer)
		d.background.End()
	}
}

// A trial is put back when the session in which it began is gone: by a process that has left it, or, where the user has a
// service manager, by that; and at once where that ends itself, as it does when the user's last session has ended.
func TestTrialOutlivesItsSession(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "i3", "i3-wm")
	name := ownProgram(t)
	for _, way := range []struct {
		about, desktop   string
		managed, logsOut bool
		lasts            string
	}{
		{about: "by itself", desktop: "i3", lasts: "15s"},
		{about: "by the service manager", desktop: "i3", managed: true, lasts: "15s"},
		{about: "at the end of the service manager", desktop: "i3", managed: true, logsOut: true, lasts: "10m"},
		{about: "in dconf, without its bus", desktop: "mate", lasts: "15s"},
	} {
		d := &desk{t: t, server: realtest.XServer(t)}
		d.home, d.env = realtest.Home(t)
		mapping := filepath.Join(d.home, "m.hcl")
		require.NoError(t, os.WriteFile(mapping, []byte(
			"machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \""+way.desktop+"\"\n}\nlaunch \"F6\" { run = \"xterm\" }\n",
		), 0o644))
		d.env = append(d.env, "XDG_STATE_HOME=")
		config := filepath.Join(d.home, ".config/i3/config")
		require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
		require.NoError(t, os.WriteFile(config, []byte("# i3 config file (v4)\nbindsym F8 exec xterm\n"), 0o644))
		manager, script := 0, "i3 &\nsleep 2\n"
		if way.managed {
			manager = d.server.ServiceManager(d.home, d.env)
		}
		if way.desktop == "mate" {
			script = "dconf write /org/mate/desktop/peripherals/keyboard/delay 444\n"
		}
		state := func() string {
			has := d.has()
			if way.desktop == "mate" { // the bytes of its database are no matter
				has["/.config/dconf/user"] = d.run("dconf", "dump", "/")
			}
			return fmt.Sprint(has)
		}
		var never string
		d.begin(script + "until [ -e '" + d.home + "/run/go' ]; do sleep 0.1; done\n" + name + " install -f " + mapping +
			" --machine gauge --yes --trial " + way.lasts + "; sleep 1000")
		realtest.WaitFor(t, "the user's own settings", func() bool {
			never = state()
			return way.desktop != "mate" || strings.Contains(never, "444")
		})
		require.NoError(t, os.WriteFile(filepath.Join(d.home, "run/go"), nil, 0o644))
		watchers := func() []int { return realtest.Running(name, "restore", "--unless-kept") }
		realtest.WaitFor(t, "who watches the trial", func() bool { return len(watchers()) == 1 })
		assert.Equal(t, way.managed, realtest.Parent(watchers()[0]) == manager, "whose process it is")
		realtest.WaitFor(t, "the trial", func() bool {
			journal, _ := os.ReadFile(filepath.Join(d.home, ".local/state/leitstand/journal.json"))
			return strings.Contains(string(journal), `"trial"`)
		})
		d.background.End()
		require.NotEqual(t, never, state(), way.about)
		require.Len(t, watchers(), 1, way.about)
		if way.logsOut {
			p, err := os.FindProcess(manager)
			require.NoError(t, err)
			require.NoError(t, p.Signal(syscall.SIGTERM))
		}
		realtest.WaitFor(t, "the end of who watched, "+way.about, func() bool { return len(watchers()) == 0 })
		assert.Equal(t, never, state(), way.about)
	}
}

// What a user's service manager is said to run does run, and what it cannot run is an error, so that somebody else starts
// it.
func TestStartOutside(t *testing.T) {
	t.Parallel()
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	assert.ErrorIs(t, live.StartOutside("none", home, []string{"/bin/true"}, env), live.ErrNoManager)
	assert.ErrorIs(t, live.StartOutside("none", home, []string{"/bin/true"}, nil), live.ErrNoManager)
	server.ServiceManager(home, env)
	env = append(env, "PATH="+os.Getenv("PATH"), "TIDE=high", "BASH_FUNC_x%%=() { :; }")
	require.NoError(t, live.StartOutside("runs", home, []string{"/bin/sh", "-c", "echo $TIDE >ran; sleep 60"}, env))
	realtest.WaitFor(t, "what it runs", func() bool {
		text, _ := os.ReadFile(filepath.Join(home, "ran"))
		return string(text) == "high\n"
	})
	assert.Error(t, live.StartOutside("runs", home, []string{"/bin/sleep", "1"}, env), "a unit of this name is there")
	assert.Error(t, live.StartOutside("missing", home, []string{"/no/such/program"}, env))
	assert.Error(t, live.StartOutside("nowhere", "/no/such/folder", []string{"/bin/sleep", "60"}, env))
}
