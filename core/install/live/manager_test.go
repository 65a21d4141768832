package live_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/install/live"
	"leitstand/internal/realtest"
)

// What a user's service manager is said to run does run, and what it cannot run is an error, so that somebody else starts
// it.
func TestStartOutside(t *testing.T) {
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	assert.ErrorIs(t, live.StartOutside("none", home, []string{"/bin/true"}, env), live.ErrNoManager)
	assert.ErrorIs(t, live.StartOutside("none", home, []string{"/bin/true"}, nil), live.ErrNoManager)
	server.ServiceManager(home, env)
	env = append(env, "PATH="+os.Getenv("PATH"), "TIDE=high", "BASH_FUNC_x%%=() { :; }")
	require.NoError(t, live.StartOutside("runs", home, []string{"/bin/sh", "-c", "echo $TIDE >ran; sleep 60"}, env))
	realtest.WaitFor(t, "what it runs", func() bool {
		text, _ := os.ReadFile(filepath.Join(home, "ran"))
		return string(text) == "high\n"
	})
	assert.Error(t, live.StartOutside("runs", home, []string{"/bin/sleep", "1"}, env), "a unit of this name is there")
	assert.Error(t, live.StartOutside("missing", home, []string{"/no/such/program"}, env))
	assert.Error(t, live.StartOutside("nowhere", "/no/such/folder", []string{"/bin/sleep", "60"}, env))
}
