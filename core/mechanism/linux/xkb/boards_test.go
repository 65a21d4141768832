package xkb_test

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
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// withBoards gives a machine two boards.
func withBoards(m *mechanism.Machine, ids ...mapping.BoardID) *mechanism.Machine {
	m.Boards = []*mapping.Board{
		{Name: "chart-table", IDs: ids},
		{Name: "wheelhouse", IDs: []mapping.BoardID{{Bus: mapping.USB, Vendor: 0x1209, Product: 3}}},
	}
	return m
}

// ofBoards has keys that mean the same on every board, keys of one board only, and a key
// that one board has otherwise than all.
var ofBoards = []mechanism.Binding{
	sample.Becomes("Pause", "F14"),
	sample.Becomes("CapsLock", "Escape"),
	sample.On("chart-table", sample.Becomes("Insert", "F13")),
	sample.On("chart-table", sample.Modifier("CapsLock", keys.Hyper)),
	sample.On("wheelhouse", sample.Nothing("Insert")),
}

func TestTakeOfBoards(t *testing.T) {
	usb := mapping.BoardID{Bus: mapping.USB, Vendor: 0x1209, Product: 1}
	insert := sample.On("chart-table", sample.Nothing("Insert"))
	layer := sample.On("chart-table", sample.Layered("arrows", "Insert", "KeyH", "ArrowLeft")[0])
	hyper := sample.On("chart-table", sample.Modifier("CapsLock", keys.Hyper))
	for _, c := range []struct {
		m       *mechanism.Machine
		binding mechanism.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{withBoards(machine("x11", "xfce", "de"), usb), insert, mechanism.Limited, "plugged in later"},
		{withBoards(machine("x11", "xfce", "de"), usb), hyper, mechanism.Limited, "a board that is plugged in later " +
			"has it when its keymap is loaded again"},
		{withBoards(machine("wayland", "sway", "de"), usb), hyper, mechanism.Exact, ""},
		{withBoards(machine("wayland", "gnome", "de"), usb), hyper, mechanism.Unavailable, "all boards alike"},
		{withBoards(machine("", "gnome", "de"), usb), hyper, mechanism.Unavailable, "all boards alike"},
		{withBoards(machine("x11", "xfce", "de"), mapping.BoardID{Bus: mapping.BuiltIn}), hyper, mechanism.Unavailable, "by its numbers only"},
		{withBoards(machine("x11", "xfce", "de"), usb), layer, mechanism.Unavailable, "by the keymap of one board"},
	} {
		got := xkb.Mechanism{}.Take(c.m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, "%s: %s", c.binding, got.Why.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// What is written of boards reads back, and what one has lost is told.
func TestBoardsReadBack(t *testing.T) {
	usb := mapping.BoardID{Bus: mapping.USB, Vendor: 0x1209, Product: 1}
	for _, m := range []*mechanism.Machine{withBoards(machine("x11", "i3", "de", "us"), usb), withBoards(machine("wayland", "sway", "fr"), usb)} {
		for _, list := range [][]mechanism.Binding{ofBoards, ofBoards[2:3]} { // the second for no other board at all
			list = slices.Clone(list)
			behaviour.Sort(list)
			out, err := mechanism.Write(xkb.Mechanism{}, m, list)
			require.NoError(t, err)
			got, err := xkb.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
			require.NoError(t, err)
			assert.Empty(t, behaviour.Compare(list, got), m.Desktop)
		}
	}
	m := withBoards(machine("x11", "i3", "de"), usb)
	out, err := mechanism.Write(xkb.Mechanism{}, m, ofBoards)
	require.NoError(t, err)
	files := mechanism.Folder(out.Files())
	for i, f := range files {
		if f.Path == "xkb/board-wheelhouse.xkb" {
			files[i].Data = []byte(strings.ReplaceAll(string(f.Data), "replace key <PAUS>", "replace key <SCLK>"))
		}
	}
	got, err := xkb.Mechanism{}.Read(m, files)
	require.NoError(t, err)
	var words []string
	for _, c := range behaviour.Compare(ofBoards, got) {
		words = append(words, c.Press+" "+c.After.String())
	}
	assert.Equal(t, []string{"ScrollLock on wheelhouse acts as F14", "Pause on wheelhouse acts as Pause"}, words)
}

// The script that is started at log-in gives a board its keymap, by its numbers, and no
// other board; run again, it does so for one that has come.
func TestBoardsPressedInX(t *testing.T) {
	realtest.Need(t, "xinput", "xinput")
	m := withBoards(
		machine("x11", "i3", "de"), mapping.BoardID{Bus: mapping.Bluetooth, Vendor: 0x1209, Product: 2},
		mapping.BoardID{Bus: mapping.USB, Vendor: 0x1209, Product: 1},
	)
	dir := write(t, m, ofBoards)
	server := realtest.XServer(t)
	// Keys are pressed on the board of the X test extension. The drivers of real boards
	// give them the property.
	device := strings.TrimSpace(server.Run("xinput", "list", "--id-only", "Virtual core XTEST keyboard"))
	p := server.Presser()
	check := func(insert, caps string) {
		t.Helper()
		server.Run("sh", filepath.Join(dir, "xkb/load-keymaps"))
		assert.Equal(t, insert, xlibName(p.Chord(sample.Evdev(sample.Key("Insert")))[0].Keysym))
		assert.Equal(t, caps, p.Chord(sample.Evdev(sample.Key("CapsLock")))[0].Keysym)
		assert.Equal(t, "XF86Launch5", p.Chord(sample.Evdev(sample.Key("Pause")))[0].Keysym)
	}
	check("Insert", "Escape")
	server.Run("xinput", "set-prop", "--type=int", "--format=32", device, "Device Product ID", "4617", "1")
	check("XF86Tools", "Hyper_L")
	assert.Equal(
		t, 0x20, p.Chord(sample.Evdev(sample.Key("CapsLock")), sample.Evdev(sample.Key("KeyT")))[1].State,
		"Hyper alone",
	)
	server.Run("xinput", "set-prop", "--type=int", "--format=32", device, "Device Product ID", "4617", "3")
	check("VoidSymbol", "Escape")
	server.Run("xinput", "set-prop", "--type=int", "--format=32", device, "Device Product ID", "4617", "4")
	check("Insert", "Escape")
}

// libxkbcommon knows the options of boards.
func TestBoardsCompiledByLibxkbcommon(t *testing.T) {
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	m := withBoards(machine("wayland", "sway", "de"), mapping.BoardID{Bus: mapping.USB, Vendor: 0x1209, Product: 1})
	dir := write(t, m, ofBoards)
	for name, want := range map[string]string{"board-chart-table": "XF86Tools", "board-wheelhouse": "VoidSymbol", "mapping": "Insert"} {
		out, complaints := realtest.Output(
			t, "xkbcli", "compile-keymap", "--include", filepath.Join(dir, "xkb"), "--include-defaults", "--layout",
			"de", "--options", "leitstand:"+name,
		)
		assert.Empty(t, complaints)
		at := strings.Index(out, "key <INS>")
		require.Positive(t, at)
		line, _, _ := strings.Cut(out[at:], "};")
		assert.Contains(t, line, want, name)
	}
}

// sway, told by the lines of the steps, gives the board its own keymap.
func TestBoardUnderSway(t *testing.T) {
	realtest.Pressed(t, "xkb", "sway", "the keymap of a single board")
	realtest.Need(t, "sway", "sway")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	// What sway has in a window of an X server is a board without numbers.
	m := withBoards(machine("wayland", "sway", "de"), mapping.BoardID{Bus: mapping.USB})
	out, err := mechanism.Write(xkb.Mechanism{}, m, ofBoards)
	require.NoError(t, err)
	for _, f := range out.Files() {
		file := filepath.Join(home, ".config", f.Path)
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
		require.NoError(t, os.WriteFile(file, f.Data, 0o644))
	}
	var lines, told []string // of sway's configuration, and what it is told
	for _, c := range out.Changes {
		switch c := c.(type) {
		case change.Line:
			lines = append(lines, c.Text)
		case change.Call:
			told = append(told, c.Do[len(c.Do)-1])
		}
	}
	told = slices.DeleteFunc(told, func(l string) bool { return l == "reload" })
	require.Len(t, lines, 2)
	main := filepath.Join(home, ".config/sway/config")
	require.NoError(t, os.MkdirAll(filepath.Dir(main), 0o755))
	require.NoError(
		t,
		os.WriteFile(
			main,
			[]byte(
				"xwayland disable\n"+strings.Join(
					lines, "\n",
				)+"\ninput type:keyboard xkb_layout de\nbindsym XF86Tools exec touch "+home+"/board\nbindsym XF86Launch5 exec touch "+home+"/every\n",
			),
			0o644,
		),
	)
	env = append(env, "WLR_RENDERER=pixman", "WLR_NO_HARDWARE_CURSORS=1", "SWAYSOCK="+home+"/socket")
	run := server.Nobody(home, env)
	server.Background(run("WLR_BACKENDS=x11", "sway", "-c", main))
	there := func(name string) func() bool {
		return func() bool { _, err := os.Stat(filepath.Join(home, name)); server.Focus("sway"); return err == nil }
	}
	server.TapUntil("the key of every board", there("every"), sample.Evdev(sample.Key("Pause")))
	server.Tap(sample.Evdev(sample.Key("Insert")))
	time.Sleep(time.Second)
	assert.False(t, there("board")(), "the board has its own keymap before sway is told")

	text, err := run("A=", "sh", "-ec", strings.Join(told, "\n")+"\nswaymsg reload").CombinedOutput()
	require.NoError(t, err, "%s", text)
	require.NoError(t, os.Remove(filepath.Join(home, "every")))
	server.TapUntil("the key of the board", there("board"), sample.Evdev(sample.Key("Insert")))
	server.TapUntil("the key of every board", there("every"), sample.Evdev(sample.Key("Pause")))
}
