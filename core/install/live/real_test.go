package live_test

import (
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/install"
	"leitstand/core/install/live"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func codes(names ...string) (list []int) {
	for _, n := range names {
		list = append(list, sample.Evdev(sample.Key(n)))
	}
	return list
}

// desk is a session of a desktop, in which keys are pressed.
type desk struct {
	t         *testing.T
	machine   *live.Machine
	recording *realtest.Recording
	tap       func(...int)
	tapUntil  func(string, func() bool, ...int)
	head      string // the machine of the mapping
}

// items compiles a mapping with some rules, in which PROGRAM is what records its start.
func (d *desk) items(rules string) []install.Item {
	d.t.Helper()
	text := d.head + strings.ReplaceAll(rules, "PROGRAM", d.recording.Program)
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: []byte(text)}}, "m.hcl", "")
	require.NoError(d.t, err)
	require.Empty(d.t, diags)
	builds, diags, err := compile.All(mp, nil, nil)
	require.NoError(d.t, err)
	require.False(d.t, diags.HasErrors(), "%v", diags)
	return install.Items(builds[0])
}

// install makes the session have what a mapping says, and says what was done.
func (d *desk) install(rules string) *install.Plan {
	d.t.Helper()
	return d.carry(install.Wanted{Installed: install.Installed{Machine: "office", Items: d.items(rules)}})
}

func (d *desk) carry(want install.Wanted) *install.Plan {
	d.t.Helper()
	book := d.machine.Book()
	s, err := install.Begin(install.Installer{Machine: d.machine, Book: book}, time.Now(), book.Lock)
	require.NoError(d.t, err)
	defer s.End()
	plan, err := s.Plan(want)
	require.NoError(d.t, err)
	require.NoError(d.t, s.Carry(s.Journal, plan, install.Terms{}))
	return plan
}

// installedAndBack goes the way of a user: a mapping is put in place and pressed, one rule leaves it and another comes,
// which is pressed, and everything is restored. Then the user's own chord works again.
func (d *desk) installedAndBack() {
	d.pressedAndBack()
	d.tapUntil("the user's own chord", d.recording.Expect("own\x00", []string{"one\x00", "two\x00"}), codes("F8")...)
}

func (d *desk) pressedAndBack() {
	t := d.t
	const one = "launch \"Ctrl+Alt+g\" { run = [\"PROGRAM\", \"one\"] }\naction \"Meta+F7\" { does = \"close\" }\n"
	const two = "launch \"Ctrl+Alt+b\" { run = [\"PROGRAM\", \"two\"] }\nrepeat { delay = \"300ms\" }\n"
	all := []string{"own\x00", "one\x00", "two\x00"}
	silent := func(what string, chord []int, says string) {
		t.Helper()
		time.Sleep(2 * time.Second)
		done := d.recording.Expect(says, without(all, says))
		d.tap(chord...)
		time.Sleep(2 * time.Second)
		assert.False(t, done(), what)
	}
	g, b := codes("ControlLeft", "AltLeft", "KeyG"), codes("ControlLeft", "AltLeft", "KeyB")
	require.False(t, d.install(one).Empty())
	d.tapUntil("the chord of the mapping", d.recording.Expect("one\x00", without(all, "one\x00")), g...)
	assert.True(t, d.install(one).Empty(), "installed twice")
	require.False(t, d.install(two).Empty())
	d.tapUntil("the chord of the edited mapping", d.recording.Expect("two\x00", without(all, "two\x00")), b...)
	silent("a rule that is gone still starts its program", g, "one\x00")
	require.False(t, d.carry(install.Wanted{}).Empty())
	silent("what was taken back still starts its program", b, "two\x00")
	// So it does by the script beside the journal, which needs no leitstand.
	require.False(t, d.install(one).Empty())
	d.tapUntil("the chord of the mapping again", d.recording.Expect("one\x00", without(all, "one\x00")), g...)
	d.restoreByScript()
	silent("what the script has taken back still starts its program", g, "one\x00")
}

