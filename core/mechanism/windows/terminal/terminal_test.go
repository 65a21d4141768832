package terminal_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/terminal"
	"leitstand/internal/sample"
)

const path = "terminal/leitstand.json"

func lab(layout string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{layout}})
}

func text(mods keys.Mods, key, text string) behaviour.Binding {
	return behaviour.Binding{
		Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods, Key: sample.Key(key)},
		Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

func sends(mods keys.Mods, key string, to keys.Mods, as string) behaviour.Binding {
	b := text(mods, key, "")
	b.Effect = behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: to, Key: sample.Key(as)}}
	return b
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		binding behaviour.Binding
		taken   bool
	}{
		{text(0, "F7", "NHN -5.00 m"), true},
		{text(keys.Shift, "F7", "x"), true},
		{text(keys.Ctrl|keys.Alt, "KeyZ", "two\nlines\tof it"), true},
		{text(keys.Shift, "KeyZ", "x"), false},
		{text(0, "Home", "x"), false},
		{text(keys.Meta, "F7", "x"), false},
		{text(keys.Ctrl, "Numpad1", "x"), false},
		{text(keys.Ctrl, "KeyA", "\x1b[A"), false},
		{sends(keys.Ctrl|keys.Alt, "KeyV", keys.Ctrl|keys.Shift, "KeyV"), true},
		{sends(keys.Ctrl|keys.Alt, "KeyV", keys.Ctrl|keys.Shift, "KeyX"), false},
		{sends(keys.Ctrl|keys.Alt, "KeyV", keys.Ctrl, "KeyV"), false},
		{sample.Off(keys.Ctrl, "KeyA"), false},
		{behaviour.Binding{ // a place on the board, before the system has looked at it
			Chord: keys.Chord{Key: sample.Key("F1")}, Effect: behaviour.Effect{Kind: behaviour.Types, Text: "!"},
		}, false},
	} {
		o := terminal.Mechanism{}.Take(lab("de"), c.binding)
		assert.Equal(t, c.taken, o.Verdict == mechanism.Limited, c.binding.String())
	}
}

// What is written is read back, and by who gives it a home among others as well; texts hold what would break JSON.
func TestReadsWhatItWrites(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		m := lab(rapid.SampledFrom([]string{"us", "de", "fr"}).Draw(r, "layout"))
		chord := rapid.Custom(func(r *rapid.T) behaviour.Binding {
			mods := rapid.SampledFrom([]keys.Mods{0, keys.Ctrl, keys.Alt, keys.Ctrl | keys.Alt | keys.Shift}).Draw(r, "mods")
			b := text(mods, "F7", rapid.StringOf(rapid.RuneFrom([]rune("ä\"\\/<&>\n\t€\u2028 x😀"))).Draw(r, "text"))
			b.Chord.Key = rapid.SampledFrom(keys.All()).Draw(r, "key")
			if rapid.Bool().Draw(r, "copies") {
				place, _ := m.Latin().Find(rapid.SampledFrom([]rune("cv")).Draw(r, "what"))
				b.Effect = behaviour.Effect{
					Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Ctrl | keys.Shift, Key: place.Key},
				}
			}
			return b
		})
		var list []behaviour.Binding
		for _, b := range rapid.SliceOfNDistinct(chord, 1, 20, func(b behaviour.Binding) behaviour.Place { return b.Place() }).Draw(r, "chords") {
			if (terminal.Mechanism{}).Take(m, b).Verdict == mechanism.Limited {
				list = append(list, b)
			}
		}
		out, err := mechanism.Write(terminal.Mechanism{}, m, list)
		require.NoError(r, err)
		if len(list) == 0 {
			return
		}
		data := out.Files()[0].Data
		got, err := terminal.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, got))
		own := []byte("// mine\n{\"$schema\": \"https://aka.ms/terminal-profiles-schema\", \"actions\": " + string(data) + "}")
		require.True(r, terminal.Mechanism{}.Knows("settings.json", own))
		imported, err := terminal.Mechanism{}.Import(m, own, nil)
		require.NoError(r, err)
		require.Empty(r, behaviour.Compare(list, imported.Bindings))
	})
}

// Settings as people and newer versions write them: comments, commas at the end, chords by the ids of actions.
func TestImportsSettings(t *testing.T) {
	const own = `// This file was made by the terminal.
{
    "$schema": "https://aka.ms/terminal-profiles-schema",
    "actions": [
        { "command": "paste", "id": "Mine.paste" },
        { "command": { "action": "sendInput", "input": "tide\r" }, "keys": ["ctrl+alt+t"], }, /* at high water */
        { "command": { "action": "splitPane", "split": "auto" }, "keys": "alt+shift+d" },
        { "command": "unbound", "keys": "ctrl+f" },
        { "command": "paste", "keys": "ctrl+hyphen" },
    ],
    "keybindings": [ { "id": "Mine.paste", "keys": "ctrl+alt+v" }, { "id": "Terminal.Copy", "keys": "ctrl+shift+c" } ],
}`
	m := lab("de")
	got, err := terminal.Mechanism{}.Import(m, []byte(own), nil)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare([]behaviour.Binding{
		text(keys.Ctrl|keys.Alt, "KeyT", "tide\n"), sends(keys.Ctrl|keys.Alt, "KeyV", keys.Ctrl|keys.Shift, "KeyV"),
	}, got.Bindings))
	var left []string
	for _, l := range got.Left {
		left = append(left, l.Text+" "+l.Why)
	}
	assert.Equal(t, []string{
		`"alt+shift+d": { "action": "splitPane", "split": "auto" } it is neither a text nor copying and pasting`,
		`"ctrl+f": "unbound" it is neither a text nor copying and pasting`,
		`"ctrl+hyphen": "paste" the keys are not a chord of this machine's keys`,
		`"ctrl+shift+c":  it is neither a text nor copying and pasting`,
	}, left)
	_, err = terminal.Mechanism{}.Read(m, fstest.MapFS{path: {Data: []byte("[{]")}})
	assert.ErrorContains(t, err, path)
}

func FuzzImport(f *testing.F) {
	f.Add([]byte(`{"actions": [{"command": {"action": "sendInput", "input": "x"}, "keys": ["f7"]}], "keybindings": [{}]}`))
	f.Fuzz(func(_ *testing.T, data []byte) {
		_, _ = terminal.Mechanism{}.Import(lab("us"), data, nil)
		terminal.Mechanism{}.Knows("settings.json", data)
	})
}
