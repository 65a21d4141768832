package station_test

import (
	"bufio"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/station"
	"leitstand/examples"
)

var record = flag.Bool("record", false, "add presses that examples have gained to what they mean")

// What the presses of the examples did when they were recorded they still do. What does something
// else now has a line in the file of changes, which says why: "EXAMPLE/MACHINE: PRESS = WHAT IT
// DOES | WHY".
func TestMappingsKeepTheirMeaning(t *testing.T) {
	const recorded, changes = "testdata/meaning.txt", "testdata/changes.txt"
	now := meanings(t)
	meant := lines(t, recorded)
	if *record {
		text := strings.Join(meant, "\n")
		for _, line := range now {
			press, _, _ := strings.Cut(line, " = ")
			if !slices.ContainsFunc(meant, func(m string) bool { return strings.HasPrefix(m, press+" = ") }) {
				text += "\n" + line
			}
		}
		require.NoError(t, os.WriteFile(recorded, []byte(strings.TrimSpace(text)+"\n"), 0o644))
		meant = lines(t, recorded)
	}
	changed := map[string]string{}
	for _, line := range lines(t, changes) {
		is, why, ok := strings.Cut(line, " | ")
		require.True(t, ok && why != "", "%s says no reason", line)
		press, does, _ := strings.Cut(is, " = ")
		changed[press] = does
	}
	does := map[string]string{}
	for _, line := range now {
		press, what, _ := strings.Cut(line, " = ")
		does[press] = what
	}
	require.Greater(t, len(meant), 150)
	for _, line := range meant {
		press, what, _ := strings.Cut(line, " = ")
		if new, ok := changed[press]; ok {
			what = new
		}
		assert.Equal(t, what, does[press], "%s means something else: if that is meant, say so in %s", press, changes)
	}
}

// meanings are the presses of all examples on all of their machines, as they land.
func meanings(t *testing.T) []string {
	t.Helper()
	var list []string
	dirs, err := fs.ReadDir(examples.Files, ".")
	require.NoError(t, err)
	for _, d := range dirs {
		if !d.IsDir() {
			continue
		}
		files, err := fs.Sub(examples.Files, d.Name())
		require.NoError(t, err)
		mp, diags, err := mapping.Load(files, mappingIn(t, files), "")
		require.NoError(t, err)
		require.False(t, diags.HasErrors(), "%v", diags)
		builds, _, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		for _, b := range builds {
			s, err := station.Of(mp, b)
			require.NoError(t, err)
			for _, e := range s.Meant() {
				list = append(list, fmt.Sprintf("%s/%s: %s = %s", d.Name(), b.Machine.Name, e.Press(), e.Effect))
			}
		}
	}
	slices.Sort(list)
	return list
}

func mappingIn(t *testing.T, files fs.FS) string {
	t.Helper()
	found, err := fs.Glob(files, "*.hcl")
	require.NoError(t, err)
	require.NotEmpty(t, found)
	return found[0]
}

func lines(t *testing.T, path string) []string {
	t.Helper()
	f, err := os.Open(path)
	if os.IsNotExist(err) && *record {
		return nil
	}
	require.NoError(t, err)
	defer f.Close()
	var list []string
	for s := bufio.NewScanner(f); s.Scan(); {
		if line := s.Text(); line != "" && !strings.HasPrefix(line, "#") {
			list = append(list, line)
		}
	}
	return list
}
