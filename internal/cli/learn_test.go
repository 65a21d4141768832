package cli_test

import (
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// Who may not read the keyboards learns of keys from a terminal that reports them, in a session of Wayland: which key it
// is, and what it does by the mapping.
func TestLearnInTerminal(t *testing.T) {
	realtest.Need(t, "sway", "sway")
	realtest.Need(t, "foot", "foot")
	built, err := os.ReadFile(program(t, runtime.GOOS))
	require.NoError(t, err)
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	file := func(name, text string) string {
		at := filepath.Join(home, name)
		require.NoError(t, os.WriteFile(at, []byte(text), 0o755))
		return at
	}
	leitstand := file("leitstand", string(built))
	mapping := file("m.hcl", "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"sway\"\n  layouts = [\"de\"]\n}\n"+
		"remap \"CapsLock\" { to = \"Escape\" }\nlaunch \"F9\" { run = \"tidegauge\" }\n")
	script := file("learn.sh", "#!/bin/sh\nexport XDG_CURRENT_DESKTOP=sway XDG_SESSION_TYPE=wayland\nexec "+leitstand+" boards --learn=100s -f "+mapping+" >learned 2>said\n")
	main := file("config", "xwayland disable\ninput type:keyboard {\n  xkb_layout de\n}\nexec foot "+script+"\n")
	env = append(env, "WLR_RENDERER=pixman", "WLR_NO_HARDWARE_CURSORS=1", "XKB_DEFAULT_LAYOUT=de", "WLR_BACKENDS=x11")
	sway := server.Nobody(home, env)("LC_ALL=C.UTF-8", "sway", "-c", main)
	server.Background(sway)
	learned := func() string {
		text, err := os.ReadFile(filepath.Join(home, "learned"))
		if err != nil {
			return ""
		}
		return string(text)
	}
	t.Cleanup(func() {
		if said, _ := os.ReadFile(filepath.Join(home, "said")); t.Failed() {
			t.Logf("It learned:\n%s\nand said:\n%s", learned(), said)
		}
	})
	server.TapUntil("the first key", func() bool { server.Focus("sway"); return learned() != "" },
		sample.Evdev(sample.Key("KeyQ")))
	for _, code := range []string{"KeyY", "Semicolon", "F9", "ArrowUp", "ShiftRight", "Insert", "Numpad5", "Space"} {
		server.Tap(sample.Evdev(sample.Key(code)))
	}
	realtest.WaitFor(t, "the last key", func() bool { return len(learned()) > 0 && hasLine(learned(), "Space") })
	for _, line := range []string{"KeyQ", "KeyY", "Semicolon", "F9", "ArrowUp", "ShiftRight", "Insert", "Numpad5"} {
		assert.True(t, hasLine(learned(), line), "%s in\n%s", line, learned())
	}
	assert.Contains(t, learned(), "runs tidegauge  ← launch F9")
	server.Tap(sample.Evdev(sample.Key("ControlLeft")), sample.Evdev(sample.Key("KeyC")))
	said, err := os.ReadFile(filepath.Join(home, "said"))
	require.NoError(t, err)
	assert.Contains(t, string(said), "The terminal tells them")
}

// hasLine says whether a line of a text begins with a word.
func hasLine(text, word string) bool {
	for line := range strings.Lines(text) {
		if first, _, _ := strings.Cut(strings.TrimRight(line, "\r\n"), " "); first == word {
			return true
		}
	}
	return false
}
