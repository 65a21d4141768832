package layout_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/layout"
	"leitstand/internal/sample"
)

// lab is a Windows machine with a layer of each kind, which asks for a library.
func lab(name string) *intent.Machine {
	m := sample.Machine(mapping.Machine{
		Name: "lab", System: mapping.Windows, Layouts: []string{name}, LayoutLibrary: true,
	})
	m.LayerKeys = []intent.LayerKey{
		{Layer: "signs", Key: sample.Key("ControlRight"), How: behaviour.While},
		{Layer: "marks", Key: sample.Key("KeyQ"), How: behaviour.Once},
	}
	return m
}

func types(layer, code, text string) mechanism.Binding {
	return mechanism.Binding{
		Layer: layer, Chord: keys.Chord{Key: sample.Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

// switches are the keys of the layers.
var switches = []mechanism.Binding{
	{
		Chord:  keys.Chord{Key: sample.Key("ControlRight")},
		Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "signs", How: behaviour.While},
	},
	{
		Chord:  keys.Chord{Key: sample.Key("KeyQ")},
		Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "marks", How: behaviour.Once},
	},
}

// written is the layout that is written for bindings, opened again.
func written(t require.TestingT, m *intent.Machine, list []mechanism.Binding) (*layout.Layout, mechanism.Folder) {
	out, err := mechanism.Write(layout.Mechanism{}, m, list)
	require.NoError(t, err)
	opened, err := layout.Open(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	require.Len(t, opened, 1)
	return opened[0], mechanism.Folder(out.Files())
}

var layouts = []string{
	"de",
	"us",
	"fr",
	"gb",
	"es",
	"it",
	"us(intl)",
	"br",
	"pl",
	"ru",
	"be",
	"ch",
	"cz",
	"dk",
	"hu",
	"latam",
	"no",
	"pt",
	"se",
	"tr",
}

// What is typed under a layout of ours is what is typed under the system's, but for what the mapping says.
func TestTypesAsTheSystemsLayout(t *testing.T) {
	for _, name := range layouts {
		m := lab(name)
		l, _ := written(t, m, []mechanism.Binding{types("signs", "KeyE", "→"), switches[0]})
		assert.Empty(
			t,
			sample.TypesAlike(l, m.Layouts[0], "AltGr", func(keys.Key, keys.Mods) bool { return false }),
			name,
		)
		text, _ := l.Type(keys.TypeState{Layer: true}, sample.Key("KeyE"), 0)
		assert.Equal(t, "→", text)
	}
}

func TestTyped(t *testing.T) {
	m := lab("de")
	l, _ := written(t, m, append([]mechanism.Binding{
		types("signs", "KeyE", "→"), types("marks", "KeyA", "✓"), types("", "KeyJ", "é"),
	}, switches...))
	for strokes, want := range map[string]string{
		"KeyQ KeyA KeyA": "✓a", "KeyQ KeyS": "s", "KeyQ Equal KeyE": "é", "Equal KeyE": "é", "Equal Equal": "´´", "KeyJ Shift+KeyJ": "éé",
		"AltGr+KeyE": "€", "CapsLock KeyA KeyJ": "Aé",
	} {
		assert.Equal(t, want, sample.Typed(l, strokes), strokes)
	}
	text, _ := l.Type(keys.TypeState{Layer: true}, sample.Key("KeyE"), 0)
	assert.Equal(t, "→", text)
	m.LayerKeys = m.LayerKeys[:1] // several units, where there is no layer for one press
	l, _ = written(t, m, []mechanism.Binding{types("signs", "KeyE", "ab🌊"), types("", "F9", "m³"), switches[0]})
	text, _ = l.Type(keys.TypeState{Layer: true}, sample.Key("KeyE"), 0)
	function, _ := l.Type(keys.TypeState{}, sample.Key("F9"), 0)
	assert.Equal(t, "ab🌊m³", text+function)
}

// Abbreviations behind the Compose key, by whatever types their characters.
func TestCompose(t *testing.T) {
	m := lab("de")
	m.Compose, m.LayerKeys = true, nil
	list := []mechanism.Binding{
		{Chord: keys.Chord{Key: sample.Key("IntlBackslash")}, Effect: behaviour.Effect{Kind: behaviour.Composes}},
	}
	for word, text := range map[string]string{"12": "½", "1(": "①", "tide": "≈"} {
		b := types("", "KeyA", text)
		b.Level, b.Word, b.Chord = behaviour.Typing, word, keys.Chord{}
		list = append(list, b)
	}
	behaviour.Sort(list)
	l, files := written(t, m, list)
	for strokes, want := range map[string]string{
		"IntlBackslash KeyT KeyI KeyD KeyE KeyA": "≈a", "IntlBackslash Digit1 Digit2": "½",
		"IntlBackslash Digit1 Shift+Digit8": "①", "IntlBackslash KeyA Digit1 Digit2": "a12", "IntlBackslash KeyT Equal KeyE": "é",
	} {
		assert.Equal(t, want, sample.Typed(l, strokes), strokes)
	}
	got, err := (layout.Mechanism{}).Read(m, files)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
	long := types("", "KeyA", "ab")
	long.Level, long.Word = behaviour.Typing, ";x"
	assert.Equal(t, "what follows a dead key gives one unit of text", (layout.Mechanism{}).Take(m, long).Why.String())
}

// As many abbreviations as anybody has.
func TestManyAbbreviations(t *testing.T) {
	m := lab("de")
	m.Compose, m.LayerKeys = true, nil
	list := []mechanism.Binding{
		{Chord: keys.Chord{Key: sample.Key("IntlBackslash")}, Effect: behaviour.Effect{Kind: behaviour.Composes}},
	}
	for i := range 300 {
		b := types("", "KeyA", string(rune(0x2200+i)))
		b.Level, b.Word, b.Chord = behaviour.Typing, fmt.Sprintf("%04d", i*31), keys.Chord{}
		list = append(list, b)
	}
	behaviour.Sort(list)
	_, files := written(t, m, list)
	got, err := (layout.Mechanism{}).Read(m, files)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
}

// Any text that is taken comes back from the library.
func TestTextsReadBack(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		m := lab(rapid.SampledFrom(layouts).Draw(r, "layout"))
		list := append([]mechanism.Binding{}, switches...)
		for _, code := range []string{"KeyE", "KeyA", "Digit1", "Space", "Slash"} {
			b := types(
				rapid.SampledFrom([]string{"signs", "marks"}).Draw(r, "layer"),
				code,
				rapid.String().Draw(r, "text"),
			)
			if o := (layout.Mechanism{}).Take(m, b); o.Verdict == mechanism.Limited && o.Does == nil {
				list = append(list, b)
			}
		}
		_, files := written(r, m, list)
		got, err := (layout.Mechanism{}).Read(m, files)
		require.NoError(r, err)
		for _, c := range behaviour.Compare(got, list) {
			require.True(r, c.Before != nil && c.After != nil && m.Alike(*c.Before, *c.After), "%+v", c)
		}
	})
}

