package keymap_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/internal/realtest"
)

// compiledWith is what libxkbcommon makes of layouts with options.
func compiledWith(t testing.TB, options []string, layouts ...string) *keymap.Keymap {
	t.Helper()
	realtest.LayoutsOfThisMachine(t)
	var names, variants []string
	for _, l := range layouts {
		name, variant := keys.SplitLayout(l)
		names, variants = append(names, name), append(variants, variant)
	}
	text, complaints := realtest.Output(
		t, "xkbcli", "compile-keymap", "--rules", "evdev", "--model", "pc105", "--layout", strings.Join(names, ","),
		"--variant", strings.Join(variants, ","), "--options", strings.Join(options, ","),
	)
	require.Empty(t, complaints)
	k, err := keymap.Parse("compiled", text)
	require.NoError(t, err)
	return k
}

func builtWith(t testing.TB, options []string, layouts ...string) *keymap.Keymap {
	var chosen []*keys.Option
	for _, name := range options {
		o, ok := keys.FindOption(name)
		require.True(t, ok, name)
		chosen = append(chosen, o)
	}
	var list []*keys.Layout
	for _, name := range layouts {
		l, ok := keys.FindLayout(name)
		require.True(t, ok, name)
		list = append(list, l)
	}
	list[0] = list[0].With(chosen)
	for i := range list[1:] {
		list[i+1] = list[i+1].Behind(chosen)
	}
	return keymap.Build(list, nil, nil)
}

// differs names a press that two keymaps make something else of, "" if there is none.
func differs(a, b *keymap.Keymap, groups int) string {
	for _, k := range keys.All() {
		x, ok1 := a.KeyOf(k)
		y, ok2 := b.KeyOf(k)
		if ok1 != ok2 {
			return k.String() + " is in one only"
		}
		if !ok1 || a.Like(x, b, y) {
			continue
		}
		watched := x.Watches() | y.Watches()
		for g := range groups {
			for on := range keymap.Masks {
				if realtest.Other() && sharp(a.At(x, keymap.Mask(on), g), b.At(y, keymap.Mask(on), g)) {
					continue
				}
				if keymap.Mask(on)&^watched != 0 {
					continue
				}
				if p, q := a.At(x, keymap.Mask(on), g), b.At(y, keymap.Mask(on), g); p != q {
					return fmt.Sprintf(
						"%s in group %d with %v: %+v, and compiled %+v", k, g, keymap.Mask(on).Names(), p, q,
					)
				}
			}
		}
	}
	return ""
}

// sharp says whether two presses differ in the capital of ß, which libxkbcommon 1.7 does not
// know.
func sharp(p, q keymap.Outcome) bool {
	return slices.Contains([]string{"ssharp", "U1E9E"}, p.Keysym) &&
		slices.Contains([]string{"ssharp", "U1E9E"}, q.Keysym)
}

// Every option does on our keymaps what it does on those of xkeyboard-config.
func TestOptions(t *testing.T) {
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	assert.Len(t, keys.OptionNames(), 172, "docs/platforms.md says how many there are")
	for _, o := range keys.OptionNames() {
		list := []string{o}
		assert.Empty(t, differs(builtWith(t, list, "us", "de"), compiledWith(t, list, "us", "de"), 2), o)
	}
}

// So do several of them together, on any layout.
func TestOptionsTogether(tb *testing.T) {
	realtest.Need(tb, "xkbcli", "libxkbcommon-tools")
	// A phonetic layout calls keys by the letters of the first layout of a keymap.
	names := slices.DeleteFunc(keys.LayoutNames(), func(name string) bool { return strings.Contains(name, "phonetic") })
	rapid.Check(tb, func(t *rapid.T) {
		options := rapid.SliceOfNDistinct(rapid.SampledFrom(keys.OptionNames()), 1, 3, rapid.ID).Draw(t, "options")
		layouts := rapid.SliceOfNDistinct(rapid.SampledFrom(names), 1, 2, rapid.ID).Draw(t, "layouts")
		var list []*keys.Layout
		for _, name := range layouts {
			l, _ := keys.FindLayout(name)
			list = append(list, l)
		}
		for i, a := range options {
			if o, _ := keys.FindOption(a); !o.Fits(list) {
				return // nor do they go with the layouts
			}
			for _, b := range options[:i] {
				first, _ := keys.FindOption(a)
				if second, _ := keys.FindOption(b); first.Clash(second) != "" {
					return // a mapping refuses them
				}
			}
		}
		require.Empty(
			t, differs(builtWith(tb, options, layouts...), compiledWith(tb, options, layouts...), len(layouts)),
			"%v on %v", options, layouts,
		)
	})
}
