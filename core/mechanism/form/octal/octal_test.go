package octal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/mechanism/form/octal"
	"leitstand/internal/sample"
)

func TestQuote(t *testing.T) {
	assert.Equal(t, `"Süderhaff \"3\" \\ \012\033\177"`, octal.Quote("Süderhaff \"3\" \\ \n\x1b\x7f"))
	text := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringN(0, 20, -1))
	rapid.Check(t, func(t *rapid.T) {
		s := text.Filter(func(s string) bool {
			for _, r := range s {
				if r == 0 || r == '\uFFFD' {
					return false
				}
			}
			return true
		}).Draw(t, "text")
		back, err := octal.Unquote(octal.Quote(s))
		require.NoError(t, err)
		require.Equal(t, s, back)
	})
}

func TestUnquote(t *testing.T) {
	for text, want := range map[string]string{
		`x`: "between quotation marks", `"`: "between quotation marks", `"a"b"`: "a quotation mark within", `"\n"`: "means nothing", `"\"`: "means nothing",
		`"\999"`: "is no character", `"\000"`: "is no character", `"\377"`: "no UTF-8", "\"a\x00\"": "is no character",
	} {
		_, err := octal.Unquote(text)
		assert.ErrorContains(t, err, want, text)
	}
}

// Whatever is read as a text is read so again from what is written of it.
func FuzzUnquote(f *testing.F) {
	for _, seed := range []string{`"a\012\"b\\"`, `"\n"`, `"\`, `"\0"`, `"\303\274"`, `"`, ``, `"a"b"`} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, quoted string) {
		text, err := octal.Unquote(quoted)
		if err != nil {
			return
		}
		back, err := octal.Unquote(octal.Quote(text))
		require.NoError(t, err)
		require.Equal(t, text, back)
	})
}
