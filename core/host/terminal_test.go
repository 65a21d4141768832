package host_test

import (
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/host"
	"leitstand/core/keys"
)

// german finds keys by the characters of a German board.
func german(t testing.TB) func(rune) (keys.Key, bool) {
	t.Helper()
	layout, ok := keys.FindLayout("de")
	require.True(t, ok)
	return func(r rune) (keys.Key, bool) {
		p, ok := layout.Find(r)
		return p.Key, ok
	}
}

func TestReadTerminal(t *testing.T) {
	const answer = "\x1b[?15u\x1b[?62;22c"
	for name, c := range map[string]struct {
		sent    string
		keys    []string
		reports bool
	}{
		"a terminal that reports no keys": {"\x1b[?62;22cabc", nil, false},
		"a place":                         {answer + "\x1b[246::59;1:1u", []string{"Semicolon ö place"}, true},
		"a character alone":               {answer + "\x1b[246;1:1u", []string{"Semicolon ö"}, true},
		"releases and repeats are none":   {answer + "\x1b[97;1:1u\x1b[97;1:2u\x1b[97;1:3u", []string{"KeyA a"}, true},
		"without what happened":           {answer + "\x1b[122u", []string{"KeyY z"}, true},
		"keys without a character": {
			answer + "\x1b[57358;1:1u\x1b[57447;2:1u\x1b[27;1:1u\x1b[1;1:1A\x1b[3;1:1~\x1b[57376;1:1u\x1b[57399u\x1b[57453;1:1u",
			[]string{
				"CapsLock place", "ShiftRight place", "Escape place", "ArrowUp place", "Delete place", "F13 place", "Numpad0 place",
				"AltRight place",
			}, true,
		},
		"a character that no key types": {answer + "\x1b[26085;1:1u", []string{"none 日"}, true},
		"Ctrl+C ends it":                {answer + "\x1b[99;5:1u\x1b[97;1:1u", nil, true},
		"what is no report":             {answer + "\x1b[;;u\x1b[-5;9u\x1b[99999999999u\x1bx\x1b[12;1Zq\x1b[97u", []string{"KeyA a"}, true},
	} {
		var got []string
		reports, err := host.ReadTerminal(iotest.OneByteReader(strings.NewReader(c.sent)), german(t), func(r host.Reported) bool {
			said := r.Key.String()
			if r.Text != "" {
				said += " " + r.Text
			}
			if r.Place {
				said += " place"
			}
			got = append(got, said)
			return true
		})
		assert.Equal(t, c.keys, got, name)
		assert.Equal(t, c.reports, reports, name)
		if err != nil {
			assert.EqualError(t, err, "EOF", name)
		}
	}
}

// FuzzReadTerminal: whatever a terminal sends, reading ends and names keys that there are.
func FuzzReadTerminal(f *testing.F) {
	f.Add([]byte("\x1b[?15u\x1b[?62;22c\x1b[246::59;1:1u\x1b[3;1:1~"))
	f.Add([]byte("\x1b[?15u\x1b[97;5:1u\x1b["))
	f.Fuzz(func(t *testing.T, sent []byte) {
		_, _ = host.ReadTerminal(strings.NewReader(string(sent)), german(t), func(r host.Reported) bool {
			if r.Key == keys.None && r.Text == "" {
				t.Error("a report of nothing")
			}
			return true
		})
	})
}
