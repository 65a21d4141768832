package dconf_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/dconf"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func need(t *testing.T) {
	realtest.Need(t, "dconf", "dconf-cli")
	realtest.Need(t, "gsettings", "libglib2.0-bin")
	schemas := "/usr/share/glib-2.0/schemas/"
	realtest.NeedFile(t, schemas+"org.gnome.desktop.wm.keybindings.gschema.xml", "gsettings-desktop-schemas")
	realtest.NeedFile(t, schemas+"org.gnome.shell.gschema.xml", "gnome-shell-common")
	realtest.NeedFile(
		t, schemas+"org.gnome.settings-daemon.plugins.media-keys.gschema.xml", "gnome-settings-daemon-common",
	)
	realtest.NeedFile(t, schemas+"org.mate.control-center.keybinding.gschema.xml", "mate-control-center-common")
	realtest.NeedFile(t, schemas+"org.cinnamon.desktop.keybindings.gschema.xml", "cinnamon-desktop-data")
}

// schemaOf finds the schema of a folder: those of the desktops have the folder as
// their path, the user's own shortcuts share one.
func schemaOf(folder string) string {
	for prefix, schema := range map[string]string{
		"org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/": "org.gnome.settings-daemon.plugins.media-keys.custom-keybinding",
		"org/mate/desktop/keybindings/":                                    "org.mate.control-center.keybinding",
		"org/cinnamon/desktop/keybindings/custom-keybindings/":             "org.cinnamon.desktop.keybindings.custom-keybinding",
	} {
		if strings.HasPrefix(folder, prefix) {
			return schema + ":/" + folder + "/"
		}
	}
	for from, to := range map[string]string{
		"org/mate/marco": "org/mate/Marco", "org/mate/settings-daemon": "org/mate/SettingsDaemon",
		"org/mate/desktop/peripherals/keyboard": "org/mate/peripherals-keyboard",
	} {
		folder = strings.Replace(folder, from, to, 1)
	}
	return strings.ReplaceAll(folder, "/", ".")
}

// Every value of the keyfile, loaded into a real database, comes back through the
// desktop's own schema: the key exists there, and the value is of its type.
func TestSchemasTakeEveryValue(t *testing.T) {
	need(t)
	for _, desktop := range desktops {
		t.Run(desktop, func(t *testing.T) {
			m := machine(desktop, "de")
			w := dconf.Mechanism{Desktop: desktop}
			list := sample.Actions(func(b mechanism.Binding) bool { return w.Take(m, b).Verdict >= mechanism.Limited })
			taken := sample.Act(keys.Ctrl|keys.Alt, "Delete", "show-desktop")
			taken.Override = true
			list = append(list, taken, sample.Setting("repeat delay", "220ms"), sample.Setting("repeat rate", "40/s"),
				sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}}))
			if desktop == "gnome" {
				list = append(
					list,
					mechanism.Binding{
						Level:  behaviour.Hotkey,
						Chord:  keys.Chord{Mods: keys.Meta},
						Effect: behaviour.Effect{Kind: behaviour.Nothing},
					},
				)
			}
			out, err := mechanism.Write(w, m, list)
			require.NoError(t, err)
			home, env := realtest.Home(t)
			file := filepath.Join(home, "in.ini")
			require.NoError(t, os.WriteFile(file, out.Files()[0].Data, 0o644))
			script := "set -e\ndconf load / < " + file + "\n"
			var want []string
			folder := ""
			for line := range strings.Lines(string(out.Files()[0].Data)) {
				line = strings.TrimSuffix(line, "\n")
				if strings.HasPrefix(line, "[") {
					folder = strings.Trim(line, "[]")
				} else if name, value, ok := strings.Cut(line, "="); ok {
					script += fmt.Sprintf("gsettings get %s %s\n", schemaOf(folder), name)
					want = append(want, schemaOf(folder)+" "+name+" "+value)
				}
			}
			stdout := realtest.Bus(t, env, script)
			got := strings.Split(strings.TrimSuffix(stdout, "\n"), "\n")
			require.Len(t, got, len(want))
			for i, line := range want {
				name, value, _ := strings.Cut(line, " ")
				key, value, _ := strings.Cut(value, " ")
				// gsettings prints a text with a quote in double quotes.
				if strings.HasPrefix(got[i], `"`) {
					value = `"` + strings.ReplaceAll(
						strings.ReplaceAll(value[1:len(value)-1], `\'`, `'`),
						`"`,
						`\"`,
					) + `"`
				}
				assert.Equal(t, name+" "+key+" "+value, name+" "+key+" "+got[i])
			}
		})
	}
}