// restoreByScript takes all back as somebody does who has a shell only. Afterwards nothing is left to be done.
func (d *desk) restoreByScript() {
	d.t.Helper()
	book := d.machine.Book()
	s, err := install.Begin(install.Installer{Machine: d.machine, Book: book}, time.Now(), book.Lock)
	require.NoError(d.t, err)
	require.NoError(d.t, d.machine.KeepScripts(s.Journal))
	cmd := exec.Command("sh", filepath.Join(d.machine.StateFolder(), "restore.sh"))
	cmd.Env = d.machine.Env
	out, err := cmd.CombinedOutput()
	require.NoError(d.t, err, "%s", out)
	require.NotContains(d.t, string(out), "was not told")
	plan, err := s.Plan(install.Wanted{})
	require.NoError(d.t, err)
	require.Empty(d.t, plan.Steps)
	require.NoError(d.t, s.Carry(s.Journal, plan, install.Terms{}))
	require.NoError(d.t, d.machine.KeepScripts(s.Journal))
	s.End()
}

func without(list []string, one string) (rest []string) {
	for _, s := range list {
		if s != one {
			rest = append(rest, s)
		}
	}
	return rest
}

// tree is every file below a folder with its bytes, its mode and its time, but for those in some folders.
func tree(t *testing.T, dir string, not ...string) map[string]string {
	t.Helper()
	list := map[string]string{}
	err := filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		name, _ := filepath.Rel(dir, p)
		for _, n := range not {
			if name == n {
				if e != nil && e.IsDir() {
					return filepath.SkipDir
				}
				return nil
			}
		}
		if err != nil {
			return err
		}
		info, err := e.Info()
		if err != nil {
			return err
		}
		if !info.Mode().IsRegular() {
			list[name] = info.Mode().String()
			return nil
		}
		data, err := os.ReadFile(p)
		list[name] = fmt.Sprintf("%s %v %q", info.Mode(), info.ModTime().UnixNano(), data)
		return err
	})
	require.NoError(t, err)
	return list
}

func machine(desktop, session string) string {
	return fmt.Sprintf(
		"machine \"office\" {\n  system  = \"linux\"\n  desktop = %q\n  session = %q\n  layouts = [\"us\"]\n}\n",
		desktop,
		session,
	)
}

// keymapOf is the keymap that a server has, without the names of its parts and what it says for nothing, which do not
// survive their way through a file.
func keymapOf(server *realtest.Server) string {
	var lines []string
	for line := range strings.Lines(server.Run("xkbcomp", "-w0", "-xkb", server.Display, "-")) {
		if !strings.HasPrefix(line, "xkb_") && !strings.Contains(line, "]= Level1;") {
			lines = append(lines, line)
		}
	}
	return strings.Join(lines, "")
}

// A mapping is put in place in a running session of i3, and taken back to the byte, with the keymap of the server.
func TestInstalledUnderI3(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "i3", "i3-wm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	own := "bindsym F8 exec \"'" + recording.Program + "' own\"\n# no end"
	config := filepath.Join(home, ".config/i3/config")
	require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
	require.NoError(t, os.WriteFile(config, []byte(own), 0o640))
	require.NoError(t, os.Chtimes(config, time.Time{}, time.Unix(1700000000, 5)))
	server.Session(env, "exec i3")
	server.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	d := &desk{
		t, &live.Machine{Home: home, Env: server.Env(env...)}, recording, server.Tap, server.TapUntil,
		machine("i3", "x11"),
	}
	before, keymap := tree(t, home, "run", "log"), keymapOf(server)
	d.installedAndBack()
	assert.Equal(t, before, tree(t, home, "run", "log"))

	const hyper, chord = "hyper \"CapsLock\" {}\n", "remap \"Ctrl+Alt+c\" { to = \"Ctrl+c\" }\n"
	const layer = "layer \"signs\" {\n  while = \"ControlRight\"\n  keys = { KeyE = \"ArrowUp\" }\n}\n"
	const chords = chord + "remap \"Meta+Shift+x\" { to = \"Ctrl+x\" }\nremap \"Alt+Digit1\" { to = \"Ctrl+Shift+b\" }\n"
	for _, mappings := range [][]string{{hyper}, {chord}, {layer}, {chords, chord, hyper}, {hyper, chords + layer, chord}} {
		was := keymap
		for _, rules := range mappings { // one after the other, with fewer types of keys, or more
			d.install(rules)
			require.NotEqual(t, was, keymapOf(server), rules)
			was = keymapOf(server)
		}
		d.carry(install.Wanted{})
		assert.Equal(t, keymap, keymapOf(server), mappings)
		assert.Equal(t, before, tree(t, home, "run", "log"), mappings)
	}
	d.install(chord)
	d.restoreByScript()
	assert.Equal(t, keymap, keymapOf(server))
}

