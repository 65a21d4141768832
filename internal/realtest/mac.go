package realtest

import (
	"bytes"
	_ "embed"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// The stand-ins for programs of macOS.
//
//go:embed testdata/mac.py
var macPrograms []byte

// standIns are the programs that Mac has, and where scripts call them by their whole path.
var standIns = map[string]string{
	"defaults": "/usr/bin/defaults", "plutil": "/usr/bin/plutil", "hidutil": "/usr/bin/hidutil",
	"launchctl":        "/bin/launchctl",
	"pbs":              "/System/Library/CoreServices/pbs",
	"activateSettings": "/System/Library/PrivateFrameworks/SystemAdministration.framework/Resources/activateSettings",
	"PlistBuddy":       "/usr/libexec/PlistBuddy",
}

// Mac runs scripts for macOS: a shell as it is, with stand-ins that have state for what only a Mac has.
type Mac struct {
	Home string
	root string // in the place of /Library
	bin  string
	t    testing.TB
}

// NewMac makes a Mac on which nobody has set anything.
func NewMac(t testing.TB) *Mac {
	t.Helper()
	NeedFile(t, "/usr/bin/python3", "python3")
	dir := t.TempDir()
	m := &Mac{filepath.Join(dir, "home"), filepath.Join(dir, "root"), filepath.Join(dir, "bin"), t}
	for _, d := range []string{m.Home, m.root, m.bin, filepath.Join(dir, "state")} {
		require.NoError(t, os.Mkdir(d, 0o755))
	}
	program := filepath.Join(dir, "mac.py")
	require.NoError(t, os.WriteFile(program, macPrograms, 0o644))
	for name := range standIns {
		script := "#!/bin/sh\nMAC_STATE='" + dir + "/state' exec /usr/bin/python3 '" + program + "' " + name + " \"$@\"\n"
		require.NoError(t, os.WriteFile(filepath.Join(m.bin, name), []byte(script), 0o755))
	}
	for name, does := range map[string]string{"sudo": `exec "$@"`, "chown": "exit 0"} {
		require.NoError(t, os.WriteFile(filepath.Join(m.bin, name), []byte("#!/bin/sh\n"+does+"\n"), 0o755))
	}
	return m
}

// shared is a folder that all users of a Mac share, where no ~ stands before it.
var shared = regexp.MustCompile(`(^|[\s'"=])/Library/`)

// Command is a script of a folder for that Mac.
func (m *Mac) Command(dir, script string, env ...string) *exec.Cmd {
	script = m.here(script)
	cmd := exec.Command("sh", "-e", "-c", script)
	cmd.Dir = dir
	cmd.Env = append(append(os.Environ(), "HOME="+m.Home, "PATH="+m.bin+":"+os.Getenv("PATH")), env...)
	return cmd
}

// here has a script call the stand-ins.
func (m *Mac) here(script string) string {
	for name, at := range standIns {
		script = strings.ReplaceAll(script, at, filepath.Join(m.bin, name))
	}
	return shared.ReplaceAllString(script, "${1}"+m.root+"/Library/")
}

// Run runs a script in a folder and returns what it prints.
func (m *Mac) Run(dir, script string, env ...string) string {
	m.t.Helper()
	out, err := m.Command(dir, script, env...).CombinedOutput()
	require.NoError(m.t, err, "%s\n%s", script, out)
	return string(out)
}

// Ask runs a script that may fail, and returns what it prints.
func (m *Mac) Ask(dir, script string) (said string, holds bool) {
	out, err := m.Command(dir, "set +e\n"+script).CombinedOutput()
	return string(out), err == nil
}

// Has is all that the Mac has, by its place: files, and the states of its programs as the texts of
// property lists; what Leitstand saves is left out.
func (m *Mac) Has() map[string]string {
	m.t.Helper()
	has := map[string]string{}
	top := filepath.Dir(m.bin)
	require.NoError(m.t, filepath.WalkDir(top, func(path string, d fs.DirEntry, err error) error {
		rel, _ := filepath.Rel(top, path)
		if err != nil || d.IsDir() || strings.HasPrefix(rel, "bin/") || rel == "mac.py" || rel == "state/told" ||
			strings.Contains(rel, "Application Support/Leitstand") {
			return err
		}
		text, err := os.ReadFile(path)
		if strings.HasPrefix(rel, "state/") {
			out, _ := Output(m.t, "/usr/bin/python3", "-c",
				"import plistlib,sys;print(plistlib.load(open(sys.argv[1],'rb')))", path)
			if text = []byte(out); out == "{}\n" {
				return err
			}
		}
		has[rel] = string(text)
		return err
	}))
	return has
}

// Plget is the value of a key in a property list, as GNUstep's own parser reads it and spells it.
func Plget(t testing.TB, text []byte, key string) []byte {
	t.Helper()
	Need(t, "plget", "gnustep-base-runtime")
	cmd := exec.Command("plget", key)
	cmd.Stdin = bytes.NewReader(text)
	out, err := cmd.Output()
	require.NoError(t, err, "%s", text)
	return out
}

//go:embed testdata/keyboard.dtd
var keyboardType []byte

// ValidateKeyLayout has a validating parser of XML 1.1 read a keyboard layout of macOS, against a document
// type in our own words.
func ValidateKeyLayout(t testing.TB, text []byte) {
	t.Helper()
	Need(t, "SAX2Count", "libxerces-c-samples")
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "keyboard.dtd"), keyboardType, 0o600))
	const system = "file://localhost/System/Library/DTDs/KeyboardLayout.dtd"
	require.Contains(t, string(text), system)
	file := filepath.Join(dir, "layout.xml")
	text = bytes.Replace(text, []byte(system), []byte(filepath.Join(dir, "keyboard.dtd")), 1)
	require.NoError(t, os.WriteFile(file, text, 0o600))
	out, err := exec.Command("SAX2Count", "-v=always", file).CombinedOutput()
	require.NoError(t, err, "%s", out)
	require.NotContains(t, strings.ToLower(string(out)), "error", "%s", out)
}
