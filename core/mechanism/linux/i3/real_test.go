package i3_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/i3"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// loadHyper loads the compiled keymap in which CapsLock is Hyper, and more if there is.
func loadHyper(t *testing.T, server *realtest.Server, m *mechanism.Machine, home string, more ...mechanism.Binding) {
	t.Helper()
	layout, err := mechanism.Write(xkb.Mechanism{}, m, append(more, sample.Modifier("CapsLock", keys.Hyper)))
	require.NoError(t, err)
	for _, f := range layout.Files() {
		file := filepath.Join(home, f.Path)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, f.Data, 0o644))
		if strings.HasSuffix(f.Path, "keymap.xkb") {
			server.LoadKeymap(file)
		}
	}
}

// everyButton binds each button of a mouse, so that their names are parsed.
func everyButton(w i3.Mechanism, m *mechanism.Machine) []mechanism.Binding {
	var list []mechanism.Binding
	for _, k := range keys.Buttons() {
		if b := sample.Launch(keys.Ctrl|keys.Alt, k.String(), behaviour.Launch{Command: []string{"true"}}); w.Take(
			m, b,
		).Verdict >= mechanism.Limited {
			list = append(list, b)
		}
	}
	return list
}

// modifierAlone is a launch by Meta alone.
func modifierAlone(program string) mechanism.Binding {
	b := sample.Launch(keys.Meta, "KeyA", behaviour.Launch{Command: []string{program, "alone"}})
	b.Chord.Key = keys.None
	return b
}

// pressAlone presses Meta alone, which acts, and not when another key was pressed with
// it; a button of the mouse is none.
func pressAlone(t *testing.T, server *realtest.Server, recording *realtest.Recording, others []string) {
	t.Helper()
	meta := sample.Evdev(sample.Key("MetaRight"))
	time.Sleep(time.Second)
	done := recording.Expect("alone\x00", others)
	server.Tap(meta, sample.Evdev(sample.Key("F8")))
	time.Sleep(time.Second)
	assert.False(t, done(), "Meta with another key is not Meta alone")
	done = recording.Expect("alone\x00", others)
	server.Tap(meta, sample.Evdev(sample.Key("MouseMiddle")))
	realtest.WaitFor(t, "Meta with a button, which counts as alone", done)
	time.Sleep(time.Second)
	done = recording.Expect("alone\x00", others)
	server.Tap(meta)
	realtest.WaitFor(t, "Meta alone", done)
}

// press presses a chord or a sequence and waits for what it does. The window manager
// takes a moment to enter a mode; on a busy machine a stroke can come too early, and the
// sequence is begun again.
func press(t *testing.T, server *realtest.Server, b mechanism.Binding, done func() bool) {
	t.Helper()
	if len(b.Then) == 0 {
		server.TapUntil(b.String(), done, sample.Evdevs(b.Chord)...)
		return
	}
	server.Tap(sample.Evdevs(b.Chord)...)
	for pause := time.Second / 5; ; pause *= 2 {
		for _, c := range b.Then {
			time.Sleep(pause)
			server.Tap(sample.Evdevs(c)...)
		}
		time.Sleep(pause)
		if done() || pause > 5*time.Second {
			break
		}
		server.Tap(sample.Evdev(sample.Key("Escape")))
		time.Sleep(pause)
		server.Tap(sample.Evdevs(b.Chord)...)
	}
	realtest.WaitFor(t, b.String(), done)
}

// keep keeps the compiled file as a specimen.
func keep(t *testing.T, s realtest.Specimen, home string) {
	t.Helper()
	ours, err := os.ReadFile(filepath.Join(home, s.Files[0]))
	require.NoError(t, err)
	s.Keep(t, s.Component, home, map[string][]byte{s.Files[0]: ours})
}

// What programs were started with is what is read of the files.
func TestReadsSpecimens(t *testing.T) {
	for _, desktop := range []string{"i3", "sway"} {
		for dir, s := range realtest.Specimens(t, "../../../..", desktop) {
			data, err := os.ReadFile(filepath.Join(dir, s.Files[0]))
			require.NoError(t, err)
			list, err := both[desktop].Read(machine(desktop, s.Layouts...), fstest.MapFS{desktop + "/" + s.Files[0]: {Data: data}})
			require.NoError(t, err)
			s.AsStarted(t, list)
		}
	}
}

// config writes a configuration of the user's own that includes the compiled file.
func config(
	t *testing.T, home string, w i3.Mechanism, m *mechanism.Machine, list []mechanism.Binding, own string,
) string {
	t.Helper()
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	ours, main := filepath.Join(home, "leitstand.conf"), filepath.Join(home, "config")
	require.NoError(t, os.WriteFile(ours, out.Files()[0].Data, 0o644))
	require.NoError(t, os.WriteFile(main, []byte(own+"include "+ours+"\n"), 0o644))
	return main
}

