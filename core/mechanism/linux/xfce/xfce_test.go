package xfce_test

import (
	"bytes"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xfce"
	"leitstand/internal/sample"
)

const path = "xfce/xfce4-keyboard-shortcuts.xml"

// What is written reads back as what was meant, whatever the command holds.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{0,12}`))
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}, {"ru", "de"}}).Draw(t, "layouts")
		m := machine(layouts...)
		list := sample.Launches(t, word, func(b behaviour.Binding) bool {
			c, answer := b.Effect.Launch().Command, xfce.Mechanism{}.Take(m, b)
			return answer.Verdict >= mechanism.Limited && c[0] != "" && c[0] != "gtk-launch" && c[0] != "xdg-open" &&
				c[0] != "sh"
		})
		out, err := mechanism.Write(xfce.Mechanism{}, m, list)
		require.NoError(t, err)
		fsys := fstest.MapFS{}
		if len(list) > 0 {
			fsys[path] = &fstest.MapFile{Data: out.Files()[0].Data}
		}
		got, err := xfce.Mechanism{}.Read(m, fsys)
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(got, list))
	})
}

func TestTake(t *testing.T) {
	start := behaviour.Launch{Command: []string{"tidegauge"}}
	for _, c := range []struct {
		layouts []string
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{[]string{"de"}, sample.Launch(keys.Hyper|keys.Shift, "KeyT", start), mechanism.Exact, ""},
		{[]string{"fr", "us"}, sample.Launch(keys.Hyper, "KeyT", start), mechanism.Exact, ""},
		{[]string{"fr", "us"}, sample.Launch(keys.Hyper, "KeyW", start), mechanism.Limited, "under layout us it is " +
			"the key that types z"},
		{[]string{"us"}, sample.Launch(keys.Hyper, "AudioVolumeUp", start), mechanism.Exact, ""},
		{[]string{"us"}, sample.Launch(keys.Hyper, "NumpadComma", start), mechanism.Limited, "NumpadDecimal, which " +
			"types the same"},
		{[]string{"ru", "us"}, sample.Launch(keys.Hyper, "KeyW", start), mechanism.Exact, ""},
		{[]string{"de"}, sample.Launch(keys.AltGr, "KeyT", start), mechanism.Unavailable, "AltGr"},
		{[]string{"de"}, sample.Launch(keys.CtrlLeft, "KeyT", start), mechanism.Unavailable, "CtrlLeft"},
		{[]string{"de"}, sample.Launch(keys.Ctrl, "Fn", start), mechanism.Unavailable, "no keysym"},
		{[]string{"de"}, sample.Nothing("Insert"), mechanism.Unavailable, ""},
	} {
		got := xfce.Mechanism{}.Take(machine(c.layouts...), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// Every action that Xfce has reads back as itself.
func TestActions(t *testing.T) {
	m := machine("de")
	var list []behaviour.Binding
	letters := "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
	taken := 0
	for i, a := range action.All() {
		b := behaviour.Binding{
			Level:  behaviour.Hotkey,
			Effect: behaviour.Effect{Kind: behaviour.Acts, Action: a.Name},
			Chord: keys.Chord{
				Mods: []keys.Mods{keys.Hyper, keys.Meta, keys.Ctrl | keys.Alt}[i/26], Key: sample.Key("Key" + letters[i%26:i%26+1])},
		}
		if (xfce.Mechanism{}).Take(m, b).Verdict >= mechanism.Limited {
			taken++
			list = append(list, b)
		}
	}
	assert.Greater(t, taken, 45)
	behaviour.Sort(list)
	out, err := mechanism.Write(xfce.Mechanism{}, m, list)
	require.NoError(t, err)
	got, err := xfce.Mechanism{}.Read(m, fstest.MapFS{path: {Data: out.Files()[0].Data}})
	require.NoError(t, err)
	require.Empty(t, behaviour.Compare(got, list))
}

// How fast keys repeat is a channel of its own, with or without shortcuts beside it.
func TestRepeat(t *testing.T) {
	m := machine("de")
	for _, list := range [][]mechanism.Binding{
		{sample.Setting("repeat delay", "220ms"), sample.Setting("repeat rate", "40/s")},
		{sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}}), sample.Setting("repeat rate", "30/s")},
	} {
		out, err := mechanism.Write(xfce.Mechanism{}, m, list)
		require.NoError(t, err)
		fsys := fstest.MapFS{}
		for _, f := range out.Files() {
			fsys[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		got, err := xfce.Mechanism{}.Read(m, fsys)
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list))
	}
	assert.Contains(
		t, xfce.Mechanism{}.Take(m, sample.Setting("repeat of KeyA", "never")).Why.String(), "all keys repeat alike",
	)
	_, err := xfce.Mechanism{}.Read(
		m,
		fstest.MapFS{"xfce/keyboards.xml": {Data: []byte(`<channel name="keyboards" version="1.0"></channel>`)}},
	)
	assert.ErrorContains(t, err, "KeyRepeat is missing")
}

