package keylayout_test

import (
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/keylayout"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// mac is a Mac with a layer of each kind.
func mac(layout string) *intent.Machine {
	m := sample.Mac(layout)
	m.LayerKeys = []intent.LayerKey{
		{Layer: "signs", Key: sample.Key("ControlRight"), How: behaviour.While},
		{Layer: "greek", Key: sample.Key("CapsLock"), How: behaviour.Toggle},
		{Layer: "marks", Key: sample.Key("Quote"), How: behaviour.Once},
	}
	return m
}

func types(layer, code, text string) mechanism.Binding {
	return mechanism.Binding{
		Layer: layer, Chord: keys.Chord{Key: sample.Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

func written(t testing.TB, m *intent.Machine, list []mechanism.Binding) []byte {
	t.Helper()
	out, err := mechanism.Write(keylayout.Mechanism{}, m, list)
	require.NoError(t, err)
	return out.Files()[0].Data
}

var layouts = []string{"de", "us", "fr", "gb", "es", "it", "us(intl)", "br", "pl", "ru", "us(dvorak)", "jp"}

// What is typed under a layout of ours is what is typed under the system's, but for what the mapping says,
// which any text can be.
func TestTypesAsTheSystemsLayout(t *testing.T) {
	for _, name := range layouts {
		m := mac(name)
		l, err := keylayout.Parse(m.Layouts[0], written(t, m, []mechanism.Binding{types("signs", "KeyE", "→")}))
		require.NoError(t, err)
		assert.Empty(
			t,
			sample.TypesAlike(
				l,
				m.Layouts[0],
				"Alt",
				func(k keys.Key, held keys.Mods) bool { return k == sample.Key("KeyE") && held.Has(keys.Alt) },
			),
			name,
		)
	}
}

func TestTyped(t *testing.T) {
	m := mac("de")
	list := []mechanism.Binding{
		types("signs", "KeyE", "Süderhaff 3 <&\"'>"), types("greek", "KeyA", "α"), types("marks", "KeyA", "✓"),
		types("", "KeyJ", "é"),
		{
			Chord:  keys.Chord{Key: sample.Key("Quote")},
			Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "marks", How: behaviour.Once},
		},
		{
			Chord:  keys.Chord{Key: sample.Key("CapsLock")},
			Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "greek", How: behaviour.Toggle},
		},
		{
			Layer:  "greek",
			Chord:  keys.Chord{Key: sample.Key("CapsLock")},
			Effect: behaviour.Effect{Kind: behaviour.Leaves, Layer: "greek"},
		},
	}
	l, err := keylayout.Parse(m.Layouts[0], written(t, m, list))
	require.NoError(t, err)
	for strokes, want := range map[string]string{
		"Alt+KeyE": "Süderhaff 3 <&\"'>", "Quote KeyA KeyA": "✓a", "Quote KeyS": "s", "CapsLock KeyA KeyB CapsLock KeyA": "αba",
		"KeyJ Shift+KeyJ Alt+KeyJ": "ééº", "Equal Quote KeyA": "´✓", "Equal Alt+KeyE": "´Süderhaff 3 <&\"'>",
	} {
		assert.Equal(t, want, sample.Typed(l, strokes), strokes)
	}
}

// Abbreviations behind the Compose key, by whatever types their characters.
func TestCompose(t *testing.T) {
	m := mac("de")
	m.Compose, m.LayerKeys = true, nil
	list := []mechanism.Binding{
		{Chord: keys.Chord{Key: sample.Key("IntlBackslash")}, Effect: behaviour.Effect{Kind: behaviour.Composes}},
	}
	for word, text := range map[string]string{";shf": "Süderhaff 3", "12": "½", "1(": "①", "a b": "two"} {
		b := types("", "KeyA", text)
		b.Level, b.Word, b.Chord = behaviour.Typing, word, keys.Chord{}
		list = append(list, b)
	}
	behaviour.Sort(list)
	text := written(t, m, list)
	l, err := keylayout.Parse(m.Layouts[0], text)
	require.NoError(t, err)
	for strokes, want := range map[string]string{
		"IntlBackslash Shift+Comma KeyS KeyH KeyF KeyA": "Süderhaff 3a", "IntlBackslash Digit1 Digit2": "½",
		"IntlBackslash Digit1 Shift+Digit8": "①", "IntlBackslash KeyV Digit1 Digit2": "v12",
		"IntlBackslash KeyA Space KeyB": "two", "IntlBackslash KeyA KeyB": "b", "Equal IntlBackslash Digit1 Digit2": "´½",
	} {
		assert.Equal(t, want, sample.Typed(l, strokes), strokes)
	}
	got, err := (keylayout.Mechanism{}).Read(m, fstest.MapFS{"keylayout/leitstand-de.keylayout": {Data: text}})
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
	list[0].Chord.Key = sample.Key("Pause")
	o := (keylayout.Mechanism{}).Take(m, list[0])
	assert.Equal(t, "a Compose key of a layout is one that types, which Pause is not", o.Why.String())
}

// Any text that is taken comes back from the file, which a validating parser takes.
func TestTextsReadBack(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		m := mac(rapid.SampledFrom(layouts).Draw(r, "layout"))
		var list []mechanism.Binding
		for _, code := range []string{"KeyE", "KeyA", "Digit1", "Space", "Slash"} {
			b := types(
				rapid.SampledFrom([]string{"signs", "greek", "marks"}).Draw(r, "layer"),
				code,
				rapid.String().Draw(r, "text"),
			)
			if o := (keylayout.Mechanism{}).Take(m, b); o.Verdict == mechanism.Limited && o.Does == nil {
				list = append(list, b)
			}
		}
		on := []mechanism.Binding{
			{
				Chord:  keys.Chord{Key: sample.Key("Quote")},
				Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "marks", How: behaviour.Once},
			},
			{
				Chord:  keys.Chord{Key: sample.Key("CapsLock")},
				Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "greek", How: behaviour.Toggle},
			},
			{
				Layer:  "greek",
				Chord:  keys.Chord{Key: sample.Key("CapsLock")},
				Effect: behaviour.Effect{Kind: behaviour.Leaves, Layer: "greek"},
			},
		}
		text := written(t, m, append(on, list...))
		realtest.ValidateKeyLayout(t, text)
		name := strings.NewReplacer("(", "-", ")", "").Replace(m.Layouts[0].Name)
		got, err := (keylayout.Mechanism{}).Read(
			m,
			fstest.MapFS{"keylayout/leitstand-" + name + ".keylayout": {Data: text}},
		)
		require.NoError(r, err)
		for _, c := range behaviour.Compare(got, append(on, list...)) {
			require.True(r, c.Before != nil && c.After != nil && m.Alike(*c.Before, *c.After), "%+v", c)
		}
	})
}

