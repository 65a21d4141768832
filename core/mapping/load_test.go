package mapping_test

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/examples"
)

var update = flag.Bool("update", false, "write what the loader says into the testdata; read it before committing")

// said is what is wrong with a mapping, a line for each diagnostic.
func said(list diag.List) string {
	var b strings.Builder
	for _, d := range list {
		fmt.Fprintf(&b, "%s: %s", d.Range, d.Summary)
		if d.Advice != "" {
			fmt.Fprintf(&b, "\n    → %s", d.Advice)
		}
		for _, r := range d.Related {
			fmt.Fprintf(&b, "\n    %s: %s", r.Range, r.Words)
		}
		b.WriteByte('\n')
	}
	return b.String()
}

func load(t testing.TB, text string) (*mapping.Mapping, diag.List) {
	t.Helper()
	return loadText(t, text)
}

func loadText(t require.TestingT, text string) (*mapping.Mapping, diag.List) {
	m, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	return m, diags
}

// Each wrong mapping of testdata/wrong is answered by the messages beside it:
// NAME.hcl by NAME.want.
func TestWrongMappings(t *testing.T) {
	archives, err := filepath.Glob("testdata/wrong/*.txtar")
	require.NoError(t, err)
	cases := 0
	for _, path := range archives {
		a, err := txtar.ParseFile(path)
		require.NoError(t, err)
		var out []txtar.File
		for i, f := range a.Files {
			name, isMapping := strings.CutSuffix(f.Name, ".hcl")
			if !isMapping {
				continue
			}
			cases++
			_, diags := load(t, string(f.Data))
			got := said(diags)
			out = append(out, f, txtar.File{Name: name + ".want", Data: []byte(got)})
			if *update {
				continue
			}
			if assert.Less(t, i+1, len(a.Files)) && assert.Equal(t, name+".want", a.Files[i+1].Name) {
				assert.Equal(t, string(a.Files[i+1].Data), got, "%s: %s", path, f.Name)
			}
			assert.True(t, diags.HasErrors(), "%s: %s is not refused", path, f.Name)
			for _, d := range diags {
				assert.True(t, d.Line != "" || d.Range.Start.Line == 0, "%s: %s: no source line", path, f.Name)
			}
		}
		if *update {
			a.Files = out
			require.NoError(t, os.WriteFile(path, txtar.Format(a), 0o644))
		}
	}
	assert.Greater(t, cases, 50)
}

func TestExample(t *testing.T) {
	m, diags, err := mapping.Load(examples.Files, "tide-office/leitstand.hcl", "examples")
	require.NoError(t, err)
	require.Empty(t, diags)
	assert.Len(t, m.Machines, 6)
	kinds := map[mapping.Kind]bool{}
	for _, r := range m.Rules {
		kinds[r.Head().Kind] = true
	}
	assert.Len(t, kinds, 13, "the example has a rule of every kind")
	assert.Len(t, m.Boards, 3)
}

// Strings are literal: what would be a template in HCL is text.
func TestStringsAreLiteral(t *testing.T) {
	m, diags := load(t, `launch "Ctrl+t" {
  run = ["sh", "-c", "echo ${HOME} %{if} $${x} ${", "tab\tquote\" ü ü", <<-EOT
    two ${lines}
      here
    EOT
  ]
}
`)
	require.Empty(t, said(diags))
	var run []string
	for _, w := range m.Rules[0].(*mapping.Launch).Run {
		run = append(run, w.Value)
	}
	assert.Equal(
		t, []string{"sh", "-c", "echo ${HOME} %{if} $${x} ${", "tab\tquote\" ü ü", "two ${lines}\n  here\n"}, run,
	)
}

func TestFolder(t *testing.T) {
	fsys := fstest.MapFS{
		"map/20-keys.hcl":     {Data: []byte(`remap "CapsLock" { to = "Escape" }`)},
		"map/10-machines.hcl": {Data: []byte(`machine "office" { system = "linux" }`)},
		"map/notes.txt":       {Data: []byte("not HCL")},
		"map/old.hcl/x":       {Data: []byte("a folder")},
		"none/readme":         {Data: []byte("")},
	}
	m, diags, err := mapping.Load(fsys, "map", "cfg")
	require.NoError(t, err)
	require.Empty(t, diags)
	assert.Equal(t, "cfg/map/20-keys.hcl:1:1", m.Rules[0].Head().Range.String())
	assert.Len(t, m.Machines, 1)

	_, _, err = mapping.Load(fsys, "none", "cfg")
	assert.ErrorContains(t, err, "cfg/none has no .hcl file")
	_, _, err = mapping.Load(fsys, "absent", "cfg")
	assert.True(t, mapping.IsMissing(err))
}

// Files that no mapping can be are refused at once, with one message.
func TestUnreadable(t *testing.T) {
	noise := bytes.Repeat([]byte("noise {[\"$% \n"), 1<<20)
	for name, c := range map[string]struct {
		text []byte
		want string
	}{
		"ten megabytes of noise": {noise[:10<<20], "the file has 10.0 MB"},
		"invalid UTF-8":          {[]byte("# Süder\nremap \"\xff\" {}"), "m.hcl:2:8: the file is not UTF-8"},
		"binary":                 {[]byte("\x7fELF\x01\x00"), "control character U+0001"},
		"deep nesting":           {bytes.Repeat([]byte("on \"linux\" {\n"), 200), "nested more than 40 deep"},
		"empty":                  {nil, "the file is empty"},
		"only blanks":            {[]byte("\n\n  \n"), "the file is empty"},
	} {
		_, diags := load(t, string(c.text))
		require.Len(t, diags, 1, name)
		assert.Contains(t, said(diags), c.want, name)
	}
	_, diags := load(t, strings.Repeat("on \"linux\" {\n", 20)+strings.Repeat("}\n", 20))
	assert.Contains(t, said(diags), "on blocks are nested more than ten deep")
}

