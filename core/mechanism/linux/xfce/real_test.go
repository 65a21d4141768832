package xfce_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xfce"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func machine(layouts ...string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: "xfce", Session: "x11", Layouts: layouts})
}

// xfsettingsd, given the compiled file in a fresh home and the compiled keymap,
// starts the commands of the chords that are pressed.
func TestPressedUnderXfsettingsd(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "xfce", "xfsettingsd", "chords start programs")
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	realtest.Need(t, "xfconf-query", "xfconf")
	for _, layouts := range [][]string{{"fr", "us"}, {"ru", "de"}} {
		t.Run(strings.Join(layouts, ","), func(t *testing.T) {
			m := machine(layouts...)
			server := realtest.XServer(t)
			home, env := realtest.Home(t)
			recording := realtest.Recorder(t, home)
			program := recording.Program
			bindings := []mechanism.Binding{
				sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty}}),
				sample.Launch(
					keys.Ctrl|keys.Alt, "KeyZ", behaviour.Launch{Command: []string{program, "two", "", "ende"}},
				),
				sample.Launch(
					keys.Meta|keys.Shift, "Digit7",
					behaviour.Launch{Command: []string{"~/record it", "three", "~/a b"}, Dir: "~/a b"},
				),
				sample.Launch(0, "F9", behaviour.Launch{Command: []string{program, "four"}}),
				sample.Launch(keys.Hyper|keys.Shift, "ArrowLeft", behaviour.Launch{App: "gauge.desktop"}),
				sample.Launch(keys.Hyper|keys.Ctrl, "Minus", behaviour.Launch{Command: []string{program, "six"}}),
			}
			m.DesktopVersion = realtest.Version("xfce4-settings")
			single := sample.Launch(keys.MetaRight, "KeyA", behaviour.Launch{Command: []string{program, "alone"}})
			single.Chord.Key = keys.None
			old := xfce.Mechanism{}.Take(m, single).Verdict == mechanism.Unavailable
			if !old {
				bindings = append(bindings, single)
			}
			for _, b := range bindings {
				require.GreaterOrEqual(t, xfce.Mechanism{}.Take(m, b).Verdict, mechanism.Limited, b.String())
			}
			out, err := mechanism.Write(xfce.Mechanism{}, m, bindings)
			require.NoError(t, err)
			config := filepath.Join(home, ".config/xfce4/xfconf/xfce-perchannel-xml")
			apps := filepath.Join(home, ".local/share/applications")
			for _, dir := range []string{config, apps, filepath.Join(home, "a b")} {
				require.NoError(t, os.MkdirAll(dir, 0o755))
			}
			text := string(out.Files()[0].Data)
			if old { // which has what a modifier does alone, but not as it is meant
				const override = `<property name="override" type="bool" value="true"></property>`
				require.Contains(t, text, override)
				text = strings.Replace(
					text,
					override,
					override+`<property name="Super_R" type="string" value="'`+program+`' alone"/>`,
					1,
				)
			}
			require.NoError(t, os.WriteFile(filepath.Join(config, "xfce4-keyboard-shortcuts.xml"), []byte(text), 0o644))
			require.NoError(t, os.WriteFile(
				filepath.Join(apps, "gauge.desktop"),
				[]byte(fmt.Sprintf("[Desktop Entry]\nType=Application\nName=Gauge\nExec=\"%s\" five\n", program)),
				0o644,
			))

			layout, err := mechanism.Write(
				xkb.Mechanism{},
				m,
				[]mechanism.Binding{
					{
						Chord:  keys.Chord{Key: sample.Key("CapsLock")},
						Effect: behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Hyper},
					},
				},
			)
			require.NoError(t, err)
			keymap := filepath.Join(home, "keymap.xkb")
			for _, f := range layout.Files() {
				if strings.HasSuffix(f.Path, "keymap.xkb") {
					require.NoError(t, os.WriteFile(keymap, f.Data, 0o644))
				}
			}
			// The layout panel of the settings daemon would put its own keymap on top.
			require.NoError(
				t,
				os.WriteFile(
					filepath.Join(config, "keyboard-layout.xml"),
					[]byte(`<?xml version="1.0" encoding="UTF-8"?>
<channel name="keyboard-layout" version="1.0"><property name="Default" type="empty"><property name="XkbDisable" type="bool" value="true"/></property></channel>
`),
					0o644,
				),
			)
			server.LoadKeymap(keymap)
			server.Session(append(env, "DISPLAY="+server.Display), "xfsettingsd --no-daemon --disable-wm-check "+
				"--replace & wait")

			server.TapUntil("the first shortcut", recording.Any, sample.Evdevs(bindings[3].Chord)...)
			want := []string{
				"one\x00" + sample.Nasty + "\x00in ",
				"two\x00\x00ende\x00in ",
				"three\x00" + filepath.Join(home, "a b") + "\x00in " + filepath.Join(home, "a b") + "\x00",
				"four\x00in ",
				"five\x00in ",
				"six\x00in ",
			}
			kept := realtest.Specimen{
				Component: "xfsettingsd", Version: m.DesktopVersion, Layouts: layouts,
				Files: []string{"xfce4-keyboard-shortcuts.xml"}, Hyper: "CapsLock",
			}
			for i, b := range bindings[:6] {
				server.TapUntil(b.String(), recording.Expect(want[i], want), sample.Evdevs(b.Chord)...)
				if b.Effect.Launch().App == "" {
					kept.Starts(b, recording, want[i])
				}
			}
			kept.Keep(t, "xfce-"+layouts[0], home, map[string][]byte{kept.Files[0]: []byte(text)})
			meta, more := sample.Evdev(sample.Key("MetaRight")), sample.Evdev(sample.Key("F8"))
			alone := recording.Expect("alone\x00", want)
			if old {
				server.TapUntil("what Xfce does by a modifier, though a chord begins with it", alone, meta, more)
				return
			}
			server.Tap(meta, more)
			time.Sleep(time.Second)
			assert.False(t, alone(), "Meta with another key is not Meta alone")
			server.TapUntil("what Xfce does by a modifier alone", alone, meta)
		})
	}
}

