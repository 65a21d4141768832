package xkb_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func gives(mods keys.Mods, code string, toMods keys.Mods, to string) mechanism.Binding {
	b := mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods, Key: sample.Key(code)}}
	if b.Effect = (behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: toMods, Key: sample.Key(to)}}); toMods == 0 {
		b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(to)}
	}
	return b
}

func TestTakeChords(t *testing.T) {
	for _, c := range []struct {
		session string
		binding mechanism.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{"x11", gives(keys.Meta, "KeyC", keys.Ctrl, "KeyC"), mechanism.Exact, ""},
		{"x11", gives(keys.Ctrl, "KeyH", 0, "Backspace"), mechanism.Exact, ""},
		{"", gives(keys.Ctrl, "KeyH", 0, "Backspace"), mechanism.Unavailable, `session = "x11"`},
		{"x11", gives(keys.CtrlLeft, "KeyH", 0, "Backspace"), mechanism.Unavailable, "no sides"},
		{"x11", gives(keys.Ctrl, "F1", 0, "F2"), mechanism.Unavailable, "something of its own"},
		{"x11", gives(keys.Ctrl, "ShiftLeft", 0, "F2"), mechanism.Unavailable, "no chord of ShiftLeft"},
		{"x11", gives(keys.Ctrl, "KeyH", 0, "Eject"), mechanism.Exact, ""},
		{"x11", key("F9", keys.Ctrl, "ShiftLeft"), mechanism.Unavailable, "X11 has no chord with ShiftLeft"},
		{"x11", key("F9", keys.Ctrl, "Fn"), mechanism.Unavailable, "X11 has no chord with Fn"},
		{"x11", gives(keys.Ctrl, "KeyH", 0, "Fn"), mechanism.Unavailable, "no key Fn"},
	} {
		got := xkb.Mechanism{}.Take(machine(c.session, "i3", "de"), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// Chords read back as they were meant, and what our reader makes of the keymap is what
// it makes of the X server's own dump of it, in every state.
func TestChordsAsXkbcompHasThem(t *testing.T) {
	realtest.Need(t, "xkbcomp", "x11-xkb-utils")
	dir := t.TempDir()
	rapid.Check(t, func(rt *rapid.T) {
		layouts := rapid.SliceOfNDistinct(
			rapid.SampledFrom([]string{"de", "us", "fr", "gr", "ch", "us(dvorak)"}), 1, 3, rapid.ID[string],
		).Draw(rt, "layouts")
		m := withOptions(sample.Options(rt, layouts), "x11", "i3", layouts...)
		list := sample.Chords(
			rt, func(b behaviour.Binding) bool { return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited },
		)
		if hyper := sample.Modifier("CapsLock", keys.Hyper); (xkb.Mechanism{}).Take(
			m, hyper,
		).Verdict >= mechanism.Limited {
			list = append(list, hyper)
		}
		out, err := mechanism.Write(xkb.Mechanism{}, m, list)
		require.NoError(rt, err)
		files := fstest.MapFS{}
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		got, err := xkb.Mechanism{}.Read(m, files)
		require.NoError(rt, err)
		require.Empty(rt, behaviour.Compare(got, list))
		if rapid.IntRange(0, 3).Draw(rt, "asked") > 0 { // a real compiler takes its time
			return
		}
		layout, err := xkb.Open(m, files)
		require.NoError(rt, err)
		ours := layout.Keymap("")
		in, dump := filepath.Join(dir, "in.xkb"), filepath.Join(dir, "out.xkb")
		require.NoError(rt, os.WriteFile(in, files["xkb/keymap.xkb"].Data, 0o644))
		printed, err := exec.Command(
			"xkbcomp",
			append(realtest.DataOfThisMachine(), "-w0", "-xkb", in, dump)...).CombinedOutput()
		require.NoError(rt, err, "%s", printed)
		text, err := os.ReadFile(dump)
		require.NoError(rt, err)
		theirs, err := keymap.Parse("out.xkb", string(text))
		require.NoError(rt, err)
		for _, b := range list {
			a, ok1 := ours.KeyOf(b.Chord.Key)
			z, ok2 := theirs.KeyOf(b.Chord.Key)
			require.True(rt, ok1 && ok2)
			for g := range layouts {
				for on := range keymap.Masks {
					require.Equal(
						rt, ours.At(a, keymap.Mask(on), g), theirs.At(z, keymap.Mask(on), g),
						"%s with %v in group %d", b.Chord.Key, keymap.Mask(on).Names(), g+1,
					)
				}
			}
		}
	})
}

// key is a key by itself that gives a chord.
func key(code string, mods keys.Mods, to string) mechanism.Binding {
	return mechanism.Binding{
		Chord:  keys.Chord{Key: sample.Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: mods, Key: sample.Key(to)}},
	}
}

// Chords are pressed in a real X server: a program gets the other key, with the other
// modifiers; a chord with one modifier more is left alone, and the locks do not matter.
func TestChordsPressedInX(t *testing.T) {
	const shift, ctrl, mod1, mod3, mod4 = 0x1, 0x4, 0x8, 0x20, 0x40
	server := realtest.XServer(t)
	p := server.Presser()
	for _, layouts := range [][]string{{"de"}, {"us", "fr"}} {
		m := machine("x11", "i3", layouts...)
		list := []mechanism.Binding{
			sample.Modifier("CapsLock", keys.Hyper),
			gives(
				keys.Meta, "KeyC", keys.Ctrl, "KeyC",
			), gives(keys.Meta|keys.Shift, "KeyC", keys.Ctrl|keys.Shift, "KeyC"),
			gives(
				keys.Alt, "KeyC", 0, "Insert",
			), gives(keys.Ctrl|keys.Alt, "KeyC", 0, "Delete"), gives(keys.Ctrl|keys.Meta, "KeyC", 0, "End"), // ten levels
			gives(
				keys.Ctrl, "KeyH", 0, "Backspace",
			), gives(keys.Hyper, "ArrowLeft", 0, "Home"), gives(keys.Meta, "Digit7", keys.Alt, "F4"),
			key("F7", keys.Ctrl, "KeyV"), key("Pause", keys.Alt|keys.Shift, "ArrowUp"),
		}
		server.LoadKeymap(filepath.Join(write(t, m, list), "xkb/keymap.xkb"))
		for _, c := range []struct {
			keys  []string
			to    string
			state int
		}{
			{[]string{"MetaLeft", "KeyC"}, "KeyC", ctrl},
			{[]string{"MetaLeft", "ShiftLeft", "KeyC"}, "KeyC", ctrl | shift},
			{[]string{"MetaLeft", "AltLeft", "KeyC"}, "KeyC", mod4 | mod1},
			{[]string{"AltLeft", "KeyC"}, "Insert", 0}, {[]string{"AltLeft", "ControlLeft", "KeyC"}, "Delete", 0},
			{[]string{"ControlLeft", "MetaLeft", "KeyC"}, "End", 0},
			{[]string{"ControlLeft", "KeyH"}, "Backspace", 0},
			{[]string{"ControlRight", "ShiftLeft", "KeyH"}, "KeyH", ctrl | shift},
			{[]string{"CapsLock", "ArrowLeft"}, "Home", 0},
			{[]string{"CapsLock", "ShiftLeft", "ArrowLeft"}, "ArrowLeft", mod3 | shift},
			{[]string{"MetaRight", "Digit7"}, "F4", mod1},
			{[]string{"KeyC"}, "KeyC", 0},
			{[]string{"F7"}, "KeyV", ctrl}, {[]string{"ShiftLeft", "F7"}, "KeyV", ctrl | shift},
			{[]string{"Pause"}, "ArrowUp", mod1 | shift},
		} {
			var chord []int
			for _, k := range c.keys {
				chord = append(chord, sample.Evdev(sample.Key(k)))
			}
			for _, numlock := range []bool{false, true} {
				if numlock {
					p.Chord(sample.Evdev(sample.Key("NumLock")))
				}
				events := p.Chord(chord...)
				last := events[len(events)-1]
				assert.Equal(
					t, fmt.Sprintf("%d with %#x", sample.Evdev(sample.Key(c.to))+8, c.state),
					fmt.Sprintf("%d with %#x", last.Keycode, last.State&^0x10), "%v, NumLock %v", c.keys, numlock,
				)
				if numlock {
					p.Chord(sample.Evdev(sample.Key("NumLock")))
				}
			}
		}
	}
}

// An action of programs is the chord that most of them have for it, by the character that
// the layout types.
func TestEditingPressedInX(t *testing.T) {
	m := machine("x11", "i3", "fr")
	list := []mechanism.Binding{
		sample.Act(keys.Meta, "KeyK", "copy"),
		sample.Act(keys.Meta|keys.Shift, "KeyK", "redo"),
		sample.Act(keys.Alt, "KeyJ", "undo"),
	}
	for _, b := range list {
		answer := xkb.Mechanism{}.Take(m, b)
		assert.Equal(t, mechanism.Limited, answer.Verdict, "%s: %s", b, answer.Why.String())
		assert.Contains(t, answer.Why.String(), "terminals for something else")
		assert.Equal(t, behaviour.Sends, answer.Does.Kind)
	}
	assert.Equal(t, mechanism.Unavailable, xkb.Mechanism{}.Take(machine("wayland", "gnome", "fr"), list[0]).Verdict)
	assert.Equal(t, mechanism.Unavailable, xkb.Mechanism{}.Take(m, sample.Act(keys.Meta, "KeyK", "maximize")).Verdict)
	dir := write(t, m, list)
	server := realtest.XServer(t)
	server.LoadKeymap(filepath.Join(dir, "xkb/keymap.xkb"))
	p := server.Presser()
	for i, want := range []struct {
		state  int
		keysym string
	}{{0x4, "c"}, {0x5, "Z"}, {0x4, "z"}} {
		got := p.Chord(sample.Evdevs(list[i].Chord)...)
		last := got[len(got)-1]
		assert.Equal(t, want.state, last.State, list[i].String())
		assert.Equal(t, want.keysym, last.Keysym, list[i].String())
	}
}
