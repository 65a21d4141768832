package xkb_test

import (
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/internal/sample"
)

// What is written reads back as what was meant, under any layouts and both kinds
// of session.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SliceOfNDistinct(rapid.SampledFrom(keys.LayoutNames()), 1, 4, rapid.ID[string]).Draw(
			t, "layouts",
		)
		session := rapid.SampledFrom([]string{"", "x11", "wayland"}).Draw(t, "session")
		desktop := rapid.SampledFrom([]string{"none", "plasma"}).Draw(t, "desktop")
		m := withOptions(sample.Options(t, layouts), session, desktop, layouts...)
		list := sample.Positions(t, func(b behaviour.Binding) bool {
			return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited
		})
		out, err := mechanism.Write(xkb.Mechanism{}, m, list)
		require.NoError(t, err)
		files := fstest.MapFS{}
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		got, err := xkb.Mechanism{}.Read(m, files)
		require.NoError(t, err)
		require.Len(t, got, len(list))
		for i, b := range list {
			// Keys that type the same are the same to a layout: compare by what they type.
			require.Equal(t, b.Place(), got[i].Place())
			if b.Effect.Kind == behaviour.Becomes && got[i].Effect.Kind == behaviour.Becomes {
				for g := range m.Layouts {
					want, _ := m.Symbols(g, b.Effect.Key)
					have, _ := m.Symbols(g, got[i].Effect.Key)
					require.Equal(t, want, have, "%s read as %s", b, got[i])
				}
				continue
			}
			if b.Effect.Kind == behaviour.Becomes {
				requireUnmeant(t, m, b)
				continue
			}
			require.Equal(t, b.Effect, got[i].Effect)
		}
	})
}

// requireUnmeant says that some layout of the machine gives the wanted key no
// meaning, so that no key is like it under all of them.
func requireUnmeant(t *rapid.T, m *mechanism.Machine, b behaviour.Binding) {
	for g := range m.Layouts {
		s, ok := m.Symbols(g, b.Effect.Key)
		first, _ := m.Layouts[0].Symbols(b.Effect.Key)
		if !ok || keys.RealModifier(s.Level[0]) != keys.RealModifier(first.Level[0]) {
			return
		}
	}
	t.Fatalf("%s was not read back", b)
}

func TestTake(t *testing.T) {
	m := machine("x11", "xfce", "de")
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{sample.Modifier("CapsLock", keys.Hyper), mechanism.Exact, ""},
		{sample.Modifier("CapsLock", intent.Four), mechanism.Limited, "Hyper is Ctrl+Alt+Shift+Meta here"},
		{sample.Becomes("CapsLock", "Escape"), mechanism.Limited, "still see the old key"},
		{sample.Nothing("Insert"), mechanism.Limited, "still see the old key"},
		{sample.On("wheelhouse", sample.Nothing("Insert")), mechanism.Unavailable, "a session knows a board by its " +
			"numbers only"},
		{sample.Nothing("Fn"), mechanism.Unavailable, "does not reach the layout"},
		{sample.Becomes("CapsLock", "NumpadClear"), mechanism.Unavailable, "no meaning"},
		{sample.Modifier("CapsLock", keys.Ctrl|keys.Shift), mechanism.Limited, "Hyper is Ctrl+Shift here"},
		{sample.Modifier("CapsLock", keys.Meta|keys.Fn), mechanism.Unavailable, "a key cannot hold Meta+Fn in a layout"},
	} {
		got := xkb.Mechanism{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
	assert.False(
		t, xkb.Mechanism{}.Serves(sample.Machine(mapping.Machine{System: mapping.MacOS, Layouts: []string{"de"}})),
	)
}

// A file that was changed by hand is read as what it says now, or refused.
func TestReadsWhatIsThere(t *testing.T) {
	m := machine("wayland", "sway", "de")
	out, err := mechanism.Write(
		xkb.Mechanism{}, m,
		[]behaviour.Binding{sample.Modifier("CapsLock", keys.Hyper), sample.Becomes("IntlBackslash", "ShiftLeft")},
	)
	require.NoError(t, err)
	text, fsys := "", fstest.MapFS{}
	for _, f := range out.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
		if strings.HasSuffix(f.Path, "symbols/leitstand") {
			text = string(f.Data)
		}
	}
	for _, c := range []struct{ old, new, want string }{
		{"[ Shift_L ]", "[ Shift_R ]", "IntlBackslash acts as ShiftRight"},
		{"modifier_map Shift { <LSGT>, <LFSH> };", "", "types Shift_L without being the modifier Shift"},
		{"modifier_map Shift", "modifier_map Mod4", "types Shift_L and is the modifier Mod4"},
		{"key <HYPR> { type[Group1] = \"ONE_LEVEL\", symbols[Group1] = [ VoidSymbol ] };", "", "also on Mod4 " +
			"beside Super"},
		{"modifier_map Mod3 { <CAPS> };", "modifier_map Mod3 { <CAPS>, <HYPR> };", "also on Mod4 beside Super"},
		{"[ Shift_L ]", "[ x, X ]", "IntlBackslash types x and is the modifier Shift"},
		{"key <LSGT>", "lock <LSGT>", `"lock" is no statement`},
		{"symbols[Group1] = [ Shift_L ] }", "symbols[Group1] = [ Shift_L", "where"},
	} {
		require.Contains(t, text, c.old)
		changed := strings.Replace(text, c.old, c.new, 1)
		fsys["xkb/symbols/leitstand"] = &fstest.MapFile{Data: []byte(changed)}
		got, err := xkb.Mechanism{}.Read(m, fsys)
		said := ""
		if err != nil {
			said = err.Error()
		}
		for _, b := range got {
			said += b.String() + "\n"
		}
		assert.Contains(t, said, c.want)
	}
}