// The commands of STEPS.md set the same shortcuts on a running desktop, may be run twice, are not
// taken back where they were not done, and when all is taken back every property is as before.
func TestStepsSetOnRunningDesktop(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	realtest.Need(t, "xfconf-query", "xfconf")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	m := machine("us")
	b := sample.Launch(keys.Ctrl|keys.Alt, "KeyT", behaviour.Launch{Command: []string{program, sample.Nasty}})
	rate := sample.Setting("repeat rate", "47/s")
	out, err := mechanism.Write(xfce.Mechanism{}, m, []mechanism.Binding{b, rate})
	require.NoError(t, err)
	lines := func(steps []mechanism.Step) string {
		var list []string
		for _, s := range steps {
			list = append(list, s.Lines...)
		}
		return strings.Join(list, "\n")
	}
	dump := func(file string) string {
		return "for c in xfce4-keyboard-shortcuts keyboards; do xfconf-query -c $c -l -v 2>&1 | LC_ALL=C sort; " +
			"done > '" + filepath.Join(home, file) + "'\n"
	}
	server.Session(
		env,
		"xfsettingsd --no-daemon --disable-wm-check --replace & sleep 2\n"+dump("had")+lines(
			out.Back(),
		)+"\n"+lines(out.Steps())+"\n"+lines(out.Steps())+
			"\nwhile ! [ -e '"+home+"/back' ]; do sleep 0.1; done\n"+lines(
			out.Back(),
		)+"\n"+lines(out.Back())+"\n"+dump("has")+"touch '"+home+"/done'; wait",
	)
	realtest.WaitFor(t, "the repeat rate", func() bool {
		for line := range strings.Lines(server.Run("xset", "q")) {
			if strings.Contains(line, "repeat rate:") {
				// The server counts in whole milliseconds between repeats.
				return strings.HasSuffix(strings.TrimSpace(line), "47")
			}
		}
		return false
	})
	realtest.WaitFor(t, "the shortcut", func() bool {
		server.Tap(sample.Evdevs(b.Chord)...)
		return slices.ContainsFunc(
			recording.Starts(), func(s string) bool { return strings.HasPrefix(s, sample.Nasty+"\x00") },
		)
	})
	// xfconfd keeps it in a file of its own, in time.
	realtest.WaitFor(t, "xfconfd's file", func() bool {
		text, err := os.ReadFile(
			filepath.Join(home, ".config/xfce4/xfconf/xfce-perchannel-xml/xfce4-keyboard-shortcuts.xml"),
		)
		if err != nil {
			return false
		}
		got, err := xfce.Mechanism{}.Import(m, text, nil)
		return err == nil && len(got.Left) == 0 && len(behaviour.Compare(got.Bindings, []mechanism.Binding{b})) == 0
	})
	require.NoError(t, os.WriteFile(filepath.Join(home, "back"), nil, 0o644))
	realtest.WaitFor(
		t, "all to be taken back", func() bool { _, err := os.Stat(filepath.Join(home, "done")); return err == nil },
	)
	time.Sleep(time.Second)
	starts := len(recording.Starts())
	server.Tap(sample.Evdevs(b.Chord)...)
	time.Sleep(time.Second)
	assert.Len(t, recording.Starts(), starts)
	had, err := os.ReadFile(filepath.Join(home, "had"))
	require.NoError(t, err)
	assert.Contains(t, string(had), "/commands/custom/<Primary><Alt>t  ")
	has, err := os.ReadFile(filepath.Join(home, "has"))
	require.NoError(t, err)
	assert.Equal(t, string(had), string(has))
}

