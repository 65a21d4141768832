package compose_test

import (
	"fmt"
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
	"leitstand/core/mechanism/linux/compose"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func machine(layouts ...string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: "i3", Layouts: layouts})
}

func snippet(mods keys.Mods, code, text string) mechanism.Binding {
	return mechanism.Binding{
		Level:  behaviour.Hotkey,
		Chord:  keys.Chord{Mods: mods, Key: sample.Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

func abbreviation(word, text string) mechanism.Binding {
	return mechanism.Binding{
		Level:  behaviour.Typing,
		Word:   word,
		Case:   behaviour.InThisCase,
		End:    behaviour.AtBlank,
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

func write(t require.TestingT, m *mechanism.Machine, list []mechanism.Binding) []byte {
	out, err := mechanism.Write(compose.Mechanism{}, m, list)
	require.NoError(t, err)
	return out.Files()[0].Data
}

// What is written reads back as what was meant, and libxkbcommon makes the same text
// of the press.
func TestReadAndComposed(t *testing.T) {
	x := realtest.NewXkbcommon(t)
	text := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,40}`))
	rapid.Check(t, func(rt *rapid.T) {
		m := machine(rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}}).Draw(rt, "layouts")...)
		var list []mechanism.Binding
		for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(keys.All()), 1, 5, rapid.ID[keys.Key]).Draw(rt, "keys") {
			b := snippet(0, k.String(), text.Draw(rt, "text"))
			if (compose.Mechanism{}).Take(m, b).Verdict == mechanism.Limited {
				list = append(list, b)
			}
		}
		list = sample.Apart(m, list)
		m.Compose = true
		for _, word := range []string{"shf", ";nhn", "Xé"} { // none of which begins another
			b := abbreviation(word, text.Draw(rt, "text"))
			if (compose.Mechanism{}).Take(m, b).Verdict == mechanism.Limited {
				list = append(list, b)
			}
		}
		behaviour.Sort(list)
		data := write(rt, m, list)
		got, err := compose.Mechanism{}.Read(m, fstest.MapFS{"compose/leitstand.compose": {Data: data}})
		require.NoError(rt, err)
		require.Empty(rt, behaviour.Compare(got, list), "%s", data)
		for _, b := range list {
			var presses []uint32
			press := func(sym string) {
				value, ok := keys.KeysymValue(sym)
				require.True(rt, ok, sym)
				presses = append(presses, value)
			}
			if b.Level == behaviour.Typing {
				press("Multi_key")
				for _, r := range b.Word { // as the layout has it
					at, ok := m.Layouts[0].FindExact(r)
					require.True(rt, ok)
					s, _ := m.Layouts[0].Symbols(at.Key)
					press(
						s.Level[map[keys.Mods]int{0: 0, keys.Shift: 1, keys.AltGr: 2, keys.Shift | keys.AltGr: 3}[at.Mods]],
					)
				}
			} else {
				s, _ := m.Layouts[0].Symbols(b.Chord.Key)
				press(s.Level[0])
			}
			typed, ok := x.Composed(t, string(data), "C.UTF-8", presses...)
			require.True(rt, ok, "%s makes no text", b.Press())
			require.Equal(rt, b.Effect.Text, typed)
		}
	})
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		binding mechanism.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{snippet(0, "F7", "NHN -5.00 m"), mechanism.Limited, "not in every terminal on Wayland"},
		{snippet(keys.Ctrl, "F7", "x"), mechanism.Unavailable, "by a key alone"},
		{snippet(0, "F7", strings.Repeat("ü", 121)), mechanism.Unavailable, "at most 240 bytes"},
		{snippet(0, "Fn", "x"), mechanism.Unavailable, "no keysym"},
		{sample.Nothing("Insert"), mechanism.Unavailable, ""},
		{snippet(0, "Backquote", "x"), mechanism.Unavailable, "accents are composed by Backquote"},
		{abbreviation("shf", "x"), mechanism.NeedsAgent, "with a Compose key"},
	} {
		got := compose.Mechanism{}.Take(machine("de"), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

func TestRead(t *testing.T) {
	for text, want := range map[string]string{
		"<F7> \"x\"":       "leitstand.compose:2: no compose sequence",
		"\n<Wide> : \"x\"": "leitstand.compose:3: no key of the machine's layouts types \"Wide\"",
		`<F7> : "\n"`:      "a backslash means nothing here",
		`<F7> : "\3771"`:   "the text is no UTF-8",
		`<F7> : "\9991"`:   "is no character",

		"<Multi_key> <F7> : \"x\"":                             "is no key that types a character",
		"<Multi_key> <a> <b> : \"x\"\n<Multi_key> <a> : \"y\"": `leitstand.compose:3: "ab" and "a" begin alike`,
	} {
		_, err := compose.Mechanism{}.Read(
			machine("us"), fstest.MapFS{"compose/leitstand.compose": {Data: []byte("# leitstand begins\n" + text)}},
		)
		assert.ErrorContains(t, err, want)
	}
}

func FuzzRead(f *testing.F) {
	m := machine("fr", "us")
	f.Add(write(f, m, []mechanism.Binding{snippet(0, "F7", sample.Nasty), snippet(0, "Numpad1", "x")}))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = compose.Mechanism{}.Read(m, fstest.MapFS{"compose/leitstand.compose": {Data: data}})
	})
}

// Writing grows with the number of snippets, not faster.
func BenchmarkWrite(b *testing.B) {
	m := machine("us")
	for _, n := range []int{30, 300} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			var list []mechanism.Binding
			for i := range n {
				list = append(list, snippet(0, keys.All()[i%100].String(), fmt.Sprint("gauge ", i)))
			}
			for b.Loop() {
				write(b, m, list)
			}
		})
	}
}
