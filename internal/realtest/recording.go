package realtest

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Recording is a program that notes how it is started, so that what really arrived
// can be told.
type Recording struct {
	Program string
	t       testing.TB
	log     string
}

// endOfStart is behind the arguments of a start and its folder, which have a NUL behind each.
const endOfStart = "\x00\n\x00"

// Recorder makes the program. It appends its arguments and its folder to a file, all at once: who empties the file
// meanwhile finds the whole of a start there, or nothing.
func Recorder(t testing.TB, home string) *Recording {
	t.Helper()
	r := &Recording{filepath.Join(home, "record it"), t, filepath.Join(home, "log")}
	script := "#!/bin/sh\nprintf '%s\\0' \"$@\" \"in $PWD\" '\n' >> '" + r.log + "'\n"
	require.NoError(t, os.WriteFile(r.Program, []byte(script), 0o755))
	require.NoError(t, os.WriteFile(r.log, nil, 0o666))
	require.NoError(t, os.Chmod(r.log, 0o666)) // another user may start it
	return r
}

// Starts lists what has been noted since Expect, one text for each start.
func (r *Recording) Starts() []string {
	text, err := os.ReadFile(r.log)
	require.NoError(r.t, err)
	parts := strings.Split(string(text), endOfStart)
	return parts[:len(parts)-1] // behind the last there is nothing, or half a start
}

// Any says whether the program was started at all.
func (r *Recording) Any() bool { return len(r.Starts()) > 0 }

// Expect forgets what was noted and returns a function that says whether the program
// has been started with what begins so. On a busy machine the start that an earlier
// press asked for may come late: what begins as one of the others is passed over, and
// anything else fails the test.
func (r *Recording) Expect(want string, others []string) func() bool {
	require.NoError(r.t, os.Truncate(r.log, 0))
	return func() bool {
		for _, got := range r.Starts() {
			begins := func(s string) bool { return strings.HasPrefix(got+"\x00", s) }
			if begins(want) {
				return true
			}
			assert.True(r.t, slices.ContainsFunc(others, begins), "%q was started, and %q should be", got, want)
		}
		return false
	}
}
