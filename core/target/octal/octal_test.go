package octal_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/target/octal"
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
		`"\999"`: "is no character", `"\000"`: "is no character", `"\377"`: "no UTF-8",
	} {
		_, err := octal.Unquote(text)
		assert.ErrorContains(t, err, want, text)
	}
}
