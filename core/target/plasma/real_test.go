package plasma_test

import (
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
	"leitstand/core/target"
	"leitstand/core/target/plasma"
	"leitstand/core/target/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// kglobalaccel and kwin, given the compiled files and a key that holds four
// modifiers, start programs, exactly so, and tile windows; a chord that is switched
// off does nothing.
func TestPressedUnderPlasma(t *testing.T) {
	realtest.Need(t, "kglobalaccel5", "libkf5globalaccel-bin")
	realtest.Need(t, "kwin_x11", "kwin-x11")
	realtest.Need(t, "xterm", "xterm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	program := recording.Program
	require.NoError(t, os.MkdirAll(filepath.Join(home, "a b"), 0o755))
	m := machine("de")
	const four = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta
	layout, err := xkb.Target{}.Write(m, []target.Binding{sample.Modifier("CapsLock", four)})
	require.NoError(t, err)
	keymap := filepath.Join(home, "keymap.xkb")
	require.NoError(t, os.WriteFile(keymap, layout.Files[0].Data, 0o644))
	server.LoadKeymap(keymap)

	left, right := sample.Act(keys.Meta, "KeyJ", "tile-left"), sample.Act(keys.Meta, "ArrowRight", "tile-right")
	maximize, end := sample.Act(keys.Meta, "KeyM", "maximize"), sample.Act(keys.Meta|keys.Ctrl, "KeyQ", "close")
	off := sample.Off(keys.Alt, "F4")
	starts := []target.Binding{
		sample.Launch(four, "KeyT", behaviour.Launch{Command: []string{program, "one", sample.Nasty, ""}}),
		sample.Launch(keys.Ctrl|keys.Alt, "KeyZ", behaviour.Launch{Command: []string{program, "two"}, Dir: filepath.Join(home, "a b")}),
		sample.Launch(keys.Meta|keys.Shift, "Digit7", behaviour.Launch{Command: []string{program, "three", "Süderhaff 3"}}),
		sample.Launch(four, "Digit8", behaviour.Launch{Command: []string{program, "four"}}),
		sample.Launch(0, "F14", behaviour.Launch{Command: []string{program, "spare"}}),
		sample.Launch(keys.Meta, "F9", behaviour.Launch{App: "gauge.desktop"}),
	}
	want := []string{"one\x00" + sample.Nasty + "\x00\x00in ", "two\x00in " + filepath.Join(home, "a b") + "\x00", "three\x00Süderhaff 3\x00in", "four\x00", "spare\x00", "five\x00"}
	loneMeta, loneCtrl := sample.Act(keys.Meta, "KeyA", "maximize"), sample.Launch(keys.Ctrl, "KeyA", behaviour.Launch{Command: []string{program, "lone"}})
	loneMeta.Chord.Key, loneCtrl.Chord.Key = keys.None, keys.None
	list := append([]target.Binding{left, right, maximize, end, off, loneMeta, loneCtrl}, starts...)
	for _, b := range list {
		require.GreaterOrEqual(t, plasma.Target{}.Take(m, b).Verdict, target.Near, b.String())
	}
	out, err := plasma.Target{}.Write(m, list)
	require.NoError(t, err)
	config, apps := filepath.Join(home, ".config"), filepath.Join(home, ".local/share/applications")
	require.NoError(t, os.MkdirAll(config, 0o755))
	require.NoError(t, os.MkdirAll(apps, 0o755))
	for _, f := range out.Files {
		dir := config
		if strings.HasSuffix(f.Path, ".desktop") {
			dir = apps
		}
		require.NoError(t, os.WriteFile(filepath.Join(dir, filepath.Base(f.Path)), f.Data, 0o644))
	}
	require.NoError(t, os.WriteFile(filepath.Join(apps, "gauge.desktop"), []byte("[Desktop Entry]\nType=Application\nName=Gauge\nExec=\""+program+"\" five\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(config, "kwinrc"), append([]byte("[Compositing]\nEnabled=false\n"), loneFile(t, out.Files)...), 0o644))
	server.Session(env, "kglobalaccel5 & sleep 2; kwin_x11 & sleep 4; xterm -class one -geometry 40x10+300+200 & wait")
	realtest.WaitFor(t, "the window", func() bool { return server.Window("one").Width > 0 })
	press := func(b target.Binding) {
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
	done := recording.Expect("lone\x00", want)
	server.Tap(sample.Evdev(sample.Key("ControlLeft")), sample.Evdev(sample.Key("F8")))
	time.Sleep(time.Second)
	assert.False(t, done(), "Ctrl with another key is not Ctrl alone")
	server.Tap(sample.Evdev(sample.Key("ControlLeft")))
	realtest.WaitFor(t, "Ctrl alone", done)
	server.Tap(sample.Evdev(sample.Key("MetaLeft")))
	realtest.WaitFor(t, "Meta alone to give the window its size back", func() bool { return server.Window("one").Width < whole })

	press(off)
	time.Sleep(time.Second)
	assert.Positive(t, server.Window("one").Width, "Alt+F4 closed the window, and was switched off")
	press(end)
	realtest.WaitFor(t, end.String(), func() bool { return server.Window("one").Width == 0 })
}

// loneFile is what the files say of modifiers alone, for the window manager's own file.
func loneFile(t *testing.T, files []target.File) []byte {
	t.Helper()
	i := slices.IndexFunc(files, func(f target.File) bool { return strings.HasSuffix(f.Path, "kwinrc") })
	require.GreaterOrEqual(t, i, 0)
	return files[i].Data
}