// i3, given the compiled file and the compiled keymap, starts what the chords and
// sequences start, exactly so, moves between workspaces, and closes windows. A
// chord that is switched off reaches no program.
func TestPressedUnderI3(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "i3", "i3", "chords, sequences, a modifier alone, buttons and a layer start programs, move "+
		"windows and workspaces")
	realtest.Need(t, "i3", "i3-wm")
	realtest.Need(t, "xterm", "xterm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	require.NoError(t, os.Mkdir(filepath.Join(home, "a b"), 0o755))
	recording := realtest.Recorder(t, home)
	program := recording.Program
	m := machine("i3", "de", "us")
	m.Session, m.Layers = "x11", []string{"arrows"}
	loadHyper(t, server, m, home, sample.Layered("arrows", "ControlRight", "KeyU", "F14")...)
	sequence := sample.Launch(keys.Hyper, "KeyG", behaviour.Launch{Command: []string{program, "sequence"}})
	sequence.Then = []keys.Chord{{Key: sample.Key("KeyY")}, {Mods: keys.Ctrl, Key: sample.Key("KeyA")}}
	starts := []mechanism.Binding{
		sample.Launch(
			keys.Hyper, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, "", "$mod"}},
		),
		sample.Launch(
			keys.Ctrl|keys.Alt, "KeyZ",
			behaviour.Launch{Command: []string{"~/record it", "two", "~/a b", "~"}, Dir: "~/a b"},
		),
		sample.Launch(keys.Meta|keys.Shift, "Digit7", behaviour.Launch{Command: []string{program, "three"}}),
		sample.Launch(0, "F9", behaviour.Launch{Command: []string{program, "four"}}),
		sample.Launch(keys.Hyper|keys.Shift, "Numpad1", behaviour.Launch{Command: []string{program, "five"}}),
		sequence,
		sample.Launch(keys.Meta, "MouseBack", behaviour.Launch{Command: []string{program, "six"}}),
		sample.Launch(0, "MouseForward", behaviour.Launch{Command: []string{program, "seven"}}),
		sample.Launch(0, "F14", behaviour.Launch{Command: []string{program, "eight"}}),
	}
	want := []string{
		"one\x00" + sample.Nasty + "\x00\x00$mod\x00in ",
		"two\x00" + filepath.Join(home, "a b") + "\x00" + home + "\x00in " + filepath.Join(home, "a b") + "\x00",
		"three\x00",
		"four\x00",
		"five\x00",
		"sequence\x00",
		"six\x00",
		"seven\x00",
		"eight\x00",
	}
	off := sample.Off(0, "F10")
	list := append(
		[]mechanism.Binding{
			off,
			sample.Act(keys.Meta, "Digit3", "workspace-3"),
			sample.Act(keys.Meta, "Digit1", "workspace-1"),
			sample.Act(keys.Meta, "KeyQ", "close"),
			sample.Act(keys.Meta, "KeyF", "full-screen"),
			sample.Setting("repeat delay", "300ms"),
			sample.Setting("repeat rate", "50/s"),
		},
		starts...)
	for _, b := range list {
		require.GreaterOrEqual(t, i3.Mechanism{}.Take(m, b).Verdict, mechanism.Limited, b.String())
	}
	main := config(
		t, home, i3.Mechanism{}, m, append(append(list, modifierAlone(program)), everyButton(i3.Mechanism{}, m)...),
		"# i3 config file (v4)\nset $mod broken\n",
	)
	_, complaints := realtest.Output(t, "i3", "-C", "-c", main)
	require.NotContains(t, complaints, "ERROR")
	server.Session(env, fmt.Sprintf("i3 -c '%s' & sleep 1; xterm -class one & wait", main))
	realtest.WaitFor(t, "the window", func() bool { return server.Window("one").Width > 0 })

	server.TapUntil("the first shortcut", recording.Any, sample.Evdevs(starts[3].Chord)...)
	assert.Regexp(t, `auto repeat delay:\s+300\s+repeat rate:\s+50`, server.Run("xset", "q"))
	// A setting of the rate turns repeating on; a busy machine would press some chords twice.
	server.Run("xset", "r", "off")
	kept := realtest.Specimen{
		Component: "i3", Version: realtest.Version("i3-wm"), Layouts: []string{"de", "us"}, Files: []string{"leitstand.conf"},
		Hyper: "CapsLock",
	}
	for group := range m.Layouts {
		server.LockGroup(uint32(group))
		for i, b := range starts {
			press(
				t, server, b, recording.Expect(want[i], append(want, "alone\x00")),
			) // which a button with Meta does as well
			if group == 0 {
				kept.Starts(b, recording, want[i])
			}
		}
	}
	keep(t, kept, home)
	server.LockGroup(0)
	pressAlone(t, server, recording, want)
	// A key of a layer in whose place the server presses F14.
	for group := range m.Layouts {
		server.LockGroup(uint32(group))
		done := recording.Expect("eight\x00", want)
		server.Tap(sample.Evdev(sample.Key("ControlRight")), sample.Evdev(sample.Key("KeyU")))
		realtest.WaitFor(t, "the key of the layer", done)
	}
	assert.Regexp(t, `Group 2:\s+on`, server.Run("xset", "q"), "the second layout was in use")

	shown := func() bool { return server.Window("one").Width > 0 }
	server.Tap(sample.Evdevs(list[1].Chord)...)
	realtest.WaitFor(t, "workspace 3", func() bool { return !shown() })
	server.Tap(sample.Evdevs(list[2].Chord)...)
	realtest.WaitFor(t, "workspace 1", shown)
	server.Tap(sample.Evdevs(list[4].Chord)...)
	realtest.WaitFor(t, "the whole screen", func() bool {
		w := server.Window("one")
		return w.Width >= 998 &&
			w.Height >= 598
	})
	server.Tap(sample.Evdevs(list[3].Chord)...)
	realtest.WaitFor(t, "the window to close", func() bool { return !shown() })

	server.LockGroup(0)
	p := server.Presser()
	presses := p.Chords([][]int{{sample.Evdev(sample.Key("KeyA"))}})
	assert.Len(t, presses[0], 1, "a key that is free reaches the program")
	server.Tap(sample.Evdev(sample.Key("F10")))
	assert.Equal(t, "a", p.Chord(sample.Evdev(sample.Key("KeyA")))[0].Keysym, "nothing of the key switched off "+
		"arrived before")
}

