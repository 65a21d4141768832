package imports_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/imports"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/sample"
)

// What the system's own libraries say of layouts comes back with them: the mapping names files beside it, each
// once, and an own one for a machine whose library is another. Where there is no folder for them, it is said.
func TestLibrariesComeBack(t *testing.T) {
	library := sample.SystemLibrary(t)
	const text = `machine %q {
  system         = "windows"
  layouts        = ["de"]
  layout_library = true
  system_layouts = { de = %q }
}
`
	files := mechanism.Folder{
		{Path: "one.dll", Data: library}, {Path: "two.dll", Data: bytes.Replace(library, []byte("y"), []byte("z"), 1)},
	}
	for name, other := range map[string]string{"one.dll": "de.dll", "two.dll": "lab-de.dll"} {
		whole := fmt.Sprintf(text, "lab", "one.dll") + fmt.Sprintf(text, "office", name) + "remap \"KeyJ\" { to = \"ĳ\" }\n"
		mp, diags, err := mapping.Load(append(files, mechanism.File{Path: "m.hcl", Data: []byte(whole)}), "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags)
		builds, _, err := compile.All(mp, here, nil)
		require.NoError(t, err)
		got, err := imports.Files([]imports.Path{{FS: folder(builds), Name: ".", Shown: "compiled"}}, here, nil)
		require.NoError(t, err)
		over, left, err := got.Text()
		require.NoError(t, err)
		assert.Empty(t, left)
		assert.Contains(t, string(over), fmt.Sprintf("system_layouts = { de = %q }", other))
		beside := mechanism.Folder(got.Libraries())
		again, diags, err := mapping.Load(append(beside, mechanism.File{Path: "m.hcl", Data: over}), "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags, "%s", over)
		anew, _, err := compile.All(again, here, nil)
		require.NoError(t, err)
		for i := range anew {
			assert.Empty(t, changes(t, folder(builds[i:i+1]), anew[i]), "%s", over)
		}
		got.LeaveLibraries()
		over, left, err = got.Text()
		require.NoError(t, err)
		assert.NotContains(t, string(over), "system_layouts")
		assert.Len(t, left, 2)
		assert.Empty(t, got.Libraries())
	}
}

// A first mapping on Windows names the libraries of the system.
func TestFirstOnWindows(t *testing.T) {
	library := sample.SystemLibrary(t)
	m := sample.Machine(mapping.Machine{System: mapping.Windows, Layouts: []string{"de"}}).Machine
	m.Name = "lab"
	l, err := keys.LayoutOfLibrary("de", library)
	require.NoError(t, err)
	m.Own = []machine.OwnLayout{{Layout: l, File: library}}
	got, err := imports.First(nil, m, nil)
	require.NoError(t, err)
	text, left, err := got.Text()
	require.NoError(t, err)
	assert.Empty(t, left)
	assert.Equal(t, `version = 1

machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  system_layouts = { de = "de.dll" }
}
`, string(text))
}
