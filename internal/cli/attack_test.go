package cli_test

import (
	"bytes"
	"errors"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/examples"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// built are the programs by their systems, each built once, in a folder that goes with the tests.
var built struct {
	sync.Mutex
	folder string
	names  map[string]string
}

// program builds the program, for a system.
func program(t *testing.T, system string) string {
	t.Helper()
	built.Lock()
	defer built.Unlock()
	if name, ok := built.names[system]; ok {
		return name
	}
	if built.folder == "" {
		dir, err := os.MkdirTemp("", "leitstand-built-")
		require.NoError(t, err)
		require.NoError(t, os.Chmod(dir, 0o755)) // other users run it, too
		built.folder, built.names = dir, map[string]string{}
	}
	name := filepath.Join(built.folder, system, "leitstand.exe")
	build := exec.Command("go", "build", "-o", name, "leitstand/cmd/leitstand")
	build.Env = append(os.Environ(), "GOOS="+system, "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)
	built.names[system] = name
	return name
}

// ownProgram is a copy of the program that no other test runs, so that its processes can be found.
func ownProgram(t *testing.T) string {
	t.Helper()
	data, err := os.ReadFile(program(t, runtime.GOOS))
	require.NoError(t, err)
	name := filepath.Join(t.TempDir(), "leitstand.exe")
	require.NoError(t, os.WriteFile(name, data, 0o755))
	return name
}

// rounds is how often something is tried: LEITSTAND_ROUNDS times, or as often as a test does by itself.
func rounds(t *testing.T, usual int) int {
	t.Helper()
	given := os.Getenv("LEITSTAND_ROUNDS")
	if given == "" {
		return usual
	}
	n, err := strconv.Atoi(given)
	require.NoError(t, err)
	return n
}

// files is what is below a folder.
func files(t *testing.T, dir string) map[string]string {
	found := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil || !e.Type().IsRegular() {
			return err
		}
		text, err := os.ReadFile(p)
		if errors.Is(err, fs.ErrNotExist) { // a session that runs has its own files
			return nil
		}
		found[strings.TrimPrefix(p, dir)] = string(text)
		return err
	}))
	return found
}

// variants are the example and one with a machine less able, so that files go when one is compiled
// over the other.
func variants(t *testing.T, dir string) [2]string {
	fewer := strings.Replace(string(examples.TideOffice), `desktop = "xfce"`, `desktop = "none"`, 1)
	names := [2]string{filepath.Join(dir, "whole.hcl"), filepath.Join(dir, "fewer.hcl")}
	require.NoError(t, os.WriteFile(names[0], examples.TideOffice, 0o644))
	require.NoError(t, os.WriteFile(names[1], []byte(fewer), 0o644))
	return names
}

// Killed at any moment, a folder is whole after the next run; run twice at once, it is of
// one of the two, and neither fails.
func TestKilledAndAtOnce(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("the signals are those of Unix")
	}
	leitstand, dir := program(t, runtime.GOOS), t.TempDir()
	mapping := variants(t, dir)
	out := filepath.Join(dir, "out")
	compile := func(v int) *exec.Cmd { return exec.Command(leitstand, "compile", "-f", mapping[v], "-o", out) }
	// A page of steps tells what the folder had before; the rest is of the mapping alone.
	rest := func(all map[string]string) map[string]string {
		for p := range all {
			if strings.HasSuffix(p, "STEPS.md") || strings.HasSuffix(p, "machine.json") {
				delete(all, p)
			}
		}
		return all
	}
	var want [2]map[string]string
	for v := range want {
		require.NoError(t, os.RemoveAll(out))
		require.NoError(t, compile(v).Run())
		want[v] = rest(files(t, out))
	}
	start := time.Now()
	require.NoError(t, compile(0).Run())
	long := time.Since(start)
	const parts = 40
	for i := range rounds(t, parts/2) {
		run := compile(i % 2)
		require.NoError(t, run.Start())
		time.Sleep(long * time.Duration(i*7%parts) / parts) // to be killed at another moment each time
		_ = run.Process.Kill()
		_ = run.Wait()
		again := (i + i/2) % 2
		msg, err := compile(again).CombinedOutput()
		require.NoError(t, err, "%s", msg)
		assert.Equal(t, want[again], rest(files(t, out)), "killed at %d/40", i*7%parts)
	}
	for range rounds(t, 10) {
		var wait sync.WaitGroup
		errs := make([]error, 2)
		for v := range errs {
			wait.Go(func() { errs[v] = compile(v).Run() })
		}
		wait.Wait()
		require.NoError(t, errors.Join(errs...))
		got := rest(files(t, out))
		assert.True(t, assert.ObjectsAreEqual(want[0], got) || assert.ObjectsAreEqual(want[1], got), "spliced of both")
	}
}

