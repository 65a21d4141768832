package i3_test

import (
	"regexp"
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
	"leitstand/core/mechanism/linux/i3"
	"leitstand/internal/sample"
)

var both = map[string]i3.Mechanism{"i3": {}, "sway": {Sway: true}}

func machine(desktop string, layouts ...string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: desktop, Session: "x11", Layouts: layouts})
}

// back writes bindings and reads them again.
func back(t require.TestingT, w i3.Mechanism, m *mechanism.Machine, list []mechanism.Binding) []mechanism.Binding {
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	got, err := w.Read(m, fstest.MapFS{out.Files()[0].Path: {Data: out.Files()[0].Data}})
	require.NoError(t, err, "%s", out.Files()[0].Data)
	return got
}

// What is written reads back as what was meant, whatever the command holds.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{0,12}`))
	for name, w := range both {
		t.Run(name, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				layouts := rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}, {"ru", "de"}}).Draw(t, "layouts")
				m := machine(name, layouts...)
				list := sample.Launches(t, word, func(b behaviour.Binding) bool {
					c, answer := b.Effect.Launch().Command, w.Take(m, b)
					return answer.Verdict >= mechanism.Limited && c[0] != "" && c[0] != "gtk-launch" && c[0] != "xdg-open"
				})
				require.Empty(t, behaviour.Compare(back(t, w, m, list), list))
			})
		})
	}
}

func TestActionsReadBack(t *testing.T) {
	for name, w := range both {
		m := machine(name, "de")
		list := sample.Actions(func(b mechanism.Binding) bool { return w.Take(m, b).Verdict >= mechanism.Limited })
		assert.Greater(t, len(list), 40, name)
		assert.Empty(t, behaviour.Compare(back(t, w, m, list), list), name)
	}
}

// Strokes in sequence share their beginnings, and settings stand beside bindings.
func TestSequencesAndSettings(t *testing.T) {
	for name, w := range both {
		m := machine(name, "us")
		one := sample.Launch(keys.Hyper, "KeyG", behaviour.Launch{Command: []string{"tidegauge"}})
		one.Then = []keys.Chord{{Key: sample.Key("KeyS")}}
		two := one
		two.Effect = behaviour.Effect{Kind: behaviour.Acts, Action: "close"}
		two.Then = []keys.Chord{{Mods: keys.Ctrl, Key: sample.Key("KeyA")}, {Key: sample.Key("Digit1")}}
		pad := sample.Launch(keys.Meta, "Numpad1", behaviour.Launch{Open: "https://tides.example/?a=1;b"})
		off := sample.Off(keys.Meta, "KeyH")
		move := sample.Act(keys.Hyper, "KeyM", "move") // a mode that a sequence leads to
		move.Then = []keys.Chord{{Key: sample.Key("Escape")}}
		list := []mechanism.Binding{one, two, move, pad, off, sample.Setting("repeat rate", "40/s")}
		if name == "i3" {
			list = append(list, sample.Setting("repeat of KeyA", "never"))
		}
		for _, b := range list {
			assert.GreaterOrEqual(t, w.Take(m, b).Verdict, mechanism.Limited, b.String())
		}
		behaviour.Sort(list)
		assert.Empty(t, behaviour.Compare(back(t, w, m, list), list), name)
		list = []mechanism.Binding{sample.Setting("repeat delay", "660ms"), sample.Setting("repeat rate", "40/s")}
		assert.Empty(t, behaviour.Compare(back(t, w, m, list), list), name)
	}
}

