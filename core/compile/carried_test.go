package compile_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/internal/realtest"
)

// starting is a machine with a program on a chord.
func starting(t *testing.T, desktop, session string, recording *realtest.Recording) *compile.Build {
	t.Helper()
	_, builds, diags := build(t, fmt.Sprintf(`machine "office" {
  system  = "linux"
  desktop = %q
  session = %q
  layouts = ["us"]
}
launch "Ctrl+Alt+g" { run = [%q, "ours"] }
action "Meta+F6" { does = "close" }
`, desktop, session, recording.Program))
	require.Empty(t, diags)
	return builds[0]
}

// Changes are carried out in a running session of i3: a chord starts its program at once.
// Taken back, it does not, the user's own does as before, and no byte has changed.
func TestCarriedOutUnderI3(t *testing.T) {
	realtest.Need(t, "i3", "i3-wm")
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	own := "bindsym F8 exec \"'" + recording.Program + "' own\"\n# no end"
	config := filepath.Join(home, ".config/i3/config")
	require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
	require.NoError(t, os.WriteFile(config, []byte(own), 0o644))
	server.Session(env, "exec i3")
	server.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	list := starting(t, "i3", "x11", recording).Changes()
	store := realtest.Store{Home: home, Env: server.Env(env...)}
	carriedOutAndBack(t, store, list, recording, server.Tap, server.TapUntil)
	text, err := os.ReadFile(config)
	require.NoError(t, err)
	assert.Equal(t, own, string(text))
	_, err = os.Stat(filepath.Join(home, ".config/i3/leitstand.conf"))
	assert.ErrorIs(t, err, os.ErrNotExist)
	server.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
}

// So they are in a whole session of GNOME, whose settings are then as they were.
func TestCarriedOutInGnome(t *testing.T) {
	home, env := realtest.Home(t)
	recording := realtest.Recorder(t, home)
	const keys = "/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings"
	s := realtest.GnomeSession(t, home, env, home, strings.Join([]string{
		"dconf write " + keys + " \"['" + keys + "/custom0/']\"", "dconf write " + keys + "/custom0/name \"'own'\"",
		"dconf write " + keys + "/custom0/binding \"'F8'\"",
		"dconf write " + keys + "/custom0/command \"\\\"'" + recording.Program + "' own\\\"\"",
		"dconf write /org/gnome/desktop/wm/keybindings/close \"['<Super>F4']\"",
	}, "\n"))
	store := s.Store(home)
	s.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
	before := s.Dump()
	require.Contains(t, before, "close=['<Super>F4']")
	carriedOutAndBack(t, store, starting(t, "gnome", "wayland", recording).Changes(), recording, s.Tap, s.TapUntil)
	assert.Equal(t, before, s.Dump())
	s.TapUntil("the user's own chord", recording.Expect("own\x00", nil), codes("F8")...)
}

// carriedOutAndBack carries changes out, presses their chord, takes them back, and presses it
// again.
func carriedOutAndBack(
	t *testing.T,
	store change.Store,
	list []change.Change,
	recording *realtest.Recording,
	tap func(...int),
	tapUntil func(string, func() bool, ...int),
) {
	t.Helper()
	require.NotEmpty(t, list)
	chord := codes("ControlLeft", "AltLeft", "KeyG")
	undo, err := change.Carry(list, store)
	require.NoError(t, err)
	tapUntil("the chord of the mapping", recording.Expect("ours\x00", []string{"own\x00"}), chord...)
	_, err = change.Carry(undo, store)
	require.NoError(t, err)
	time.Sleep(2 * time.Second)
	done := recording.Expect("ours\x00", []string{"own\x00"})
	tap(chord...)
	time.Sleep(2 * time.Second)
	assert.False(t, done(), "what was taken back still starts")
}

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
	_, back, found := strings.Cut(string(text), "\n## To take it back\n")
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
