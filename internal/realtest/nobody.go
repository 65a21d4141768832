package realtest

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"

	"github.com/stretchr/testify/require"
)

// Nobody makes commands that do not run as root: where the tests do, as the user
// nobody, to whom the home is given. The first word of a command may set one more
// variable.
func (s *Server) Nobody(home string, env []string) func(setting, name string, args ...string) *exec.Cmd {
	s.t.Helper()
	if os.Getuid() == 0 {
		Need(s.t, "setpriv", "util-linux")
		const nobody = 65534
		require.NoError(s.t, filepath.WalkDir(home, func(path string, _ fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			return os.Chown(path, nobody, nobody)
		}))
		require.NoError(s.t, os.Chmod(filepath.Dir(home), 0o755))
	}
	return func(setting, name string, args ...string) *exec.Cmd {
		words := append([]string{name}, args...)
		if os.Getuid() == 0 {
			words = append([]string{"setpriv", "--reuid=65534", "--regid=65534", "--clear-groups"}, words...)
		}
		cmd := exec.Command(words[0], words[1:]...)
		cmd.Env = s.Env(append(env, setting)...)
		cmd.Dir = home
		return cmd
	}
}

// Background starts a command and ends it, and all it started, with the test.
func (s *Server) Background(cmd *exec.Cmd) {
	s.t.Helper()
	isolate(cmd)
	require.NoError(s.t, cmd.Start())
	s.t.Cleanup(func() { endGroup(cmd); _ = cmd.Wait() })
}

// Focus gives the keyboard to the newest window of a name, if there is one.
func (s *Server) Focus(name string) {
	if ids := s.Output("xdotool", "search", "--name", name); ids != "" {
		s.Output("xdotool", "search", "--name", name, "windowfocus")
	}
}