func TestTake(t *testing.T) {
	m := mac("de")
	chord := types("", "KeyP", "±")
	chord.Level, chord.Chord.Mods = behaviour.Hotkey, keys.Alt|keys.Shift
	for _, c := range []struct {
		m    *intent.Machine
		b    mechanism.Binding
		want string
	}{
		{m, chord, "limited: under a layout that is chosen in the input menu; accents join there as Unicode has it; " +
			"Alt+Shift+KeyP types ∏ no longer there"},
		{m, types("signs", "KeyE", "€"), "unavailable: "}, // which the system's own types
		{m, types("signs", "KeyE", strings.Repeat("🌊", 11)), "unavailable: a key of a layout types 20 units of text at most"},
		{m, types("signs", "KeyE", "a\tb"), "unavailable: what a layout types is text, no control characters"},
		{mac("cz"), types("signs", "KeyE", "→"), "unavailable: not written yet: what keys type under layout cz of this system"},
		{m, types("other", "KeyE", "→"), "unavailable: "}, {m, types("signs", "F7", "→"), "unavailable: "},
	} {
		o := (keylayout.Mechanism{}).Take(c.m, c.b)
		assert.Equal(t, c.want, o.Verdict.String()+": "+o.Why.String())
	}
}

func TestParseTellsWhatIsWrong(t *testing.T) {
	m := mac("de")
	good := string(written(t, m, []mechanism.Binding{types("signs", "KeyE", "→")}))
	for old, now := range map[string]string{
		`action="a1"`: `action="tide"`, `mapSet="keys"`: `mapSet="tide"`, `mapIndex="3"`: `mapIndex="33"`,
		`code="14"`: `code="KeyE"`, `</keyboard>`: "",
	} {
		require.Contains(t, good, old)
		_, err := keylayout.Parse(m.Layouts[0], []byte(strings.ReplaceAll(good, old, now)))
		assert.Error(t, err, old)
	}
}

// A layout of another hand: maps over maps, sides of modifiers, actions between.
func TestImport(t *testing.T) {
	text, err := os.ReadFile("testdata/harbour.keylayout")
	require.NoError(t, err)
	got, err := (keylayout.Mechanism{}).Import(sample.Mac("us"), text, nil)
	require.NoError(t, err)
	var said []string
	for _, b := range got.Bindings {
		if b.Chord.Key == sample.Key("KeyQ") || b.Chord.Key == sample.Key("KeyE") {
			said = append(said, b.String())
		}
	}
	assert.Equal(t, []string{
		`KeyQ types "ä"`, `Alt+KeyQ types "@"`, `Shift+KeyQ types "Ä"`, "Alt+Shift+KeyQ does nothing", `Alt+KeyE types "€"`,
	}, said)
	assert.Equal(t, []mechanism.Left{{Text: "Alt+Shift+KeyE", Why: "it types a control character"}}, got.Left)
}

func FuzzParse(f *testing.F) {
	m := mac("de")
	f.Add(written(f, m, []mechanism.Binding{types("signs", "KeyE", "→")}))
	f.Add(
		[]byte(
			`<keyboard><layouts><layout mapSet="a"/></layouts><keyMapSet id="a"><keyMap index="0" baseMapSet="a" baseIndex="0"/></keyMapSet></keyboard>`,
		),
	)
	f.Fuzz(func(t *testing.T, text []byte) {
		got, err := (keylayout.Mechanism{}).Import(m, text, nil)
		if err == nil {
			behaviour.Sort(got.Bindings)
		}
	})
}
