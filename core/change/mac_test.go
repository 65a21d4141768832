package change_test

import (
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"howett.net/plist"

	"leitstand/core/change"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func linesOf(steps []change.Step) string {
	var lines []string
	for _, s := range steps {
		lines = append(lines, s.Lines...)
	}
	return strings.Join(lines, "\n")
}

// What a shell sets on a Mac is what carrying the changes out sets, beside what others have there; and
// taken back, all is as it was.
func TestPreferencesInShell(t *testing.T) {
	mac := realtest.NewMac(t)
	script := filepath.Join(mac.Home, change.PreferencesFile)
	require.NoError(t, os.WriteFile(script, []byte(change.PreferencesScript), 0o644))
	menu := "\x1bWindow\x1bMove & Resize\x1bLeft"
	list := []change.Change{
		change.Setting{Store: change.Defaults, Key: "com.apple.dock:autohide", To: change.Bool(true)},
		change.Setting{Store: change.Defaults, Key: "com.apple.dock:tilesize", To: change.Int(40)},
		change.Setting{Store: change.Defaults, Key: "com.apple.dock:some.key", To: change.Text(sample.Nasty)},
		change.Setting{Store: change.Defaults, Key: `com.apple.dock:own\:names`, To: change.Texts{"a", sample.Nasty}},
		change.Setting{Store: change.Defaults, Key: "com.apple.symbolichotkeys:AppleSymbolicHotKeys:118",
			To: change.PropertyList(map[string]any{"enabled": true, "value": []int{65535, 18, 262144}})},
		change.Setting{Store: change.Defaults, Key: "com.apple.symbolichotkeys:AppleSymbolicHotKeys:36",
			To: change.PropertyList(map[string]any{"enabled": false})},
		change.Setting{
			Store: change.Defaults,
			Key:   "NSGlobalDomain:NSUserKeyEquivalents:" + menu,
			To:    change.Text("^~\uf702"),
		},
		change.Setting{
			Store: change.Defaults,
			Key:   "NSGlobalDomain:NSUserKeyEquivalents:Export: 1.0/2…",
			To:    change.Text("@e"),
		},
		change.Setting{Store: change.Defaults, Key: "host/NSGlobalDomain:com.apple.keyboard.modifiermapping.1-2-0",
			To: change.PropertyList([]map[string]any{{"HIDKeyboardModifierMappingSrc": 30064771129}})},
	}
	mac.Run(mac.Home, `defaults write com.apple.dock autohide -bool false
defaults write com.apple.dock other -string own
defaults write com.apple.symbolichotkeys AppleSymbolicHotKeys -dict-add 36 '<dict><key>enabled</key><true/></dict>' 79 '<true/>'
defaults write -g NSUserKeyEquivalents -dict-add Print '@p'`)
	had := mac.Has()
	said, holds := mac.Ask(mac.Home, change.Asking(list))
	assert.False(t, holds)
	assert.Equal(t, len(list), strings.Count(said, "not there "), said)
	forth, back := change.Steps(list)
	mac.Run(mac.Home, linesOf(forth))
	mac.Run(mac.Home, linesOf(forth)) // twice is as once
	said, holds = mac.Ask(mac.Home, change.Asking(list))
	assert.True(t, holds, said)
	assert.Equal(t, len(list), strings.Count(said, "holds "), said)

	simulated := change.NewSimulated()
	_, err := change.Carry(list, simulated)
	require.NoError(t, err)
	for _, c := range list {
		c := c.(change.Setting)
		v, err := simulated.Get(c.Store, c.Key)
		require.NoError(t, err)
		assert.Equal(t, c.To, v)
	}
	about := func(domain string) []change.Change {
		var of []change.Change
		for _, c := range list {
			if c := c.(change.Setting); strings.HasPrefix(c.Key, domain+":") {
				c.In = "x.plist"
				of = append(of, c)
			}
		}
		return of
	}
	for _, domain := range []string{"com.apple.dock", "com.apple.symbolichotkeys", "NSGlobalDomain", "host/NSGlobalDomain"} {
		var compiled, live map[string]any
		_, err := plist.Unmarshal(change.Folder(about(domain))[0].Data, &compiled)
		require.NoError(t, err)
		flag, name := "", domain
		if rest, host := strings.CutPrefix(domain, "host/"); host {
			flag, name = "-currentHost ", rest
		}
		mac.Run(mac.Home, "defaults "+flag+"export "+name+" ./now.plist")
		text := mac.Run(mac.Home, "cat now.plist; rm now.plist")
		_, err = plist.Unmarshal([]byte(text), &live)
		require.NoError(t, err)
		assertWithin(t, compiled, live, domain)
	}
	mac.Run(mac.Home, linesOf(back))
	assert.Equal(t, had, mac.Has())
}

// assertWithin asserts that what is wanted is there; others may have more.
func assertWithin(t *testing.T, want, has any, at string) {
	t.Helper()
	inside, nested := want.(map[string]any)
	if !nested {
		assert.EqualValues(t, want, has, at)
		return
	}
	for name, w := range inside {
		of, ok := has.(map[string]any)
		if assert.True(t, ok, at) {
			assertWithin(t, w, of[name], at+" "+name)
		}
	}
}

// A property list in the old form quotes what macOS' own parser takes for a word only in quotes.
func TestOldPropertyListsAreQuoted(t *testing.T) {
	values := map[string]string{
		"\x1bWindow\x1bLeft": "~^\uf702", "Print": "~^p", "Copy": "@c", "Zoom…": "^z", "Save As": "plain", "a-b": "$x.y/z:1-2", "Undo": "é",
	}
	var list []change.Change
	for _, title := range slices.Sorted(maps.Keys(values)) {
		list = append(list, change.Setting{
			About: change.About{In: "x.plist"}, Store: change.Defaults, To: change.Text(values[title]),
			Key: "NSGlobalDomain:NSUserKeyEquivalents:" + title,
		})
	}
	text := change.Folder(list)[0].Data
	var read map[string]map[string]string
	_, err := plist.Unmarshal(text, &read)
	require.NoError(t, err)
	assert.Equal(t, values, read["NSUserKeyEquivalents"], "%s", text)
	for line := range strings.Lines(string(text)) {
		for _, word := range strings.FieldsFunc(regexp.MustCompile(`"[^"]*"`).ReplaceAllString(line, ""), func(r rune) bool {
			return strings.ContainsRune(" \t\n{}=;,()", r)
		}) {
			assert.Regexp(t, `^[A-Za-z0-9_$/:.-]+$`, word, line)
		}
	}
}
