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
	list := []change.Change{
		change.File{About: change.About{In: "ours"}, Path: "~/.config/tide/ours", Data: []byte("bindings\n")},
		change.Line{Path: "~/.config/tide/config", Text: "include ~/ours"},
		change.Block{
			About:  change.About{In: "list"},
			Path:   "~/.config/tide/list",
			Begins: "// tide begins",
			Ends:   "// tide ends",
			First:  "// all\n\n",
			Text:   "// tide begins\nA.$ [1]*\n// tide ends\n",
		},
	}
	compiled := change.Folder(list)
	for path, befores := range map[string][]string{
		"config": {"none", "", "own\n", "own", "own\n\n", "include ~/ours\nown\n"},
		"list":   {"none", "", "own\n", "own", "// all\n\nown\n", "// tide begin\nown\n"},
	} {
		for _, before := range befores {
			home, m := t.TempDir(), change.NewSimulated()
			file, kept := filepath.Join(home, ".config/tide", path), filepath.Join(home, "kept")
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			for _, f := range compiled {
				require.NoError(t, os.WriteFile(filepath.Join(home, f.Path), f.Data, 0o644))
			}
			if before != "none" {
				m.Files["~/.config/tide/"+path] = []byte(before)
				require.NoError(t, os.WriteFile(kept, []byte(before), 0o644))
				require.NoError(t, os.Symlink(kept, file))
			}
			run := func(steps []change.Step) {
				for _, s := range steps {
					cmd := exec.Command("sh", "-e", "-c", strings.Join(s.Lines, "\n"))
					cmd.Dir, cmd.Env = home, append(os.Environ(), "HOME="+home)
					out, err := cmd.CombinedOutput()
					require.NoError(t, err, "%s", out)
				}
			}
			same := func(when string) {
				for _, name := range []string{"ours", "config", "list"} {
					want, has := string(m.Files["~/.config/tide/"+name]), m.Files["~/.config/tide/"+name] != nil
					text, err := os.ReadFile(filepath.Join(home, ".config/tide", name))
					assert.Equal(t, has, err == nil, "%s, %q, %s", name, before, when)
					if when == "taken back" && before == "own" &&
						name == path { // a shell does not know that the end was missing
						want += "\n"
					}
					assert.Equal(t, want, string(text), "%s, %q, %s", name, before, when)
				}
			}
			forth, back := change.Steps(list)
			undo, err := change.Carry(list, m)
			require.NoError(t, err)
			run(forth)
			same("once")
			run(forth)
			same("twice")
			run(back)
			_, err = change.Carry(undo, m)
			require.NoError(t, err)
			same("taken back")
			if before != "none" {
				link, err := os.Readlink(file)
				require.NoError(t, err)
				assert.Equal(t, kept, link)
			}
		}
	}
}
