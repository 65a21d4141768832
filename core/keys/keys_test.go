package keys_test

import (
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/internal/sample"
)

// No two keys share a code, and none of the numbers by which a reader finds a key
// again is taken twice.
func TestNumbersAreUnique(t *testing.T) {
	seen := map[any]keys.Key{}
	once := func(k keys.Key, kind string, v any, ok bool) {
		if !ok {
			return
		}
		type id struct {
			kind string
			v    any
		}
		if o, dup := seen[id{kind, v}]; dup {
			t.Errorf("%s and %s have the same %s: %v", o, k, kind, v)
		}
		seen[id{kind, v}] = k
	}
	for _, k := range keys.All() {
		once(k, "code", strings.ToLower(k.String()), true)
		hid, ok := k.HID()
		once(k, "hid", hid, ok)
		evdev, ok := k.Evdev()
		once(k, "evdev", evdev, ok)
		scan, ok := k.Scancode()
		once(k, "scancode", scan, ok)
		xkb, ok := k.XKB()
		once(k, "xkb", xkb, ok)
	}
}

// Every key is found again by each of its names.
func TestFoundAgain(t *testing.T) {
	for _, k := range keys.All() {
		found, ok := keys.ByCode(strings.ToUpper(k.String()))
		assert.True(t, ok && found == k, k.String())
		if v, ok := k.HID(); ok {
			found, _ := keys.ByHID(v)
			assert.Equal(t, k, found)
		}
		if v, ok := k.Evdev(); ok {
			found, _ := keys.ByEvdev(v)
			assert.Equal(t, k, found)
		}
		if v, ok := k.Scancode(); ok {
			found, _ := keys.ByScancode(v)
			assert.Equal(t, k, found)
		}
		if v, ok := k.XKB(); ok {
			found, _ := keys.ByXKB(v)
			assert.Equal(t, k, found)
		}
	}
	_, ok := keys.ByHID(-1)
	assert.False(t, ok, "an absent number finds nothing")
}

func TestParseChord(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"Ctrl+Shift+KeyT", "Ctrl+Shift+KeyT"},
		{"ctrl+shift+keyt", "Ctrl+Shift+KeyT"},
		{"F7", "F7"},
		{"Hyper+t", "Hyper+t"},
		{"Ctrl+ü", "Ctrl+ü"},
		{"Ctrl++", "Ctrl++"},
		{"+", "+"},
		{"Shift++", "Shift++"},
		{"Primary+F9", "Primary+F9"},
		{"CtrlLeft + AltGr + ArrowUp", "CtrlLeft+AltGr+ArrowUp"},
		{"Desk+1", "Desk+1"},
	} {
		got, err := keys.ParseChord(c.text, []string{"Desk"}, diag.Nearest)
		require.NoError(t, err, c.text)
		assert.Equal(t, c.want, got.String())
	}
	for _, c := range []struct{ text, problem, remedy string }{
		{"", "empty", "modifiers and one key"},
		{"Ctrl+", "no key follows", "second plus"},
		{"Ctrl+Shift", "only modifiers (Ctrl, Shift)", `"Ctrl+Shift+t"`},
		{"Cmd+t", `"Cmd" is no modifier here`, `write "Meta"`},
		{"Crtl+t", `"Crtl" is no modifier`, `did you mean "Ctrl"?`},
		{"a+b", `"a" is a key`, "before the plus"},
		{"Ctrl+Ctrl+t", "stands twice", "once"},
		{"Ctrl+Esc", `"Esc" is no key`, `write "Escape"`},
		{"Ctrl+KeyÜ", `"KeyÜ" is no key`, "did you mean"},
		{"Ctrl+Zzzzzzzzzz", "is no key", "leitstand keys"},
	} {
		_, err := keys.ParseChord(c.text, nil, diag.Nearest)
		var wrong *keys.SpellingError
		require.ErrorAs(t, err, &wrong, c.text)
		assert.Contains(t, wrong.Problem, c.problem)
		assert.Contains(t, wrong.Remedy, c.remedy)
	}
}

// What a chord prints reads back as the same chord.
func TestChordPrintsAndReads(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := keys.Chord{
			Mods: keys.Mods(rapid.Uint16Range(0, 1<<15-1).Draw(t, "mods")),
			Key:  rapid.SampledFrom(keys.All()).Draw(t, "key"),
		}
		if c.Mods == 0 && c.Key.IsModifier() {
			return // alone, it is the modifier
		}
		s, err := keys.ParseChord(c.String(), nil, diag.Nearest)
		require.NoError(t, err)
		back := keys.Chord{Key: s.Key}
		for _, name := range s.Mods {
			m, ok := keys.ModByName(name)
			require.True(t, ok)
			back.Mods |= m
		}
		require.Equal(t, c, back)
	})
}