func TestTake(t *testing.T) {
	start := behaviour.Launch{Command: []string{"tidegauge"}}
	for _, c := range []struct {
		desktop string
		layouts []string
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{"i3", []string{"fr", "us"}, sample.Launch(keys.Hyper, "KeyW", start), mechanism.Exact, ""},
		{"sway", []string{"fr", "us"}, sample.Launch(keys.Hyper, "KeyW", start), mechanism.Limited, "under layout us " +
			"it is the key that types z"},
		{"i3", []string{"us"}, sample.Launch(keys.Hyper, "NumpadComma", start), mechanism.Limited, "NumpadDecimal, " +
			"which types the same"},
		{"i3", []string{"de"}, sample.Launch(keys.AltGr, "KeyT", start), mechanism.Unavailable, "AltGr"},
		{"sway", []string{"de"}, sample.Launch(keys.MetaLeft, "KeyT", start), mechanism.Unavailable, "MetaLeft"},
		{"i3", []string{"de"}, sample.Launch(keys.Ctrl, "Fn", start), mechanism.Unavailable, "no keysym"},
		{"i3", []string{"de"}, sample.Launch(keys.Meta, "KeyT", behaviour.Launch{Command: []string{strings.Repeat("ä", 2500)}}), mechanism.Unavailable, "too long"},
		{"i3", []string{"de"}, sample.Nothing("Insert"), mechanism.Unavailable, ""},
		{"sway", []string{"de"}, sample.Setting("repeat of KeyA", "never"), mechanism.Unavailable, "all keys repeat alike"},
		{"i3", []string{"de"}, mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyO")},
			Effect: behaviour.Effect{Kind: behaviour.Acts, Action: "overview"}}, mechanism.Unavailable, "no command for " +
			"overview"},
	} {
		got := both[c.desktop].Take(machine(c.desktop, c.layouts...), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// What a hand may have spoiled is told with its line, or read as something else.
func TestRead(t *testing.T) {
	m := machine("i3", "de")
	for text, want := range map[string]string{
		"bindsym Mod4+nosuchkey kill": "leitstand.conf:1: no key of the machine's layouts types \"nosuchkey\"",
		"\nbindsym Hyper+t kill":      "leitstand.conf:2: \"Hyper\" is no modifier here",
		"bindsym Mod4+t mode \"x\"":   "there is no mode \"x\"",
		"mode \"x\" {":                "a brace is not closed",
		"font pango:monospace":        "is nothing that we know",
		"bindsym Mod4+t mode \"x\"\nmode \"x\" {\nbindsym a mode \"x\"\n}": "the modes lead deeper than we follow, " +
			"or in a circle",
		`bindsym Mod4+r mode "leitstand resize"`: "there is no mode \"leitstand resize\" in which the arrow keys resize",
		"bindsym Mod4+m mode \"leitstand move\"\nmode \"leitstand move\" {\nbindsym Left move left 10 px\n}": "in which the " +
			"arrow keys move",
		"bindsym Mod4+KP_1 kill": "whether NumLock is on or off",
	} {
		_, err := i3.Mechanism{}.Read(m, fstest.MapFS{"i3/leitstand.conf": {Data: []byte(text)}})
		assert.ErrorContains(t, err, want)
	}
	got, err := i3.Mechanism{}.Read(m, fstest.MapFS{"i3/leitstand.conf": {Data: []byte("bindsym Mod4+t exec " +
		"--no-startup-id exec echo $mod\n")}})
	require.NoError(t, err)
	assert.Equal(t, behaviour.Other, got[0].Effect.Kind, "a variable of the user's may stand there")
}

func FuzzRead(f *testing.F) {
	m := machine("i3", "fr", "us")
	one := sample.Launch(
		keys.Hyper|keys.Shift, "Digit7", behaviour.Launch{Command: []string{"a", sample.Nasty}, Dir: "/x"},
	)
	one.Then = []keys.Chord{{Key: sample.Key("KeyS")}}
	out, err := mechanism.Write(i3.Mechanism{}, m, []behaviour.Binding{one, sample.Setting("repeat rate", "40/s")})
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		for name, w := range both {
			_, _ = w.Read(m, fstest.MapFS{name + "/leitstand.conf": {Data: data}})
		}
	})
}

