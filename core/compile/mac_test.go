package compile_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"howett.net/plist"
	"pgregory.net/rapid"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/examples"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// A Mac's steps, taken by a shell with stand-ins for its programs, leave the machine as the script that
// asks it wants it; taken back, it is as it was, but for what the event system keeps as an empty list.
func TestStepsOnMac(t *testing.T) {
	_, builds, _ := build(t, string(examples.TideOffice))
	for _, b := range builds {
		if b.Machine.System == machine.MacOS {
			stepsOnMac(t, b)
		}
	}
	sample.Anew(t, 30)
	rapid.Check(t, func(r *rapid.T) {
		builds, _, err := compile.All(sample.Valid(r).Mapping, nil, nil)
		require.NoError(t, err)
		for _, b := range builds {
			if b.Machine.System == machine.MacOS && len(b.Changes()) > 0 {
				stepsOnMac(t, b)
				require.False(r, t.Failed())
			}
		}
	})
}

func stepsOnMac(t testing.TB, b *compile.Build) {
	t.Helper()
	mac, dir := realtest.NewMac(t), t.TempDir()
	require.NoError(t, writeFolder(dir, []*compile.Build{b}))
	dir = filepath.Join(dir, b.Machine.Name)
	ask, err := os.ReadFile(filepath.Join(dir, compile.AskFile))
	require.NoError(t, err)
	lines := func(steps []change.Step) (script string) {
		for _, s := range steps {
			script += strings.Join(s.Lines, "\n") + "\n"
		}
		return script
	}
	secondParser(t, dir)
	forth, back := change.Steps(slices.DeleteFunc(b.Changes(), func(c change.Change) bool {
		_, byHand := c.(change.Hand)
		return byHand
	}))
	had := mac.Has()
	mac.Run(dir, lines(forth))
	said, holds := mac.Ask(dir, string(ask))
	assert.True(t, holds, said)
	mac.Run(dir, lines(back))
	if said, holds = mac.Ask(dir, string(ask)); strings.Contains(said, "holds ") ||
		strings.Contains(said, "not there ") {
		assert.False(t, holds, said)
		assert.NotContains(t, said, "holds ")
	}
	has := mac.Has()
	delete(has, "state/hid.plist")
	assert.Equal(t, had, has)
}

// secondParser has a second parser read every property list of a folder: Python's those in XML, GNUstep's
// those in the old form, which it gives back with the same names in them. Keyboard layouts are validated.
func secondParser(t testing.TB, dir string) {
	t.Helper()
	var xml []string
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || !slices.Contains([]string{".plist", ".dict", ".wflow", ".keylayout"}, filepath.Ext(path)) {
			return err
		}
		text, err := os.ReadFile(path)
		if filepath.Ext(path) == ".keylayout" {
			realtest.ValidateKeyLayout(t, text)
			return err
		}
		if strings.HasPrefix(string(text), "<?xml") {
			xml = append(xml, path)
			return err
		}
		var first map[string]any
		if _, err := plist.Unmarshal(text, &first); err != nil {
			return err
		}
		for name, want := range first {
			var second any
			_, err := plist.Unmarshal(realtest.Plget(t, text, name), &second)
			require.NoError(t, err)
			assert.Equal(t, want, second, path)
		}
		return err
	}))
	if len(xml) > 0 {
		realtest.Output(t, "/usr/bin/python3", append([]string{"-c",
			"import plistlib,sys\nfor p in sys.argv[1:]: plistlib.load(open(p,'rb'))"}, xml...)...)
	}
}
