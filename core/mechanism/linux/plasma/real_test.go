package plasma_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/plasma"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func needDesktop(t *testing.T) realtest.Plasma {
	t.Helper()
	realtest.Need(t, "kwin_x11", "kwin-x11")
	return realtest.FindPlasma(t)
}

// The keeper of shortcuts has for Qt's numbers of keys the names by which the files spell
// them, and an action has its own chord again when all is taken back.
func TestKeeperNamesKeysAlike(t *testing.T) {
	t.Parallel()
	p := needDesktop(t)
	m := machine("de")
	m.DesktopVersion = p.Version
	var list []mechanism.Binding
	for _, k := range keys.All() {
		if b := sample.Act(keys.Meta|keys.Ctrl|keys.Alt, k.String(), "tile-left"); (plasma.Mechanism{}).Take(
			m, b,
		).Verdict >= mechanism.Limited {
			list = append(list, b)
		}
	}
	require.Greater(t, len(list), 80)
	list = append(
		list, sample.Act(keys.Meta|keys.Shift, "KeyU", "maximize"), sample.Act(keys.Meta|keys.Shift, "KeyI", "close"),
		sample.Launch(keys.Meta, "F7", behaviour.Launch{Command: []string{"tidegauge"}}),
	)
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	of := func(text string) string {
		_, value, _ := strings.Cut(text, "Window Quick Tile Left=")
		chords, _, _ := strings.Cut(value, ",")
		return chords
	}
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	// The user has a chord of their own, one action is as it came, and one has no chord.
	const own = `tell() { gdbus call --session --dest org.kde.kglobalaccel --object-path /kglobalaccel --method org.kde.KGlobalAccel.setForeignShortcutKeys "['kwin', '$1', '', '']" "@a(ai) [$2]"; }
tell 'Window Quick Tile Left' '([285212728, 0, 0, 0],)'
tell 'Window Maximize'
`
	wait := func(name string) string {
		return "\ntouch '" + home + "/" + name + "'; while ! [ -e '" + home + "/after " + name + "' ]; do sleep " +
			"0.1; done\n"
	}
	server.Session(
		env,
		p.Keeper+" & sleep 2; kwin_x11 & sleep 4\n"+own+wait("own")+linesOf(out.Back())+"\n"+linesOf(out.Steps())+wait(
			"steps",
		)+linesOf(out.Back())+wait("back")+"wait",
	)
	kept := ""
	reached := func(name string, has func() bool) {
		realtest.WaitFor(t, name, func() bool {
			_, err := os.Stat(filepath.Join(home, name))
			text, _ := os.ReadFile(filepath.Join(home, ".config/kglobalshortcutsrc"))
			kept = string(text)
			return err == nil && has()
		})
		require.NoError(t, os.WriteFile(filepath.Join(home, "after "+name), nil, 0o644))
	}
	reached("own", func() bool { return of(kept) == "Meta+F9" && strings.Contains(kept, "\nWindow Maximize=none,") })
	before := kept
	reached("steps", func() bool { return strings.Count(of(kept), `\t`) > len(list)/2 })
	assert.Equal(t, strings.Split(of(fileOf(t, out, shortcuts)), `\t`), strings.Split(of(kept), `\t`))
	assert.NotEqual(t, before, kept)
	t.Cleanup(func() {
		if t.Failed() {
			t.Logf("the keeper's file at last:\n%s", kept)
		}
	})
	reached("back", func() bool { return of(kept) == "Meta+F9" })
	assert.Equal(t, before, kept)
}

// linesOf are the lines of steps.
func linesOf(steps []mechanism.Step) string {
	var lines []string
	for _, s := range steps {
		lines = append(lines, s.Lines...)
	}
	return strings.Join(lines, "\n")
}