// Output that cannot be written is trouble, whatever the command.
func TestOutputLost(t *testing.T) {
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	if err != nil {
		t.Skip("/dev/full is Linux's")
	}
	defer full.Close()
	leitstand, dir := program(t, runtime.GOOS), t.TempDir()
	mapping := variants(t, dir)
	config := filepath.Join(dir, "config")
	require.NoError(t, os.WriteFile(config, []byte("bindsym Mod4+g exec tidegauge\n"), 0o644))
	for _, args := range [][]string{
		{"validate", "-f", mapping[0]}, {"validate", "-f", mapping[0], "--format", "json"},
		{"press", "KeyA", "-f", mapping[0]}, {"chords", "-f", mapping[0]},
		{"diff", mapping[0], mapping[0]}, {"import", config}, {"keys"},
		{"compile", "-f", mapping[0], "-o", filepath.Join(dir, "out")}, {"--help"}, {"--version"},
	} {
		run := exec.Command(leitstand, args...)
		run.Stdout = full
		var exit *exec.ExitError
		if err := run.Run(); assert.ErrorAs(t, err, &exit, "%v", args) {
			assert.Equal(t, 2, exit.ExitCode(), "%v", args)
		}
	}
}

// A device that never ends and a pipe that nobody writes to are told of, and not waited for.
func TestDevicesAndPipes(t *testing.T) {
	if _, err := os.Stat("/dev/zero"); err != nil {
		t.Skip("/dev/zero is not Windows's")
	}
	leitstand, dir := program(t, runtime.GOOS), t.TempDir()
	pipe, group := filepath.Join(dir, "pipe.hcl"), filepath.Join(dir, "group.hcl")
	out, err := exec.Command("mkfifo", pipe).CombinedOutput()
	require.NoError(t, err, "%s", out)
	require.NoError(t, os.WriteFile(group, []byte("group \"of the pier\" {\n  file = \"pipe.hcl\"\n}\n"), 0o644))
	for _, args := range [][]string{
		{"validate", "-f", pipe}, {"validate", "-f", "/dev/zero"}, {"validate", "-f", dir}, {"validate", "-f", group},
		{"format", pipe},
		{"import", pipe}, {"import", "/dev/zero"}, {"import", dir}, {"diff", pipe, group},
		{"compile", "-f", group, "-o", pipe},
	} {
		run := exec.Command(leitstand, args...)
		var said bytes.Buffer
		run.Stdout, run.Stderr = &said, &said
		require.NoError(t, run.Start())
		late := time.AfterFunc(20*time.Second, func() { _ = run.Process.Kill() })
		err := run.Wait()
		assert.True(t, late.Stop(), "%v waits", args)
		assert.Error(t, err, "%v", args)
		assert.NotEmpty(t, said.String(), "%v", args)
	}
}

// Whatever stands in a mapping or in a file's name, no sign of it acts on the terminal or hides
// what stands there.
func TestOutputIsHarmless(t *testing.T) {
	leitstand, dir := program(t, runtime.GOOS), t.TempDir()
	const signs = "\u001b]0;x\u0007\u009b31m\u202e\u2066\u200b\ufeff\r"
	escaped := `\u001b]0;x\u0007\u009b31m\u202e\u2066\u200b\ufeff\r`
	texts := map[string]string{
		"texts.hcl": "machine \"m\" {\n  system = \"linux\"\n  desktop = \"gnome\"\n}\nlaunch \"Meta+F1\" {\n  " +
			"run = [\"" + escaped + "\", \"" + escaped + "\"]\n  why = \"" + escaped + "\"\n}\nsnippet \"F7\" { " +
			"text = \"x\u202ey\" }\n",
		"raw.hcl": "remap \"Caps\u202eLock\" { to = \"Esc\u009bape\" } # \u2066\u200b\nlaunch \"Meta+\u202e\" { " +
			"run = \"x\" }\nmachine \"a\u202eb\" { system = \"linux\" }\n",
		"config": "bindsym Mod4+g exec \"x\u202e\u009b\"\nbindsym Mod4+h layout \u001b[2Jtoggle\n",
	}
	hostile := filepath.Join(dir, "a\u202eb\u001b[2J.hcl")
	require.NoError(t, os.WriteFile(hostile, []byte(texts["raw.hcl"]), 0o644))
	for name, text := range texts {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644))
	}
	at := func(name string) string { return filepath.Join(dir, name) }
	for _, args := range [][]string{
		{"validate", "-f", at("texts.hcl"), "--explain", "--notes"}, {"validate", "-f", at("raw.hcl")},
		{"validate", "-f", hostile}, {"validate", "-f", hostile, "--format", "json"},
		{"validate", "-f", at("texts.hcl"), "--format", "json"}, {"validate", "-f", hostile, "--format", "sarif"},
		{"validate", "-f", at("none" + signs)}, {"validate", "--machine", signs, "-f", at("texts.hcl")},
		{"press", "Meta+F1", "-f", at("texts.hcl")}, {"press", signs, "-f", at("texts.hcl")},
		{"press", "--find", "x", "-f", at("texts.hcl")}, {"chords", "Meta", "-f", at("texts.hcl")},
		{"chords", signs, "-f", at("texts.hcl")},
		{"diff", at("texts.hcl"), hostile}, {"compile", "-f", at("texts.hcl"), "-o", at("out")},
		{"diff", at("out"), "-f", at("texts.hcl")}, {"import", at("config")}, {"import", hostile}, {"keys", signs},
		{"format", hostile}, {signs},
	} {
		out, _ := exec.Command(leitstand, args...).CombinedOutput()
		assert.NotEmpty(t, out, "%v", args)
		assert.NotContains(t, string(out), "panic", "%v", args)
		for _, sign := range []string{"\u001b", "\u0007", "\u009b", "\u202e", "\u2066", "\u200b", "\ufeff", "\r"} {
			assert.False(t, bytes.Contains(out, []byte(sign)), "%q of %q: %q", sign, args, out)
		}
	}
}

