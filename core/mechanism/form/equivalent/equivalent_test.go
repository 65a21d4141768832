package equivalent_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/keys"
	"leitstand/core/mechanism/form/equivalent"
	"leitstand/internal/sample"
)

// What can be spelled reads back, under any layout, and no two chords are spelled alike.
func TestSpelledReadsBack(t *testing.T) {
	names := keys.LayoutNames()
	rapid.Check(t, func(t *rapid.T) {
		m := sample.Mac(rapid.SampledFrom(names).Draw(t, "layout"))
		seen := map[string]keys.Chord{}
		for _, k := range keys.All() {
			mods := rapid.SampledFrom([]keys.Mods{
				0, keys.Meta, keys.Ctrl | keys.Alt, keys.Shift | keys.Meta, keys.Ctrl | keys.Alt | keys.Shift | keys.Meta,
			}).Draw(t, "modifiers")
			c := keys.Chord{Mods: mods, Key: k}
			text, why := equivalent.Spell(m, c)
			if why != nil {
				continue
			}
			other, twice := seen[text]
			require.False(t, twice, "%s and %s are %q", c, other, text)
			seen[text] = c
			got, ok := equivalent.Read(m, text)
			require.True(t, ok, "%s is %q", c, text)
			require.Equal(t, c, got, "%q", text)
		}
	})
}

func TestSpell(t *testing.T) {
	m := sample.Mac("de")
	for _, c := range []struct {
		mods      keys.Mods
		key, want string
	}{
		{keys.Ctrl | keys.Alt, "ArrowLeft", "~^\uf702"},
		{keys.Ctrl | keys.Alt | keys.Shift | keys.Meta, "F19", "@~^$\uf716"},
		{keys.Meta, "KeyY", "@z"},
		{keys.Meta | keys.Shift, "KeyA", "@$a"},
		{keys.Meta, "BracketLeft", "@ü"},
		{keys.Meta | keys.Shift, "Digit7", "with Shift"},
		{keys.Meta, "Backquote", "types no character"},
		{keys.Fn, "KeyA", "not Fn"},
		{keys.Meta, "AudioVolumeUp", "types no character"},
	} {
		text, why := equivalent.Spell(m, keys.Chord{Mods: c.mods, Key: sample.Key(c.key)})
		assert.Contains(t, text+why.String(), c.want)
	}
}

func FuzzRead(f *testing.F) {
	m := sample.Mac("fr")
	f.Add("@~^$a")
	f.Add("@\uf704")
	f.Fuzz(func(t *testing.T, text string) { equivalent.Read(m, text) })
}
