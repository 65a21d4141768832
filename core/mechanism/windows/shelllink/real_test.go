package shelllink_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/shelllink"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func machine(layout string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{Name: "lab", System: mapping.Windows, Layouts: []string{layout}})
}

const ctrlAlt = keys.Ctrl | keys.Alt

// Wine's own IShellLink reads back the program, its arguments, the folder and
// the hotkey.
func TestReadByShellLink(t *testing.T) {
	wine := realtest.NewWine(t)
	dir := wine.Path("links")
	require.NoError(t, os.Mkdir(dir, 0o755))
	reader := filepath.Join(dir, "readlink.exe")
	build := exec.Command("go", "build", "-o", reader, "./testdata/readlink")
	build.Env = append(os.Environ(), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	require.NoError(t, err, "%s", out)

	const program = `C:\Program Files\Tidegauge Süderhaff\tidegauge.exe`
	for _, c := range []struct {
		binding mechanism.Binding
		layout  string
		path    string
		args    string
		hotkey  int
	}{
		{sample.Launch(ctrlAlt, "KeyG", behaviour.Launch{Command: []string{program, "--station", "Süderhaff 3"}, Dir: `C:\Log files\2026`}),
			"de", program, `--station "Süderhaff 3"`, 0x0647},
		{sample.Launch(ctrlAlt, "KeyZ", behaviour.Launch{Command: []string{program, "", `a "b" c\`, `d e\\`, `%PATH%`}}),
			"de", program, `"" "a \"b\" c\\" "d e\\\\" %PATH%`, 0x0659},
		{sample.Launch(ctrlAlt|keys.Shift, "F9", behaviour.Launch{Command: []string{`D:\x.exe`}}), "us", `D:\x.exe`, "", 0x0778},
		{sample.Launch(keys.Ctrl, "Digit7", behaviour.Launch{Command: []string{"wt", "-d", "C:\\Log files"}}),
			"fr", `C:\Windows\System32\cmd.exe`, `/d /c start "" wt -d "C:\Log files"`, 0x0237},
	} {
		m := machine(c.layout)
		require.Equal(t, mechanism.Limited, shelllink.Mechanism{}.Take(m, c.binding).Verdict, c.binding.String())
		written, err := mechanism.Write(shelllink.Mechanism{}, m, []mechanism.Binding{c.binding})
		require.NoError(t, err)
		require.Len(t, written.Files(), 1)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "one.lnk"), written.Files()[0].Data, 0o644))
		var got struct {
			Path, IDPath, Arguments, Dir, Description string
			Hotkey                                    int
		}
		require.NoError(t, json.Unmarshal([]byte(wine.Run(`C:\links\readlink.exe`, `C:\links\one.lnk`)), &got))
		assert.Equal(t, c.path, got.Path)
		assert.Equal(t, c.path, got.IDPath)
		assert.Equal(t, c.args, got.Arguments)
		assert.Equal(t, c.binding.Effect.Launch().Dir, got.Dir)
		assert.Equal(t, c.hotkey, got.Hotkey, "%04x", got.Hotkey)
		assert.Equal(t, "Leitstand: "+c.binding.Chord.String(), got.Description)
	}
}

// A second parser of the open format agrees. Of the public ones, exiftool is
// right about letters and digits; lnkinfo 20181227 prints the file's size where
// the hotkey should be, so it cannot be asked.
func TestReadByExiftool(t *testing.T) {
	realtest.Need(t, "exiftool", "libimage-exiftool-perl")
	m := machine("de")
	written, err := mechanism.Write(
		shelllink.Mechanism{},
		m,
		[]mechanism.Binding{
			sample.Launch(
				ctrlAlt,
				"KeyY",
				behaviour.Launch{Command: []string{`C:\gauge\tidegauge.exe`, "--now"}, Dir: `C:\gauge`},
			),
		},
	)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "one.lnk")
	require.NoError(t, os.WriteFile(path, written.Files()[0].Data, 0o644))
	out, _ := realtest.Output(t, "exiftool", "-s", path)
	fields := map[string]string{}
	for line := range strings.Lines(out) {
		if name, value, ok := strings.Cut(line, ":"); ok {
			fields[strings.TrimSpace(name)] = strings.TrimSpace(value)
		}
	}
	assert.Equal(t, "Control-Alt-Z", fields["HotKey"], "KeyY types z under the German layout")
	assert.Equal(t, `C:\gauge\tidegauge.exe`, fields["LocalBasePath"])
	assert.Equal(t, "--now", fields["CommandLineArguments"])
	assert.Equal(t, `C:\gauge`, fields["WorkingDirectory"])
	assert.Equal(t, "Normal", fields["RunWindow"])
}

// A path with a variable stands in a block of its own.
func TestVariablePathReadByExiftool(t *testing.T) {
	realtest.Need(t, "exiftool", "libimage-exiftool-perl")
	const program = `%LOCALAPPDATA%\Microsoft\WindowsApps\wt.exe`
	written, err := mechanism.Write(
		shelllink.Mechanism{}, machine("de"),
		[]mechanism.Binding{sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{program}})},
	)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "one.lnk")
	require.NoError(t, os.WriteFile(path, written.Files()[0].Data, 0o644))
	out, _ := realtest.Output(t, "exiftool", "-s", "-v2", path)
	assert.Contains(t, out, "EnvVarData")
	assert.Contains(t, out, "Tag 0xa0000001 (788 bytes)")
}
