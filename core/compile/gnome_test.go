package compile_test

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// A mapping is compiled, its steps are taken as they stand, and keys are pressed in a
// GNOME session on Wayland: windows see the layout, programs start, windows are tiled and
// closed, and what is switched off does nothing.
func TestPressedUnderGnomeOnWayland(t *testing.T) {
	realtest.Need(t, "wev", "wev")
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	_, builds, diags := build(t, fmt.Sprintf(`
version = 1
machine "office" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  layouts = ["de"]
  rights  = "user"
}
hyper "CapsLock" {}
remap "ScrollLock" { to = "KeyZ" }
disable "Insert" {}
layer "arrows" {
  hold = "ControlRight"
  keys { KeyH = "ArrowLeft" }
}
launch "Hyper+t" { run = [%[1]q, "one", %[2]q] }
launch "Ctrl+Alt+z" { run = [%[1]q, "two"] }
launch "F9" { run = [%[1]q, "three"] }
action "Hyper+ArrowLeft" { does = "tile-left" }
action "Hyper+q" { does = "close" }
disable "Alt+F4" {}
`, recording.Program, sample.Nasty))
	require.Empty(t, diags)
	dir := t.TempDir()
	require.NoError(t, compile.WriteFolder(dir, builds))
	dir = filepath.Join(dir, "office")
	g := realtest.GnomeSession(t, env, dir, `gsettings set org.gnome.desktop.input-sources sources "[('xkb', 'de')]"`+"\n"+realtest.Steps(t, dir))

	want := []string{"one\x00" + sample.Nasty + "\x00in ", "two\x00in ", "three\x00in "}
	g.TapUntil("the first shortcut", recording.Any, codes("F9")...)
	time.Sleep(time.Second)
	for i, chord := range [][]string{{"CapsLock", "KeyT"}, {"ControlLeft", "AltLeft", "KeyY"}, {"F9"}} {
		g.TapUntil(strings.Join(chord, "+"), recording.Expect(want[i], want), codes(chord...)...)
		time.Sleep(time.Second)
	}

	window := openWindow(t, g)
	for _, c := range []seen{
		{[]string{"KeyA"}, []string{"a"}, ""},
		{[]string{"ScrollLock"}, []string{"y"}, ""},
		{[]string{"CapsLock", "KeyB"}, []string{"Hyper_L", "b"}, "Mod3 Hyper"},
		{[]string{"ControlRight", "KeyH"}, []string{"VoidSymbol", "Left"}, ""},
		{[]string{"Insert"}, []string{"VoidSymbol"}, ""},
	} {
		window.sees(t, g, c)
	}
	g.TapUntil("the left half", func() bool { return strings.Contains(window.Output(), "width: 500") }, codes("CapsLock", "ArrowLeft")...)
	g.Tap(codes("AltLeft", "F4")...)
	time.Sleep(time.Second)
	assert.NotContains(t, window.Output(), "close", "Alt+F4 is switched off")
	g.TapUntil("the window to close", func() bool { return strings.Contains(window.Output(), "close") }, codes("CapsLock", "KeyQ")...)
}
