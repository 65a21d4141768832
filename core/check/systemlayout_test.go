package check_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/sample"
)

// What a library of the system's says is what its keys type: a character is found where it is there, a layout of ours
// is made of it, and the folder says by itself what it was made of.
func TestSystemLayouts(t *testing.T) {
	const text = `
machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  layout_library = true
  system_layouts = { de = "kbdgr.dll" }
}
remap "KeyJ" { to = "ĳ" }
layer "signs" {
  while = "ControlRight"
  keys = { KeyE = "€" }
}
disable "Ctrl+Alt+KeyP" { allow = ["unavailable"] }
`
	fsys := fstest.MapFS{"m.hcl": {Data: []byte(text)}, "kbdgr.dll": {Data: sample.SystemLibrary(t)}}
	mp, diags, err := mapping.Load(fsys, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	r, err := check.Mapping(mp, check.Here{}, nil)
	require.NoError(t, err)
	require.False(t, r.Findings.HasErrors(), "%v", r.Findings)
	assert.Zero(t, r.Proof.Unexplained)
	b := r.Builds[0]
	x, _ := b.Machine.Layouts[0].Type(keys.TypeState{}, sample.Key("KeyX"), 0)
	assert.Equal(t, "y", x)
	assert.Equal(t, "limited: under a layout that is added beside yours",
		b.Landings[0].Verdict().String()+": "+b.Landings[0].Why().String())
	m, got, err := compile.ReadFolder(mechanism.Folder(b.Folder()))
	require.NoError(t, err)
	assert.True(t, m.Layouts[0].Own())
	assert.Equal(t, `KeyJ types "ĳ"`, got.Bindings[0].String())
}

func TestWrongSystemLayouts(t *testing.T) {
	for lines, want := range map[string]string{
		`system_layouts = { de = "none.dll" }`:                                              `"none.dll" cannot be read as a keyboard layout: there is no such file`,
		`system_layouts = { de = "../kbdgr.dll" }`:                                          "leads out of the mapping's folder",
		`system_layouts = { de = "m.hcl" }`:                                                 "cannot be read as a keyboard layout",
		`system_layouts = { de = "large.dll" }`:                                             "it is larger than 1024 kB",
		`system_layouts = { fr = "kbdgr.dll" }`:                                             `"fr" is none of the machine's layouts`,
		"layouts = [\"us(colemak)\"]\nsystem_layouts = { \"us(colemak)\" = \"kbdgr.dll\" }": `no layout of Windows called "us(colemak)" is known`,
	} {
		if lines[0] == 's' {
			lines = "layouts = [\"de\"]\n" + lines
		}
		text := "machine \"lab\" {\n  system = \"windows\"\n" + lines + "\n}\nremap \"CapsLock\" { to = \"Escape\" }\n"
		fsys := fstest.MapFS{
			"m.hcl": {Data: []byte(text)}, "kbdgr.dll": {Data: sample.SystemLibrary(t)}, "large.dll": {Data: make([]byte, 2<<20)},
		}
		_, diags, err := mapping.Load(fsys, "m.hcl", "")
		require.NoError(t, err)
		require.Len(t, diags, 1, lines)
		assert.Contains(t, diags[0].Summary, want)
	}
}
