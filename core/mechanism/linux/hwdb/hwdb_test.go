package hwdb_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/hwdb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

const path = "hwdb/90-leitstand.hwdb"

// machine has a board of two buses, one of its own, and the built-in one.
func machine(admin bool) *mechanism.Machine {
	m := sample.Machine(
		mapping.Machine{System: mapping.Linux, Desktop: "i3", Session: "wayland", Layouts: []string{"de"}},
	)
	m.Admin = admin
	m.Boards = []*mapping.Board{
		{
			Name: "chart-table",
			IDs: []mapping.BoardID{
				{Bus: mapping.USB, Vendor: 0x1209, Product: 0xAB},
				{Bus: mapping.Bluetooth, Vendor: 0x1209, Product: 2},
			},
		},
		{Name: "wheelhouse", IDs: []mapping.BoardID{{Bus: mapping.USB, Vendor: 0x1209, Product: 3}}},
		{Name: "own", IDs: []mapping.BoardID{{Bus: mapping.BuiltIn}}},
	}
	return m
}

func write(t require.TestingT, m *mechanism.Machine, list []mechanism.Binding) []byte {
	out, err := mechanism.Write(hwdb.Mechanism{}, m, list)
	require.NoError(t, err)
	return out.Files()[0].Data
}

// same leaves out what a board says only to repeat what every board does, as a
// comparison does.
func same(t require.TestingT, want, got []mechanism.Binding, text []byte) {
	require.Empty(t, behaviour.Compare(want, got), "%s", text)
	require.Empty(t, behaviour.Compare(got, want), "%s", text)
}

// What is written reads back as what was meant, on every board.
func TestReadsWhatItWrites(t *testing.T) {
	m := machine(true)
	rapid.Check(t, func(t *rapid.T) {
		var list []mechanism.Binding
		for _, board := range []string{"", "chart-table", "wheelhouse", "own"} {
			for _, b := range sample.Positions(t, func(b behaviour.Binding) bool {
				b.Board = board
				return hwdb.Mechanism{}.Take(m, b).Verdict == mechanism.Exact
			}) {
				list = append(list, sample.On(board, b))
			}
		}
		text := write(t, m, list)
		got, err := hwdb.Mechanism{}.Read(m, fstest.MapFS{path: {Data: text}})
		require.NoError(t, err, "%s", text)
		// What a built-in board cannot send it does not change.
		list = behaviourOf(m, list)
		same(t, list, behaviourOf(m, got), text)
	})
}

// behaviourOf drops the presses of keys that the built-in board's controller has no
// scan code for: no file changes what it never sends.
func behaviourOf(_ *mechanism.Machine, list []mechanism.Binding) []mechanism.Binding {
	var kept []mechanism.Binding
	for _, b := range list {
		_, scanned := b.Chord.Key.Scancode()
		_, used := b.Chord.Key.HID()
		if scanned && used {
			kept = append(kept, b)
		}
	}
	return kept
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		admin   bool
		binding mechanism.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{true, sample.Becomes("CapsLock", "Escape"), mechanism.Exact, ""},
		{true, sample.On("wheelhouse", sample.Nothing("Insert")), mechanism.Exact, ""},
		{false, sample.Nothing("Insert"), mechanism.Unavailable, "needs an administrator"},
		{true, sample.Modifier("CapsLock", keys.Hyper), mechanism.Unavailable, ""},
		{true, sample.Becomes("MouseBack", "Enter"), mechanism.Unavailable, "takes no keys from it"},
		{true, sample.Becomes("F13", "MouseBack"), mechanism.Unavailable, "takes no buttons of a mouse from it"},
		{true, sample.Launch(keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"x"}}), mechanism.Unavailable, ""},
	} {
		got := hwdb.Mechanism{}.Take(machine(c.admin), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// systemd-hwdb compiles the file without a word and gives each board's device what
// was meant for it.
func TestSystemdGivesWhatIsMeant(t *testing.T) {
	realtest.Need(t, "systemd-hwdb", "udev")
	m := machine(true)
	text := write(t, m, []mechanism.Binding{sample.Becomes("CapsLock", "Escape"), sample.Nothing("Insert"),
		sample.On(
			"chart-table", sample.Becomes("CapsLock", "ControlLeft"),
		), sample.On("own", sample.Becomes("MetaLeft", "AltLeft"))})
	root := t.TempDir()
	dir := filepath.Join(root, "etc/udev/hwdb.d")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "90-leitstand.hwdb"), text, 0o644))
	_, complaints := realtest.Output(t, "systemd-hwdb", "update", "--strict", "--root", root)
	require.Empty(t, complaints)
	for device, want := range map[string]string{
		"evdev:input:b0003v1209p00ABe0110-e0,1,4": "KEYBOARD_KEY_70039=leftctrl KEYBOARD_KEY_70049=reserved",
		"evdev:input:b0005v1209p0002e0001-e0,1,4": "KEYBOARD_KEY_70039=leftctrl KEYBOARD_KEY_70049=reserved",
		"evdev:input:b0003v1209p0003e0110-e0,1,4": "KEYBOARD_KEY_70039=esc KEYBOARD_KEY_70049=reserved",
		"evdev:atkbd:dmi:bvnTide:bvr1:bd:svn:pn": "KEYBOARD_KEY_3a=esc KEYBOARD_KEY_d2=reserved " +
			"KEYBOARD_KEY_db=leftalt",
		"evdev:input:b0019v0000p0001e0000": "",
	} {
		cmd := exec.Command("systemd-hwdb", "query", "--root", root, device)
		out, err := cmd.Output()
		require.NoError(t, err)
		assert.Equal(t, want, strings.Join(strings.Fields(string(out)), " "), device)
	}
}