// XML cannot hold most control characters: such a command is refused.
func TestControlCharacterRefused(t *testing.T) {
	_, err := mechanism.Write(
		xfce.Mechanism{}, machine("us"),
		[]behaviour.Binding{sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"a", "\x1b"}})},
	)
	require.ErrorContains(t, err, "U+001B")
}

func FuzzRead(f *testing.F) {
	m := machine("fr", "us")
	out, err := mechanism.Write(
		xfce.Mechanism{},
		m,
		[]behaviour.Binding{
			sample.Launch(
				keys.Hyper|keys.Shift, "Digit7", behaviour.Launch{Command: []string{"a", sample.Nasty}, Dir: "/x"},
			),
		},
	)
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = xfce.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
		_, _ = xfce.Mechanism{}.Read(m, fstest.MapFS{"xfce/keyboards.xml": {Data: data}})
	})
}

// Settings for everyone need rights, and each must be locked.
func TestEveryone(t *testing.T) {
	m := machine("de")
	w := xfce.Mechanism{}
	b := sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}})
	assert.False(t, w.Take(m, b).ForAll)
	b.Everyone = true
	assert.Equal(t, mechanism.Exact, w.Take(m, b).Verdict)
	m.Admin = false
	assert.Contains(t, w.Take(m, b).Why.String(), "a setting for everyone needs an administrator")
	m.Admin = true
	out, err := mechanism.Write(w, m, []mechanism.Binding{b})
	require.NoError(t, err)
	require.Len(t, out.Files(), 2)
	assert.Equal(
		t, "/etc/leitstand/xdg/xfce4/xfconf/xfce-perchannel-xml/xfce4-keyboard-shortcuts.xml", out.Files()[0].Goes,
	)
	files := mechanism.Folder(out.Files())
	files[0].Data = bytes.ReplaceAll(files[0].Data, []byte(` unlocked="root"`), nil)
	_, err = w.Read(m, files)
	assert.ErrorContains(t, err, "is not locked")
}

// From 4.20 on a modifier alone starts a program, by either side or one, and before nothing.
func TestModifierAlone(t *testing.T) {
	m := machine("de")
	modifierAlone := func(mods keys.Mods, words ...string) mechanism.Binding {
		b := sample.Launch(mods, "KeyA", behaviour.Launch{Command: words})
		b.Chord.Key = keys.None
		return b
	}
	lock := sample.Act(keys.AltLeft, "KeyA", "lock")
	lock.Chord.Key = keys.None
	list := []mechanism.Binding{
		modifierAlone(keys.Meta, "tidegauge", sample.Nasty),
		modifierAlone(keys.CtrlRight, "a"),
		modifierAlone(keys.ShiftLeft, "b"),
		modifierAlone(keys.ShiftRight, "c"),
		lock,
	}
	for _, b := range list {
		m.DesktopVersion = "4.18"
		assert.Contains(t, xfce.Mechanism{}.Take(m, b).Why.String(), "before 4.20")
		m.DesktopVersion = "4.20"
		assert.Equal(t, mechanism.Exact, xfce.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	for mods, want := range map[keys.Mods]string{keys.Hyper: "for Hyper alone", keys.Meta | keys.Alt: "for Alt+Meta alone", keys.AltGr: "for AltGr alone"} {
		assert.Contains(t, xfce.Mechanism{}.Take(m, modifierAlone(mods, "x")).Why.String(), want)
	}
	tile := list[4]
	tile.Effect.Action = "tile-left"
	assert.Contains(t, xfce.Mechanism{}.Take(m, tile).Why.String(), "only starts programs")
	out, err := mechanism.Write(xfce.Mechanism{}, m, list)
	require.NoError(t, err)
	got, err := xfce.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list))
	imported, err := xfce.Mechanism{}.Import(m, out.Files()[0].Data, nil)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(imported.Bindings, list))
	m.DesktopVersion = "4.18"
	imported, err = xfce.Mechanism{}.Import(m, out.Files()[0].Data, nil)
	require.NoError(t, err)
	assert.NotEmpty(t, imported.Left, "what acts when it is pressed is no modifier alone")
}

// The files of 4.20 call themselves XML 1.1.
func TestImportsXML11(t *testing.T) {
	out, err := mechanism.Write(
		xfce.Mechanism{}, machine("de"),
		[]mechanism.Binding{sample.Launch(keys.Meta, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}})},
	)
	require.NoError(t, err)
	text := bytes.Replace(out.Files()[0].Data, []byte(`version="1.0"`), []byte(`version="1.1"`), 1)
	got, err := xfce.Mechanism{}.Import(machine("de"), text, nil)
	require.NoError(t, err)
	assert.Len(t, got.Bindings, 1)
}