// sway, nested in an X server with the compiled option and the compiled file,
// starts what the chords and sequences start. It must not run as root.
func TestPressedUnderSway(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "sway", "sway", "chords, sequences, a modifier alone and buttons start programs, move "+
		"windows and workspaces")
	realtest.Need(t, "sway", "sway")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	m := machine("sway", "de")
	loadHyper(t, server, m, home)
	m.Session = "wayland"
	option, err := mechanism.Write(xkb.Mechanism{}, m, []mechanism.Binding{sample.Modifier("CapsLock", keys.Hyper)})
	require.NoError(t, err)
	for _, f := range option.Files() {
		file := filepath.Join(home, ".config", f.Path)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, f.Data, 0o644))
	}
	sequence := sample.Launch(keys.Hyper, "KeyG", behaviour.Launch{Command: []string{program, "sequence"}})
	sequence.Then = []keys.Chord{{Key: sample.Key("KeyY")}}
	starts := []mechanism.Binding{
		sample.Launch(
			keys.Hyper, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, "", "$mod"}},
		),
		sample.Launch(keys.Ctrl|keys.Alt, "KeyZ", behaviour.Launch{Command: []string{program, "two"}, Dir: home}),
		sample.Launch(keys.Meta|keys.Shift, "Digit7", behaviour.Launch{Command: []string{program, "three"}}),
		sequence,
		sample.Launch(keys.Meta, "MouseMiddle", behaviour.Launch{Command: []string{program, "four"}}),
	}
	want := []string{
		"one\x00" + sample.Nasty + "\x00\x00$mod\x00in ",
		"two\x00in " + home + "\x00",
		"three\x00",
		"sequence\x00",
		"four\x00",
	}
	list := append(
		sample.Actions(func(b mechanism.Binding) bool { return both["sway"].Take(m, b).Verdict >= mechanism.Limited }),
		append(
			[]mechanism.Binding{sample.Setting("repeat delay", "300ms"), sample.Setting("repeat rate", "50/s")},
			starts...)...)
	list = append(append(list, modifierAlone(program)), everyButton(both["sway"], m)...)
	main := config(t, home, both["sway"], m, list,
		"set $mod broken\nxwayland disable\ninput type:keyboard {\n  xkb_layout de\n  xkb_options "+
			"leitstand:mapping\n}\n")
	env = append(env, "WLR_RENDERER=pixman", "WLR_NO_HARDWARE_CURSORS=1", "XKB_DEFAULT_LAYOUT=de")
	run := server.Nobody(home, env)
	check := run("WLR_BACKENDS=headless", "sway", "-C", "-c", main)
	text, err := check.CombinedOutput()
	require.NoError(t, err, "%s", text)
	require.NotContains(t, string(text), "Error on line")
	sway := run("WLR_BACKENDS=x11", "sway", "-c", main)
	out, err := os.Create(filepath.Join(home, "out"))
	require.NoError(t, err)
	sway.Stdout, sway.Stderr = out, out
	server.Background(sway)
	t.Cleanup(func() {
		if text, _ := os.ReadFile(out.Name()); t.Failed() {
			t.Logf("sway printed:\n%s", text)
		}
	})
	server.TapUntil(
		"the first shortcut",
		func() bool { server.Focus("sway"); return recording.Any() },
		sample.Evdevs(starts[2].Chord)...)
	kept := realtest.Specimen{
		Component: "sway", Version: realtest.Version("sway"), Layouts: []string{"de"}, Files: []string{"leitstand.conf"},
		Hyper: "CapsLock",
	}
	for i, b := range starts {
		press(
			t, server, b, recording.Expect(want[i], append(want, "alone\x00")),
		) // which a button with Meta does as well
		kept.Starts(b, recording, want[i])
	}
	keep(t, kept, home)

	pressAlone(t, server, recording, want)
}

