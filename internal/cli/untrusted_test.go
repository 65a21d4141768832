//go:build unix

package cli_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// somebody is the number of a user who is not the one that the tests run as.
const somebody = 12345

// asRoot skips a test that needs two users, where there is only one.
func asRoot(t *testing.T) {
	t.Helper()
	sample.OnlyUnit(t)
	if os.Getuid() != 0 {
		t.Skip("only root can be somebody else: run the test as root")
	}
}

// says runs the program, which fails, and returns what it says.
func (s staging) says(words ...string) string {
	s.t.Helper()
	out, err := s.command(words...).CombinedOutput()
	require.Error(s.t, err, "%s", out)
	return string(out)
}

// live is a user's home on this machine itself, with a configuration of i3, and no session.
func newLive(t *testing.T) staging {
	t.Helper()
	sample.OnlyUnit(t)
	if runtime.GOOS != "linux" {
		t.Skip("only Linux is installed directly")
	}
	dir := t.TempDir()
	s := staging{t: t, program: program(t, "linux"), root: "", home: filepath.Join(dir, "home"), mapping: dir + "/m.hcl"}
	require.NoError(t, os.MkdirAll(filepath.Join(s.home, ".config/i3"), 0o755))
	require.NoError(t, os.WriteFile(s.config(), []byte("bindsym F8 exec xterm\n"), 0o644))
	s.write("launch \"Ctrl+Alt+g\" { run = \"tidegauge\" }\n")
	return s
}

// config is the configuration of a window manager.
func (s staging) config() string { return filepath.Join(s.root, s.home, ".config/i3/config") }

// state is the folder of the journal.
func (s staging) state() string { return filepath.Join(s.root, s.home, ".local/state/leitstand") }

// Root does nothing in the home of somebody else: what is kept there is theirs, and what root would keep there they could
// not use.
func TestRootInTheHomeOfSomebodyElse(t *testing.T) {
	asRoot(t)
	for _, s := range []staging{newLive(t), newStaging(t, program(t, "linux"))} {
		home := filepath.Join(s.root, s.home)
		require.NoError(t, os.Chown(home, somebody, somebody))
		before := files(t, home)
		for _, words := range [][]string{
			{"install", "--yes"}, {"status"}, {"restore", "--yes"}, {"pause"}, {"resume"}, {"keep"}, {"diff", "live"},
		} {
			said := s.says(words...)
			assert.Contains(t, said, fmt.Sprintf("belongs to the user with the number %d, and this runs as root", somebody))
			assert.Contains(t, said, "HOME=/root")
		}
		assert.Equal(t, before, files(t, home))
		assert.NoDirExists(t, filepath.Join(home, ".local"))
	}
}

// A journal decides what is written. It counts only where nobody but its user could have written it, and it is a file in a
// folder, not a link.
func TestStateThatOthersCouldHaveWritten(t *testing.T) {
	t.Parallel()
	asRoot(t)
	for about, prepare := range map[string]func(state string){
		"the journal is somebody else's": func(state string) {
			require.NoError(t, os.Chown(filepath.Join(state, "journal.json"), somebody, somebody))
		},
		"the folder is somebody else's": func(state string) {
			require.NoError(t, os.Chown(state, somebody, somebody))
		},
		"others can write the journal": func(state string) {
			require.NoError(t, os.Chmod(filepath.Join(state, "journal.json"), 0o660))
		},
		"others can write into the folder": func(state string) { require.NoError(t, os.Chmod(state, 0o777)) },
		"the journal has a second name": func(state string) {
			require.NoError(t, os.Link(filepath.Join(state, "journal.json"), filepath.Join(t.TempDir(), "second")))
		},
		"the journal is a link": func(state string) {
			to := filepath.Join(t.TempDir(), "journal")
			require.NoError(t, os.Rename(filepath.Join(state, "journal.json"), to))
			require.NoError(t, os.Symlink(to, filepath.Join(state, "journal.json")))
		},
	} {
		for _, s := range []staging{newLive(t), newStaging(t, program(t, "linux"))} {
			s.run("install", "--yes")
			prepare(s.state())
			before := files(t, filepath.Join(s.root, s.home))
			for _, words := range [][]string{{"status"}, {"restore", "--yes"}, {"install", "--yes"}} {
				assert.Contains(t, s.says(words...), "somebody else could have written it", about)
			}
			assert.Equal(t, before, files(t, filepath.Join(s.root, s.home)), about)
		}
	}
}

