package cli_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
)

// onFullDisk installs, in a home on a disk of its own with some pages left, and again when there is room; then all is
// taken back. It prints what is wrong, and how the first install ended.
const onFullDisk = `
mount -t tmpfs -o size=1m none "$HOME"
mkdir -p "$HOME/.config/i3"
printf '%s\n' '# i3 config file (v4)' 'bindsym F8 exec xterm' >"$HOME/.config/i3/config"
printf '%s\n' 'machine "gauge" {' '  system  = "linux"' '  desktop = "i3"' '}' 'hyper "CapsLock" {}' \
	'launch "F6" { run = "xterm" }' >"$HOME/m.hcl"
has() { (cd "$HOME" && find . ! -name fill ! -path './.local*' | sort && find . -type f ! -name fill ! -path './.local*' |
	sort | xargs sha256sum); }
before=$(has)
dd if=/dev/zero of="$HOME/fill" bs=4096 2>"$HOME/../said" || true
truncate -s -$((PAGES * 4096)) "$HOME/fill"
ended=0
"$LEITSTAND" install -f "$HOME/m.hcl" --machine gauge --yes >"$HOME/../said" 2>&1 || ended=$?
echo "ended $ended"
[ $ended = 0 ] || [ "$(has)" = "$before" ] || { echo wrong: something is left; has; cat "$HOME/../said"; }
[ $ended = 0 ] || grep -q 'no space left on device' "$HOME/../said" || { echo wrong: it is not told why; cat "$HOME/../said"; }
rm "$HOME/fill"
"$LEITSTAND" install -f "$HOME/m.hcl" --machine gauge --yes >"$HOME/../said" 2>&1 || { echo wrong: again; cat "$HOME/../said"; }
[ -e "$HOME/.config/i3/leitstand.conf" ] || echo wrong: nothing is installed
"$LEITSTAND" restore --yes >"$HOME/../said" 2>&1 || { echo wrong: restore; cat "$HOME/../said"; }
[ "$(has)" = "$before" ] || { echo wrong: it is not as before; has; }
[ ! -e "$HOME/.local" ] || { echo wrong: a journal is left; find "$HOME/.local"; }
`

// On a disk that is full, or nearly so, an install ends in the old state, and one that is repeated when there is room
// begins from that.
func TestInstallOnFullDisk(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "unshare", "util-linux")
	name := program(t, "linux")
	failed := 0
	for n := range rounds(t, 20) {
		pages := n * 7 % 40
		home := t.TempDir() + "/home"
		require.NoError(t, os.Mkdir(home, 0o700))
		cmd := exec.Command("unshare", "--mount", "sh", "-euc", onFullDisk)
		cmd.Env = append(os.Environ(), "HOME="+home, "XDG_STATE_HOME=", "XDG_CONFIG_HOME=", "DISPLAY=", "LC_ALL=C",
			"LEITSTAND="+name, fmt.Sprint("PAGES=", pages))
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, "%s", out)
		assert.NotContains(t, string(out), "wrong:", "with %d pages left", pages)
		if !strings.Contains(string(out), "ended 0") {
			failed++
		}
	}
	t.Logf("of %d installs, with 0 to 39 pages of room, %d had no room", rounds(t, 20), failed)
	assert.Positive(t, failed)
	assert.Less(t, failed, rounds(t, 20))
}

// Where a file system cannot have things on the disk at once, an install goes on without; where the disk says that it
// failed, an install ends in the old state.
func TestInstallWithoutSync(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "strace", "strace")
	name := program(t, "linux")
	home, env := realtest.Home(t)
	config, mapping := filepath.Join(home, ".config/i3/config"), filepath.Join(home, "m.hcl")
	require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
	require.NoError(t, os.WriteFile(config, []byte("# i3 config file (v4)\nbindsym F8 exec xterm\n"), 0o644))
	require.NoError(t, os.WriteFile(mapping, []byte(
		"machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\nlaunch \"F6\" { run = \"xterm\" }\n"), 0o644))
	had := files(t, home)
	run := func(fault string, words ...string) error {
		strace := []string{"-f", "-qq", "-o", "/dev/null", "-e", "inject=fsync:error=" + fault}
		cmd := exec.Command("strace", append(append(strace, name), words...)...)
		cmd.Env = append(os.Environ(), append(env, "XDG_STATE_HOME=", "DISPLAY=", "LC_ALL=C")...)
		out, err := cmd.CombinedOutput()
		if err != nil {
			assert.Contains(t, string(out), ": input/output error")
		}
		return err
	}
	install := []string{"install", "-f", mapping, "--machine", "gauge", "--yes"}
	require.NoError(t, run("EINVAL", install...))
	assert.NotEqual(t, had, files(t, home))
	require.NoError(t, run("EINVAL", "restore", "--yes"))
	assert.Equal(t, had, files(t, home))
	failed := 0
	for at := 1; at < 20; at++ { // the first time that one thread has something on the disk, the second, and so on
		err := run(fmt.Sprint("EIO:when=", at), install...)
		if err != nil {
			failed++
		}
		if !assert.ObjectsAreEqual(had, files(t, home)) { // nothing failed, or a script beside the journal
			require.NoError(t, run("EINVAL", "status"), at)
			require.NoError(t, run("EINVAL", "restore", "--yes"), at)
			require.Equal(t, had, files(t, home), at)
		}
	}
	assert.Positive(t, failed) // the first time of every thread, at least
}