// What the system's files lock counts for a user who has it otherwise, and leaves alone what
// the user has beside; nobody can change it.
func TestEveryoneUnderXfsettingsd(t *testing.T) {
	realtest.Pressed(t, "xfce for everyone", "xfsettingsd", "chords start what the system's file locks, whatever "+
		"the user's own says")
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	realtest.Need(t, "xfconf-query", "xfconf")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	m := machine("us")
	w := xfce.Mechanism{}
	ours := sample.Launch(0, "F9", behaviour.Launch{Command: []string{program, "ours"}})
	off := sample.Off(0, "F7")
	list := []mechanism.Binding{off, ours, sample.Setting("repeat rate", "47/s")}
	for i := range list {
		list[i].Everyone = true
		require.Equal(t, mechanism.Exact, w.Take(m, list[i]).Verdict)
	}
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	got, err := w.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	require.Empty(t, behaviour.Compare(list, got))
	system := filepath.Join(home, "system")
	for _, f := range out.Files() {
		file := filepath.Join(system, strings.TrimPrefix(f.Goes, "/etc/leitstand/xdg"))
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, f.Data, 0o644))
	}
	// The user's own, otherwise.
	user, err := mechanism.Write(xfce.Mechanism{}, m, []mechanism.Binding{
		sample.Launch(
			0, "F7", behaviour.Launch{Command: []string{program, "theirs"}},
		), sample.Launch(0, "F8", behaviour.Launch{Command: []string{program, "beside"}}),
		sample.Launch(
			0, "F9", behaviour.Launch{Command: []string{program, "theirs"}},
		), sample.Setting("repeat rate", "20/s")})
	require.NoError(t, err)
	for _, f := range user.Files() {
		file := strings.Replace(f.Goes, "~", home, 1)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, f.Data, 0o644))
	}
	// root is not locked out.
	run := server.Nobody(home, env)
	server.Background(
		run(
			"XDG_CONFIG_DIRS="+system+":/etc/xdg",
			"dbus-run-session",
			"--",
			"sh",
			"-c",
			"xfsettingsd --no-daemon --disable-wm-check --replace & "+
				"sleep 2; xfconf-query -c xfce4-keyboard-shortcuts -p /commands/custom/F9 -n -t string -s \"'"+program+"' changed\"; wait",
		),
	)
	beside, want := recording.Expect("beside\x00", nil), []string{"ours\x00", "beside\x00"}
	server.TapUntil("what the user has beside", beside, sample.Evdev(sample.Key("F8")))
	server.TapUntil("what is locked", recording.Expect("ours\x00", want), sample.Evdev(sample.Key("F9")))
	recording.Expect("", nil)
	server.Tap(sample.Evdev(sample.Key("F7")))
	time.Sleep(time.Second)
	assert.False(t, recording.Any(), "F7 is switched off for everyone")
	assert.Regexp(t, `repeat rate:\s+47`, server.Run("xset", "q"))
}

