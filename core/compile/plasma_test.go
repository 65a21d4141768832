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

// The same in a Plasma session on Wayland, with further buttons of a mouse; the steps are
// taken in one session and count in the next.
func TestPressedUnderPlasmaOnWayland(t *testing.T) {
	realtest.Need(t, "wev", "wev")
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	_, builds, diags := build(t, fmt.Sprintf(`
version = 1
machine "office" {
  system  = "linux"
  desktop = "plasma"
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
remap "MouseBack" { to = "F6" }
remap "MouseForward" { to = "Ctrl+KeyB" }
launch "Hyper+t" { run = [%[1]q, "one", %[2]q] }
launch "Ctrl+Alt+z" { run = [%[1]q, "two"] }
launch "F9" { run = [%[1]q, "three"] }
action "Meta+ArrowLeft" { does = "tile-left" }
action "Meta+q" {
  does  = "close"
  takes = true
}
disable "Alt+F4" {}
`, recording.Program, sample.Nasty))
	require.Empty(t, diags)
	dir := t.TempDir()
	require.NoError(t, compile.WriteFolder(dir, builds))
	dir = filepath.Join(dir, "office")
	s := realtest.PlasmaSession(t, home, env, dir, "kwriteconfig5 --file kxkbrc --group Layout --key LayoutList de\n"+realtest.Steps(t, dir))

	want := []string{"one\x00" + sample.Nasty + "\x00in ", "two\x00in ", "three\x00in "}
	s.TapUntil("the first shortcut", recording.Any, codes("F9")...)
	time.Sleep(time.Second)
	for i, chord := range [][]string{{"CapsLock", "KeyT"}, {"ControlLeft", "AltLeft", "KeyY"}, {"F9"}} {
		s.TapUntil(strings.Join(chord, "+"), recording.Expect(want[i], want), codes(chord...)...)
		time.Sleep(time.Second)
	}
	window := openWindow(t, s)
	for _, c := range []seen{
		{[]string{"KeyA"}, []string{"a"}, ""},
		{[]string{"ScrollLock"}, []string{"y"}, ""},
		{[]string{"CapsLock", "KeyB"}, []string{"VoidSymbol", "B"}, "Shift Control Mod1 Mod4"},
		{[]string{"ControlRight", "KeyH"}, []string{"VoidSymbol", "Left"}, ""},
		{[]string{"Insert"}, []string{"VoidSymbol"}, ""},
		{[]string{"MouseBack"}, []string{"F6"}, ""},
		{[]string{"MouseForward"}, []string{"Control_L", "b"}, "Control"},
	} {
		window.sees(t, s, c)
	}
	s.TapUntil("the left half", func() bool { return strings.Contains(window.Output(), "width: 500") }, codes("MetaLeft", "ArrowLeft")...)
	s.Tap(codes("AltLeft", "F4")...)
	time.Sleep(time.Second)
	assert.NotContains(t, window.Output(), "close", "Alt+F4 is switched off")
	s.TapUntil("the window to close", func() bool { return strings.Contains(window.Output(), "close") }, codes("MetaLeft", "KeyQ")...)
}
