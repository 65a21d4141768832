package keys_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
)

func key(t *testing.T, code string) keys.Key {
	t.Helper()
	k, ok := keys.ByCode(code)
	require.True(t, ok, code)
	return k
}

// typing is what strokes type, each a key by its code or a chord.
func typing(t *testing.T, l keys.Typist, strokes ...string) string {
	t.Helper()
	text, state := "", keys.TypeState{}
	for _, s := range strokes {
		parts := strings.Split(s, "+")
		var held keys.Mods
		for _, name := range parts[:len(parts)-1] {
			mod, ok := keys.ModByName(name)
			require.True(t, ok, name)
			held |= mod
		}
		var typed string
		typed, state = l.Type(state, key(t, parts[len(parts)-1]), held)
		text += typed
	}
	return text
}

func TestType(t *testing.T) {
	for _, c := range []struct {
		system, layout, strokes, want string
	}{
		{"linux", "de", "Equal KeyE", "é"}, {"windows", "de", "Equal KeyE", "é"}, {"macos", "de", "Equal KeyE", "é"},
		{"linux", "de", "Equal Shift+KeyE", "É"}, {"windows", "fr", "BracketLeft KeyE", "ê"},
		{"macos", "fr", "BracketLeft KeyE", "ê"},
		{"macos", "us", "Alt+KeyE KeyE", "é"}, {"macos", "us", "Alt+KeyU KeyU", "ü"},
		{"macos", "us", "Alt+KeyE Space", "´"},
		{"windows", "us(intl)", "Quote KeyE", "é"}, {"windows", "us(intl)", "Quote Space", "'"},
		{"windows", "us(intl)", "Quote KeyT", "'t"},
		{"linux", "us", "Quote KeyE", "'e"}, {"windows", "us", "Quote KeyE", "'e"},
		{"windows", "es", "Quote KeyE", "é"}, {"macos", "es", "Quote KeyE", "é"},
		{"windows", "pt", "BracketRight KeyE", "é"}, {"windows", "se", "Equal KeyE", "é"},
		{"windows", "no", "AltGr+KeyA KeyE", "e"}, // a press that types nothing leaves nothing
		{"linux", "de", "Equal KeyT", ""}, {"windows", "de", "Equal KeyT", "´t"}, {"macos", "de", "Equal KeyT", "´t"},
		{"windows", "de", "AltGr+KeyQ", "@"}, {"macos", "de", "Alt+KeyL", "@"}, {"macos", "de", "Alt+KeyQ", "«"},
		{"windows", "de", "AltGr+KeyA", ""},
		{"macos", "de", "Backquote KeyO", "ô"}, {"macos", "de", "IntlBackslash", "<"}, {"macos", "us", "Backquote", "`"}, {"macos", "gb", "Backquote", "§"},
		{"windows", "de", "CapsLock KeyA Digit1", "A!"}, {"windows", "us", "CapsLock KeyA Digit1", "A1"},
		{"windows", "fr", "CapsLock Digit1 Shift+Digit1", "1&"}, {"windows", "de", "CapsLock AltGr+Digit2", "²"}, {"linux", "de", "CapsLock KeyA Shift+KeyA Digit1", "Aa1"},
		{"windows", "de", "Ctrl+KeyA", ""}, {"linux", "cz", "Equal Equal KeyE", ""},
	} {
		l, _, ok := keys.FindLayoutOn(c.system, c.layout)
		require.True(t, ok)
		assert.Equal(t, c.want, typing(t, l, strings.Fields(c.strokes)...), "%s %s: %s", c.system, c.layout, c.strokes)
	}
}

// Under each layout that has an acute accent on a dead key, that key and then E give é, on
// each system.
func TestAcuteAccent(t *testing.T) {
	tried := map[string]int{}
	for _, system := range []string{"linux", "windows", "macos"} {
		for _, name := range []string{"us(intl)", "de", "fr", "gb", "es", "it", "pt", "br", "be", "ch", "dk", "no", "se", "latam", "pl", "hu", "cz", "tr"} {
			l, known, ok := keys.FindLayoutOn(system, name)
			require.True(t, ok, name)
			for _, k := range keys.All() {
				s, _ := l.Symbols(k)
				for level, sym := range s.Level {
					held := []string{"", "Shift+", "AltGr+", "Shift+AltGr+"}
					if sym == "dead_acute" && level < len(held) && known {
						at, ok := l.Find('e')
						require.True(t, ok)
						assert.Equal(
							t,
							"é",
							typing(t, l, held[level]+k.String(), at.Key.String()),
							"%s %s",
							system,
							name,
						)
						tried[system]++
					}
				}
			}
		}
	}
	assert.Greater(t, tried["linux"], 12)
	assert.Greater(t, tried["windows"], 8)
	assert.Greater(t, tried["macos"], 3)
}

// A layout of a system types what is measured there, and no key that it has is lost.
func TestFindLayoutOn(t *testing.T) {
	differ := map[string]int{}
	for _, system := range []string{"windows", "macos"} {
		for _, name := range keys.LayoutNames() {
			x, _ := keys.FindLayout(name)
			l, known, ok := keys.FindLayoutOn(system, name)
			require.True(t, ok)
			for _, k := range keys.All() {
				a, b := x.Characters(k), l.Characters(k)
				if !known {
					require.Equal(t, a, b, "%s %s %s", system, name, k)
				}
				if len(a) > 0 && (len(b) == 0 || a[0] != b[0]) {
					differ[system]++
				}
			}
			assert.NotEqual(t, "", l.Cap(key(t, "KeyA")))
		}
	}
	assert.Greater(t, differ["macos"], 15)
	w, _, _ := keys.FindLayoutOn("windows", "fr")
	assert.Equal(
		t,
		[]string{"Q", "A", "M", "OEM_5"},
		[]string{
			w.VirtualKey(key(t, "KeyA")),
			w.VirtualKey(key(t, "KeyQ")),
			w.VirtualKey(key(t, "Semicolon")),
			w.VirtualKey(key(t, "Backslash")),
		},
	)
	for _, c := range []struct {
		system, layout string
		char           rune
		want           keys.Place
	}{
		{"macos", "de", '@', keys.Place{Key: key(t, "KeyL"), Mods: keys.Alt}}, {"windows", "de", '@', keys.Place{Key: key(t, "KeyQ"), Mods: keys.AltGr}},
		{"macos", "de", '|', keys.Place{Key: key(t, "Digit7"), Mods: keys.Alt}}, {"macos", "us", '\\', keys.Place{Key: key(t, "Backslash")}},
	} {
		l, known, _ := keys.FindLayoutOn(c.system, c.layout)
		got, ok := l.FindExact(c.char)
		assert.True(t, known && ok)
		assert.Equal(t, c.want, got, "%s %s %c", c.system, c.layout, c.char)
	}
}