// The program does the same on Windows, as far as Wine is that: its commands say what they say here, but for the
// way in which paths are written.
func TestRunsUnderWine(t *testing.T) {
	here, there := program(t, runtime.GOOS), program(t, "windows")
	w, dir := realtest.NewWine(t), t.TempDir()
	text, err := os.ReadFile(there)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(w.Path("leitstand.exe"), text, 0o755))
	changed := bytes.Replace(examples.TideOffice, []byte("220ms"), []byte("240ms"), 1)
	require.NotEqual(t, examples.TideOffice, changed)
	for name, text := range map[string][]byte{"tide.hcl": examples.TideOffice, "changed.hcl": changed} {
		require.NoError(t, os.WriteFile(w.Path(name), text, 0o644))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), text, 0o644))
	}
	for _, line := range []string{
		"validate -f tide.hcl --explain --notes",
		"press Hyper+t F7 -f tide.hcl --format json",
		"compile -f tide.hcl -o out/compiled",
		"compile -f tide.hcl -o out/compiled",
		"diff out/compiled -f changed.hcl --files",
		"import out/compiled/lab out/compiled/office -o imported.hcl",
		"validate -f imported.hcl",
	} {
		ours := exec.Command(here, strings.Fields(line)...)
		ours.Dir = dir
		want, _ := ours.Output()
		got := w.Says("", append([]string{"leitstand.exe"}, strings.Fields(strings.ReplaceAll(line, "/", `\`))...)...)
		assert.Equal(t, strings.ReplaceAll(string(want), "/", `\`), strings.ReplaceAll(got, "/", `\`), line)
	}
	for _, name := range []string{"lab/STEPS.md", "lab/machine.json", "gauge/i3/leitstand.conf"} {
		want, err := os.ReadFile(filepath.Join(dir, "out/compiled", name))
		require.NoError(t, err)
		got, err := os.ReadFile(w.Path("out/compiled", name))
		require.NoError(t, err)
		assert.Equal(t, string(want), string(got), name)
	}
	// A first mapping has the user's layouts and the system's own libraries of them.
	library := sample.SystemLibrary(t)
	require.NoError(t, os.WriteFile(w.Path("windows/system32/kbdgr.dll"), library, 0o644))
	w.Run("reg", "add", `HKCU\Keyboard Layout\Preload`, "/v", "2", "/d", "d0010407", "/f")
	w.Run("reg", "add", `HKCU\Keyboard Layout\Substitutes`, "/v", "d0010407", "/d", "00000407", "/f")
	w.Run("reg", "add", `HKLM\SYSTEM\CurrentControlSet\Control\Keyboard Layouts\00000407`, "/v", "Layout File", "/d", "KBDGR.DLL", "/f")
	said := w.Says("", "leitstand.exe", "init", "-o", "first.hcl")
	assert.Contains(t, said, "Wrote first.hcl: 0 rules for 1 machine")
	first, err := os.ReadFile(w.Path("first.hcl"))
	require.NoError(t, err)
	assert.Contains(t, string(first), `layouts        = ["us", "de"]`)
	assert.Contains(t, string(first), `system_layouts = { de = "de.dll" }`)
	copied, err := os.ReadFile(w.Path("de.dll"))
	require.NoError(t, err)
	assert.Equal(t, library, copied)
	assert.Contains(t, w.Says("", "leitstand.exe", "validate", "-f", "first.hcl"), "No errors or warnings")
	assert.Contains(t, w.Says("", "leitstand.exe", "init", "-o", "-"), "unless --output names a file")
	entries, err := os.ReadDir(w.Path("out/compiled"))
	require.NoError(t, err)
	assert.Len(t, entries, 6, "nothing is left over: %v", entries)
}