func TestOverlaps(t *testing.T) {
	parse := func(text string) keys.Chord {
		s, err := keys.ParseChord(text, nil, nil)
		require.NoError(t, err)
		c := keys.Chord{Key: s.Key}
		for _, n := range s.Mods {
			m, _ := keys.ModByName(n)
			c.Mods |= m
		}
		return c
	}
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"Ctrl+F1", "Ctrl+F1", true},
		{"Ctrl+F1", "CtrlLeft+F1", true},
		{"CtrlRight+F1", "CtrlLeft+F1", false},
		{"Ctrl+F1", "Ctrl+Shift+F1", false},
		{"Ctrl+F1", "Ctrl+F2", false},
		{"AltGr+F1", "F1", false},
		{"CtrlLeft+CtrlRight+F1", "Ctrl+F1", true},
	} {
		assert.Equal(t, c.want, parse(c.a).Overlaps(parse(c.b)), "%s and %s", c.a, c.b)
		assert.Equal(t, c.want, parse(c.b).Overlaps(parse(c.a)), "%s and %s", c.b, c.a)
	}
}

func TestFindCharacter(t *testing.T) {
	for _, c := range []struct {
		layout string
		char   rune
		key    string
		mods   keys.Mods
	}{
		{"de", 'z', "KeyY", 0}, {"de", 'Z', "KeyY", 0}, {"de", 'ü', "BracketLeft", 0}, {"de", '+', "BracketRight", 0},
		{"de", '?', "Minus", keys.Shift}, {"de", '@', "KeyQ", keys.AltGr}, {"de", '^', "Backquote", 0},
		{"de", ' ', "Space", 0},
		{"fr", 'a', "KeyQ", 0}, {"fr", 'w', "KeyZ", 0}, {"fr", '1', "Digit1", keys.Shift}, {"fr", 'é', "Digit2", 0},
		{"us", '+', "Equal", keys.Shift}, {"us(dvorak)", 's', "Semicolon", 0}, {"gb", '#', "Backslash", 0},
		{"es", 'ñ', "Semicolon", 0}, {"it", 'è', "BracketLeft", 0}, {"se", 'å', "BracketLeft", 0},
		{"ch", 'ö', "Semicolon", 0},
	} {
		l, ok := keys.FindLayout(c.layout)
		require.True(t, ok, c.layout)
		got, ok := l.Find(c.char)
		assert.True(t, ok)
		assert.Equal(t, keys.Place{Key: sample.Key(c.key), Mods: c.mods}, got, "%c under %s", c.char, c.layout)
	}
	for name, latin := range map[string]bool{"us": true, "fr": true, "ru": false, "gr": false, "rs(latin)": true} {
		l, ok := keys.FindLayout(name)
		require.True(t, ok)
		assert.Equal(t, latin, l.Latin(), name)
	}
	_, ok := keys.FindLayout("xx")
	assert.False(t, ok)
}

func TestSearch(t *testing.T) {
	for words, want := range map[string][]string{
		"caps": {"CapsLock"}, "0x70039": {"CapsLock"}, "LSGT": {"IntlBackslash"}, "arrows up": {"ArrowUp"},
		"nothing like it": nil,
	} {
		var got []string
		for _, k := range keys.Search(strings.Fields(words)) {
			got = append(got, k.String())
		}
		assert.Equal(t, want, got, words)
	}
	assert.Len(t, keys.Search(nil), len(keys.All()))
}

func TestKeysyms(t *testing.T) {
	for sym, want := range map[string]string{
		"a": "A", "adiaeresis": "Adiaeresis", "ssharp": "U1E9E", "Cyrillic_a": "Cyrillic_A", "U03BA": "U039A",
		"A": "A", "1": "1", "Escape": "Escape", "idotless": "idotless", "function": "function",
	} {
		assert.Equal(t, want, keys.Capital(sym), sym)
	}
	for name, want := range map[string]string{"0x0100002b": "plus", "U00E4": "adiaeresis", "U20AC": "U20AC", "Hyper_L": "Hyper_L", "0xzz": "0xzz"} {
		assert.Equal(t, want, keys.KeysymName(name), name)
	}
	for name, want := range map[string]uint32{"Escape": 0xFF1B, "U20AC": 0x010020AC, "EuroSign": 0x20AC, "XF86AudioMute": 0x1008FF12} {
		got, ok := keys.KeysymValue(name)
		assert.True(t, ok)
		assert.Equal(t, want, got, name)
	}
	de, _ := keys.FindLayout("de")
	assert.Equal(
		t,
		[]string{"Ü", "Z", "^", "Escape"},
		[]string{
			de.Cap(sample.Key("BracketLeft")),
			de.Cap(sample.Key("KeyY")),
			de.Cap(sample.Key("Backquote")),
			de.Cap(sample.Key("Escape")),
		},
	)
}

