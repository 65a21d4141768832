// Package compared holds our reading of a keymap against the real libxkbcommon, press
// by press, in tests.
package compared

import (
	"fmt"
	"slices"
	"strings"

	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// T is a test, of the testing package or of a property.
type T interface {
	Helper()
	Errorf(format string, args ...any)
	FailNow()
}

// modifierKeys are the keys that the states of the table are made of.
var modifierKeys = []string{"ShiftLeft", "ControlRight", "AltLeft", "MetaLeft", "AltRight"}

// locks are the keys that the states are made of by locking.
var locks = []string{"CapsLock", "NumLock"}

// Same asks both keymaps about every key in every state: every set of held
// modifiers, and of the further keys named, under every set of locks. It returns
// how many presses it compared, and stops at the first difference.
func Same(t T, ours *keymap.Keymap, real *realtest.RealKeymap, what string, more ...string) int {
	t.Helper()
	compared := 0
	modifierKeys := slices.DeleteFunc(append(slices.Clone(modifierKeys), more...), func(code string) bool {
		_, ok := ours.KeyOf(sample.Key(code))
		return !ok
	})
	for state := range 1 << (len(modifierKeys) + len(locks)) {
		mine := ours.NewState()
		real.Reset()
		press := func(code string, hold bool) {
			k, ok := ours.KeyOf(sample.Key(code))
			require.True(t, ok)
			mine.Press(k)
			real.Press(sample.Evdev(sample.Key(code)))
			if !hold {
				mine.Release(k)
				real.Release(sample.Evdev(sample.Key(code)))
			}
		}
		var held []string
		for i, code := range append(append([]string{}, locks...), modifierKeys...) {
			if state>>i&1 == 1 {
				held = append(held, code)
				press(code, i >= len(locks))
			}
		}
		for _, k := range keys.All() {
			code, ok := k.Evdev()
			key, has := ours.KeyOf(k)
			if !ok || !has || code > 247 {
				continue
			}
			compared++
			got := mine.Get(key)
			sym, left, repeats := real.Get(code)
			if strings.HasPrefix(sym, "0x") {
				sym = properName(sym)
			}
			want := keymap.Given{Keysym: sym, Left: keymap.Mask(left), Repeats: repeats}
			if two := []string{sym, got.Keysym}; realtest.Other() && sym != got.Keysym &&
				slices.Contains(two, "ssharp") &&
				slices.Contains(two, "U1E9E") {
				continue // libxkbcommon 1.7 does not take them for one letter under CapsLock
			}
			if got != want {
				t.Errorf(
					"%s: %s with %v: libxkbcommon says %s left %v repeats %v, we say %s left %v repeats %v", what, k,
					held, want.Keysym, want.Left.Names(), want.Repeats, got.Keysym, got.Left.Names(), got.Repeats,
				)
				return compared
			}
		}
	}
	return compared
}

// properName names the few capitals for which libxkbcommon 1.5 gives a number
// that is no keysym's: the character's own.
func properName(sym string) string {
	var n rune
	if _, err := fmt.Sscanf(sym, "0x%08x", &n); err != nil {
		return sym
	}
	return keys.RuneKeysym(n &^ 0x01000000)
}