// The configurations that come with the window managers are read: what the language has a
// word for is taken over, and no line of a binding is lost in silence.
func TestImportsDefaults(t *testing.T) {
	for name, w := range both {
		file := "/etc/" + name + "/config"
		realtest.NeedFile(t, file, map[string]string{"i3": "i3-wm", "sway": "sway"}[name])
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		require.True(t, w.Knows(file, text))
		require.False(t, i3.Mechanism{Sway: !w.Sway}.Knows(file, text))
		got, err := w.Import(machine(name, "us"), text, nil)
		require.NoError(t, err)
		taken := map[string]string{}
		for _, b := range got.Bindings {
			taken[b.Effect.Action] = b.Press()
		}
		mod := map[string]string{"i3": "Alt", "sway": "Meta"}[name]
		assert.Equal(t, mod+"+KeyF", taken["full-screen"], name)
		assert.Equal(t, mod+"+Digit3", taken["workspace-3"], name)
		assert.Contains(t, taken["window-to-workspace-10"], "Digit0", name)
		assert.Contains(t, taken, "log-out", name)
		lines := strings.Split(string(text), "\n")
		for _, l := range got.Left {
			assert.Regexp(t, "bindsym|^include ", lines[l.Line-1], l.Text)
		}
		// Those of modes are reached from one line, and not counted.
		bound := 0
		for _, l := range lines {
			l = strings.TrimSpace(l)
			if (strings.HasPrefix(l, "bindsym $mod") || strings.HasPrefix(l, "bindsym Mod1")) &&
				!strings.Contains(l, `mode "`) {
				bound++
			}
		}
		found := map[string]bool{}
		for _, b := range got.Bindings {
			if b.Chord.Mods.Has(keys.Alt) || b.Chord.Mods.Has(keys.Meta) {
				found[b.Press()] = true
			}
		}
		for _, l := range got.Left {
			if strings.Contains(l.Text, "Mod") && !strings.Contains(l.Text, `mode "`) {
				found[l.Text] = true
			}
		}
		assert.Len(t, found, bound, name)
	}
}

// The configuration that comes with sway includes the folder for everyone, and sway takes
// our file there.
func TestEveryoneUnderSway(t *testing.T) {
	realtest.Need(t, "sway", "sway")
	realtest.NeedFile(t, "/etc/sway/config", "sway")
	m := machine("sway", "de")
	w := i3.Mechanism{Sway: true}
	list := []mechanism.Binding{
		sample.Launch(keys.Meta, "F9", behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}}),
		sample.Act(keys.Meta, "F10", "close"),
		sample.Setting("repeat rate", "40/s"),
	}
	for i := range list {
		assert.False(t, w.Take(m, list[i]).ForAll)
		list[i].Everyone = true
		answer := w.Take(m, list[i])
		require.Equal(t, mechanism.Limited, answer.Verdict)
		require.Contains(t, answer.Why.String(), "as the one does that comes with sway")
	}
	moved := sample.Act(keys.Meta, "F11", "move")
	moved.Everyone = true
	require.False(t, w.Take(m, moved).ForAll)
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	got, err := w.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))

	stock, err := os.ReadFile("/etc/sway/config")
	require.NoError(t, err)
	require.Contains(t, string(stock), "\ninclude /etc/sway/config.d/*\n")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	folder := filepath.Join(home, "config.d")
	require.NoError(t, os.MkdirAll(folder, 0o755))
	require.NoError(
		t,
		os.WriteFile(filepath.Join(folder, filepath.Base(out.Files()[0].Goes)), out.Files()[0].Data, 0o644),
	)
	main := filepath.Join(home, "config")
	require.NoError(
		t, os.WriteFile(main, []byte(strings.ReplaceAll(string(stock), "/etc/sway/config.d", folder)), 0o644),
	)
	text, err := server.Nobody(home, append(env, "WLR_RENDERER=pixman"))(
		"WLR_BACKENDS=headless", "sway", "-C", "-c", main,
	).CombinedOutput()
	require.NoError(t, err, "%s", text)
	require.NotContains(t, string(text), "Error on line")
}