// Names of other systems for a modifier are told ours.
func TestOtherNamesOfModifiers(t *testing.T) {
	for name, want := range map[string]string{
		"Control": "Ctrl", "ControlLeft": "CtrlLeft", "ControlRight": "CtrlRight", "Strg": "Ctrl", "Option": "Alt",
		"opt": "Alt", "Mod1": "Alt",
		"Command": "Meta", "cmd": "Meta", "Super": "Meta", "Win": "Meta", "Windows": "Meta", "GUI": "Meta",
		"Mod4":     "Meta",
		"Umschalt": "Shift", "AltGraph": "AltGr", "Globe": "Fn",
	} {
		_, err := keys.ParseChord(name+"+F1", []string{"Ctrl"}, nil)
		var wrong *keys.SpellingError
		if assert.ErrorAs(t, err, &wrong, name) {
			assert.Equal(t, strconv.Quote(want), strings.TrimPrefix(wrong.Remedy, "write "), name)
		}
	}
}

// Names by which people call keys are told the code.
func TestOtherNamesOfKeys(t *testing.T) {
	for name, want := range map[string]string{
		"esc": "Escape", "Return": "Enter", "del": "Delete", "ins": "Insert", "caps": "CapsLock",
		"capslock": "CapsLock", "pgup": "PageUp", "pgdn": "PageDown",
		"left": "ArrowLeft", "right": "ArrowRight", "up": "ArrowUp", "down": "ArrowDown", "menu": "ContextMenu",
		"apps": "ContextMenu", "print": "PrintScreen",
		"lctrl": "ControlLeft", "rctrl": "ControlRight", "ctrl": "ControlLeft", "control": "ControlLeft",
		"alt": "AltLeft", "option": "AltLeft",
		"optionleft": "AltLeft", "optionright": "AltRight", "altgr": "AltRight", "altgraph": "AltRight",
		"shift": "ShiftLeft", "meta": "MetaLeft", "super": "MetaLeft", "win": "MetaLeft",
		"cmd": "MetaLeft", "command": "MetaLeft", "superleft": "MetaLeft", "superright": "MetaRight",
		"winleft": "MetaLeft", "winright": "MetaRight",
		"commandleft": "MetaLeft", "commandright": "MetaRight", "globe": "Fn", "spacebar": "Space",
		"volumeup": "AudioVolumeUp", "volumedown": "AudioVolumeDown",
		"mute": "AudioVolumeMute", "play": "MediaPlayPause", "grave": "Backquote", "iso": "IntlBackslash",
		"apostrophe": "Quote", "hyphen": "Minus", "dot": "Period", "kpenter": "NumpadEnter",
	} {
		assert.Equal(t, "write "+strconv.Quote(want), keys.KeyAdvice(name, nil), name)
	}
}

// A section of the board has its name, as the standard that names the codes has it.
func TestSections(t *testing.T) {
	for code, want := range map[string]string{
		"KeyA": "writing area", "Enter": "functional", "Convert": "international", "Insert": "control pad",
		"ArrowUp": "arrows", "Numpad5": "numpad",
		"F5": "function", "AudioVolumeUp": "media and launch", "Sleep": "power", "Copy": "editing",
		"MouseBack": "mouse",
	} {
		k, ok := keys.ByCode(code)
		require.True(t, ok, code)
		assert.Equal(t, want, k.Section().String(), code)
	}
}

func TestButtons(t *testing.T) {
	assert.Subset(t, keys.Codes(), []string{"MouseMiddle", "MouseBack", "MouseForward", "Escape"})
	assert.Len(t, keys.Codes(), len(keys.All())+len(keys.Buttons()))
	for _, k := range keys.Buttons() {
		found, ok := keys.ByCode(k.String())
		assert.True(t, ok && found == k)
		assert.NotContains(t, keys.All(), k, "a button is no key of the table")
	}
}

func TestNearest(t *testing.T) {
	for name, want := range map[string]string{
		"CapsLok": "CapsLock", "ecsape": "Escape", "ShiftLfet": "ShiftLeft", "KeyAA": "KeyA", "Nonsense": "", "x": "",
	} {
		assert.Equal(t, want, diag.Nearest(name, keys.Codes()), name)
	}
}

func FuzzParseChord(f *testing.F) {
	for _, s := range []string{"Ctrl+Shift+KeyT", "Ctrl++", "+", "", "a+", "Hyper+\xff", "\x00", "Ctrl+\u200b"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		if c, err := keys.ParseChord(text, nil, diag.Nearest); err == nil {
			again, err := keys.ParseChord(c.String(), nil, diag.Nearest)
			require.NoError(t, err, "%q printed as %q", text, c)
			require.Equal(t, c, again)
		}
	})
}