// What people call systems, desktops and layouts is told our name.
func TestOtherNames(t *testing.T) {
	for attr, names := range map[string]map[string]string{
		"system":  {"mac": "macos", "OSX": "macos", "darwin": "macos", "win": "windows", "ios": "ipados", "ipad": "ipados", "chrome": "chromeos", "ubuntu": "linux", "debian": "linux", "fedora": "linux"},
		"desktop": {"kde": "plasma", "KWin": "plasma", "kubuntu": "plasma", "ubuntu": "gnome", "mutter": "gnome", "xfwm4": "xfce", "xubuntu": "xfce", "marco": "mate", "muffin": "cinnamon", "mint": "cinnamon"},
		"layouts": {"german": "de", "deutsch": "de", "qwertz": "de", "English": "us", "american": "us", "qwerty": "us", "british": "gb", "uk": "gb", "french": "fr", "azerty": "fr", "spanish": "es", "italian": "it",
			"portuguese": "pt", "brazilian": "br", "swedish": "se", "norwegian": "no", "danish": "dk",
			"finnish": "fi", "dutch": "nl", "belgian": "be", "swiss": "ch", "austrian": "at", "polish": "pl",
			"czech":  "cz",
			"slovak": "sk", "hungarian": "hu", "russian": "ru", "ukrainian": "ua", "greek": "gr", "turkish": "tr",
			"japanese": "jp", "canadian": "ca", "icelandic": "is", "romanian": "ro", "croatian": "hr",
			"bulgarian": "bg"},
	} {
		for name, want := range names {
			text := "machine \"m\" {\n  system = \"linux\"\n  " + attr + " = \"" + name + "\"\n}\n"
			if attr == "system" {
				text = "machine \"m\" { system = \"" + name + "\" }\n"
			}
			_, diags := load(t, text)
			assert.Contains(t, said(diags), "write \""+want+"\"", "%s %s", attr, name)
		}
	}
}

// Groups and scopes are nested up to ten deep.
func TestNesting(t *testing.T) {
	for depth, want := range map[int]string{10: "", 12: "groups are nested more than ten deep"} {
		_, diags := load(
			t, strings.Repeat("group \"g\" {\n", depth)+"disable \"Insert\" {}\n"+strings.Repeat("}\n", depth),
		)
		assert.Equal(t, want != "", strings.Contains(said(diags), "ten deep"), depth)
		assert.Contains(t, said(diags), want)
	}
}

// A rule with an error in it is none.
func TestWrongRulesAreNone(t *testing.T) {
	for _, attr := range []string{`leave = "Escap"`, `tap = "Escap"`, `fallback = "Escap"`} {
		m, diags := load(t, "layer \"a\" {\n  toggle = \"F1\"\n  "+attr+"\n  keys = { KeyA = \"KeyB\" }\n}\n")
		assert.True(t, diags.HasErrors())
		assert.Empty(t, m.Rules, attr)
	}
}

// A machine stands for the computers whose names it gives, or for that of its own name.
func TestHosts(t *testing.T) {
	m, diags := load(t, "machine \"office\" { system = \"linux\" }\nmachine \"lab\" {\n  system = \"linux\"\n  "+
		"hosts  = [\"pc-a-*\", \"tower\"]\n}\n")
	require.Empty(t, said(diags))
	for host, want := range map[string]string{"Office": "office", "PC-A-07": "lab", "tower": "lab", "lab": "", "pc-b-1": "", "": ""} {
		got := ""
		for _, x := range m.Machines {
			if x.Is(host) {
				got += x.Name
			}
		}
		assert.Equal(t, want, got, host)
	}
}

// Arbitrary files neither crash the loader nor hold it up.
func FuzzLoad(f *testing.F) {
	f.Add(examples.TideOffice)
	archives, _ := filepath.Glob("testdata/wrong/*.txtar")
	for _, path := range archives {
		a, err := txtar.ParseFile(path)
		require.NoError(f, err)
		for _, file := range a.Files {
			f.Add(file.Data)
		}
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		m, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
		require.NoError(t, err)
		file, wrong := hclsyntax.ParseConfig(text, "m.hcl", hcl.InitialPos)
		if diags.HasErrors() || wrong.HasErrors() {
			return
		}
		written := 0
		for _, block := range file.Body.(*hclsyntax.Body).Blocks {
			if slices.Contains(ruleBlocks, block.Type) {
				written++
			}
		}
		assert.GreaterOrEqual(t, len(m.Rules), written, "a rule is lost without a word")
	})
}

// ruleBlocks are the blocks that each give one rule or more.
var ruleBlocks = []string{
	"hands", "swap", "hyper", "remap", "disable", "launch", "action", "layer", "snippet", "macro", "repeat", "native",
}