// What the database prints of itself is taken over as it was meant, whatever it holds
// beside.
func TestImportsWhatIsDumped(t *testing.T) {
	need(t)
	for _, desktop := range desktops {
		t.Run(desktop, func(t *testing.T) {
			m := machine(desktop, "de")
			w := dconf.Mechanism{Desktop: desktop}
			list := []mechanism.Binding{
				sample.Act(keys.Hyper, "KeyQ", "close"),
				sample.Off(keys.Ctrl|keys.Alt, "Delete"),
				sample.Setting("repeat delay", "220ms"),
				sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}}),
			}
			out, err := mechanism.Write(w, m, list)
			require.NoError(t, err)
			home, env := realtest.Home(t)
			file := filepath.Join(home, "in.ini")
			require.NoError(t, os.WriteFile(file, out.Files()[0].Data, 0o644))
			dump := realtest.Bus(
				t,
				env,
				"set -e\nsh -c '"+strings.ReplaceAll(
					strings.Join(append([]string{"dconf load / < " + file}, more(out)...), "\n"),
					"'",
					`'\''`,
				)+"'\n"+
					"gsettings set org.gnome.desktop.interface clock-format 24h\ngsettings set "+
					"org.gnome.desktop.input-sources sources \"[('xkb', 'de')]\"\ndconf dump /",
			)
			require.True(t, w.Knows("dump", []byte(dump)), "%s", dump)
			got, err := w.Import(m, []byte(dump), nil)
			require.NoError(t, err)
			assert.Empty(t, got.Left)
			assert.Empty(t, behaviour.Compare(list, got.Bindings), "%s", dump)
		})
	}
}

// more are the lines of the steps behind the one that loads the file.
func more(out mechanism.Output) []string {
	var lines []string
	for _, s := range out.Steps()[1:] {
		lines = append(lines, s.Lines...)
	}
	return lines
}

// Settings for everyone, compiled by dconf as the system's database, come back through
// the schemas, and no user may write them.
func TestEveryoneIsCompiledAndLocked(t *testing.T) {
	need(t)
	for _, desktop := range desktops {
		t.Run(desktop, func(t *testing.T) {
			m := machine(desktop, "de")
			list := []mechanism.Binding{
				sample.Act(keys.Hyper, "KeyQ", "close"),
				sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}}),
				sample.Setting("repeat delay", "220ms"),
			}
			for i := range list {
				list[i].Everyone = true
				require.GreaterOrEqual(t, dconf.Mechanism{Desktop: desktop}.Take(m, list[i]).Verdict, mechanism.Limited)
			}
			out, err := mechanism.Write(dconf.Mechanism{Desktop: desktop}, m, list)
			require.NoError(t, err)
			home, env := realtest.Home(t)
			db := filepath.Join(home, "local.d")
			require.NoError(t, os.MkdirAll(filepath.Join(db, "locks"), 0o755))
			require.NoError(t, os.WriteFile(filepath.Join(db, "90-leitstand"), out.Files()[0].Data, 0o644))
			require.NoError(t, os.WriteFile(filepath.Join(db, "locks/90-leitstand"), out.Files()[1].Data, 0o644))
			profile := filepath.Join(home, "profile")
			require.NoError(
				t, os.WriteFile(profile, []byte("user-db:user\nfile-db:"+filepath.Join(home, "local")+"\n"), 0o644),
			)
			script := "set -e\ndconf compile " + filepath.Join(home, "local") + " " + db + "\n"
			n := 0
			for key := range strings.Lines(string(out.Files()[1].Data)) {
				key = strings.TrimSuffix(key, "\n")
				script += fmt.Sprintf(
					"test -n \"$(dconf read %s)\"; gsettings writable %s %s\n", key,
					schemaOf(strings.Trim(filepath.Dir(key), "/")), filepath.Base(key),
				)
				n++
			}
			assert.Equal(
				t, strings.Repeat("false\n", n), realtest.Bus(t, append(env, "DCONF_PROFILE="+profile), script),
			)
		})
	}
}