// The keeper of Plasma 6, given the compiled files, writes its own form of them, which is read
// as what was meant.
func TestKeptByPlasma6(t *testing.T) {
	p := realtest.FindPlasma(t)
	m := machine("de")
	m.DesktopVersion = p.Version
	if !desktop.Since(m, "6") {
		t.Skip("Plasma 5 keeps the form that we write")
	}
	list := []mechanism.Binding{
		sample.Launch(
			keys.Meta, "F9", behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}},
		), sample.Launch(keys.Ctrl|keys.Alt, "KeyG", behaviour.Launch{Open: "https://tides.example"}),
		sample.Off(keys.Meta, "F7"), sample.Act(keys.Meta|keys.Shift, "KeyU", "close"),
	}
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	files := fstest.MapFS{}
	kept := filepath.Join(home, ".config/kglobalshortcutsrc")
	for _, f := range out.Files() {
		files[f.Path] = &fstest.MapFile{Data: f.Data}
		to := kept
		if strings.HasSuffix(f.Path, ".desktop") {
			to = filepath.Join(home, ".local/share/applications", filepath.Base(f.Path))
		}
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o755))
		require.NoError(t, os.WriteFile(to, f.Data, 0o644))
	}
	server.Session(env, p.Keeper+" & keeper=$!; while ! [ -e \"$HOME/back\" ]; do sleep 0.1; done; kill $keeper")
	var text []byte
	realtest.WaitFor(t, "the form of Plasma 6", func() bool {
		text, _ = os.ReadFile(kept)
		return strings.Count(string(text), "[services][leitstand-") == 3
	})
	require.NoError(t, os.WriteFile(filepath.Join(home, "back"), nil, 0o644))
	files["plasma/kglobalshortcutsrc"] = &fstest.MapFile{Data: text}
	got, err := plasma.Mechanism{}.Read(m, files)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list), "%s", text)

	// Taken back while the keeper runs, nothing of ours is left when it has run once more.
	const run = "& keeper=$!; sleep 2; "
	server.Session(
		env,
		p.Keeper+run+linesOf(
			out.Back(),
		)+"\nkill $keeper; wait $keeper; "+p.Keeper+run+"kill $keeper; wait $keeper; touch \"$HOME/done\"",
	)
	realtest.WaitFor(t, "the keeper's end", func() bool {
		_, err := os.Stat(filepath.Join(home, "done"))
		return err == nil
	})
	text, err = os.ReadFile(kept)
	require.NoError(t, err)
	assert.NotContains(t, string(text), "_launch=")
}

