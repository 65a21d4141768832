package keymap_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/mechanism/linux/xkb/keymap/compared"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// compiled is the keymap that the real compiler makes of layouts.
func compiled(t testing.TB, layouts ...string) string {
	t.Helper()
	realtest.LayoutsOfThisMachine(t)
	return compiledAsItIs(t, layouts...)
}

func compiledAsItIs(t testing.TB, layouts ...string) string {
	t.Helper()
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	var names, variants []string
	for _, l := range layouts {
		name, variant := keys.SplitLayout(l)
		names, variants = append(names, name), append(variants, variant)
	}
	out, complaints := realtest.Output(t, "xkbcli", "compile-keymap", "--rules", "evdev", "--model", "pc105",
		"--layout", strings.Join(names, ","), "--variant", strings.Join(variants, ","))
	require.Empty(t, complaints)
	return out
}

// What the reader makes of the real compiler's text, and what it builds of the
// embedded layouts, is what the real library does: for every layout we carry.
func TestEveryLayoutAsLibxkbcommonHasIt(t *testing.T) {
	x := realtest.NewXkbcommon(t)
	n := 0
	for _, name := range keys.LayoutNames() {
		text := compiled(t, name)
		real := x.Keymap(t, text)
		parsed, err := keymap.Parse(name, text)
		require.NoError(t, err)
		n += compared.Same(t, parsed, real, "parsed "+name)
		l, _ := keys.FindLayout(name)
		n += compared.Same(t, keymap.Build([]*keys.Layout{l}, nil, nil), real, "built "+name)
	}
	t.Logf("%d presses asked", n)
}

// What an installation has otherwise than our data is read as the real library reads it.
func TestInstalledLayoutsAsLibxkbcommonHasThem(t *testing.T) {
	x := realtest.NewXkbcommon(t)
	for _, name := range []string{"de", "us", "fr", "be", "ch", "ru", "gb", "ca(multix)", "us(intl)"} {
		text := compiledAsItIs(t, name)
		parsed, err := keymap.Parse(name, text)
		require.NoError(t, err)
		compared.Same(t, parsed, x.Keymap(t, text), name)
	}
}

func TestSeveralLayoutsAsLibxkbcommonHasThem(t *testing.T) {
	x := realtest.NewXkbcommon(t)
	for _, names := range [][]string{{"fr", "us"}, {"ru", "de(nodeadkeys)", "us(intl)"}, {"us", "fr", "de", "ca(multix)"}, {"de", "jp"}, {"de", "us", "jp"}} {
		text := compiled(t, names...)
		parsed, err := keymap.Parse("layouts", text)
		require.NoError(t, err)
		compared.Same(t, parsed, x.Keymap(t, text), "parsed")
		var list []*keys.Layout
		for _, n := range names {
			l, _ := keys.FindLayout(n)
			list = append(list, l)
		}
		compared.Same(t, keymap.Build(list, nil, nil), x.Keymap(t, text), "built")
	}
}

// The dump of an X server's compiler reads as the same keymap.
func TestXkbcompDump(t *testing.T) {
	realtest.Need(t, "xkbcomp", "x11-xkb-utils")
	x := realtest.NewXkbcommon(t)
	dir := t.TempDir()
	in, out := filepath.Join(dir, "in.xkb"), filepath.Join(dir, "out.xkb")
	require.NoError(t, os.WriteFile(in, []byte(compiled(t, "de")), 0o644))
	printed, err := exec.Command("xkbcomp", "-w0", "-xkb", in, out).CombinedOutput()
	require.NoError(t, err, "%s", printed)
	text, err := os.ReadFile(out)
	require.NoError(t, err)
	parsed, err := keymap.Parse("out.xkb", string(text))
	require.NoError(t, err)
	compared.Same(t, parsed, x.Keymap(t, string(text)), "xkbcomp's dump")
}

// What only X11 has, and a machine on Wayland is refused: the library makes nothing of a group
// latch, nor of a key that stands for another.
func TestLibxkbcommonHasNoGroupLatch(t *testing.T) {
	k := realtest.NewXkbcommon(t).Keymap(t, `xkb_keymap {
		xkb_keycodes { minimum = 8; maximum = 255; <AC01> = 38; <AC02> = 39; <AC03> = 40; };
		xkb_types { type "ONE_LEVEL" { modifiers = none; }; };
		xkb_compat { };
		xkb_symbols {
			key <AC01> { [ a ], [ Greek_alpha ] };
			key <AC02> { [ NoSymbol ], actions[1] = [ LatchGroup(group=2) ] };
			key <AC03> { [ c ], actions[1] = [ RedirectKey(keycode=<AC01>) ] };
		};
	};`)
	a, latch, redirected := sample.Evdev(sample.Key("KeyA")), sample.Evdev(
		sample.Key("KeyS"),
	), sample.Evdev(sample.Key("KeyD"))
	k.Press(latch)
	k.Release(latch)
	sym, _, _ := k.Get(a)
	assert.Equal(t, "a", sym)
	sym, _, _ = k.Get(redirected)
	assert.Equal(t, "c", sym)
}

// The embedded types and interpretations are those of the installed
// xkeyboard-config.
func TestStockIsCurrent(t *testing.T) {
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	if realtest.Other() {
		t.Skip("the data are those of this machine, not of that generation's")
	}
	dir := t.TempDir()
	out, err := exec.Command("go", "run", "./gen", dir).CombinedOutput()
	require.NoError(t, err, "%s", out)
	want, err := os.ReadFile(filepath.Join(dir, "stock.xkb"))
	require.NoError(t, err)
	got, err := os.ReadFile("data/stock.xkb")
	require.NoError(t, err)
	assert.True(t, string(want) == string(got), "data/stock.xkb is stale: run go generate ./...")
}

func FuzzParse(f *testing.F) {
	stock, err := os.ReadFile("data/stock.xkb")
	require.NoError(f, err)
	f.Add(string(stock))
	f.Add("xkb_keymap { xkb_symbols { key <A> { [ a, A ], actions[1] = [ SetMods(modifiers=Shift) ] }; }; };")
	f.Fuzz(func(t *testing.T, text string) { _, _ = keymap.Parse("f", text) })
}
