package compile_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
)

// Compiled anew without some of its rules, a folder's steps leave a machine as if it had never
// had them, and taking all back leaves it as it was at first.
func TestRemovedRulesAreUndone(t *testing.T) {
	realtest.Need(t, "dconf", "dconf-cli")
	const head = "machine \"office\" {\n  system  = \"linux\"\n  desktop = \"gnome\"\n  session = \"wayland\"\n  " +
		"rights  = \"user\"\n}\n"
	const stay = "launch \"Ctrl+Alt+z\" { run = \"tidegauge\" }\naction \"Meta+u\" { does = \"close\" }\n"
	const goes = "launch \"Ctrl+Alt+a\" { run = \"chart\" }\nlaunch \"Ctrl+Alt+b\" { run = \"chart\" }\naction " +
		"\"Meta+y\" { does = \"maximize\" }\nrepeat { delay = \"220ms\" }\n"
	const own = "dconf write /org/gnome/desktop/wm/keybindings/maximize \"['<Super>x']\"\n"
	dump := func(dir string, env []string, script string) string {
		return realtest.Bus(t, env, "set -e\ncd '"+dir+"'\n"+script+"\ndconf dump /\n")
	}
	compiled := func(dir, text string) string {
		_, builds, diags := build(t, text)
		require.Empty(t, diags)
		require.NoError(t, writeFolder(dir, builds))
		return realtest.Steps(t, filepath.Join(dir, "office"))
	}
	dir := t.TempDir()
	_, env := realtest.Home(t)
	had := dump(dir, env, own)
	first := compiled(dir, head+stay+goes)
	require.NotEqual(t, had, dump(filepath.Join(dir, "office"), env, first))
	after := dump(filepath.Join(dir, "office"), env, compiled(dir, head+stay))

	fresh := t.TempDir()
	_, other := realtest.Home(t)
	dump(fresh, other, own)
	assert.Equal(t, dump(filepath.Join(fresh, "office"), other, compiled(fresh, head+stay)), after)

	text, err := os.ReadFile(filepath.Join(dir, "office/STEPS.md"))
	require.NoError(t, err)
	_, back, found := strings.Cut(string(text), "\n## To undo it\n")
	require.True(t, found)
	assert.Equal(t, had, dump(dir, env, codeOf(back)))
}

// codeOf are the lines of code of a page.
func codeOf(page string) string {
	var lines []string
	code := false
	for line := range strings.Lines(page) {
		if strings.HasPrefix(strings.TrimSpace(line), "```") {
			code = !code
		} else if code {
			lines = append(lines, strings.TrimPrefix(line, "  "))
		}
	}
	return strings.Join(lines, "")
}