// kglobalaccel and kwin, given the compiled files and a key that holds four
// modifiers, start programs, exactly so, and tile windows; a chord that is switched
// off does nothing.
func TestPressedUnderPlasma(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "plasma", "kwin on X11", "chords and modifiers alone start programs, tile and close "+
		"windows; one that is switched off does nothing")
	p := needDesktop(t)
	realtest.Need(t, "xterm", "xterm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	p.Menu(t, home)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	require.NoError(t, os.MkdirAll(filepath.Join(home, "a b"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(home, "a"), nil, 0o644)) // what [a] becomes in a shell
	m := machine("de")
	m.DesktopVersion = p.Version
	const four = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta
	layout, err := mechanism.Write(xkb.Mechanism{}, m, []mechanism.Binding{sample.Modifier("CapsLock", four)})
	require.NoError(t, err)
	keymap := filepath.Join(home, "keymap.xkb")
	require.NoError(t, os.WriteFile(keymap, layout.Files()[0].Data, 0o644))
	server.LoadKeymap(keymap)

	left, right := sample.Act(keys.Meta, "KeyJ", "tile-left"), sample.Act(keys.Meta, "ArrowRight", "tile-right")
	maximize, end := sample.Act(keys.Meta, "KeyM", "maximize"), sample.Act(keys.Meta|keys.Ctrl, "KeyQ", "close")
	off := sample.Off(keys.Alt, "F4")
	starts := []mechanism.Binding{
		sample.Launch(four, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, ""}}),
		sample.Launch(
			keys.Ctrl|keys.Alt, "KeyZ",
			behaviour.Launch{Command: []string{"~/record it", "two", "~/a b", "[a]", "{a,b}"}, Dir: "~/a b"},
		),
		sample.Launch(
			keys.Meta|keys.Shift, "Digit7", behaviour.Launch{Command: []string{program, "three", "Süderhaff 3"}},
		),
		sample.Launch(four, "Digit8", behaviour.Launch{Command: []string{program, "four", "[a]", "{a,b}"}}),
		sample.Launch(0, "F14", behaviour.Launch{Command: []string{program, "spare"}}),
		sample.Launch(keys.Meta, "F9", behaviour.Launch{App: "gauge.desktop"}),
	}
	want := []string{
		"one\x00" + sample.Nasty + "\x00\x00in ",
		"two\x00" + filepath.Join(home, "a b") + "\x00[a]\x00{a,b}\x00in " + filepath.Join(home, "a b") + "\x00",
		"three\x00Süderhaff 3\x00in",
		"four\x00[a]\x00{a,b}\x00",
		"spare\x00",
		"five\x00",
	}
	metaAlone, ctrlAlone := sample.Act(keys.Meta, "KeyA", "maximize"), sample.Launch(
		keys.Ctrl, "KeyA", behaviour.Launch{Command: []string{program, "single"}},
	)
	metaAlone.Chord.Key, ctrlAlone.Chord.Key = keys.None, keys.None
	list := append([]mechanism.Binding{left, right, maximize, end, off, metaAlone, ctrlAlone}, starts...)
	for _, b := range list {
		require.GreaterOrEqual(t, plasma.Mechanism{}.Take(m, b).Verdict, mechanism.Limited, b.String())
	}
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	config, apps := filepath.Join(home, ".config"), filepath.Join(home, ".local/share/applications")
	require.NoError(t, os.MkdirAll(config, 0o755))
	require.NoError(t, os.MkdirAll(apps, 0o755))
	for _, f := range out.Files() {
		to := filepath.Join(home, f.Path)
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o755))
		require.NoError(t, os.WriteFile(to, f.Data, 0o644))
	}
	require.NoError(
		t,
		os.WriteFile(
			filepath.Join(apps, "gauge.desktop"),
			[]byte("[Desktop Entry]\nType=Application\nName=Gauge\nExec=\""+program+"\" five\n"), 0o644,
		),
	)
	require.NoError(t, os.WriteFile(filepath.Join(config, "kwinrc"), []byte("[Compositing]\nEnabled=false\n"), 0o644))
	// The steps are taken in one session, and count in the next.
	begin := p.Keeper + " & keeper=$!; sleep 2; kwin_x11 & manager=$!; sleep 4\n"
	server.Session(
		env,
		"cd '"+home+"'\n"+begin+linesOf(
			out.Steps(),
		)+"\nkill $manager $keeper; wait $manager $keeper\n"+begin+"xterm -class one -geometry 40x10+300+200 & wait",
	)
	realtest.WaitFor(t, "the window", func() bool { return server.Window("one").Width > 0 })
	press := func(b mechanism.Binding) {
		if b.Chord.Mods == four {
			b.Chord.Mods = keys.Hyper // CapsLock holds them all
		}
		server.Tap(sample.Evdevs(b.Chord)...)
	}
	realtest.WaitFor(t, left.String(), func() bool {
		press(left)
		time.Sleep(time.Second)
		w := server.Window("one")
		return w.X < 50 && w.Width > 450 && w.Width <= 500 && w.Height > 500
	})
	press(right)
	realtest.WaitFor(t, right.String(), func() bool { w := server.Window("one"); return w.X >= 490 && w.Width > 450 })
	press(maximize)
	realtest.WaitFor(t, maximize.String(), func() bool { return server.Window("one").Width > 950 })
	server.TapUntil("the first shortcut", recording.Any, sample.Evdevs(starts[len(starts)-1].Chord)...)
	for i, b := range starts {
		done := recording.Expect(want[i], want)
		press(b)
		realtest.WaitFor(t, b.String(), done)
	}
	// A modifier alone acts, and not when another key was pressed with it.
	whole := server.Window("one").Width
	done := recording.Expect("single\x00", want)
	server.Tap(sample.Evdev(sample.Key("ControlLeft")), sample.Evdev(sample.Key("F8")))
	time.Sleep(time.Second)
	assert.False(t, done(), "Ctrl with another key is not Ctrl alone")
	server.Tap(sample.Evdev(sample.Key("ControlLeft")))
	realtest.WaitFor(t, "Ctrl alone", done)
	server.Tap(sample.Evdev(sample.Key("MetaLeft")))
	realtest.WaitFor(
		t, "Meta alone to give the window its size back", func() bool { return server.Window("one").Width < whole },
	)

	press(off)
	time.Sleep(time.Second)
	assert.Positive(t, server.Window("one").Width, "Alt+F4 closed the window, and was switched off")
	press(end)
	realtest.WaitFor(t, end.String(), func() bool { return server.Window("one").Width == 0 })

	// What Plasma has made of the file by now, with all of its own shortcuts, still says
	// just that.
	text, err := os.ReadFile(filepath.Join(config, "kglobalshortcutsrc"))
	require.NoError(t, err)
	assert.Contains(t, string(text), "_k_friendly_name=", "Plasma has written its own")
	got, err := plasma.Mechanism{}.Import(m, text, os.DirFS(apps))
	require.NoError(t, err)
	for _, l := range got.Left { // which kwin has freed by itself, of its grid of workspaces
		assert.Regexp(t, `^Ctrl\+Meta\+Arrow\w+ is free: `, l.Why)
	}
	for _, c := range behaviour.Compare(got.Bindings, list) {
		switch {
		case c.Place.Chord.Key == keys.None: // in a file of its own
		case c.Press == right.Press(): // which Plasma does anyhow
		case strings.HasPrefix(c.Press, "Ctrl+Meta+Arrow"): // kwin has freed these by itself, of its grid of workspaces
			assert.Equal(t, behaviour.Nothing, c.Before.Kind, c.Press)
		default:
			assert.Fail(t, c.Press, "%v in Plasma's file, %v meant", c.Before, c.After)
		}
	}
}