// A modifier alone is bound by either side or one.
func TestModifierAlone(t *testing.T) {
	for name, w := range both {
		m := machine(name, "de")
		var list []mechanism.Binding
		for _, mods := range []keys.Mods{keys.Ctrl, keys.MetaLeft, keys.AltRight, keys.Hyper} {
			b := sample.Launch(mods, "KeyA", behaviour.Launch{Command: []string{"tidegauge", mods.Names()[0]}})
			b.Chord.Key = keys.None
			require.Equal(t, mechanism.Limited, w.Take(m, b).Verdict, b.String())
			list = append(list, b)
		}
		behaviour.Sort(list)
		out, err := mechanism.Write(w, m, list)
		require.NoError(t, err)
		path, text := out.Files()[0].Path, string(out.Files()[0].Data)
		assert.Regexp(
			t, "(?m)^bindsym --release Control_L exec .*tidegauge Ctrl\nbindsym --release Control_R exec", text,
		)
		got, err := w.Read(m, fstest.MapFS{path: {Data: []byte(text)}})
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list), text)
		for bad, want := range map[string]string{"bindsym --release a kill\n": "no modifier", "bindsym --release " +
			"Super_L kill\nbindsym --release Super_L kill\n": "twice"} {
			_, err = w.Read(m, fstest.MapFS{path: {Data: []byte(bad)}})
			assert.ErrorContains(t, err, want)
		}
	}
}

// Buttons of a mouse are bound over windows, and read back.
func TestButtons(t *testing.T) {
	for name, w := range both {
		m := machine(name, "de")
		var list []mechanism.Binding
		for _, k := range keys.Buttons() {
			b := sample.Launch(keys.Meta, k.String(), behaviour.Launch{Command: []string{"tidegauge"}})
			require.Equal(t, mechanism.Limited, w.Take(m, b).Verdict)
			list = append(list, b)
		}
		out, err := mechanism.Write(w, m, list)
		require.NoError(t, err)
		text := string(out.Files()[0].Data)
		assert.Contains(t, text, "bindsym --whole-window Mod4+button8 exec ")
		if name == "sway" { // the kernel's names, by which its parser knows the further ones
			var names []string
			for _, f := range regexp.MustCompile(`Mod4\+(\w+) `).FindAllStringSubmatch(text, -1) {
				names = append(names, f[1])
			}
			assert.Equal(t, []string{"button2", "button8", "button9", "BTN_FORWARD", "BTN_BACK", "BTN_TASK"}, names)
		}
		got, err := w.Read(m, fstest.MapFS{out.Files()[0].Path: {Data: out.Files()[0].Data}})
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list), text)
		_, err = w.Read(m, fstest.MapFS{out.Files()[0].Path: {Data: []byte("bindsym --whole-window button3 kill\n")}})
		assert.ErrorContains(t, err, "no button of a mouse")
	}
}

// A tree of modes, as sequences of strokes make it, is read whatever its size.
func TestReadsManyModes(t *testing.T) {
	m := machine("i3", "us")
	letters := "abcdefghijklmnopqrstuvwxyz"
	var list []mechanism.Binding
	chord := func(i int) keys.Chord {
		return keys.Chord{Key: sample.Key("Key" + strings.ToUpper(letters[i%26:i%26+1]))}
	}
	for i := range 2 * 26 * 26 * 26 {
		first := chord(i)
		first.Mods = keys.Meta
		list = append(
			list,
			mechanism.Binding{
				Level:  behaviour.Hotkey,
				Chord:  first,
				Then:   []keys.Chord{chord(i / 26), chord(i / 676), chord(i / 17576)},
				Effect: behaviour.Launching(behaviour.Launch{Command: []string{"tidegauge"}}),
			},
		)
	}
	out, err := mechanism.Write(i3.Mechanism{}, m, list)
	require.NoError(t, err)
	read, err := i3.Mechanism{}.Read(m, fstest.MapFS{out.Files()[0].Path: {Data: out.Files()[0].Data}})
	require.NoError(t, err)
	require.Len(t, read, len(list))
}
