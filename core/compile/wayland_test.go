package compile_test

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// A mapping is compiled, its steps are taken as they stand, and keys are pressed in a
// whole session on Wayland: windows see the layout, programs start, windows are tiled and
// closed, and what is switched off does nothing. Plasma has the steps taken in one session
// and counts them in the next, and has further buttons of a mouse.
func TestPressedInSessionsOnWayland(t *testing.T) {
	realtest.Need(t, "wev", "wev")
	for _, c := range []struct {
		desktop     string
		component   string
		start       func(t testing.TB, home string, env []string, dir, script string) *realtest.Session
		own         string // how the user has set the layout
		more        string // rules
		left, close []string
		sees        []seen
	}{
		{"gnome", "GNOME Shell", realtest.GnomeSession, `gsettings set org.gnome.desktop.input-sources sources "[('xkb', 'de')]"`, `
action "Hyper+ArrowLeft" { does = "tile-left" }
action "Hyper+q" { does = "close" }
`, []string{"CapsLock", "ArrowLeft"}, []string{"CapsLock", "KeyQ"}, []seen{
			{[]string{"CapsLock", "KeyB"}, []string{"Hyper_L", "b"}, "Mod3 Hyper"},
		}},
		{"plasma", "kwin", realtest.PlasmaSession, realtest.FindPlasma(t).Writer + " --file kxkbrc --group Layout --key LayoutList de", `
remap "MouseBack" { to = "F6" }
remap "MouseForward" { to = "Ctrl+KeyB" }
action "Meta+ArrowLeft" { does = "tile-left" }
action "Meta+q" {
  does  = "close"
  override = true
}
`, []string{"MetaLeft", "ArrowLeft"}, []string{"MetaLeft", "KeyQ"}, []seen{
			{[]string{"CapsLock", "KeyB"}, []string{"VoidSymbol", "B"}, "Shift Control Mod1 Mod4"},
			{[]string{"MouseBack"}, []string{"F6"}, ""},
			{[]string{"MouseForward"}, []string{"Control_L", "b"}, "Control"},
		}},
	} {
		t.Run(c.desktop, func(t *testing.T) {
			realtest.Pressed(t, c.desktop, c.component, "in a session on Wayland, chords start programs, tile and "+
				"close windows; one that is switched off does nothing")
			realtest.Pressed(t, "xkb", c.component, "in a session on Wayland, keys, a layer and Hyper as a window "+
				"sees them")
			home, env := realtest.Home(t)
			recording := realtest.Recorder(t, home)
			_, builds, diags := build(t, session(c.desktop, recording.Program)+c.more)
			require.Empty(t, diags)
			dir := t.TempDir()
			require.NoError(t, writeFolder(dir, builds))
			dir = filepath.Join(dir, "office")
			s := c.start(t, home, env, dir, c.own+"\n"+realtest.Steps(t, dir))

			want := []string{"one\x00" + sample.Nasty + "\x00in ", "two\x00in ", "three\x00" + home + "/log 3\x00in "}
			s.TapUntil("the first shortcut", recording.Any, codes("F9")...)
			time.Sleep(time.Second)
			kept := realtest.Specimen{
				Component: c.component, Version: realtest.ComponentVersion(t, c.component), Layouts: []string{"de"},
				Hyper: "CapsLock",
			}
			for i, chord := range [][]string{{"CapsLock", "KeyT"}, {"ControlLeft", "AltLeft", "KeyY"}, {"F9"}} {
				s.TapUntil(strings.Join(chord, "+"), recording.Expect(want[i], want), codes(chord...)...)
				time.Sleep(time.Second)
				kept.Starts(behaviour.Binding{Chord: sample.Chord(chord)}, recording, want[i])
			}
			files := map[string][]byte{}
			for _, f := range builds[0].Files() {
				kept.Files = append(kept.Files, f.Path)
				files[f.Path] = f.Data
			}
			kept.Keep(t, c.desktop, home, files)
			window := openWindow(t, s)
			for _, c := range append([]seen{
				{[]string{"KeyA"}, []string{"a"}, ""},
				{[]string{"ScrollLock"}, []string{"y"}, ""},
				{[]string{"ControlRight", "KeyH"}, []string{"VoidSymbol", "Left"}, ""},
				{[]string{"Insert"}, []string{"VoidSymbol"}, ""},
			}, c.sees...) {
				window.sees(t, s, c)
			}
			s.TapUntil(
				"the left half",
				func() bool { return strings.Contains(window.Output(), "width: 500") },
				codes(c.left...)...)
			s.Tap(codes("AltLeft", "F4")...)
			time.Sleep(time.Second)
			assert.NotContains(t, window.Output(), "close", "Alt+F4 is switched off")
			s.TapUntil(
				"the window to close",
				func() bool { return strings.Contains(window.Output(), "close") },
				codes(c.close...)...)
		})
	}
}