// The commands of STEPS.md keep the shortcuts that the user has already, may be run twice, and
// when all is taken back every value is as before.
func TestStepsKeepOwnShortcuts(t *testing.T) {
	need(t)
	for desktop, own := range map[string]string{"gnome": "'/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/custom0/'", "cinnamon": "'custom0'", "mate": ""} {
		m := machine(desktop, "us")
		list := []mechanism.Binding{
			sample.Launch(
				keys.Meta|keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}},
			), sample.Launch(keys.Meta|keys.Ctrl, "KeyG", behaviour.Launch{Open: "https://tides.example"}),
			sample.Act(keys.Meta, "KeyU", "close"), sample.Act(keys.Meta, "KeyY", "maximize"),
		}
		out, err := mechanism.Write(dconf.Mechanism{Desktop: desktop}, m, list)
		require.NoError(t, err)
		home, env := realtest.Home(t)
		require.NoError(t, os.MkdirAll(filepath.Join(home, "dconf"), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, out.Files()[0].Path), out.Files()[0].Data, 0o644))
		script := func(steps []mechanism.Step) string {
			lines := []string{"cd " + home}
			for _, s := range steps {
				lines = append(lines, s.Lines...)
			}
			return strings.Join(lines, "\n") + "\n"
		}
		before := ""
		for _, c := range out.Changes {
			switch c := c.(type) {
			case change.Member: // beside which the user has one already
				before += "dconf write " + c.Key + " \"[" + own + "]\"\n"
			case change.Setting:
				if strings.HasSuffix(c.Key, "/close") ||
					strings.HasSuffix(c.Key, "/close-window") { // which the user has otherwise
					_, list := c.To.(change.Texts)
					before += "dconf write " + c.Key + " " + map[bool]string{true: `"['<Super>x', 'a\\\\b']"`, false: `"'<Mod4>x'"`}[list] + "\n"
				}
			}
		}
		had := realtest.Bus(t, env, "set -e\n"+before+"dconf dump /\n")
		require.Contains(t, had, "close=")
		assert.Equal(t, had, realtest.Bus(t, env, "set -e\n"+script(out.Back())+"dconf dump /\n"), "what was never "+
			"done is not taken back")
		has := realtest.Bus(t, env, "set -e\n"+script(out.Steps())+script(out.Steps())+"dconf dump /\n")
		require.Equal(t, 2, strings.Count(has, "name='Leitstand "), has)
		if own != "" {
			assert.Contains(t, has, "=["+own+", ")
		}
		assert.Equal(t, had, realtest.Bus(t, env, "set -e\n"+script(out.Back())+"dconf dump /\n"))
	}
}

// desktopWith starts a desktop's programs with the compiled keyfile and a terminal.
func desktopWith(
	t *testing.T, m *mechanism.Machine, list []mechanism.Binding, start string,
) (server *realtest.Server, home string) {
	t.Helper()
	realtest.Need(t, "xterm", "xterm")
	server = realtest.XServer(t)
	home, env := realtest.Home(t)
	layout, err := mechanism.Write(xkb.Mechanism{}, m, []mechanism.Binding{sample.Modifier("CapsLock", keys.Hyper)})
	require.NoError(t, err)
	for _, f := range layout.Files() {
		if file := filepath.Join(home, "keymap.xkb"); strings.HasSuffix(f.Path, "keymap.xkb") {
			require.NoError(t, os.WriteFile(file, f.Data, 0o644))
			server.LoadKeymap(file)
		}
	}
	out, err := mechanism.Write(dconf.Mechanism{Desktop: m.Desktop}, m, list)
	require.NoError(t, err)
	file := filepath.Join(home, "in.ini")
	require.NoError(t, os.WriteFile(file, out.Files()[0].Data, 0o644))
	server.Session(
		append(env, "LIBGL_ALWAYS_SOFTWARE=1", "XDG_SESSION_TYPE=x11"),
		"dconf load / < "+file+"; "+start+" sleep 3; xterm -class one -geometry 40x10+300+200 & wait",
	)
	realtest.WaitFor(t, "the window", func() bool { return server.Window("one").Width > 0 })
	return server, home
}

// tiles presses the chord of tile-left until the window fills the left half.
func tiles(t *testing.T, server *realtest.Server, b mechanism.Binding, is func(w realtest.Window) bool) {
	t.Helper()
	realtest.WaitFor(t, b.String(), func() bool {
		server.Tap(sample.Evdevs(b.Chord)...)
		time.Sleep(time.Second) // a second press would undo the first
		return is(server.Window("one"))
	})
}

func leftHalf(w realtest.Window) bool {
	return w.X < 60 && w.Width > 420 && w.Width <= 510 && w.Height > 480
}

