package console_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/console"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func machine(layout string) *mechanism.Machine {
	m := sample.Machine(mapping.Machine{System: mapping.Linux, Session: "console", Layouts: []string{layout}})
	m.Admin = true
	return m
}

func chord(mods keys.Mods, code string, e behaviour.Effect) mechanism.Binding {
	return mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods, Key: sample.Key(code)}, Effect: e}
}

func sends(mods keys.Mods, code string) behaviour.Effect {
	return behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: mods, Key: sample.Key(code)}}
}

func types(text string) behaviour.Effect {
	return behaviour.Effect{Kind: behaviour.Types, Text: text}
}

func write(t require.TestingT, m *mechanism.Machine, list []mechanism.Binding) string {
	out, err := mechanism.Write(console.Mechanism{}, m, list)
	require.NoError(t, err)
	return string(out.Files()[0].Data)
}

func TestTake(t *testing.T) {
	becomes := func(code string) behaviour.Effect {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(code)}
	}
	for _, c := range []struct {
		binding mechanism.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{chord(keys.Ctrl, "KeyH", becomes("Backspace")), mechanism.Exact, ""},
		{chord(keys.Alt, "KeyH", becomes("ArrowLeft")), mechanism.Exact, ""},
		{chord(keys.Alt, "KeyH", becomes("ShiftLeft")), mechanism.Unavailable, "no character for ShiftLeft"},
		{chord(keys.Alt, "KeyH", becomes("KeyA")), mechanism.Limited, "CapsLock"},
		{chord(keys.Alt, "KeyH", sends(keys.Ctrl, "KeyA")), mechanism.Exact, ""},
		{chord(keys.Alt, "KeyH", sends(keys.Ctrl, "ArrowLeft")), mechanism.Unavailable, "no character for Ctrl+ArrowLeft"},
		{chord(keys.AltGr|keys.Shift, "KeyH", sends(keys.Shift, "Digit7")), mechanism.Exact, ""},
		{chord(keys.Meta, "KeyH", behaviour.Effect{Kind: behaviour.Nothing}), mechanism.Unavailable, "no modifier Meta"},
		{sample.Off(keys.Ctrl|keys.Alt, "Delete"), mechanism.Exact, ""},
		{chord(0, "F9", types(strings.Repeat("x", 501))), mechanism.Unavailable, "at most 500 bytes"},
		{chord(0, "F9", types("a\x00b")), mechanism.Unavailable, "no NUL"},
		{sample.Act(keys.Alt, "Digit3", "workspace-3"), mechanism.Limited, "a console"},
		{sample.Act(keys.Alt, "KeyQ", "close"), mechanism.Unavailable, "no windows"},
		{sample.Launch(keys.Alt, "KeyQ", behaviour.Launch{App: "x"}), mechanism.Unavailable, "no program"},
		{sample.Becomes("CapsLock", "Escape"), mechanism.Unavailable, ""},
	} {
		got := console.Mechanism{}.Take(machine("de"), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words, c.binding.String())
	}
	m := machine("de")
	m.Admin = false
	assert.Contains(t, console.Mechanism{}.Take(m, sample.Off(keys.Ctrl, "KeyX")).Why.String(), "an administrator")
}

// bootCodes is how many keycodes loadkeys writes for the boot.
const bootCodes = 128

