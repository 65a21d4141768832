package install_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/install"
	"leitstand/core/install/live"
)

// The script does what the steps say, on a machine where no leitstand is: files with any bytes, below links, in folders
// that are not there. Run twice it does nothing more. What somebody has changed since it does not touch.
func TestScript(t *testing.T) {
	home, etc := t.TempDir(), t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(home, "dotfiles"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(home, "dotfiles/config"), []byte("# theirs"), 0o600))
	require.NoError(t, os.Symlink("dotfiles/config", filepath.Join(home, "config")))
	require.NoError(t, os.WriteFile(filepath.Join(etc, "gone"), []byte("x\n"), 0o644))
	m := &live.Machine{Home: home, Env: os.Environ()}
	list := items("hwdb",
		change.File{Path: etc + "/a folder/it's", Data: []byte("text\n$(no)\n")},
		change.File{Path: "~/bytes", Data: []byte("\x00\xFF\r\n no end")},
		change.File{Path: "~/END", Data: []byte("END-OF-FILE\n")},
		change.Line{Path: "~/config", Text: "include 'ours'"},
		change.File{Path: etc + "/gone"},
		change.Call{Do: []string{"sh", "-c", "echo \"$HOME\" told >> " + etc + "/told"}},
		change.Call{Do: []string{"false"}}, // a program that does not run
		change.Call{Do: []string{"touch", "~/touched it"}},
	)
	plan, err := install.Make(m, install.Installed{}, installed(list))
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "script")
	require.NoError(t, os.WriteFile(name, install.Script("Two lines\nof words.\n", plan.Steps), 0o600))
	run := func() (string, error) {
		cmd := exec.Command("sh", name)
		cmd.Env = append(os.Environ(), "HOME="+home)
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	for range 2 {
		out, err := run()
		require.NoError(t, err, out)
		has := func(path, want string) {
			t.Helper()
			data, err := os.ReadFile(path)
			require.NoError(t, err)
			assert.Equal(t, want, string(data))
		}
		has(etc+"/a folder/it's", "text\n$(no)\n")
		has(home+"/bytes", "\x00\xFF\r\n no end")
		has(home+"/END", "END-OF-FILE\n")
		has(home+"/dotfiles/config", "# theirs\ninclude 'ours'\n")
		info, err := os.Lstat(home + "/dotfiles/config")
		require.NoError(t, err)
		assert.EqualValues(t, 0o600, info.Mode().Perm())
		assert.NoFileExists(t, etc+"/gone")
		assert.FileExists(t, home+"/touched it")
	}
	require.NoError(t, os.WriteFile(filepath.Join(home, "bytes"), []byte("theirs"), 0o600))
	out, err := run()
	require.Error(t, err)
	assert.Contains(t, out, "/bytes has been changed since; nothing more is done")
}