func whole(w realtest.Window) bool { return w.Width > 950 && w.Height > 500 }

func rightHalf(w realtest.Window) bool { return w.X > 450 && w.Width > 420 && w.Width <= 510 }

// marco and mate-settings-daemon, given the compiled keyfile, tile windows and start
// commands, exactly so; a chord that is switched off does nothing.
func TestPressedUnderMate(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "mate", "marco", "chords tile and maximize windows; one that is switched off does nothing")
	realtest.Pressed(t, "mate", "MATE Settings Daemon", "chords start programs")
	need(t)
	realtest.Need(t, "marco", "marco")
	daemon := "/usr/libexec/mate-settings-daemon"
	if _, err := os.Stat(daemon); err != nil {
		daemon = "/usr/bin/mate-settings-daemon" // up to 1.26.0
	}
	realtest.NeedFile(t, daemon, "mate-settings-daemon")
	m := machine("mate", "de")
	base := t.TempDir()
	recording := realtest.Recorder(t, base)
	program := recording.Program
	left, right := sample.Act(keys.Meta, "ArrowLeft", "tile-left"), sample.Act(keys.Hyper, "ArrowRight", "tile-right")
	off := sample.Off(keys.Alt, "F4")
	starts := []mechanism.Binding{
		sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, ""}}),
		sample.Launch(
			keys.Meta|keys.Shift, "KeyZ", behaviour.Launch{Command: []string{program, "two", "~/log 3"}, Dir: "~"},
		),
		sample.Launch(keys.Ctrl|keys.Alt, "KeyZ", behaviour.Launch{Command: []string{program, "three"}}),
	}
	maximize := sample.Act(keys.Meta, "KeyM", "maximize")
	server, home := desktopWith(
		t, m, append([]mechanism.Binding{left, right, maximize, off}, starts...), "marco --no-composite & "+daemon+" &",
	)
	tiles(t, server, left, leftHalf)
	tiles(t, server, right, rightHalf)
	tiles(t, server, maximize, whole)
	want := []string{
		"one\x00" + sample.Nasty + "\x00\x00in ",
		"two\x00" + home + "/log 3\x00in " + home + "\x00",
		"three\x00",
	}
	server.TapUntil("the first shortcut", recording.Any, sample.Evdevs(starts[2].Chord)...)
	for i, b := range starts {
		done := recording.Expect(want[i], want)
		server.Tap(sample.Evdevs(b.Chord)...)
		realtest.WaitFor(t, b.String(), done)
	}
	server.Tap(sample.Evdevs(off.Chord)...)
	time.Sleep(time.Second)
	assert.Positive(t, server.Window("one").Width, "Alt+F4 closed the window, and was switched off")
}

// mutter and muffin, the window managers of GNOME and Cinnamon, given the compiled
// keyfile, tile and close windows.
func TestPressedUnderMutterAndMuffin(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "gnome", "mutter", "on X11, chords tile, maximize and close windows")
	realtest.Pressed(t, "cinnamon", "muffin", "chords tile, maximize and close windows")
	need(t)
	for desktop, start := range map[string]string{"gnome": "mutter --x11 --sm-disable &", "cinnamon": "muffin --sm-disable &"} {
		t.Run(desktop, func(t *testing.T) {
			program, _, _ := strings.Cut(start, " ")
			realtest.Need(t, program, program)
			realtest.NeedFile(
				t, "/usr/share/glib-2.0/schemas/org.cinnamon.settings-daemon.peripherals.gschema.xml",
				"cinnamon-settings-daemon",
			) // muffin ends without it
			m := machine(desktop, "de")
			left, right, end := sample.Act(keys.Hyper|keys.Shift, "KeyZ", "tile-left"), sample.Act(
				keys.Meta, "ArrowRight", "tile-right",
			), sample.Act(keys.Hyper, "KeyQ", "close")
			maximize := sample.Act(keys.Meta|keys.Ctrl, "KeyM", "maximize")
			server, _ := desktopWith(t, m, []mechanism.Binding{left, right, maximize, end}, start)
			tiles(t, server, left, leftHalf)
			tiles(t, server, right, rightHalf)
			tiles(t, server, maximize, whole)
			server.Tap(sample.Evdevs(end.Chord)...)
			realtest.WaitFor(t, "the window to close", func() bool { return server.Window("one").Width == 0 })
		})
	}
}