func TestRead(t *testing.T) {
	for text, want := range map[string]string{
		" KEYBOARD_KEY_3a=esc\n": "hwdb:1: a key stands without a pattern",
		"evdev:input:b0003*\n":   "has no keys",
		"evdev:input:b0003*\n KEYBOARD_KEY_7003A=esc\n": "hwdb:2: \" KEYBOARD_KEY_7003A=esc\" is no " +
			"key of a board",
		"evdev:input:b0003*\n KEYBOARD_KEY_7003a=esc\nevdev:atkbd:*\n": "a pattern stands behind keys",
		"evdev:input:b0003*\n KEYBOARD_KEY_fffff=esc\n":                "no key has the scan code fffff",
	} {
		_, err := hwdb.Mechanism{}.Read(machine(true), fstest.MapFS{path: {Data: []byte(text)}})
		assert.ErrorContains(t, err, want)
	}
	got, err := hwdb.Mechanism{}.Read(machine(true), fstest.MapFS{path: {Data: []byte("evdev:input:b0003*\n " +
		"KEYBOARD_KEY_70039=escape\n")}})
	require.NoError(t, err)
	assert.Equal(t, behaviour.Other, got[0].Effect.Kind, "the kernel calls the key esc")
}

func FuzzRead(f *testing.F) {
	m := machine(true)
	f.Add(
		write(
			f, m, []mechanism.Binding{sample.Becomes("CapsLock", "Escape"), sample.On("own", sample.Nothing("Insert"))},
		),
	)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = hwdb.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
	})
}

// The database that comes with udev is read: the boards that it singles out, and what else
// it says is told.
func TestImportsStockDatabase(t *testing.T) {
	const file = "/lib/udev/hwdb.d/60-keyboard.hwdb"
	realtest.NeedFile(t, file, "udev")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	require.True(t, hwdb.Mechanism{}.Knows(file, text))
	got, err := hwdb.Mechanism{}.Import(nil, text, nil)
	require.NoError(t, err)
	assert.NotEmpty(t, got.Boards)
	assert.Greater(t, len(got.Bindings), 20)
	for _, b := range got.Bindings {
		assert.True(
			t, slices.ContainsFunc(got.Boards, func(o *mapping.Board) bool { return o.Name == b.Board }), b.String(),
		)
	}
	lines := strings.Split(string(text), "\n")
	for _, l := range got.Left {
		assert.Contains(t, lines[l.Line-1], l.Text)
	}
	assert.Greater(t, len(got.Left), 100, "most of it is for the makers' own models")
}

// Every key that an entry can be of has a name for what it gives by itself, so that it can be given back.
func TestFormerKeysHaveNames(t *testing.T) {
	m := machine(true)
	n := 0
	for _, k := range keys.All() {
		b := mechanism.Binding{Chord: keys.Chord{Key: k}, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
		if (hwdb.Mechanism{}).Take(m, b).Verdict < mechanism.Limited {
			continue
		}
		n++
		out, err := mechanism.Write(hwdb.Mechanism{}, m, []mechanism.Binding{b})
		require.NoError(t, err)
		last, _ := out.Changes[len(out.Changes)-1].(change.Call)
		require.Len(t, last.Undo, 3, k)
		name, ok := k.EvdevName()
		if !ok {
			name = "unknown"
		}
		require.Contains(t, last.Undo[2], "="+name+"\n", k)
	}
	assert.Greater(t, n, 100)
}
