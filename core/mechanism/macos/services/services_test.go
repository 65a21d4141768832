package services_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"howett.net/plist"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/services"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func filesOf(out mechanism.Output) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, f := range out.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	return fsys
}

func takes(m *mechanism.Machine) func(behaviour.Binding) bool {
	return func(b behaviour.Binding) bool { return services.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited }
}

var word = rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,12}`))

// What is written reads back as what was meant, whatever is started by whichever chord.
func TestReadsWhatItWrites(t *testing.T) {
	m := sample.Mac("fr")
	rapid.Check(t, func(t *rapid.T) {
		list := sample.Launches(t, word, takes(m))
		out, err := mechanism.Write(services.Mechanism{}, m, list)
		require.NoError(t, err)
		got, err := services.Mechanism{}.Read(m, filesOf(out))
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

func TestTake(t *testing.T) {
	m := sample.Mac("de")
	chart := behaviour.Launch{App: "org.example.chart"}
	taken := sample.Launch(keys.Meta, "Space", chart)
	taken.Override = true
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{sample.Launch(keys.Ctrl|keys.Alt, "KeyT", chart), mechanism.Limited, "Services menu"},
		{sample.Launch(keys.Ctrl|keys.Alt, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}}), mechanism.Limited, "whole path"},
		{sample.Launch(keys.Meta, "KeyP", chart), mechanism.Limited, "it prints"},
		{sample.Launch(keys.Meta, "Space", chart), mechanism.Unavailable, "override = true"},
		{taken, mechanism.Limited, "Services menu"},
		{sample.Launch(keys.Ctrl|keys.Shift, "Digit7", chart), mechanism.Unavailable, "with Shift"},
		{sample.Launch(0, "F6", chart), mechanism.Limited, "with Fn held"},
		{sample.Launch(0, "F13", chart), mechanism.Limited, "Services menu"},
		{sample.Launch(0, "Home", chart), mechanism.Unavailable, "only with"},
		{sample.Launch(keys.Hyper, "KeyT", chart), mechanism.Unavailable, "not Hyper"},
		{sample.Launch(keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"/bin/a\x01"}}), mechanism.Unavailable, "control character"},
		{sample.Act(keys.Ctrl, "KeyT", "close"), mechanism.Unavailable, ""},
	} {
		got := services.Mechanism{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words, c.binding.String())
	}
}

// The line of a quick action, as a second parser of property lists reads it, starts under a real shell
// just the words that were meant, in the folder that was meant; a question comes before them.
func TestLineIsRun(t *testing.T) {
	realtest.NeedFile(t, "/usr/bin/python3", "python3")
	dir := t.TempDir()
	recorder := filepath.Join(dir, "recorder")
	require.NoError(t, os.WriteFile(recorder, []byte("#!/bin/sh\npwd\nprintf '%s|' \"$@\"\n"), 0o755))
	asks := filepath.Join(dir, "osascript")
	require.NoError(t, os.WriteFile(asks, []byte("#!/bin/sh\necho \"asked: $2\"\n"), 0o755))
	b := sample.Launch(keys.Ctrl|keys.Alt, "KeyG", behaviour.Launch{
		Command: []string{recorder, sample.Nasty, "", "~/log"}, Dir: dir, Confirm: true,
	})
	out, err := mechanism.Write(services.Mechanism{}, sample.Mac("de"), []behaviour.Binding{b})
	require.NoError(t, err)
	var document []byte
	for _, f := range out.Files() {
		if strings.HasSuffix(f.Path, "document.wflow") {
			document = f.Data
		}
	}
	file := filepath.Join(dir, "document.wflow")
	require.NoError(t, os.WriteFile(file, document, 0o644))
	line, _ := realtest.Output(
		t,
		"/usr/bin/python3",
		"-c",
		"import plistlib,sys; d=plistlib.load(open(sys.argv[1],'rb'));"+
			"print(d['actions'][0]['action']['ActionParameters']['COMMAND_STRING'],end='')",
		file,
	)
	cmd := exec.Command("sh", "-c", line)
	cmd.Env = []string{"PATH=" + dir + ":" + os.Getenv("PATH"), "HOME=/home/tide"}
	said, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s", said)
	text := string(said)
	assert.Contains(t, text, "asked: display dialog \"Start "+recorder)
	assert.True(t, strings.HasSuffix(text, dir+"\n"+sample.Nasty+"||/home/tide/log|"), text)
}

// A quick action that was changed by hand is read as what it does now, or refused.
func TestReadsWhatIsThere(t *testing.T) {
	m := sample.Mac("us")
	out, err := mechanism.Write(services.Mechanism{}, m, []behaviour.Binding{
		sample.Launch(keys.Ctrl|keys.Alt, "KeyG", behaviour.Launch{Open: "https://tides.example"}),
	})
	require.NoError(t, err)
	for _, c := range []struct{ in, old, new, want string }{
		{"pbs.plist", "^", "@", "Alt+Meta+KeyG opens https://tides.example"},
		{"pbs.plist", "~^g", "", ""},
		{"pbs.plist", "~^g", "^€", "no key of this machine"},
		{"pbs.plist", "<true/>", "<false/>", ""},
		{"Info.plist", "runWorkflow", "run", "no quick action"},
		{"document.wflow", "exec /usr/bin/open", "open", "runs the line open"},
		{"document.wflow", "/bin/sh", "/bin/false", "no line of shell"},
		{"document.wflow", "servicesMenu", "application", "no quick action"},
		{"document.wflow", "<plist", "<list", "document.wflow"},
	} {
		fsys := filesOf(out)
		for name, f := range fsys {
			if strings.HasSuffix(name, c.in) {
				require.Contains(t, string(f.Data), c.old)
				f.Data = []byte(strings.ReplaceAll(string(f.Data), c.old, c.new))
			}
		}
		got, err := services.Mechanism{}.Read(m, fsys)
		said := ""
		if err != nil {
			said = err.Error()
		}
		for _, b := range got {
			said += b.String()
		}
		assert.Contains(t, said, c.want)
		assert.Equal(t, c.want == "", said == "", said)
	}
}

// Identifiers are stable, and differ by what they are of.
func TestIdentifiers(t *testing.T) {
	seen := map[string]bool{}
	out, err := mechanism.Write(services.Mechanism{}, sample.Mac("us"), []behaviour.Binding{
		sample.Launch(keys.Ctrl, "KeyG", behaviour.Launch{Open: "https://tides.example"}),
		sample.Launch(keys.Ctrl, "KeyH", behaviour.Launch{Open: "https://tides.example"}),
	})
	require.NoError(t, err)
	for _, f := range out.Files() {
		if !strings.HasSuffix(f.Path, "document.wflow") {
			continue
		}
		var d struct {
			Actions []struct {
				Action struct{ UUID, InputUUID, OutputUUID string } `plist:"action"`
			} `plist:"actions"`
		}
		_, err := plist.Unmarshal(f.Data, &d)
		require.NoError(t, err)
		a := d.Actions[0].Action
		for _, id := range []string{a.UUID, a.InputUUID, a.OutputUUID} {
			assert.Regexp(t, `^[0-9A-F]{8}-[0-9A-F]{4}-8[0-9A-F]{3}-[89AB][0-9A-F]{3}-[0-9A-F]{12}$`, id)
			assert.False(t, seen[id])
			seen[id] = true
		}
	}
	assert.Len(t, seen, 6)
}

func FuzzRead(f *testing.F) {
	m := sample.Mac("de")
	out, err := mechanism.Write(services.Mechanism{}, m, []behaviour.Binding{
		sample.Launch(keys.Ctrl, "KeyG", behaviour.Launch{Open: "https://tides.example"}),
	})
	require.NoError(f, err)
	for n := range out.Files() {
		f.Add(n, out.Files()[n].Data)
	}
	f.Fuzz(func(t *testing.T, n int, data []byte) {
		fsys := filesOf(out)
		if n >= 0 && n < len(out.Files()) {
			fsys[out.Files()[n].Path] = &fstest.MapFile{Data: data}
		}
		_, _ = services.Mechanism{}.Read(m, fsys)
	})
}
