package textkeys_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"howett.net/plist"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/textkeys"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

const path = "textkeys/DefaultKeyBinding.dict"

func types(mods keys.Mods, code, text string) behaviour.Binding {
	b := sample.Act(mods, code, "")
	b.Effect = behaviour.Effect{Kind: behaviour.Types, Text: text}
	return b
}

func gives(mods keys.Mods, code string, to keys.Mods, key string) behaviour.Binding {
	b := sample.Act(mods, code, "")
	b.Effect = behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: to, Key: sample.Key(key)}}
	if to == 0 {
		b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key(key)}
	}
	return b
}

// anyBindings draws bindings that are taken: texts and chords, by chords and by sequences.
func anyBindings(t *rapid.T, m *mechanism.Machine) []behaviour.Binding {
	text := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,12}`))
	var list []behaviour.Binding
	taken := map[keys.Chord]bool{}
	for range rapid.IntRange(1, 20).Draw(t, "bindings") {
		k := rapid.SampledFrom(keys.All()).Draw(t, "key").String()
		mods := rapid.SampledFrom(
			[]keys.Mods{0, keys.Ctrl, keys.Alt, keys.Ctrl | keys.Alt, keys.Ctrl | keys.Shift},
		).Draw(
			t,
			"modifiers",
		)
		b := types(mods, k, text.Draw(t, "text"))
		if rapid.Bool().Draw(t, "a chord") {
			to := rapid.SampledFrom([]string{"ArrowLeft", "End", "Backspace", "Enter"}).Draw(t, "to")
			b = gives(mods, k, rapid.SampledFrom([]keys.Mods{0, keys.Alt}).Draw(t, "with"), to)
		}
		if rapid.IntRange(0, 3).Draw(t, "sequence") == 0 {
			b.Then = []keys.Chord{{Key: sample.Key("KeyS")}, {Mods: keys.Ctrl, Key: sample.Key("ArrowUp")}}
		}
		if !taken[b.Chord] && (textkeys.Mechanism{}).Take(m, b).Verdict >= mechanism.Limited {
			taken[b.Chord] = true
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list
}

// What is written reads back as what was meant.
func TestReadsWhatItWrites(t *testing.T) {
	m := sample.Mac("de")
	rapid.Check(t, func(t *rapid.T) {
		list := anyBindings(t, m)
		out, err := mechanism.Write(textkeys.Mechanism{}, m, list)
		require.NoError(t, err)
		got, err := textkeys.Mechanism{}.Read(m, fstest.MapFS{path: {Data: out.Files()[0].Data}})
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
		require.True(t, textkeys.Mechanism{}.Knows(path, out.Files()[0].Data))
	})
}

func TestTake(t *testing.T) {
	sequence := types(keys.Ctrl, "KeyX", "NHN")
	sequence.Then = []keys.Chord{{Key: sample.Key("KeyS")}}
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{types(0, "F7", "NHN -5.00 m"), mechanism.Limited, "with Fn held"},
		{types(keys.Ctrl, "KeyX", "NHN"), mechanism.Limited, "Apple's text system"},
		{sequence, mechanism.Limited, "Apple's text system"},
		{types(0, "KeyX", "NHN"), mechanism.Unavailable, "KeyX types"},
		{types(0, "Enter", "NHN"), mechanism.Unavailable, "Enter types"},
		{types(keys.Meta, "KeyX", "NHN"), mechanism.Limited, "a menu has the chord"},
		{types(keys.Ctrl, "KeyX", "\x01"), mechanism.Unavailable, "a control character"},
		{types(keys.Hyper, "KeyX", "NHN"), mechanism.Unavailable, "not Hyper"},
		{gives(keys.Alt, "KeyH", 0, "ArrowLeft"), mechanism.Limited, "Apple's text system"},
		{gives(keys.Alt, "KeyH", keys.Alt, "Backspace"), mechanism.Limited, ""},
		{gives(keys.Alt, "KeyH", keys.Ctrl, "KeyV"), mechanism.Unavailable, ""},
		{sample.On("chart-table", types(keys.Ctrl, "KeyX", "NHN")), mechanism.Unavailable, ""},
	} {
		got := textkeys.Mechanism{}.Take(sample.Mac("de"), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words, c.binding.String())
	}
}

// The user's own bindings stay, below ours, through any number of times; taken back, the file is the
// user's again, byte by byte, or gone.
func TestStepsKeepTheUsersOwn(t *testing.T) {
	m := sample.Mac("us")
	out, err := mechanism.Write(textkeys.Mechanism{}, m, []behaviour.Binding{types(keys.Ctrl, "KeyX", "NHN")})
	require.NoError(t, err)
	lines := func(steps []change.Step) (script string) {
		for _, s := range steps {
			script += strings.Join(s.Lines, "\n") + "\n"
		}
		return script
	}
	own := []byte(`<?xml version="1.0"?><plist version="1.0"><dict><key>^x</key><string>cut:</string>` +
		"<key>~d</key><string>deleteWordForward:</string></dict></plist> <!-- mine -->")
	for _, has := range []bool{true, false} {
		mac, dir := realtest.NewMac(t), t.TempDir()
		require.NoError(t, os.MkdirAll(filepath.Join(dir, "textkeys"), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, path), out.Files()[0].Data, 0o644))
		file := filepath.Join(mac.Home, "Library/KeyBindings/DefaultKeyBinding.dict")
		if has {
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			require.NoError(t, os.WriteFile(file, own, 0o644))
		}
		had := mac.Has()
		mac.Run(dir, lines(out.Steps()))
		mac.Run(dir, lines(out.Steps()))
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		got, err := textkeys.Mechanism{}.Import(m, text, nil)
		require.NoError(t, err)
		want := []behaviour.Binding{types(keys.Ctrl, "KeyX", "NHN")}
		if has {
			want = append(want, gives(keys.Alt, "KeyD", keys.Alt, "Delete"))
		}
		assert.Empty(t, behaviour.Compare(want, got.Bindings))
		said, holds := mac.Ask(dir, change.Asking(out.Changes))
		assert.True(t, holds, said)
		mac.Run(dir, lines(out.Back()))
		assert.Equal(t, had, mac.Has())
	}
}

// Files in the old form, as people write them, are taken over; what the language has no word for is
// left, and said.
func TestImport(t *testing.T) {
	m := sample.Mac("us")
	text := []byte(
		"{ \"^x\" = { \"s\" = (\"insertText:\", \"\\U00e4 'it'\"); \"\\UF704\" = \"noop:\"; }; \"~\\UF702\" = " +
			"\"moveWordLeft:\"; \"#7\" = \"moveLeft:\"; \"^w\" = (\"setMark:\", \"moveLeft:\"); }",
	)
	got, err := textkeys.Mechanism{}.Import(m, text, nil)
	require.NoError(t, err)
	sequence := types(keys.Ctrl, "KeyX", "ä 'it'")
	sequence.Then = []keys.Chord{{Key: sample.Key("KeyS")}}
	assert.Empty(t, behaviour.Compare([]behaviour.Binding{
		sequence, gives(keys.Alt, "ArrowLeft", keys.Alt, "ArrowLeft"),
	}, got.Bindings))
	require.Len(t, got.Left, 3)
	second := map[string]any{}
	_, err = plist.Unmarshal(realtest.Plget(t, text, "^x"), &second)
	require.NoError(t, err)
	assert.Equal(t, []any{"insertText:", "ä 'it'"}, second["s"])
}

func FuzzRead(f *testing.F) {
	m := sample.Mac("de")
	f.Add([]byte(`{"^x" = {"s" = ("insertText:", "a");}; "~d" = "deleteWordForward:";}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = textkeys.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
	})
}