// A key that one layout, or one layer, has otherwise is not read as if all were alike.
func TestReadsEveryLayout(t *testing.T) {
	m := machine("x11", "i3", "de", "us")
	m.Layers = []string{"nav"}
	at := func(layer, code string, e behaviour.Effect) mechanism.Binding {
		return mechanism.Binding{Layer: layer, Chord: keys.Chord{Key: sample.Key(code)}, Effect: e}
	}
	list := append(
		sample.Layered("nav", "ControlRight", "KeyH", "ArrowLeft"),
		at("nav", "KeyJ", behaviour.Effect{Kind: behaviour.Leaves, Layer: "nav"}),
		at("nav", "KeyK", behaviour.Effect{Kind: behaviour.Nothing}),
		at("nav", "KeyL", behaviour.Effect{Kind: behaviour.Composes}),
		at("nav", "KeyN", behaviour.Effect{Kind: behaviour.Types, Text: "7"}),
		at("", "F9", behaviour.Effect{Kind: behaviour.Layers, Layer: "nav", How: behaviour.Toggle}),
		at("", "F10", behaviour.Effect{Kind: behaviour.Composes}),
		at("", "F11", behaviour.Effect{Kind: behaviour.Types, Text: "€"}), sample.Becomes("Pause", "F5"),
		sample.Modifier("CapsLock", keys.Hyper), sample.Nothing("Insert"),
		sample.Modifier("ScrollLock", keys.Ctrl|keys.Shift),
	)
	out, err := mechanism.Write(xkb.Mechanism{}, m, list)
	require.NoError(t, err)
	fsys := fstest.MapFS{}
	for _, f := range out.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	text := string(fsys["xkb/keymap.xkb"].Data)
	was, err := xkb.Mechanism{}.Read(m, fsys)
	require.NoError(t, err)
	require.Empty(t, behaviour.Compare(was, list))
	parts := regexp.MustCompile(`symbols\[Group\d\] = \[ [^]]* \]|(, )actions\[Group\d\] = \[ .*? \]`)
	tried := 0
	for _, place := range parts.FindAllStringIndex(text, -1) {
		part := text[place[0]:place[1]]
		changed := regexp.MustCompile(`\[ .* \]`).ReplaceAllString(part, "[ Greek_psi ]")
		if strings.HasPrefix(part, ",") {
			changed = ""
		}
		fsys["xkb/keymap.xkb"] = &fstest.MapFile{Data: []byte(text[:place[0]] + changed + text[place[1]:])}
		if got, err := (xkb.Mechanism{}).Read(m, fsys); err == nil {
			line := text[:place[0]]
			assert.NotEmpty(t, behaviour.Compare(was, got), "%s%s", line[max(0, len(line)-90):], part)
		}
		tried++
	}
	assert.Greater(t, tried, 40)
}

func FuzzRead(f *testing.F) {
	m := machine("wayland", "sway", "de", "us")
	out, err := mechanism.Write(xkb.Mechanism{}, m, everything)
	require.NoError(f, err)
	x11 := machine("x11", "i3", "de")
	x11.Layers = []string{"arrows"}
	chords, err := mechanism.Write(
		xkb.Mechanism{}, x11,
		append(sample.Layered("arrows", "ControlRight", "KeyU", "F14"), gives(keys.Meta, "KeyC", keys.Ctrl, "KeyC")),
	)
	require.NoError(f, err)
	for _, file := range append(out.Files(), chords.Files()...) {
		f.Add(string(file.Data))
	}
	f.Fuzz(func(t *testing.T, text string) {
		for name, m := range map[string]*mechanism.Machine{"xkb/symbols/leitstand": m, "xkb/keymap.xkb": x11} {
			files := fstest.MapFS{name: {Data: []byte(text)}}
			_, _ = xkb.Mechanism{}.Read(m, files)
			if layout, err := xkb.Open(m, files); err == nil {
				k := layout.Keymap("")
				for _, key := range k.Keys {
					k.At(key, keymap.Shift, 1)
				}
			}
		}
	})
}
