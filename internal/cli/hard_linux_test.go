package cli_test

import (
	"fmt"
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"leitstand/internal/sample"
)

// Of several runs at once, each has the machine alone: none of them fails, and afterwards the machine has what one of them
// was to leave. Restored, it is as before all, and nothing is left of Leitstand.
func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	sample.OnlyUnit(t)
	name, random := program(t, runtime.GOOS), rand.New(rand.NewPCG(20261201, 5))
	kinds := [][]string{{"install", "--yes"}, {"restore", "--yes"}, {"status"}, {"pause"}, {"resume"}}
	runs := 0
	for n := range rounds(t, 25) {
		s := newStaging(t, name)
		never := s.has()
		s.run("install", "--yes")
		installed := s.has()
		var list []*exec.Cmd
		var said []*strings.Builder
		for range 2 + random.IntN(5) {
			cmd, out := s.command(kinds[random.IntN(len(kinds))]...), &strings.Builder{}
			cmd.Stdout, cmd.Stderr = out, out
			require.NoError(t, cmd.Start())
			list, said = append(list, cmd), append(said, out)
			runs++
		}
		for i, cmd := range list {
			if err := cmd.Wait(); exitCode(err) == 2 { // there may be nothing to restore, to pause or to resume any more
				assert.Regexp(t, "nothing is (installed|paused) here|it is paused already", said[i].String(), "round %d", n)
			}
		}
		now := s.has()
		assert.True(t, now == never || now == installed, "round %d: neither\n%s", n, now)
		_ = s.command("restore", "--yes").Run() // it may be restored already
		require.Equal(t, never, s.has(), "round %d", n)
		require.NoDirExists(t, filepath.Join(s.root, s.home, ".local"), "round %d", n)
	}
	t.Logf("%d groups, %d runs", rounds(t, 25), runs)
}

// What a user writes into a configuration, by an editor that puts a new file in its place, is never lost, whatever
// Leitstand does there meanwhile; and when all is restored, nothing else is in it.
func TestEditedMeanwhile(t *testing.T) {
	t.Parallel()
	sample.OnlyUnit(t)
	name, edits, reverted := program(t, runtime.GOOS), 0, 0
	for n := range rounds(t, 12) {
		s := newStaging(t, name)
		had, err := os.ReadFile(s.config())
		require.NoError(t, err)
		var over atomic.Bool
		var written []string
		var wait sync.WaitGroup
		wait.Go(func() {
			for k := 0; !over.Load(); k++ {
				line := fmt.Sprintf("# edit %d\n", k)
				text, err := os.ReadFile(s.config())
				if assert.NoError(t, err) &&
					assert.NoError(t, os.WriteFile(s.config()+".editor", append([]byte(line), text...), 0o640)) {
					assert.NoError(t, os.Rename(s.config()+".editor", s.config()))
					written = append(written, line)
				}
				time.Sleep(time.Duration(n%5) * 300 * time.Microsecond) // as somebody types, at several speeds
			}
		})
		for range 3 {
			for _, words := range [][]string{{"install", "--yes"}, {"restore", "--yes"}} {
				if s.command(words...).Run() != nil { // it was changed meanwhile, which is said
					reverted++
				}
			}
		}
		over.Store(true)
		wait.Wait()
		_ = s.command("restore", "--yes").Run() // it may be restored already
		// What was written twice in the moment in which the first was put back stands beside the file.
		var all strings.Builder
		beside, err := os.ReadDir(filepath.Dir(s.config()))
		require.NoError(t, err)
		for _, e := range beside {
			text, err := os.ReadFile(filepath.Join(filepath.Dir(s.config()), e.Name()))
			require.NoError(t, err)
			all.Write(text)
		}
		text, err := os.ReadFile(s.config())
		require.NoError(t, err)
		require.NotContains(t, string(text), "include ", "round %d", n)
		require.Contains(t, string(text), string(had), "round %d", n)
		for _, line := range written {
			require.Contains(t, all.String(), line, "round %d", n)
		}
		edits += len(written)
	}
	t.Logf("%d edits; %d of %d runs were reverted for one", edits, reverted, 6*rounds(t, 12))
}

// While a folder is exchanged for a link that leads out, again and again, nothing outside is written.
func TestLinksInALoop(t *testing.T) {
	t.Parallel()
	sample.OnlyUnit(t)
	s, outside := newStaging(t, program(t, runtime.GOOS)), t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(outside, "i3"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(outside, "i3/config"), []byte("theirs\n"), 0o644))
	before := listed(t, outside)
	config := filepath.Join(s.root, s.home, ".config")
	link := config + ".link"
	require.NoError(t, os.Symlink(outside, link))
	var over atomic.Bool
	var wait sync.WaitGroup
	swaps := 0
	wait.Go(func() {
		for !over.Load() {
			if !assert.NoError(t, unix.Renameat2(unix.AT_FDCWD, config, unix.AT_FDCWD, link, unix.RENAME_EXCHANGE)) {
				return
			}
			swaps++
		}
	})
	for n := range rounds(t, 40) {
		_ = s.command([][]string{{"install", "--yes"}, {"restore", "--yes"}, {"status"}}[n%3]...).Run() // or it is refused
	}
	over.Store(true)
	wait.Wait()
	assert.Equal(t, before, listed(t, outside))
	t.Logf("%d runs, %d exchanges", rounds(t, 40), swaps)
}

// listed is all that is below a folder, with what it is.
func listed(t *testing.T, dir string) (list []string) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		info, err := e.Info()
		if err != nil {
			return err
		}
		text, _ := os.ReadFile(p) // a folder has none
		inode := uint64(0)
		if s, ok := info.Sys().(*syscall.Stat_t); ok {
			inode = s.Ino
		}
		list = append(list, fmt.Sprintf("%s %s %d %q", strings.TrimPrefix(p, dir), info.Mode(), inode, text))
		return nil
	}))
	return list
}