// What programs were started with is what is read of the files.
func TestReadsSpecimens(t *testing.T) {
	for dir, s := range realtest.Specimens(t, "../../../..", "xfce") {
		data, err := os.ReadFile(filepath.Join(dir, s.Files[0]))
		require.NoError(t, err)
		m := machine(s.Layouts...)
		m.DesktopVersion = s.Version
		list, err := xfce.Mechanism{}.Read(m, mechanism.Folder{{Path: "xfce/" + s.Files[0], Data: data}})
		require.NoError(t, err)
		s.AsStarted(t, list)
	}
}

// xfwm4, given the compiled file, really tiles a window when the chord is pressed.
func TestTiledUnderXfwm4(t *testing.T) {
	realtest.Pressed(t, "xfce", "xfwm4", "chords tile windows")
	realtest.Need(t, "xfwm4", "xfwm4")
	realtest.Need(t, "xfsettingsd", "xfce4-settings")
	realtest.Need(t, "xterm", "xterm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	m := machine("de")
	left, right, maximize := sample.Act(keys.Meta, "ArrowLeft", "tile-left"), sample.Act(
		keys.Meta|keys.Shift, "ArrowRight", "tile-right",
	), sample.Act(keys.Ctrl|keys.Alt, "KeyZ", "maximize")
	bottom := sample.Act(0, "F14", "tile-bottom")
	out, err := mechanism.Write(xfce.Mechanism{}, m, []mechanism.Binding{left, right, maximize, bottom})
	require.NoError(t, err)
	m.Session, m.Layers = "x11", []string{"arrows"}
	layout, err := mechanism.Write(xkb.Mechanism{}, m, sample.Layered("arrows", "ControlRight", "KeyU", "F14"))
	require.NoError(t, err)
	config := filepath.Join(home, ".config/xfce4/xfconf/xfce-perchannel-xml")
	require.NoError(t, os.MkdirAll(config, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(config, "xfce4-keyboard-shortcuts.xml"), out.Files()[0].Data, 0o644))
	keymap := filepath.Join(home, "keymap.xkb")
	require.NoError(t, os.WriteFile(keymap, layout.Files()[0].Data, 0o644))
	server.LoadKeymap(keymap)
	server.Session(env, "xfwm4 --compositor=off & until xdotool get_num_desktops >/dev/null 2>&1; do sleep 0.1; done; "+
		"xterm -geometry 40x10+300+200 & wait")
	realtest.WaitFor(t, "the window", func() bool { return server.Window("xterm").Width > 0 })
	// Chords are for the active window, and there can be none yet.
	realtest.WaitFor(t, "the window to be active", func() bool {
		server.Output("xdotool", "search", "--onlyvisible", "--class", "xterm", "windowactivate")
		id := server.Output("xdotool", "getactivewindow")
		return id != "" && slices.Contains(strings.Fields(server.Output("xdotool", "search", "--class", "xterm")), strings.TrimSpace(id))
	})
	// A second press would undo the first, so each press is given its time.
	realtest.WaitFor(t, "the left half", func() bool {
		server.Tap(sample.Evdevs(left.Chord)...)
		time.Sleep(time.Second)
		w := server.Window("xterm")
		t.Logf("it is %+v, the active window %s", w, server.Output("xdotool", "getactivewindow", "getwindowname"))
		return w.X < 50 && w.Width > 450 && w.Width <= 500 && w.Height > 500
	})
	server.Tap(sample.Evdevs(right.Chord)...)
	realtest.WaitFor(t, "the right half", func() bool {
		w := server.Window("xterm")
		return w.X >= 490 && w.Width > 450 && w.Width <= 500
	})
	server.Tap(sample.Evdevs(maximize.Chord)...)
	realtest.WaitFor(t, "the whole screen", func() bool {
		w := server.Window("xterm")
		return w.Width > 950 && w.Height > 540
	})
	// A key of a layer in whose place the server presses F14.
	server.Tap(sample.Evdev(sample.Key("ControlRight")), sample.Evdev(sample.Key("KeyU")))
	realtest.WaitFor(t, "the bottom half", func() bool {
		w := server.Window("xterm")
		return w.Width > 950 && w.Height < 300 && w.Y > 280
	})
}