// So it is in a whole session of GNOME, whose settings are then as they were.
func TestInstalledInGnome(t *testing.T) {
	t.Parallel()
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	const at = "/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings"
	s := realtest.GnomeSession(t, home, env, home, strings.Join([]string{
		"dconf write " + at + " \"['" + at + "/custom0/']\"", "dconf write " + at + "/custom0/name \"'own'\"",
		"dconf write " + at + "/custom0/binding \"'F8'\"",
		"dconf write " + at + "/custom0/command \"\\\"'" + recording.Program + "' own\\\"\"",
		"dconf write /org/gnome/desktop/wm/keybindings/close \"['<Super>F4']\"",
		"dconf write /org/gnome/desktop/peripherals/keyboard/delay \"uint32 444\"",
	}, "\n"))
	s.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	before := s.Dump()
	d := &desk{t, &live.Machine{Home: home, Env: s.Env()}, recording, s.Tap, s.TapUntil, machine("gnome", "wayland")}
	d.installedAndBack()
	assert.Equal(t, before, s.Dump())
}

// Xfce's daemon is told, and tells whom it concerns; afterwards its store has the values, and the types, that it had.
func TestInstalledUnderXfce(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	server.Session(
		env,
		tellBus+"xfconf-query -c xfce4-keyboard-shortcuts -p /commands/custom/override -n -t bool -s true\n"+
			"xfconf-query -c xfce4-keyboard-shortcuts -p /commands/custom/F8 -n -t string -s \"'"+recording.Program+"' own\"\n"+
			"xfconf-query -c keyboards -p /Default/KeyRepeat/Delay -n -t uint -s 444\n"+
			"exec xfsettingsd --no-daemon --disable-wm-check --replace",
	)
	all := server.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+busOf(t, home))...)
	server.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	had := func() (list string) {
		for _, channel := range []string{"xfce4-keyboard-shortcuts", "keyboards", "xfwm4"} {
			cmd := exec.Command("gdbus", "call", "--session", "--dest", "org.xfce.Xfconf", "--object-path",
				"/org/xfce/Xfconf", "--method", "org.xfce.Xfconf.GetAllProperties", channel, "/")
			cmd.Env = all
			out, _ := cmd.Output() // no such channel yet
			list += channel + " " + string(out)
		}
		return list
	}
	before := had()
	require.Contains(t, before, "uint32 444")
	d := &desk{t, &live.Machine{Home: home, Env: all}, recording, server.Tap, server.TapUntil, machine("xfce", "x11")}
	d.installedAndBack()
	assert.Equal(t, before, had())
}