// A journal that was forged has nothing run, and nothing written but what mechanisms write, with no mode but one of
// permissions.
func TestForgedJournal(t *testing.T) {
	canary := filepath.Join(t.TempDir(), "canary")
	step := func(s map[string]any) map[string]any {
		return map[string]any{"begun": map[string]any{"steps": []any{s}}}
	}
	write := func(path string) map[string]any {
		return step(map[string]any{"Writes": []any{map[string]any{
			"path": path, "From": map[string]any{"data": map[string]any{"type": "text", "text": "x"}}, "To": map[string]any{},
		}}})
	}
	place := func(p map[string]any) map[string]any { return map[string]any{"places": []any{p}} }
	for about, forged := range map[string]map[string]any{
		"words":   step(map[string]any{"Do": []string{"touch", canary}, "Undo": []string{"touch", canary}}),
		"a shell": step(map[string]any{"Command": map[string]any{"name": "sh", "arguments": []string{"-c", "touch " + canary}}}),
		"an argument": step(map[string]any{"Command": map[string]any{
			"name": "hwdb-reset", "arguments": []string{"'; touch " + canary + "; '"},
		}}),
		"another file": write(canary), "a file above": write("~/.config/i3/../../x"), "a file of the system": write("/etc/passwd"),
		"a key of no store": place(map[string]any{"store": "dconf", "key": "/a/$(touch " + canary + ")"}),
		"a folder":          {"folders": []any{"/srv"}},
		"a copy":            {"places": []any{map[string]any{"path": "~/.XCompose", "before": map[string]any{"copy": "../../x"}}}},
	} {
		s := newLive(t)
		forged["format"], forged["version"] = "leitstand journal", 2
		text, err := json.Marshal(forged)
		require.NoError(t, err)
		require.NoError(t, os.MkdirAll(s.state(), 0o700))
		require.NoError(t, os.WriteFile(filepath.Join(s.state(), "journal.json"), text, 0o600))
		for _, words := range [][]string{{"status"}, {"restore", "--yes"}, {"install", "--yes"}} {
			assert.Contains(t, s.says(words...), "leitstand: the journal", "%s %v", about, words)
		}
		assert.NoFileExists(t, canary, about)
	}
	s := newLive(t)
	s.run("install", "--yes")
	at := filepath.Join(s.state(), "journal.json")
	text, err := os.ReadFile(at)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(at, []byte(strings.ReplaceAll(string(text), `"mode": 420`, `"mode": 8389101`)), 0o600))
	s.run("restore", "--yes")
	info, err := os.Stat(s.config())
	require.NoError(t, err)
	assert.Zero(t, info.Mode()&(os.ModeSetuid|os.ModeSetgid), "no bits but those of permissions are taken from a journal")
}

// Below a folder that stands for a machine, no link of Leitstand's own state leads out of it, wherever it stands.
func TestStateDoesNotLeadOut(t *testing.T) {
	t.Parallel()
	for _, link := range []string{
		".local", ".local/state", ".local/state/leitstand", ".local/state/leitstand/journal.json",
		".local/state/leitstand/journal.json.part", ".local/state/leitstand/restore.sh",
		".local/state/leitstand/restore.sh.part", ".local/state/leitstand/copies", ".local/state/leitstand/made",
		".local/state/leitstand/administrator.sh",
	} {
		s, outside := newStaging(t, program(t, runtime.GOOS)), t.TempDir()
		theirs := filepath.Join(outside, "theirs")
		require.NoError(t, os.WriteFile(theirs, []byte("theirs"), 0o644))
		at := filepath.Join(s.root, s.home, link)
		require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o700))
		to := theirs
		if base := filepath.Base(link); base == ".local" || base == "state" || base == "leitstand" || base == "copies" {
			to = outside
		}
		require.NoError(t, os.Symlink(to, at))
		for _, words := range [][]string{
			{"status"}, {"install", "--yes"}, {"install", "--yes", "--admin-script", filepath.Join(t.TempDir(), "new")},
			{"restore", "--yes"},
		} {
			_ = s.command(words...).Run() // it is refused, or does without
			assert.Equal(t, map[string]string{"/theirs": "theirs"}, files(t, outside), "%s: %v", link, words)
		}
	}
}

// What only asks makes no folder.
func TestAskingMakesNothing(t *testing.T) {
	s := newStaging(t, program(t, runtime.GOOS))
	s.root = filepath.Join(t.TempDir(), "none")
	for _, words := range [][]string{{"status"}, {"diff", "live"}, {"install", "--dry-run"}, {"restore", "--dry-run"}, {"keep"}} {
		_ = s.command(words...).Run() // which says by its code that something differs, or that nothing is there
		assert.NoDirExists(t, s.root, "%v", words)
	}
	l := newLive(t)
	for _, words := range [][]string{{"status"}, {"install", "--dry-run"}} {
		_ = l.command(words...).Run()
		assert.NoDirExists(t, filepath.Join(l.home, ".local"), "%v", words)
	}
}

