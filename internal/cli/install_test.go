package cli_test

import (
	"io/fs"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// staging is a folder that stands for a machine, and the program at work on it.
type staging struct {
	t                   *testing.T
	program, root, home string
	mapping             string
}

func newStaging(t *testing.T, program string) staging {
	s := staging{
		t:       t,
		program: program,
		root:    t.TempDir(),
		home:    "/home/mess",
		mapping: filepath.Join(t.TempDir(), "m.hcl"),
	}
	for name, text := range map[string]string{
		".config/i3/config": "bindsym F8 exec xterm\n# no end", ".XCompose": "include \"%L\"\n",
	} {
		at := filepath.Join(s.root, s.home, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
		require.NoError(t, os.WriteFile(at, []byte(text), 0o640))
	}
	s.write("launch \"Ctrl+Alt+g\" { run = \"tidegauge\" }\nhyper \"CapsLock\" {}\nsnippet \"F7\" { text = \"NHN\" }\n")
	return s
}

func (s staging) write(rules string) {
	const machine = "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\n"
	require.NoError(s.t, os.WriteFile(s.mapping, []byte(machine+rules), 0o644))
}

func (s staging) command(words ...string) *exec.Cmd {
	if s.root != "" {
		words = append(slices.Clone(words), "--root", s.root)
	}
	cmd := exec.Command(s.program, words...)
	cmd.Env = append(os.Environ(), "HOME="+s.home, "XDG_STATE_HOME=", "LEITSTAND_FILE="+s.mapping, "DISPLAY=",
		"XDG_CURRENT_DESKTOP=i3",
		"WAYLAND_DISPLAY=", "LC_ALL=C")
	return cmd
}

func (s staging) run(words ...string) {
	s.t.Helper()
	out, err := s.command(words...).CombinedOutput()
	require.NoError(s.t, err, "%s", out)
}

// has is what the machine has, but for leitstand's own journal.
func (s staging) has() string {
	var b strings.Builder
	require.NoError(s.t, filepath.WalkDir(s.root, func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.Name() == ".local" {
			return map[bool]error{true: err, false: filepath.SkipDir}[err != nil]
		}
		b.WriteString(strings.TrimPrefix(p, s.root) + "\n")
		if !e.IsDir() {
			text, err := os.ReadFile(p)
			b.Write(text)
			return err
		}
		return nil
	}))
	return b.String()
}

// Killed at any moment of an install, of one after an edit, or of a restore, a machine has after the next command what
// it had, or what it was to have; and restoring brings every byte back.
func TestInstallKilledForReal(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("there is nothing to install there yet")
	}
	sample.OnlyUnit(t)
	name := program(t, runtime.GOOS)
	random := rand.New(rand.NewPCG(20260401, 1))
	kinds := []string{"install", "edit", "restore"}
	found := map[string]int{}
	takes := 70 * time.Millisecond // on a machine with little to do
	for n := range rounds(t, 60) {
		s := newStaging(t, name)
		never, kind := s.has(), kinds[n%3]
		words := []string{"install", "--yes"}
		if kind != "install" {
			s.run(words...)
			s.write("launch \"Ctrl+Alt+b\" { run = \"chart\" }\n")
		}
		if kind == "restore" {
			words[0] = "restore"
		}
		old := s.has()
		cmd := s.command(words...)
		require.NoError(t, cmd.Start())
		time.Sleep(time.Duration(random.Int64N(int64(takes)))) // to be killed at any moment
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		_ = s.command("status").Run() // which tells by its code that something differs
		switch now := s.has(); {
		case now == old:
			found["old"]++
		case kind == "restore":
			found["new"]++
			require.Equal(t, never, now)
		default:
			found["new"]++
			s.run(words...)
			require.Equal(t, s.has(), now, "%s: neither what it had nor what it was to have\n%s", kind, old)
		}
		if kind != "restore" || s.has() != never {
			began := time.Now()
			s.run("install", "--yes")
			takes = max(time.Since(began)*3/2, time.Millisecond) // as busy as it is by now
			s.run("restore", "--yes")
		}
		require.Equal(t, never, s.has(), kind)
		require.NoDirExists(t, filepath.Join(s.root, s.home, ".local"), kind)
	}
	t.Logf("%v", found)
	assert.Greater(t, found["old"], 2)
	assert.Greater(t, found["new"], 2)
}

// A trial is put back when its terminal, and all that was started in it, has been killed.
func TestTrialOutlivesItsTerminal(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("there is nothing to install there yet")
	}
	s := newStaging(t, ownProgram(t))
	never := s.has()
	realtest.Need(t, "script", "bsdutils")
	trial := s.command("install", "--yes", "--trial", "4s")
	// A terminal of its own, in which somebody is asked.
	var line []string
	for _, w := range trial.Args {
		line = append(line, "'"+w+"'")
	}
	said := filepath.Join(t.TempDir(), "typescript")
	cmd := exec.Command("script", "-qefc", strings.Join(line, " "), said)
	cmd.Env = trial.Env
	in, err := cmd.StdinPipe() // which nobody answers
	require.NoError(t, err)
	defer in.Close()
	kill := realtest.Group(cmd)
	require.NoError(t, cmd.Start())
	realtest.WaitFor(t, "the question", func() bool {
		text, _ := os.ReadFile(said)
		return strings.Contains(string(text), "Keep it?")
	})
	kill()
	_ = cmd.Wait()
	watchers := func() []int { return realtest.Running(s.program, "restore", "--unless-kept") }
	require.Len(t, watchers(), 1, "who puts it back lives on")
	realtest.WaitFor(t, "the end of who watched", func() bool { return len(watchers()) == 0 })
	assert.Equal(t, never, s.has())
	assert.NoDirExists(t, filepath.Join(s.root, s.home, ".local"))
}

// Of two runs at once the second waits for the first: whichever that is, the machine has all of one.
func TestTwoInstallsAtOnce(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("there is nothing to install there yet")
	}
	s := newStaging(t, program(t, runtime.GOOS))
	never := s.has()
	s.write("launch \"Ctrl+Alt+b\" { run = \"chart\" }\n")
	s.run("install", "--yes")
	one := s.has()
	s.run("restore", "--yes")
	var list []*exec.Cmd
	for range 6 {
		cmd := s.command("install", "--yes")
		require.NoError(t, cmd.Start())
		list = append(list, cmd)
	}
	for _, cmd := range list {
		require.NoError(t, cmd.Wait())
	}
	assert.Equal(t, one, s.has())
	s.run("restore", "--yes")
	assert.Equal(t, never, s.has())
}
