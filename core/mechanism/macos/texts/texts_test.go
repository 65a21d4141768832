package texts_test

import (
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/texts"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

const path = "texts/text-replacements.plist"

func replacement(word, text string) behaviour.Binding {
	return behaviour.Binding{
		Level: behaviour.Typing, Word: word, Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

// What is written reads back as what was meant; the panel's own file is of the same form, and is taken
// over.
func TestReadsWhatItWrites(t *testing.T) {
	m := sample.Mac("de")
	text := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,12}`))
	rapid.Check(t, func(t *rapid.T) {
		list := rapid.SliceOfNDistinct(rapid.Custom(func(t *rapid.T) behaviour.Binding {
			return replacement(text.Draw(t, "word"), text.Draw(t, "text"))
		}), 1, 5, func(b behaviour.Binding) string { return b.Press() }).Draw(t, "replacements")
		behaviour.Sort(list)
		out, err := mechanism.Write(texts.Mechanism{}, m, list)
		require.NoError(t, err)
		got, err := texts.Mechanism{}.Read(m, fstest.MapFS{path: {Data: out.Files()[0].Data}})
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
		require.True(t, texts.Mechanism{}.Knows("Text.plist", out.Files()[0].Data))
		imported, err := texts.Mechanism{}.Import(m, out.Files()[0].Data, nil)
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, imported.Bindings))
	})
}

func TestTake(t *testing.T) {
	in := replacement(";shf", "Süderhaff")
	in.Apps = []string{"org.example.chart"}
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
	}{
		{replacement(";shf", "Süderhaff"), mechanism.Manual},
		{replacement(";shf", "\x01"), mechanism.Unavailable},
		{in, mechanism.Unavailable},
		{sample.On("chart-table", replacement(";shf", "Süderhaff")), mechanism.Unavailable},
		{sample.Becomes("CapsLock", "Escape"), mechanism.Unavailable},
	} {
		got := texts.Mechanism{}.Take(sample.Mac("us"), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
	}
}

// A second parser of property lists reads the same.
func TestReadBySecondParser(t *testing.T) {
	realtest.NeedFile(t, "/usr/bin/python3", "python3")
	out, err := mechanism.Write(
		texts.Mechanism{},
		sample.Mac("us"),
		[]behaviour.Binding{replacement(";n", sample.Nasty)},
	)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "x.plist")
	require.NoError(t, os.WriteFile(file, out.Files()[0].Data, 0o644))
	said, _ := realtest.Output(t, "/usr/bin/python3", "-c", "import plistlib,sys; "+
		"d=plistlib.load(open(sys.argv[1],'rb')); print(len(d), d[0]['shortcut'], d[0]['phrase'], end='')", file)
	assert.Equal(t, "1 ;n "+sample.Nasty, said)
}

func FuzzRead(f *testing.F) {
	m := sample.Mac("us")
	f.Add([]byte(`({phrase = "a"; shortcut = "b";})`))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = texts.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
	})
}