// What programs were started with is what is read of the files.
func TestReadsSpecimens(t *testing.T) {
	for _, desktop := range []string{"gnome", "plasma"} {
		for dir, s := range realtest.Specimens(t, "../..", desktop) {
			_, builds, diags := build(t, session(desktop, "true"))
			require.Empty(t, diags)
			read, err := compile.Read(builds[0].Machine, os.DirFS(dir))
			require.NoError(t, err)
			s.AsStarted(t, read.Bindings)
		}
	}
}

// codes are the event codes of keys.
func codes(names ...string) (list []int) {
	for _, n := range names {
		list = append(list, sample.Evdev(sample.Key(n)))
	}
	return list
}

// window is a window of a Wayland session that says what it is given.
type window struct{ *realtest.Background }

// openWindow opens a window and has it take the keyboard. GNOME begins in its overview,
// which Escape leaves.
func openWindow(t *testing.T, s *realtest.Session) window {
	t.Helper()
	w := window{s.Start("exec stdbuf -oL wev")}
	s.TapUntil(
		"a window with the keyboard",
		func() bool { return strings.Contains(w.Output(), "sym: Escape") },
		codes("Escape")...)
	return w
}

// seen is what a window sees of keys that are held one after the other.
type seen struct {
	chord []string
	syms  []string
	mods  string // those that are down at last, "" for none
}

var (
	symPressed = regexp.MustCompile(`state: 1 \(pressed\)\n\s*sym: (\w+)`)
	modsHeld   = regexp.MustCompile(`depressed: [0-9A-F]{8}: (.*\w)`)
)

func (w window) sees(t *testing.T, s *realtest.Session, want seen) {
	t.Helper()
	from := len(w.Output())
	s.Tap(codes(want.chord...)...)
	var syms []string
	realtest.WaitFor(t, strings.Join(want.chord, "+"), func() bool {
		syms = nil
		for _, f := range symPressed.FindAllStringSubmatch(w.Output()[from:], -1) {
			syms = append(syms, f[1])
		}
		return len(syms) >= len(want.syms)
	})
	assert.Equal(t, want.syms, syms)
	mods := ""
	for _, f := range modsHeld.FindAllStringSubmatch(w.Output()[from:], -1) {
		mods = f[1]
	}
	assert.Equal(t, want.mods, mods, "%v", want.chord)
}

// session is the mapping of which keys are pressed, for a desktop, with a program that is to be started.
func session(desktop, program string) string {
	return fmt.Sprintf(`
version = 1
machine "office" {
  system  = "linux"
  desktop = %q
  session = "wayland"
  layouts = ["de"]
  rights  = "user"
}
hyper "CapsLock" {}
remap "ScrollLock" { to = "KeyZ" }
disable "Insert" {}
layer "arrows" {
  while = "ControlRight"
  keys = { KeyH = "ArrowLeft" }
}
launch "Hyper+t" { run = [%[2]q, "one", %[3]q] }
launch "Ctrl+Alt+z" { run = [%[2]q, "two"] }
launch "F9" { run = ["~/record it", "three", "~/log 3"] }
disable "Alt+F4" {}
`, desktop, program, sample.Nasty)
}