// Pause becomes any key, and any key that types nothing becomes Pause: what is written comes back.
func TestPause(t *testing.T) {
	m := lab("de")
	none := behaviour.Effect{Kind: behaviour.Nothing}
	for _, list := range [][]mechanism.Binding{
		{sample.Becomes("Pause", "PrintScreen")}, {sample.Becomes("Pause", "F20")},
		{sample.Becomes("Pause", "ScrollLock"), sample.Becomes("ScrollLock", "Pause")}, {sample.Becomes("Insert", "Pause")},
		{sample.Becomes("F11", "Pause")}, {{Chord: keys.Chord{Key: sample.Key("Pause")}, Effect: none}},
		append([]mechanism.Binding{sample.Becomes("Pause", "BrowserBack")}, switches...),
	} {
		behaviour.Sort(list)
		_, files := written(t, m, list)
		got, err := (layout.Mechanism{}).Read(m, files)
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(list, got), "%v", list)
	}
}

// A Hyper key is Ctrl and Alt together, and what the right Alt leads to stays, where it leads to anything.
func TestHyper(t *testing.T) {
	hyper := sample.Modifier("CapsLock", keys.Ctrl|keys.Alt)
	for name, altGr := range map[string]string{"de": "€", "fr": "€", "us": ""} {
		m := lab(name)
		m.OwnAltGr = true
		list := append([]mechanism.Binding{hyper}, switches...)
		behaviour.Sort(list)
		l, files := written(t, m, list)
		assert.Equal(t, altGr, sample.Typed(l, "AltGr+KeyE"), name)
		assert.True(t, l.AltGr)
		for _, bits := range []int{library.CtrlBit | library.AltBit, library.CtrlBit | library.AltBit | library.ShiftBit} {
			assert.True(t, name == "us" || l.Columns[bits] == library.NoColumn, "Ctrl+Alt types under %s", name)
		}
		got, err := (layout.Mechanism{}).Read(m, files)
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(list, got), name)
	}
	pl := lab("pl")
	pl.OwnAltGr = true
	assert.Equal(t, mechanism.Unavailable, (layout.Mechanism{}).Take(pl, hyper).Verdict, "CapsLock makes capitals with AltGr there")
	assert.Equal(t, mechanism.Unavailable, (layout.Mechanism{}).Take(lab("de"), hyper).Verdict)
}