// magnifier is a program of KDE, whose copy of what it shows is a picture.
type magnifier struct{ *realtest.Server }

func startMagnifier(t *testing.T, server *realtest.Server, env []string) magnifier {
	server.Session(env, "kmag & wait")
	realtest.WaitFor(t, "the window", func() bool { return server.Window("kmag").Width > 0 })
	server.Run("sh", "-c", `xdotool windowfocus $(xdotool search --class kmag | tail -1)`)
	return magnifier{server}
}

// copies says whether a chord brings a picture to the clipboard, which has a text before.
func (m magnifier) copies(c keys.Chord) bool {
	m.Run("sh", "-c", "echo text | xclip -i -selection clipboard > /dev/null 2>&1")
	m.Tap(sample.Evdevs(c)...)
	time.Sleep(time.Second)
	return strings.Contains(
		m.Output("timeout", "2", "xclip", "-o", "-selection", "clipboard", "-t", "TARGETS"), "image/png",
	)
}

// A program of KDE copies by the chords of the compiled file and by those that it had, and
// leaves a chord that was taken from it alone.
func TestPressedInProgramOfKDE(t *testing.T) {
	t.Parallel()
	realtest.Pressed(t, "plasma", "kmag beside Plasma", "chords copy in a program of KDE")
	realtest.Need(t, "kmag", "kmag")
	realtest.Need(t, "xclip", "xclip")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	m := machine("de")
	layout, err := mechanism.Write(
		xkb.Mechanism{}, m, []mechanism.Binding{sample.Modifier("CapsLock", keys.Ctrl|keys.Alt|keys.Shift|keys.Meta)},
	)
	require.NoError(t, err)
	keymap := filepath.Join(home, "keymap.xkb")
	require.NoError(t, os.WriteFile(keymap, layout.Files()[0].Data, 0o644))
	server.LoadKeymap(keymap)
	first, second, undo := sample.Act(keys.Alt, "KeyC", "copy"), sample.Act(
		keys.Meta, "KeyU", "copy",
	), sample.Act(keys.Ctrl, "KeyC", "undo")
	undo.Override = true
	list := []mechanism.Binding{first, second, undo}
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	require.Len(t, out.Files(), 1)
	config := filepath.Join(home, ".config")
	require.NoError(t, os.MkdirAll(config, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(config, "kdeglobals"), out.Files()[0].Data, 0o644))
	program := startMagnifier(t, server, env)
	realtest.WaitFor(t, "the copy", func() bool { return program.copies(first.Chord) })
	realtest.WaitFor(t, "the copy by the second chord", func() bool { return program.copies(second.Chord) })
	realtest.WaitFor(
		t, "the copy by a chord that it had",
		func() bool { return program.copies(keys.Chord{Mods: keys.Ctrl, Key: sample.Key("Insert")}) },
	)
	assert.False(t, program.copies(undo.Chord), "Ctrl+C was taken from copying")

	got, err := plasma.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
}

