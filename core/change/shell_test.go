package change_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
)

// A shell that takes the steps leaves files as carrying the changes out does, also when it
// takes them twice, and when it takes them back; a link stays a link.
func TestShellDoesAsCarrying(t *testing.T) {
	for _, before := range []string{"none", "", "own\n", "own", "own\n\n", "include ~/ours\nown\n"} {
		list := []change.Change{
			change.File{About: change.About{In: "ours"}, Path: "~/.config/tide/ours", Data: []byte("bindings\n")},
			change.Line{Path: "~/.config/tide/config", Text: "include ~/ours"},
		}
		home, m := t.TempDir(), change.NewSimulated()
		config, kept := filepath.Join(home, ".config/tide/config"), filepath.Join(home, "kept")
		require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(home, "ours"), []byte("bindings\n"), 0o644)) // as compiled
		if before != "none" {
			m.Files["~/.config/tide/config"] = []byte(before)
			require.NoError(t, os.WriteFile(kept, []byte(before), 0o644))
			require.NoError(t, os.Symlink(kept, config))
		}
		run := func(steps []change.Step) {
			for _, s := range steps {
				cmd := exec.Command("sh", "-e", "-c", strings.Join(s.Lines, "\n"))
				cmd.Dir, cmd.Env = home, append(os.Environ(), "HOME="+home)
				out, err := cmd.CombinedOutput()
				require.NoError(t, err, "%s", out)
			}
		}
		has := func() string {
			text, err := os.ReadFile(config)
			require.NoError(t, err)
			return string(text)
		}
		forth, back := change.Steps(list)
		undo, err := change.Carry(list, m)
		require.NoError(t, err)
		run(forth)
		assert.Equal(t, string(m.Files["~/.config/tide/config"]), has(), "%q", before)
		run(forth)
		assert.Equal(t, string(m.Files["~/.config/tide/config"]), has(), "%q, twice", before)
		ours, err := os.ReadFile(filepath.Join(home, ".config/tide/ours"))
		require.NoError(t, err)
		assert.Equal(t, "bindings\n", string(ours))

		run(back)
		_, err = change.Carry(undo, m)
		require.NoError(t, err)
		_, err = os.Stat(filepath.Join(home, ".config/tide/ours"))
		assert.ErrorIs(t, err, os.ErrNotExist)
		want := string(m.Files["~/.config/tide/config"])
		if before == "own" { // a shell does not know that the end was missing
			want += "\n"
		}
		if before == "include ~/ours\nown\n" { // nor whose the line was
			want = "own\n"
		}
		assert.Equal(t, want, has(), "%q, taken back", before)
		if before != "none" {
			link, err := os.Readlink(config)
			require.NoError(t, err)
			assert.Equal(t, kept, link)
		}
	}
}