// A script for an administrator is made as a new file that nobody else can read or write. What is there already is left
// alone, whoever made it, and a link is not followed.
func TestScriptForAnAdministrator(t *testing.T) {
	s, dir := newStaging(t, program(t, runtime.GOOS)), t.TempDir()
	s.write("remap \"CapsLock\" { to = \"Escape\" }\n")
	theirs, link := filepath.Join(dir, "theirs"), filepath.Join(dir, "link")
	require.NoError(t, os.WriteFile(theirs, []byte("theirs"), 0o666))
	require.NoError(t, os.Symlink(filepath.Join(dir, "nothing-yet"), link))
	had := s.has()
	for _, name := range []string{theirs, link} {
		assert.Contains(t, s.says("install", "--yes", "--admin-script", name), "is there already, and an administrator is to run")
		assert.Equal(t, had, s.has(), "nothing was done")
	}
	assert.NoFileExists(t, filepath.Join(dir, "nothing-yet"))
	syscall.Umask(0)
	defer syscall.Umask(0o022)
	s.run("install", "--yes", "--admin-script", filepath.Join(dir, "new"))
	info, err := os.Stat(filepath.Join(dir, "new"))
	require.NoError(t, err)
	assert.EqualValues(t, 0o600, info.Mode().Perm())
	text, err := os.ReadFile(theirs)
	require.NoError(t, err)
	assert.Equal(t, "theirs", string(text))
}

// Folders that are made for all users can be read by all, whatever the mask of who makes them.
func TestFoldersWhateverTheMask(t *testing.T) {
	s := newStaging(t, program(t, runtime.GOOS))
	s.write("remap \"CapsLock\" { to = \"Escape\" }\n")
	cmd := s.command("install", "--yes")
	masked := exec.Command("sh", append([]string{"-c", `umask 077; exec "$@"`, "sh"}, cmd.Args...)...)
	masked.Env = cmd.Env
	out, err := masked.CombinedOutput()
	require.NoError(t, err, "%s", out)
	for _, dir := range []string{"etc", "etc/udev", "etc/udev/hwdb.d"} {
		info, err := os.Stat(filepath.Join(s.root, dir))
		require.NoError(t, err)
		assert.EqualValues(t, 0o755, info.Mode().Perm(), dir)
	}
	info, err := os.Stat(filepath.Join(s.root, "etc/udev/hwdb.d/90-leitstand.hwdb"))
	require.NoError(t, err)
	assert.EqualValues(t, 0o644, info.Mode().Perm())
}

// A trial that lasts for no time is none.
func TestTrialOfNoTime(t *testing.T) {
	s := newStaging(t, program(t, runtime.GOOS))
	had := s.has()
	for _, lasts := range []string{"0s", "-5s"} {
		assert.Contains(t, s.says("install", "--yes", "--trial", lasts), "a trial lasts for some time")
	}
	assert.Equal(t, had, s.has())
}

// A trial can be restored as what is installed for good, also when it is the first; nothing is left of it.
func TestRestoreDuringTheFirstTrial(t *testing.T) {
	t.Parallel()
	s := newStaging(t, ownProgram(t))
	had := s.has()
	s.run("install", "--yes", "--trial", "10m")
	require.NotEqual(t, had, s.has())
	s.run("restore", "--yes")
	assert.Equal(t, had, s.has())
	watchers := func() []int { return realtest.Running(s.program, "restore", "--unless-kept") }
	realtest.WaitFor(t, "the end of who watched", func() bool { return len(watchers()) == 0 })
	assert.NoDirExists(t, filepath.Join(s.root, s.home, ".local"))
}