// Xfce's window manager has one chord for an action: ours works whatever a user has, and those of the user are back
// afterwards, by restore, by its script, and by the steps of the compiled folder.
func TestOneChordUnderXfwm4(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "xfwm4", "xfwm4")
	realtest.Need(t, "xterm", "xterm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	const set = "xfconf-query -c xfce4-keyboard-shortcuts -n -t string -p '/xfwm4/custom/"
	server.Session(env, tellBus+
		"xfconf-query -c xfce4-keyboard-shortcuts -p /xfwm4/custom/override -n -t bool -s true\n"+
		set+"<Alt>F4' -s close_window_key\n"+set+"<Super>w' -s close_window_key\n"+set+"<Alt>F10' -s maximize_window_key\n"+
		"touch \"$XDG_RUNTIME_DIR/set\"\nexec xfwm4 --compositor=off")
	realtest.WaitFor(t, "the user's chords", func() bool {
		_, err := os.Stat(filepath.Join(home, "run/set"))
		return err == nil && server.Output("xdotool", "get_num_desktops") != ""
	})
	all := server.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+busOf(t, home))...)
	run := func(words ...string) string {
		cmd := exec.Command(words[0], words[1:]...)
		cmd.Env, cmd.Dir = all, home
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
		return string(out)
	}
	chords := func() string {
		lines := slices.DeleteFunc(
			strings.Split(run("xfconf-query", "-c", "xfce4-keyboard-shortcuts", "-l", "-v"), "\n"),
			func(line string) bool { return !strings.Contains(line, "/custom/") },
		)
		slices.Sort(lines)
		return strings.Join(lines, "\n")
	}
	closes := func(chord ...string) bool {
		server.Background(exec.Command("xterm", "-display", server.Display))
		realtest.WaitFor(t, "the window", func() bool { return server.Window("xterm").Width > 0 })
		realtest.WaitFor(t, "the window to be active", func() bool {
			server.Output("xdotool", "search", "--onlyvisible", "--class", "xterm", "windowactivate")
			return strings.TrimSpace(server.Output("xdotool", "getactivewindow")) ==
				strings.TrimSpace(server.Output("xdotool", "search", "--onlyvisible", "--class", "xterm"))
		})
		server.Tap(codes(chord...)...)
		for until := time.Now().Add(3 * time.Second); time.Now().Before(until); time.Sleep(50 * time.Millisecond) {
			if server.Window("xterm").Width == 0 {
				return true
			}
		}
		server.Output("xdotool", "search", "--onlyvisible", "--class", "xterm", "windowkill")
		realtest.WaitFor(t, "the window to go", func() bool { return server.Window("xterm").Width == 0 })
		return false
	}
	before := chords()
	d := &desk{t, &live.Machine{Home: home, Env: all}, &realtest.Recording{}, server.Tap, server.TapUntil, machine("xfce", "x11")}
	const rule = "action \"Meta+F7\" { does = \"close\" }\n"
	require.False(t, d.install(rule).Empty())
	assert.Equal(t, 1, strings.Count(chords(), "close_window_key"))
	assert.True(t, closes("MetaLeft", "F7"))
	assert.False(t, closes("AltLeft", "F4"))
	assert.True(t, d.install(rule).Empty(), "installed twice")
	d.install("action \"Meta+F6\" { does = \"close\" }\n")
	assert.Equal(t, 1, strings.Count(chords(), "close_window_key"))
	d.carry(install.Wanted{})
	assert.Equal(t, before, chords())
	assert.False(t, closes("MetaLeft", "F7"))
	d.install(rule)
	d.restoreByScript()
	assert.Equal(t, before, chords())

	do, undo := change.Steps(install.Changes(d.items(rule)))
	for _, steps := range []struct {
		list  []change.Step
		close int
	}{{do, 1}, {do, 1}, {undo, 2}} {
		for _, s := range steps.list {
			run("sh", "-euc", strings.Join(s.Lines, "\n"))
		}
		assert.Equal(t, steps.close, strings.Count(chords(), "close_window_key"))
	}
	assert.Equal(t, before, chords())
}