// random is bindings that the console takes.
func random(t *rapid.T, m *mechanism.Machine) []mechanism.Binding {
	mods := rapid.SampledFrom(
		[]keys.Mods{
			0,
			keys.Ctrl,
			keys.Alt,
			keys.AltGr,
			keys.Ctrl | keys.Alt,
			keys.Shift | keys.Alt,
			keys.Ctrl | keys.Shift | keys.Alt | keys.AltGr,
		},
	)
	from := rapid.Custom(func(t *rapid.T) keys.Chord {
		return keys.Chord{Mods: mods.Draw(t, "modifiers"), Key: rapid.SampledFrom(keys.All()).Draw(t, "key")}
	})
	to := rapid.SampledFrom(
		[]keys.Mods{0, keys.Shift, keys.AltGr, keys.Ctrl, keys.Alt, keys.Alt | keys.Shift, keys.Ctrl | keys.Alt},
	)
	text := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,40}`))
	var list []mechanism.Binding
	for _, c := range rapid.SliceOfNDistinct(from, 1, 8, rapid.ID[keys.Chord]).Draw(t, "chords") {
		e := behaviour.Effect{Kind: behaviour.Nothing}
		switch rapid.IntRange(0, 3).Draw(t, "kind") {
		case 0:
			e = types(text.Draw(t, "text"))
		case 1:
			e = behaviour.Effect{Kind: behaviour.Becomes, Key: rapid.SampledFrom(keys.All()).Draw(t, "to")}
		case 2:
			e = behaviour.Effect{
				Kind:  behaviour.Sends,
				Chord: keys.Chord{Mods: to.Draw(t, "with"), Key: rapid.SampledFrom(keys.All()).Draw(t, "to")},
			}
			if e.Chord.Mods == 0 {
				e = behaviour.Effect{Kind: behaviour.Becomes, Key: e.Chord.Key}
			}
		}
		b := mechanism.Binding{Level: behaviour.Hotkey, Chord: c, Effect: e}
		if (console.Mechanism{}).Take(m, b).Verdict >= mechanism.Limited && sample.Evdev(c.Key) < bootCodes {
			list = append(list, b)
		}
	}
	return list
}

// folder is a machine's folder with a keymap, and the unit that loads it.
func folder(text string) fstest.MapFS {
	out, err := mechanism.Write(console.Mechanism{}, machine("us"), nil)
	if err != nil {
		panic(err)
	}
	fsys := fstest.MapFS{}
	for _, f := range out.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	fsys["console/leitstand.map"] = &fstest.MapFile{Data: []byte(text)}
	return fsys
}

// The keymap reads back as what was meant, and the tables that loadkeys makes of it
// have an entry for each chord and no other.
func TestReadAndLoaded(t *testing.T) {
	realtest.Need(t, "loadkeys", "kbd")
	dir := t.TempDir()
	rapid.Check(t, func(rt *rapid.T) {
		m := machine(rapid.SampledFrom([]string{"us", "de", "fr"}).Draw(rt, "layout"))
		list := random(rt, m)
		text := write(rt, m, list)
		got, err := console.Mechanism{}.Read(m, folder(text))
		require.NoError(rt, err)
		require.Empty(rt, behaviour.Compare(got, list), text)
		path := filepath.Join(dir, "f.map")
		require.NoError(rt, os.WriteFile(path, []byte(text), 0o644))
		entries := compiled(t, path)
		for _, b := range list {
			at := place{console: bits(b.Chord.Mods), keycode: sample.Evdev(b.Chord.Key)}
			_, there := entries[at]
			require.Equal(rt, b.Effect.Kind != behaviour.Nothing, there, "%s: %s", b, text)
			delete(entries, at)
		}
		require.Empty(rt, entries, text)
	})
}

// What loadkeys makes of a keysym and of a text is what the kernel's header and the
// mapping mean by it.
func TestLoaded(t *testing.T) {
	realtest.Need(t, "loadkeys", "kbd")
	m := machine("de")
	becomes := func(code string) behaviour.Effect {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(code)}
	}
	list := []mechanism.Binding{
		chord(
			keys.Ctrl, "KeyH", becomes("Backspace"),
		), chord(keys.Alt, "KeyH", becomes("ArrowLeft")), chord(keys.Alt, "KeyJ", becomes("PageDown")),
		chord(
			keys.Alt, "KeyK", sends(keys.Ctrl, "KeyC"),
		), chord(keys.Alt, "KeyZ", sends(keys.Alt, "KeyZ")), chord(keys.AltGr, "KeyP", sends(keys.Shift, "Digit7")),
		chord(
			keys.Alt, "KeyU", becomes("BracketLeft"),
		), sample.Act(keys.Alt, "Digit3", "workspace-3"), sample.Act(keys.Alt, "ArrowRight", "next-workspace"),
		chord(0, "F9", types("Süderhaff \"3\"\n\\")),
	}
	path := filepath.Join(t.TempDir(), "f.map")
	require.NoError(t, os.WriteFile(path, []byte(write(t, m, list)), 0o644))
	entries := compiled(t, path)
	for i, want := range []uint16{0x7F, 0x0601, 0x0119, 0x03, 0x0879, '/', 0xF0FC, 0x0502, 0x0211, 0x016D} {
		b := list[i]
		assert.Equal(
			t, fmt.Sprintf("%#x", want),
			fmt.Sprintf("%#x", entries[place{bits(b.Chord.Mods), sample.Evdev(b.Chord.Key)}]), b.String(),
		)
	}
	table, _ := realtest.Output(t, "loadkeys", "--mktable", path)
	_, table, _ = strings.Cut(table, "func_buf[] = {")
	table, _, _ = strings.Cut(table, "0, \n};")
	var typed []byte
	for _, c := range regexp.MustCompile(`'(?:\\([0-7]{3})|\\?(.))'`).FindAllStringSubmatch(table, -1) {
		n, err := strconv.ParseUint(c[1], 8, 8)
		if err != nil {
			n = uint64(c[2][0])
		}
		typed = append(typed, byte(n))
	}
	assert.Equal(t, "Süderhaff \"3\"\n\\", string(typed))
}

// place is an entry of the compiled tables: the console's number of a set of
// modifiers, and a keycode.
type place struct{ console, keycode int }

// bits is the kernel's number of modifiers.
func bits(mods keys.Mods) int {
	n := 0
	for i, m := range []keys.Mods{keys.Shift, keys.AltGr, keys.Ctrl, keys.Alt} {
		if mods.Has(m) {
			n |= 1 << i
		}
	}
	return n
}

// compiled is the entries of a keymap as loadkeys writes it for the boot: a word, 256
// flags, and 128 numbers for each table that there is.
func compiled(t *testing.T, path string) map[place]uint16 {
	t.Helper()
	out, complaints := realtest.Output(t, "loadkeys", "--unicode", "--bkeymap", path)
	require.Empty(t, complaints)
	data, ok := bytes.CutPrefix([]byte(out), []byte("bkeymap"))
	require.True(t, ok)
	const hole = 0x0200
	entries := map[place]uint16{}
	tables := data[256:]
	for n := range 256 {
		if data[n] == 0 {
			continue
		}
		for code := range bootCodes {
			if v := binary.LittleEndian.Uint16(tables[2*code:]); v != hole {
				entries[place{n, code}] = v
			}
		}
		tables = tables[2*bootCodes:]
	}
	require.Empty(t, tables)
	return entries
}

// Every key that terminals have a key for is given, and read back.
func TestKeysOfTerminals(t *testing.T) {
	m := machine("us")
	for _, code := range []string{"Enter", "Backspace", "Space", "Delete", "Home", "End", "PageUp", "PageDown", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Escape", "Tab", "Insert"} {
		list := []mechanism.Binding{
			chord(keys.Alt, "KeyX", behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(code)}),
		}
		require.GreaterOrEqual(t, console.Mechanism{}.Take(m, list[0]).Verdict, mechanism.Limited, code)
		got, err := console.Mechanism{}.Read(m, folder(write(t, m, list)))
		require.NoError(t, err, code)
		assert.Empty(t, behaviour.Compare(list, got), code)
	}
}

func TestRead(t *testing.T) {
	for text, want := range map[string]string{
		"plain keycode x = Escape":    "leitstand.map:1: no line of a keycode",
		"\nsuper keycode 1 = Escape":  "leitstand.map:2: \"super\" is no modifier",
		"plain keycode 9999 = Escape": "no key has the keycode 9999",
		"plain keycode 30 = U+zz":     "is no character",
		"plain keycode 30 = U+4e00":   "layout us does not type \"一\"",
		"string F100 = \"a":           "between quotation marks",
		"string F100 = \"\\\"":        "a backslash means nothing",
		"string F100 = \"\\999\"":     "is no character",
		"string F100 = \"a\"b\"":      "a quotation mark within",
		"string F100":                 "no string",
	} {
		_, err := console.Mechanism{}.Read(machine("us"), folder(text))
		assert.ErrorContains(t, err, want)
	}
	got, err := console.Mechanism{}.Read(machine("us"), folder("alt keycode 30 = Boot\n"))
	require.NoError(t, err)
	assert.Equal(t, `Alt+KeyA gives "Boot"`, got[0].String())
}

func TestTooManyTexts(t *testing.T) {
	var list []mechanism.Binding
	for _, mods := range []keys.Mods{0, keys.Alt, keys.Ctrl} {
		for _, k := range keys.All()[:50] {
			list = append(list, chord(mods, k.String(), types(fmt.Sprint(mods, k))))
		}
	}
	_, err := mechanism.Write(console.Mechanism{}, machine("us"), list)
	assert.ErrorContains(t, err, "146 texts")
	_, err = mechanism.Write(console.Mechanism{}, machine("us"), slices.Clone(list[:146]))
	assert.NoError(t, err)
}

func FuzzRead(f *testing.F) {
	m := machine("de")
	f.Add(
		write(
			f,
			m,
			[]mechanism.Binding{
				chord(0, "F7", types(sample.Nasty)),
				chord(keys.Alt, "KeyH", sends(keys.Ctrl, "KeyA")),
				sample.Act(keys.Alt, "Digit3", "workspace-3"),
			},
		),
	)
	f.Fuzz(func(t *testing.T, data string) {
		_, _ = console.Mechanism{}.Read(m, folder(string(data)))
	})
}

// The unit is switched off while its file is there, or a dangling link is left.
func TestTakenBackInOrder(t *testing.T) {
	out, err := mechanism.Write(
		console.Mechanism{},
		machine("de"),
		[]mechanism.Binding{{Level: behaviour.Hotkey, Chord: keys.Chord{Key: sample.Key("F7")},
			Effect: behaviour.Effect{Kind: behaviour.Types, Text: "NHN"}}},
	)
	require.NoError(t, err)
	var lines []string
	for _, s := range out.Back() {
		lines = append(lines, s.Lines...)
	}
	all := strings.Join(lines, "\n")
	assert.Less(
		t, strings.Index(all, "systemctl disable leitstand-console"),
		strings.Index(all, "rm -f /etc/leitstand/console.map"),
	)
	assert.Contains(t, all, "systemctl disable leitstand-console")
}