// What is for everyone counts in a program of KDE, whatever the user's own file says.
func TestEveryoneInProgramOfKDE(t *testing.T) {
	realtest.Pressed(t, "plasma for everyone", "kmag beside Plasma", "chords copy as the system's file says, "+
		"whatever the user's own does")
	realtest.Need(t, "kmag", "kmag")
	realtest.Need(t, "xclip", "xclip")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	m := machine("us")
	ours, theirs := sample.Act(keys.Alt, "KeyC", "copy"), sample.Act(keys.Alt, "KeyU", "copy")
	ours.Everyone = true
	system, config := filepath.Join(home, "system"), filepath.Join(home, ".config")
	for dir, b := range map[string]mechanism.Binding{system: ours, config: theirs} {
		out, err := mechanism.Write(plasma.Mechanism{}, m, []mechanism.Binding{b})
		require.NoError(t, err)
		require.NoError(t, os.MkdirAll(dir, 0o755))
		require.NoError(
			t,
			os.WriteFile(filepath.Join(dir, filepath.Base(out.Files()[0].Goes)), out.Files()[0].Data, 0o644),
		)
	}
	program := startMagnifier(t, server, append(env, "XDG_CONFIG_DIRS="+system+":/etc/xdg"))
	realtest.WaitFor(t, "the copy", func() bool { return program.copies(ours.Chord) })
	assert.False(t, program.copies(theirs.Chord), "the user's own chord is overruled")
}

// Settings beside the shortcuts are in the user's files when the steps are done, and what
// is the user's own stands alone in them when all is taken back.
func TestSettingsAreTakenBack(t *testing.T) {
	p := realtest.FindPlasma(t)
	m := machine("de")
	m.DesktopVersion = p.Version
	m.Session = "wayland"
	out, err := mechanism.Write(plasma.Mechanism{}, m, []mechanism.Binding{
		sample.Setting(
			"repeat delay", "220ms",
		), sample.Becomes("MouseBack", "F6"), sample.Act(keys.Meta, "KeyK", "copy"),
	})
	require.NoError(t, err)
	home, env := realtest.Home(t)
	do := func(steps []mechanism.Step) {
		cmd := exec.Command("sh", "-e", "-c", linesOf(steps))
		cmd.Env = append(os.Environ(), env...)
		said, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", said)
	}
	read := func(name string) string {
		text, err := os.ReadFile(filepath.Join(home, ".config", name))
		require.NoError(t, err)
		return string(text)
	}
	own := p.Writer + " --file kcminputrc --group Keyboard --key NumLock 1\n" + p.Writer + " --file kdeglobals " +
		"--group Shortcuts --key Find Ctrl+F"
	do([]mechanism.Step{{Lines: []string{own}}})
	input, globals := read("kcminputrc"), read("kdeglobals")
	do(out.Steps())
	for _, f := range out.Files() {
		for line := range strings.Lines(string(f.Data)) {
			assert.Contains(t, read(filepath.Base(f.Path)), strings.TrimSpace(line))
		}
	}
	do(out.Back())
	assert.Equal(t, input, read("kcminputrc"))
	assert.Equal(t, globals, read("kdeglobals"))
}
