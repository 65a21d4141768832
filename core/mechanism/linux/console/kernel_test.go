package console_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/console"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// Chords are pressed on a kernel's text console, and a program on it is given what the
// mapping means.
func TestPressedOnConsole(t *testing.T) {
	realtest.Pressed(t, "console", "loadkeys", "keys, chords and texts on a console")
	m := machine("us")
	becomes := func(code string) behaviour.Effect {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(code)}
	}
	const text = "Süderhaff \"3\"\n\\"
	cases := []struct {
		binding mechanism.Binding
		want    realtest.Reaction // what is typed, and the console in front
	}{
		{chord(keys.Ctrl, "KeyH", becomes("Backspace")), realtest.Reaction{Typed: "\x7f"}},
		{chord(keys.Alt, "KeyH", becomes("ArrowLeft")), realtest.Reaction{Typed: "\x1b[D"}},
		{chord(keys.Alt, "KeyJ", becomes("PageDown")), realtest.Reaction{Typed: "\x1b[6~"}},
		{chord(keys.Alt, "KeyK", sends(keys.Ctrl, "KeyC")), realtest.Reaction{Typed: "\x03"}},
		{chord(keys.Alt, "KeyZ", sends(keys.Alt, "KeyX")), realtest.Reaction{Typed: "\x1bx"}},
		{chord(keys.Alt, "KeyU", becomes("BracketLeft")), realtest.Reaction{Typed: "["}},
		{chord(0, "F9", types(text)), realtest.Reaction{Typed: text}},
		{chord(keys.Ctrl|keys.Shift, "KeyY", types("µ")), realtest.Reaction{Typed: "µ"}},
		{sample.Off(keys.Ctrl, "KeyC"), realtest.Reaction{}},
		{sample.Act(keys.Alt, "Digit3", "workspace-3"), realtest.Reaction{Console: 3}},
		{sample.Act(keys.Alt, "ArrowRight", "next-workspace"), realtest.Reaction{Console: 4}},
	}
	var list []mechanism.Binding
	for _, c := range cases {
		require.GreaterOrEqual(t, console.Mechanism{}.Take(m, c.binding).Verdict, mechanism.Limited, c.binding.String())
		list = append(list, c.binding)
	}
	keymap := []byte(write(t, m, list))
	k := realtest.Boot(t, map[string][]byte{"console.map": keymap})
	kept := realtest.Specimen{
		Component: "Linux",
		Version:   k.Version(),
		Layouts:   []string{"us"},
		Files:     []string{"console.map"},
	}
	k.Pressed("console", "keys, chords and texts on a console")
	press := func(c keys.Chord, chord func(...int) realtest.Reaction) realtest.Reaction {
		got := chord(sample.Scancodes(c)...)
		kept.Presses = append(
			kept.Presses, realtest.SpecimenPress{Keys: sample.Held(c), Typed: got.Typed, Console: got.Console},
		)
		return realtest.Reaction{Typed: got.Typed, Console: got.Console}
	}
	assert.Equal(
		t, realtest.Reaction{Typed: "A"}, press(keys.Chord{Mods: keys.Shift, Key: sample.Key("KeyA")}, k.Chord),
		"which no rule is about",
	)
	for _, c := range cases {
		chord := k.Chord
		if c.want.Console != 0 {
			chord = k.ChordToConsole
		}
		assert.Equal(t, c.want, press(c.binding.Chord, chord), c.binding.String())
	}
	kept.Keep(t, "console", "", map[string][]byte{"console.map": keymap})
}