// One location that cannot be written keeps no other one from being reverted; it stays known, and is reverted when it can
// be.
func TestOneLocationIsStuck(t *testing.T) {
	t.Parallel()
	for about, way := range map[string]struct{ stuck, free func(config string) error }{
		"read-only": {
			func(config string) error { return os.Chmod(config, 0o400) },
			func(config string) error { return os.Chmod(config, 0o640) },
		},
		"a folder": {
			func(config string) error {
				return joined(os.Rename(config, config+".kept"), os.Mkdir(config, 0o755))
			},
			func(config string) error { return joined(os.Remove(config), os.Rename(config+".kept", config)) },
		},
		"a pipe": {
			func(config string) error {
				return joined(os.Rename(config, config+".kept"), syscall.Mkfifo(config, 0o644))
			},
			func(config string) error { return joined(os.Remove(config), os.Rename(config+".kept", config)) },
		},
		"a link that leads out": {
			func(config string) error {
				return joined(os.Rename(config, config+".kept"), os.Symlink("/nowhere/at/all", config))
			},
			func(config string) error { return joined(os.Remove(config), os.Rename(config+".kept", config)) },
		},
	} {
		for _, trial := range []bool{false, true} {
			s := newStaging(t, program(t, runtime.GOOS))
			had := s.has()
			words, back := []string{"install", "--yes"}, []string{"restore", "--yes"}
			if trial {
				words, back = append(words, "--trial", "10m"), []string{"keep", "--not"}
			}
			s.run(words...)
			require.NoError(t, way.stuck(s.config()), about)
			out, _ := s.command(back...).CombinedOutput()
			assert.Contains(t, string(out), "~/.config/i3/config", about)
			assert.NoFileExists(t, filepath.Join(s.root, s.home, ".config/i3/leitstand.conf"), "%s: %s", about, out)
			out, err := s.command("status").CombinedOutput()
			assert.NotEqual(t, 2, exitCode(err), "%s: status does not fail: %s", about, out)
			require.NoError(t, way.free(s.config()), about)
			_ = s.command("status").Run() // which reverts what could not be reverted
			assert.Equal(t, had, s.has(), "%s, on trial: %v", about, trial)
			_ = s.command("restore", "--yes").Run() // there may be nothing left to restore
			assert.NoDirExists(t, filepath.Join(s.root, s.home, ".local"), about)
		}
	}
}

