package reason_test

import (
	"encoding/json"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/reason"
)

func TestTable(t *testing.T) {
	codes, words := map[string]bool{}, map[string]string{}
	for _, f := range reason.All() {
		assert.Regexp(t, `^[a-z0-9]+(-[a-z0-9]+)*$`, f.Code)
		assert.False(t, codes[f.Code], "%s is there twice", f.Code)
		assert.Empty(t, words[f.Words], "%s says what %s says", f.Code, words[f.Words])
		assert.Equal(t, f.Kind == reason.System, f.Source != "", "%s: a fact about a system has a source, and "+
			"nothing else", f.Code)
		assert.Equal(
			t,
			f.Kind == reason.Unwritten,
			regexp.MustCompile(`^not written yet: `).MatchString(f.Words),
			f.Code,
		)
		codes[f.Code], words[f.Words] = true, f.Code

		args := make([]any, len(f.Blanks()))
		for i := range args {
			args[i] = "Süderhaff"
		}
		r := f.Of(args...)[0]
		assert.NotRegexp(t, `\{[a-z]+\}`, r.String(), "a blank is left")
		assert.Len(t, r.Args(), len(args), "two blanks of one name")
	}
	assert.Greater(t, len(codes), 100)
}

func TestList(t *testing.T) {
	list := reason.NoHyperKey.Of().And(reason.NoHyperKey.Of()...).And(reason.BeyondX11.Of("F24", 250)...)
	assert.Equal(
		t, "no key of this machine is Hyper; X11 sees no key beyond evdev code 247, and F24 is 250", list.String(),
	)
	assert.True(t, list.Has(reason.BeyondX11))
	assert.False(t, list.Has(reason.NoKeysym))
	assert.Equal(
		t,
		reason.WordBegins.Of("\x1b]0", `"`)[0].String(),
		`"\x1b]0" begins with "\"", which is done before it`,
	)
	assert.Equal(t, reason.BeyondX11.Of("F24", 250), reason.BeyondX11.Of("F24", "250"))
	assert.Panics(t, func() { reason.BeyondX11.Of("F24") })

	text, err := json.Marshal(reason.NoKeysym.Of("F24"))
	require.NoError(t, err)
	assert.JSONEq(
		t,
		`[{"code": "no-keysym", "kind": "mapping", "args": {"key": "F24"}, "text": "the layouts give F24 no keysym"}]`,
		string(text),
	)
}