func TestTake(t *testing.T) {
	chord := types("", "KeyP", "±")
	chord.Level, chord.Chord.Mods = behaviour.Hotkey, keys.AltGr
	m, unasked := lab("de"), lab("de")
	of := *unasked.Machine
	of.LayoutLibrary = false
	unasked.Machine = &of
	for _, c := range []struct {
		m    *intent.Machine
		b    mechanism.Binding
		want string
	}{
		{m, chord, "limited: under a layout beside yours, with XKB's dead keys and Unicode's accents: system_layouts names no library; " +
			"CapsLock makes no capital of KeyP then"},
		{unasked, chord, `unavailable: a keyboard layout library could have it, which machine lab does not ask for (layout_library = true)`},
		{m, types("signs", "KeyE", "ab"), "unavailable: several units do not go together with a layer for one press"},
		{m, types("signs", "KeyE", "abcde"), "unavailable: a key of a layout types 4 units of text at most"},
		{m, types("marks", "KeyE", "ab"), "unavailable: a key of a layout types 1 units of text at most"},
		{m, types("marks", "Equal", "x"), "unavailable: Equal types no character that a dead key could stand before"},
		{m, types("signs", "KeyE", "\uf001"), "unavailable: what a layout types is text, no control characters"},
		{lab("gr"), types("signs", "KeyE", "→"), "unavailable: not written yet: what keys type under layout gr of this system"},
		{m, sample.Becomes("Pause", "ShiftLeft"), "unavailable: a board sends Pause as pressed and let go at once, so it cannot " +
			"be held as ShiftLeft"},
		{m, sample.Becomes("KeyA", "Pause"), "unavailable: "}, {m, sample.Becomes("Pause", "KeyA"), "unavailable: "},
		{m, sample.Becomes("CapsLock", "Escape"), "unavailable: "},
		{m, types("other", "KeyE", "→"), "unavailable: "}, {m, types("signs", "F7", "→"), "unavailable: "},
	} {
		o := (layout.Mechanism{}).Take(c.m, c.b)
		assert.Equal(t, c.want, o.Verdict.String()+": "+o.Why.String())
	}
}

// A library for each processor, under a name of its own for each build, and what it is called in the registry.
func TestFiles(t *testing.T) {
	m := lab("de")
	var steps [2]string
	for i, text := range []string{"→", "←"} {
		out, err := mechanism.Write(
			layout.Mechanism{},
			m,
			[]mechanism.Binding{types("signs", "KeyE", text), switches[0]},
		)
		require.NoError(t, err)
		for path, want := range map[string]library.Machine{"layout/de/AMD64.dll": library.AMD64, "layout/de/ARM64.dll": library.ARM64} {
			for _, f := range out.Files() {
				if f.Path == path {
					_, machine, err := library.Open(f.Data)
					require.NoError(t, err)
					assert.Equal(t, want, machine)
				}
			}
		}
		for _, s := range out.Steps() {
			steps[i] += strings.Join(s.Lines, "\n") + "\n"
		}
		assert.Regexp(t, `System32\\ls[0-9a-f]{6}\.dll`, steps[i])
		assert.Contains(t, steps[i], `Keyboard Layouts\a`)
	}
	assert.NotEqual(t, steps[0], steps[1])
}
