package compare_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/compare"
	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/examples"
	"leitstand/internal/sample"
)

func load(t *testing.T, text string) *mapping.Mapping {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	return mp
}

func TestMappings(t *testing.T) {
	const base = `
machine "office" { system = "linux" }
machine "lab" { system = "windows" }
`
	for _, c := range []struct{ before, after, want string }{
		{`remap "CapsLock" { to = "Escape" }`, `keys = { capslock = "Escape" } # the same`, ""},
		{`remap "CapsLock" { to = "Escape" }`, `remap "CapsLock" { to = "Tab" }`, "changed remap CapsLock [to " +
			"Escape] [to Tab]"},
		{``, `disable "Insert" {}`, "added disable Insert [] []"},
		{`disable "Insert" "Pause" {}`, `disable "Pause" {}`, "removed disable Insert [] []"},
		{`swap "AltLeft" "MetaLeft" {}`, `swap "MetaLeft" "AltLeft" {}`, ""},
		{`disable "Insert" {}`, `disable "Insert" { on = "linux" }`, `moved disable Insert "" to "linux"`},
		{"on \"linux\" \"lab\" {\n disable \"Insert\" {}\n}", `disable "Insert" { on = ["lab", "linux"] }`, ""},
		{"launch \"Ctrl+t\" {\n run = \"a\"\n why = \"x\"\n}", `launch "ctrl+t" { run = ["a", "b"] }`,
			`changed launch Ctrl+t [run "a" why "x"] [run "a" "b"]`},
		{"remap \"Tab\" {\n to = \"Escape\"\n on = \"linux\"\n}\nremap \"Tab\" {\n to = \"F1\"\n on = \"lab\"\n}",
			"remap \"Tab\" {\n to = \"F1\"\n on = \"lab\"\n}\nremap \"Tab\" {\n to = \"F2\"\n on = \"linux\"\n}",
			"changed remap Tab [to Escape] [to F2]"},
	} {
		var lines []string
		for _, d := range compare.Mappings(load(t, base+c.before), load(t, base+c.after)) {
			if d.Kind == compare.Moved {
				lines = append(lines, fmt.Sprintf("%s %s %q to %q", d.Kind, d.Subject, d.From, d.To))
				continue
			}
			lines = append(lines, fmt.Sprintf("%s %s %v %v", d.Kind, d.Subject, d.Before, d.After))
		}
		assert.Equal(t, c.want, strings.Join(lines, "\n"), "%s\n%s", c.before, c.after)
	}
	d := compare.Mappings(load(t, base), load(t, strings.Replace(base, `"windows"`, `"macos"`, 1)))
	require.Len(t, d, 1)
	assert.Equal(t, "machine lab", d[0].Subject)
	assert.Equal(t, []string{"system windows"}, d[0].Before)
}

// Whatever was just compiled is the same.
func TestCompiledIsTheSame(t *testing.T) {
	sample.Anew(t, 100)
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Valid(t)
		builds, diags, err := compile.All(d.Mapping, nil, nil)
		require.NoError(t, err)
		require.False(t, diags.HasErrors(), "%v", diags)
		fsys := fstest.MapFS{}
		for _, b := range builds {
			for _, f := range b.Folder() {
				fsys[b.Machine.Name+"/"+f.Path] = &fstest.MapFile{Data: f.Data}
			}
		}
		list, err := compare.Folder(fsys, builds)
		require.NoError(t, err)
		for _, m := range list {
			if !m.Same() {
				t.Fatalf("%s: %v\n%s", m.Machine, m.Presses, d.Text)
			}
		}
	})
}

func builds(t *testing.T, text string) []*compile.Build {
	t.Helper()
	list, diags, err := compile.All(load(t, text), nil, nil)
	require.NoError(t, err)
	require.False(t, diags.HasErrors())
	return list
}

func folder(list []*compile.Build) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, b := range list {
		for _, f := range b.Folder() {
			fsys[b.Machine.Name+"/"+f.Path] = &fstest.MapFile{Data: f.Data}
		}
	}
	return fsys
}

// A compiled folder is told by what its presses do now.
func TestFolder(t *testing.T) {
	text := string(examples.TideOffice)
	was := folder(builds(t, text))
	assert.True(t, compare.IsCompiled(was))
	assert.False(t, compare.IsCompiled(fstest.MapFS{"a/b": {}}))

	same, err := compare.Folder(was, builds(t, text))
	require.NoError(t, err)
	for _, d := range same {
		assert.True(t, d.Same(), d.Machine)
	}

	changed := strings.Replace(text, `ContextMenu = "MetaRight"`, `ContextMenu = "F13"`, 1)
	delete(was, "tablet/machine.json")
	was["gone/machine.json"] = &fstest.MapFile{Data: []byte("{}")}
	was["mess/xkb/keymap.xkb"] = &fstest.MapFile{Data: []byte("xkb_keymap { nonsense")}
	was["lab/extra.txt"] = &fstest.MapFile{Data: []byte("mine\n")}
	list, err := compare.Folder(was, builds(t, changed))
	require.NoError(t, err)
	got := map[string]compare.MachineDifference{}
	for _, d := range list {
		got[d.Machine] = d
	}
	assert.True(t, got["tablet"].Missing)
	assert.True(t, got["gone"].Unknown)
	assert.Contains(t, got["mess"].Broken, "xkb/keymap.xkb:1:")
	assert.True(t, got["vessel"].Same())
	require.Len(t, got["lab"].Presses, 1)
	p := got["lab"].Presses[0]
	assert.Equal(
		t, "ContextMenu acts as MetaRight acts as F13",
		p.Place.Chord.String()+" "+p.Before.String()+" "+p.After.String(),
	)
	files := map[string]compare.FileDifference{}
	for _, f := range got["lab"].Files {
		files[f.Path] = f
	}
	assert.Equal(t, compare.Removed, files["extra.txt"].Kind)
	assert.Contains(t, files["scancodemap/leitstand.reg"].Unified, "00,64,00,5d")
	assert.Len(t, files, 2)
}
