package mapping_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mapping"
)

func files(list map[string]string) fstest.MapFS {
	fsys := fstest.MapFS{}
	for name, text := range list {
		fsys[name] = &fstest.MapFile{Data: []byte(text)}
	}
	return fsys
}

// The names of a group's file are its own, unless the group shares them.
func TestNamesOfGroupFiles(t *testing.T) {
	m, diags, err := mapping.Load(files(map[string]string{
		"m.hcl": `version = 1
app "terminal" { linux = "xterm" }
let {
  chord = "F1"
  word  = "outer"
}
modifier "Go" { other = "Ctrl" }
keys = {
  F20        = { app = "terminal" }
  (let.move) = { app = "plotter" }
}
launch "Run+F21" { run = let.word }
group "launchers" {
  file   = "launchers.hcl"
  shares = ["plotter", "move", "Run"]
}
launch "Go+F22" { app = "terminal" }
`,
		"launchers.hcl": `version = 1
app "terminal" { linux = "konsole" }
app "plotter" { linux = "plot" }
let {
  chord = "F2"
  move  = "Ctrl+F3"
}
modifier "Go" { other = "Alt" }
modifier "Run" { other = "Meta" }
keys = {
  (let.chord) = { run = let.word }
  "Go+F4"     = { run = "x" }
}
launch "F5" { app = "terminal" }
group "inner" { file = "sub/inner.hcl" }
`,
		"sub/inner.hcl": `let { chord = "F6" }
keys = { (let.chord) = { app = "plotter" } }
`,
	}), "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, said(diags))
	var got []string
	for _, r := range m.Rules {
		got = append(got, mapping.Title(r))
		l := r.(*mapping.Launch)
		if l.App.Value == "terminal" {
			a, ok := m.App("terminal", l.App.Range.File)
			require.True(t, ok)
			got[len(got)-1] += " = " + a.Commands[mapping.Linux][0].Value
		}
	}
	assert.Equal(t, []string{"launch F20 terminal = xterm", "launch Ctrl+F3 plotter", "launch Run+F21 outer",
		"launch F2 outer", "launch Go+F4 x", "launch F5 terminal = konsole", "launch F6 plotter", "launch Go+F22 " +
			"terminal = xterm"}, got)
	for file, want := range map[string]string{"": "Ctrl", "launchers.hcl": "Alt", "sub/inner.hcl": "Ctrl"} {
		mod, ok := m.Modifier("Go", file)
		require.True(t, ok)
		assert.Equal(t, want, strings.Join(mod.Other.Names(), "+"), file)
	}
}

func TestWrongGroupFiles(t *testing.T) {
	for _, c := range []struct{ main, inner, want string }{
		{"group \"g\" {\n  file   = \"g.hcl\"\n  shares = [\"termnal\"]\n}", "app \"terminal\" { linux = \"x\" " +
			"}\nlaunch \"F1\" { app = \"terminal\" }", `"g.hcl" defines no "termnal"` + "\n    → did you mean " +
			"\"terminal\"?"},
		{"launch \"F2\" { app = \"terminal\" }\ngroup \"g\" { file = \"g.hcl\" }", "app \"terminal\" { linux = " +
			"\"x\" }", `there is no app "terminal"`},
		{"launch \"F2\" { run = let.x }\ngroup \"g\" { file = \"g.hcl\" }", "let { x = \"y\" }", `there is no constant "x"`},
		{"launch \"Go+F2\" { run = \"x\" }\ngroup \"g\" { file = \"g.hcl\" }", "modifier \"Go\" { other = \"Alt\" }", `"Go" is no modifier`},
		{"let { x = \"z\" }\ngroup \"g\" {\n  file   = \"g.hcl\"\n  shares = \"x\"\n}", "let { x = \"y\" }", `the mapping has a "x" of its own`},
		{"group \"g\" { file = \"g.hcl\" }", "let { x = \"y\" }\nlet { x = \"z\" }", `the constant "x" is defined twice`},
		{"group \"g\" { file = \"g.hcl\" }", "machine \"office\" { system = \"linux\" }", "a machine block cannot " +
			"stand here"},
		{"group \"g\" { file = \"g.hcl\" }", "version = 3\ndisable \"F1\" {}", "this file speaks version 3 of the " +
			"language, and this program version 1"},
		{"group \"g\" { file = \"g.hcl\" }", "shares = \"x\"\ndisable \"F1\" {}", `"shares" means nothing in a group's file`},
		{"group \"g\" {\n  shares = [\"x\"]\n  disable \"F1\" {}\n}", "", "the group shares names of a file, and " +
			"has none"},
		{"version = 0\ndisable \"F1\" {}", "", "there is no version 0 of the language"},
		{"group \"g\" { file = \"../g.hcl\" }", "", "leads out of the mapping's folder"},
	} {
		_, diags, err := mapping.Load(
			files(map[string]string{"m.hcl": c.main + "\n", "g.hcl": c.inner + "\n"}), "m.hcl", "",
		)
		require.NoError(t, err)
		assert.Contains(t, said(diags), c.want, c.main)
	}
	_, diags, err := mapping.Load(files(map[string]string{"a/m.hcl": "version = 1\ngroup \"g\" { file = " +
		"\"../g.hcl\" }\n", "g.hcl": "version = 1\ndisable \"F1\" {}\n"}), "a/m.hcl", "/")
	require.NoError(t, err)
	assert.Empty(t, said(diags), "out of the file's folder, and not of the mapping's")
	_, diags, err = mapping.Load(
		files(
			map[string]string{
				"m/a.hcl": "version = 1\ndisable \"F1\" {}\n",
				"m/b.hcl": "version = 1\ndisable \"F2\" {}\n",
			},
		),
		"m",
		"",
	)
	require.NoError(t, err)
	assert.Empty(t, said(diags))
}