func joined(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

func exitCode(err error) int {
	if e, ok := err.(*exec.ExitError); ok { //nolint:errorlint // as Run returns it
		return e.ExitCode()
	}
	return 0
}

// What a user writes into a file during a trial stays when that is reverted, and what is ours goes.
func TestEditDuringTrial(t *testing.T) {
	s := newStaging(t, program(t, runtime.GOOS))
	had, err := os.ReadFile(s.config())
	require.NoError(t, err)
	s.run("install", "--yes", "--trial", "10m")
	text, err := os.ReadFile(s.config())
	require.NoError(t, err)
	require.Contains(t, string(text), "include ")
	require.NoError(t, os.WriteFile(s.config(), append([]byte("# written meanwhile\n"), text...), 0o640))
	s.run("keep", "--not")
	text, err = os.ReadFile(s.config())
	require.NoError(t, err)
	assert.Equal(t, "# written meanwhile\n"+string(had)+"\n", string(text))
	assert.NoDirExists(t, filepath.Join(s.root, s.home, ".local"))
}

// A file keeps all bits of its mode, and what a user keeps beside it stays.
func TestWhatStandsBesideAFile(t *testing.T) {
	s := newStaging(t, program(t, runtime.GOOS))
	beside := filepath.Join(filepath.Dir(s.config()), ".config.leitstand-new")
	require.NoError(t, os.WriteFile(beside, []byte("theirs"), 0o644))
	require.NoError(t, os.Chmod(s.config(), 0o750|os.ModeSetuid|os.ModeSetgid))
	had := s.has()
	s.run("install", "--yes")
	s.run("restore", "--yes")
	assert.Equal(t, had, s.has())
	info, err := os.Stat(s.config())
	require.NoError(t, err)
	assert.Equal(t, 0o750|os.ModeSetuid|os.ModeSetgid, info.Mode())
}

// What is live is what was installed, and what Leitstand has for itself is no difference.
func TestDiffLiveAfterInstall(t *testing.T) {
	s := newLive(t)
	s.run("install", "--yes")
	require.FileExists(t, filepath.Join(s.home, ".local/share/applications/leitstand-restore.desktop"))
	s.run("diff", "live")
	out, err := s.command("diff", "live", "--format", "json").Output()
	require.NoError(t, err)
	assert.NotContains(t, string(out), `"path": ""`)
	s.run("restore", "--yes")
	assert.Contains(t, s.says("diff", "live"), "runs tidegauge")
}

// A program that a run has started ends with it, however that ends: what it had been told to do does not happen later,
// when the run has been reverted.
func TestChildrenEndWithTheRun(t *testing.T) {
	s := newLive(t)
	const machine = "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"mate\"\n}\n"
	require.NoError(t, os.WriteFile(s.mapping, []byte(machine+"launch \"Ctrl+Alt+g\" { run = \"tidegauge\" }\n"), 0o644))
	bin := t.TempDir()
	wrote, began := filepath.Join(bin, "wrote"), filepath.Join(bin, "began")
	require.NoError(t, os.WriteFile(filepath.Join(bin, "dconf"), []byte("#!/bin/sh\n"+
		"case $1 in write) echo $$ > "+began+"; sleep 2; echo late > "+wrote+";; esac\n"), 0o755))
	command := func(words ...string) *exec.Cmd {
		cmd := s.command(words...)
		cmd.Env = append(cmd.Env, "PATH="+bin+":"+os.Getenv("PATH"), "XDG_CURRENT_DESKTOP=MATE", "XDG_RUNTIME_DIR="+bin)
		return cmd
	}
	cmd := command("install", "--yes")
	require.NoError(t, cmd.Start())
	realtest.WaitFor(t, "a program that it starts", func() bool {
		text, err := os.ReadFile(began)
		return err == nil && strings.HasSuffix(string(text), "\n")
	})
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()
	_ = command("status").Run() // which begins when nobody is at work any more
	text, err := os.ReadFile(began)
	require.NoError(t, err)
	var pid int
	_, err = fmt.Sscan(string(text), &pid)
	require.NoError(t, err)
	assert.ErrorIs(t, syscall.Kill(pid, 0), syscall.ESRCH, "it has ended")
	assert.NoFileExists(t, wrote)
}

// Pictures and pages go into files, not into pipes and devices.
func TestOutputIntoPipes(t *testing.T) {
	s, dir := newStaging(t, program(t, runtime.GOOS)), t.TempDir()
	pipe := filepath.Join(dir, "pipe.svg")
	require.NoError(t, syscall.Mkfifo(pipe, 0o644))
	link := filepath.Join(dir, "link.svg")
	require.NoError(t, os.Symlink("/dev/zero", link))
	for _, name := range []string{pipe, link} {
		for _, words := range [][]string{{"draw", "-o", name}, {"draw", "-o", name, "--force"}, {"report", "-o", name, "--force"}} {
			cmd := exec.Command(s.program, words...)
			cmd.Env = append(os.Environ(), "LEITSTAND_FILE="+s.mapping)
			out, err := cmd.CombinedOutput()
			assert.Error(t, err, "%v: %s", words, out)
		}
	}
}

// Without an administrator, and without anybody who could be asked for one, nothing is written, and the error names what
// needs one. A script for one, or a mapping that goes without, is a way on.
func TestInstallWithoutRightsWritesNothing(t *testing.T) {
	t.Parallel()
	asRoot(t)
	realtest.Need(t, "setpriv", "util-linux")
	name, home := program(t, "linux"), t.TempDir()
	config, mapping := filepath.Join(home, ".config/i3/config"), filepath.Join(home, "m.hcl")
	require.NoError(t, os.MkdirAll(filepath.Dir(config), 0o755))
	require.NoError(t, os.WriteFile(config, []byte("# i3 config file (v4)\n"), 0o644))
	machine := func(rights string) string {
		return "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n" + rights + "}\n" +
			"remap \"ScrollLock\" { to = \"F14\" }\nlaunch \"Ctrl+Alt+b\" { run = \"xterm\" }\n"
	}
	require.NoError(t, os.WriteFile(mapping, []byte(machine("")), 0o644))
	own := func(dir string) {
		require.NoError(t, filepath.WalkDir(dir, func(p string, _ fs.DirEntry, err error) error {
			return errors.Join(err, os.Chown(p, 65534, 65534))
		}))
	}
	own(home)
	require.NoError(t, os.Chmod(filepath.Dir(home), 0o755))
	shared := filepath.Join(filepath.Dir(home), "leitstand")
	data, err := os.ReadFile(name)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(shared, data, 0o755))
	before := files(t, home)
	run := func(words ...string) (string, error) {
		cmd := exec.Command("setpriv", append([]string{
			"--reuid=65534", "--regid=65534", "--clear-groups", shared, "install", "-f", mapping, "--machine", "gauge", "--yes",
		}, words...)...)
		cmd.Dir = home
		cmd.Env = []string{"HOME=" + home, "PATH=" + os.Getenv("PATH"), "LC_ALL=C"}
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	said, err := run()
	require.Error(t, err)
	assert.Contains(t, said, "nothing was written, since these places need an administrator:\n"+
		"  /etc/udev/hwdb.d/90-leitstand.hwdb\nRun this command in a terminal")
	assert.Equal(t, before, files(t, home))
	said, err = run("--admin-script", filepath.Join(home, "admin.sh"))
	require.NoError(t, err, said)
	assert.FileExists(t, filepath.Join(home, "admin.sh"))
	require.NoError(t, os.WriteFile(mapping, []byte(machine("  rights  = \"user\"\n")), 0o644))
	said, err = run()
	require.NoError(t, err, said)
}