// Plasma's keeper takes chords of actions at once and gives them back; those of programs stand in its file, and are
// read at the next log-in.
func TestInstalledInPlasma(t *testing.T) {
	t.Parallel()
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	s := realtest.PlasmaSession(t, home, env, home, "")
	d := &desk{t, &live.Machine{Home: home, Env: s.Env()}, recording, s.Tap, s.TapUntil, machine("plasma", "wayland")}
	chords := func(name string) string {
		v, err := d.machine.Get(change.Keeper, "[kwin]"+name)
		require.NoError(t, err)
		return fmt.Sprint(v)
	}
	d.carry(install.Wanted{})
	closes, tiles := chords("Window Close"), chords("Window Quick Tile Left")
	require.Contains(t, closes, "Alt+F4")
	const settings = ".config/kcminputrc"
	had := "[Keyboard]\n# of the user's own\nRepeatRate=33\nOther=x\\sy\n\n[Mouse]\nX=1"
	require.NoError(t, os.WriteFile(filepath.Join(home, settings), []byte(had), 0o600))
	// The window manager writes its own settings at times of its own.
	others := []string{"run", "log", ".cache", ".config/kglobalshortcutsrc", ".config/kwinrc"}
	before := tree(t, home, others...)
	d.install(
		"action \"Meta+F7\" { does = \"close\" }\naction \"Alt+F4\" {\n  does  = \"tile-left\"\n  override = true\n}\n" +
			"launch \"Ctrl+Alt+g\" { run = [\"PROGRAM\", \"one\"] }\nrepeat {\n  delay = \"300ms\"\n  rate  = 20\n}\n",
	)
	assert.Contains(t, chords("Window Close"), "Meta+F7")
	assert.NotContains(t, chords("Window Close"), "Alt+F4")
	assert.Contains(t, chords("Window Quick Tile Left"), "Alt+F4")
	text, err := os.ReadFile(filepath.Join(home, settings))
	require.NoError(t, err)
	assert.Equal(
		t,
		strings.Replace(had, "RepeatRate=33\nOther=x\\sy\n", "RepeatRate=20\nOther=x\\sy\nRepeatDelay=300\n", 1),
		string(text),
	)
	d.install("action \"Meta+F7\" { does = \"close\" }\n")
	assert.Equal(t, tiles, chords("Window Quick Tile Left"))
	d.carry(install.Wanted{})
	assert.Equal(t, closes, chords("Window Close"))
	assert.Equal(t, before, tree(t, home, others...))
	d.pressedAndBack()
	d.install("action \"Meta+F7\" { does = \"close\" }\nrepeat { rate = 20 }\n")
	d.restoreByScript()
	assert.Equal(t, closes, chords("Window Close"))
	assert.Equal(t, before, tree(t, home, others...))
}

// After a log-in, Plasma's keeper knows the shortcuts of our desktop files, and has chords for them that actions of its own
// had. They have them again when all is restored, also once the script has done it.
func TestRestoredInPlasmaAfterLogIn(t *testing.T) {
	t.Parallel()
	for _, byScript := range []bool{false, true} {
		t.Run(fmt.Sprintf("script %v", byScript), func(t *testing.T) { restoredInPlasma(t, byScript) })
	}
}

