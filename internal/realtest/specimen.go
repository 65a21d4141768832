package realtest

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// Specimen is a component's native files, and what keys did when they were pressed under them: one
// folder of testdata/components, which anybody can use who reads or writes such files.
type Specimen struct {
	Component string          `json:"component"`
	Version   string          `json:"version"`
	Layouts   []string        `json:"layouts,omitempty"` // by their XKB names
	Files     []string        `json:"files"`             // beside this one
	Presses   []SpecimenPress `json:"presses"`
}

// SpecimenPress is keys that go down one after the other and up again, by their W3C codes, and what
// came of it.
type SpecimenPress struct {
	Keys    []string `json:"keys"`
	Board   string   `json:"board,omitempty"`   // bus:vendor:product, where that matters
	Codes   []int    `json:"codes,omitempty"`   // the event codes that a driver gave
	Typed   string   `json:"typed,omitempty"`   // what a program on a text console was given
	Console int      `json:"console,omitempty"` // the console that came to the front
}

// Keep writes a specimen into the folder that LEITSTAND_COMPONENTS names, when the test has passed;
// nothing where it names none.
func (s Specimen) Keep(t testing.TB, name string, files map[string][]byte) {
	t.Helper()
	root := os.Getenv("LEITSTAND_COMPONENTS")
	if root == "" {
		return
	}
	t.Cleanup(func() {
		if t.Failed() || t.Skipped() {
			return
		}
		dir := filepath.Join(root, name+"-"+s.Version)
		require.NoError(t, os.MkdirAll(dir, 0o755))
		text, err := json.MarshalIndent(s, "", "  ")
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "specimen.json"), append(text, '\n'), 0o644))
		for file, data := range files {
			require.NoError(t, os.WriteFile(filepath.Join(dir, file), data, 0o644))
		}
	})
}

// Specimens are those of a kind that testdata/components holds, by their folders.
func Specimens(t testing.TB, root, kind string) map[string]Specimen {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(root, "testdata/components", kind+"-*", "specimen.json"))
	require.NoError(t, err)
	require.NotEmpty(t, found, "make record writes them")
	list := map[string]Specimen{}
	for _, path := range found {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		var s Specimen
		require.NoError(t, json.Unmarshal(text, &s))
		list[filepath.Dir(path)] = s
	}
	return list
}