func restoredInPlasma(t *testing.T, byScript bool) {
	home, env := realtest.Home(t)
	program := filepath.Join(t.TempDir(), "leitstand")
	out, err := exec.Command("go", "build", "-o", program, "leitstand/cmd/leitstand").CombinedOutput()
	require.NoError(t, err, "%s", out)
	const rules = "disable \"Alt+F3\" {}\nlaunch \"Meta+PageUp\" {\n  run   = \"xterm\"\n  override = true\n}\n" +
		"launch \"Ctrl+Alt+g\" { run = \"xterm\" }\n"
	require.NoError(t, os.WriteFile(filepath.Join(home, "m.hcl"), []byte(machine("plasma", "wayland")+rules), 0o600))
	s := realtest.PlasmaSession(t, home, env, home,
		program+" install -f m.hcl --machine office --yes > installed 2>&1")
	m := &live.Machine{Home: home, Env: s.Env()}
	chords := func(name string) string {
		v, err := m.Get(change.Keeper, "[kwin]"+name)
		require.NoError(t, err)
		return fmt.Sprint(v)
	}
	require.NotContains(t, chords("Window Operations Menu"), "Alt+F3")
	require.NotContains(t, chords("Window Maximize"), "Meta+PgUp")
	run := func(words ...string) {
		cmd := exec.Command(words[0], words[1:]...)
		cmd.Dir, cmd.Env = home, s.Env()
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	if byScript {
		run("sh", filepath.Join(m.StateFolder(), "restore.sh"))
	} else {
		run(program, "restore", "--yes")
	}
	assert.Contains(t, chords("Window Operations Menu"), "Alt+F3")
	assert.Contains(t, chords("Window Maximize"), "Meta+PgUp")
	// The keeper writes its file somewhat later.
	realtest.WaitFor(t, "the keeper's file without ours", func() bool {
		text, err := os.ReadFile(filepath.Join(home, ".config/kglobalshortcutsrc"))
		return err == nil && !strings.Contains(string(text), "leitstand")
	})
}

// busOf is the address of a session's bus, as its script tells it.
func busOf(t *testing.T, home string) string {
	t.Helper()
	var bus string
	realtest.WaitFor(t, "the bus", func() bool {
		text, err := os.ReadFile(filepath.Join(home, "run/bus-address"))
		bus = strings.TrimSpace(string(text))
		return err == nil && bus != ""
	})
	return bus
}

const tellBus = "echo \"$DBUS_SESSION_BUS_ADDRESS\" > \"$XDG_RUNTIME_DIR/bus-address\"\n"

// MATE's daemon and its window manager see what dconf is told at once.
func TestInstalledUnderMate(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "marco", "marco")
	daemon := "/usr/libexec/mate-settings-daemon"
	if _, err := os.Stat(daemon); err != nil {
		daemon = "/usr/bin/mate-settings-daemon" // up to 1.26.0
	}
	realtest.NeedFile(t, daemon, "mate-settings-daemon")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	const at = "/org/mate/desktop/keybindings/custom0/"
	server.Session(env, tellBus+"dconf write "+at+"action \"\\\"'"+recording.Program+"' own\\\"\"\n"+
		"dconf write "+at+"binding \"'F8'\"\ndconf write "+at+"name \"'own'\"\n"+
		"marco --no-composite & exec "+daemon)
	all := server.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+busOf(t, home))...)
	server.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	d := &desk{t, &live.Machine{Home: home, Env: all}, recording, server.Tap, server.TapUntil, machine("mate", "x11")}
	before, err := d.machine.DumpDconf()
	require.NoError(t, err)
	d.installedAndBack()
	after, err := d.machine.DumpDconf()
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after))
}

// sway loads its configuration anew when a mapping comes, changes, and goes. It must not run as root.
func TestInstalledUnderSway(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "sway", "sway")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	config := filepath.Join(home, ".config/sway/config")
	require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
	require.NoError(
		t,
		os.WriteFile(config, []byte("xwayland disable\nbindsym F8 exec \"'"+recording.Program+"' own\"\n# no end"),
			0o644),
	)
	socket := filepath.Join(home, "run/sway.sock")
	env = append(env, "WLR_RENDERER=pixman", "WLR_NO_HARDWARE_CURSORS=1", "SWAYSOCK="+socket)
	server.Background(server.Nobody(home, env)("WLR_BACKENDS=x11", "sway"))
	server.TapUntil(
		"the user's own chord",
		func() bool { server.Focus("sway"); return recording.Any() },
		codes("F8")...)
	d := &desk{
		t, &live.Machine{Home: home, Env: server.Env(env...)}, recording, server.Tap, server.TapUntil,
		machine("sway", "wayland"),
	}
	before := tree(t, home, "run", "log", ".cache")
	d.installedAndBack()
	assert.Equal(t, before, tree(t, home, "run", "log", ".cache"))
}
