package mapping

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/folder"
)

// A text is what its author wrote, code point by code point, wherever a text can stand.
func TestTextsAreExact(t *testing.T) {
	for written, want := range map[string]string{
		"a\u0308 U\u0308":        "a\u0308 U\u0308", // letters and marks on their own, as file names have them
		"ä":                      "ä",
		"\u212b":                 "\u212b",
		`a\u0001b`:               "a\x01b",
		`a\u0308`:                "a\u0308",
		`q\"q\\n`:                `q"q\n`,
		`$${HOME} ${b} %{if} %%`: `$${HOME} ${b} %{if} %%`, // nothing is computed
		`\u0024{b}`:              `${b}`,
	} {
		text := `let {
  map = "` + written + `"
}
machine "pier" {
  system  = "windows"
  layouts = ["us"]
}
launch "Meta+KeyM" {
  run = ["maps.exe", "` + written + `", "plain"]
}
launch "Meta+KeyO" {
  open = "https://tides.example/` + written + `"
}
snippet "F8" {
  text = map
}
snippet "F9" {
  text = "` + written + `"
}
`
		mp, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
		require.NoError(t, err)
		if len(diags) > 0 { // a link and a snippet have fewer characters
			require.NotContains(t, diags[0].Line, "maps.exe", "%v", diags)
			text = text[:strings.Index(text, "launch \"Meta+KeyO\"")]
			mp, diags, err = Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
			require.NoError(t, err)
			require.Empty(t, diags)
		}
		for _, r := range mp.Rules {
			switch r := r.(type) {
			case *Launch:
				if r.Open.Value == "" {
					assert.Equal(t, want, r.Run[1].Value, written)
				} else {
					assert.Equal(t, "https://tides.example/"+want, r.Open.Value)
				}
			case *Snippet:
				assert.Equal(t, want, r.Text.Value, written)
			}
		}
	}
}

// A text over several lines ends at its word, however short that is.
func TestTextsOverLines(t *testing.T) {
	for text, want := range map[string]string{
		"<<E\nNHN ${x}\nE\n":                 "NHN ${x}\n",
		"<<EOT\nE\nEOT\n":                    "E\n",
		"<<-E\n    a\n      b %{c}\n    E\n": "a\n  b %{c}\n",
	} {
		mp, diags, err := Load(
			fstest.MapFS{"m.hcl": {Data: []byte("snippet \"F9\" {\n  text = " + text + "}\ndisable \"F5\" {}\n")}},
			"m.hcl", "",
		)
		require.NoError(t, err)
		require.Empty(t, diags, text)
		require.Len(t, mp.Rules, 2)
		assert.Equal(t, want, mp.Rules[0].(*Snippet).Text.Value, text)
	}
}

// A whole command line is no program's name, as a constant neither.
func TestWholeLines(t *testing.T) {
	for value, wrong := range map[string]bool{`"notify-send hello"`: true, `["notify-send hello"]`: false, `"~/bin/tide --all"`: true, `"C:\\Program Files\\tide.exe"`: false} {
		for _, text := range []string{"launch \"F9\" {\n  run = " + value + "\n}\n", "let {\n  report = " + value + "\n}\nlaunch \"F9\" {\n  run = let.report\n}\n"} {
			_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
			require.NoError(t, err)
			assert.Equal(t, wrong, len(diags) == 1 && diags[0].Code == "bad-command", "%s %v", text, diags)
		}
	}
}

// Names become folders on every system.
func TestNamesThatSystemsCanHave(t *testing.T) {
	for name, ok := range map[string]bool{
		"con": false, "Con": false, "NUL": false, "lpt1": false, "COM9": false, "console": false, "Gnome": false,
		"freebsd": false, "consoles": true, "com": true, "com10": true,
		"tafel": true, "Süderhaff": true, "Su\u0308derhaff": true, "a\u202egnp": false, "a\u200bb": false, "a×b": false,
		"-x": false, "a.b": false, "../x": false, "a/b": false, "": false, "a b": false,
	} {
		assert.Equal(t, ok, IsName(name), "%q", name)
		_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: fmt.Appendf(nil, "machine %q {\n  system = "+
			"\"windows\"\n  layouts = [\"us\"]\n}\n", name)}}, "m.hcl", "")
		require.NoError(t, err)
		assert.Equal(t, ok, len(diags) == 0, "%q %v", name, diags)
	}
	// No scope names a program, and a river is no desktop.
	_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte("app \"console\" { linux = \"tidegauge\" }\nmachine " +
		"\"river\" { system = \"linux\" }\nlaunch \"F9\" { app = \"console\" }\n")}}, "m.hcl", "")
	require.NoError(t, err)
	assert.Empty(t, diags)
	_, diags, err = Load(fstest.MapFS{"m.hcl": {Data: []byte("machine \"Pier\" {\n  system = " +
		"\"windows\"\n}\nmachine \"pier\" {\n  system = \"windows\"\n}\n")}}, "m.hcl", "")
	require.NoError(t, err)
	require.Len(t, diags, 1)
	assert.Contains(t, diags[0].Range.String(), "m.hcl:4")
}

// No line of a file out of the mapping's folder is read, whatever links lead there.
func TestGroupFilesStayInTheFolder(t *testing.T) {
	dir := t.TempDir()
	in := filepath.Join(dir, "in")
	require.NoError(t, os.MkdirAll(filepath.Join(in, "parts"), 0o700))
	put := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	put("secret.hcl", "harbour code 4711\n")
	put("in/parts/ok.hcl", "disable \"F5\" {}\n")
	for link, to := range map[string]string{
		"one.hcl": "../secret.hcl", "two.hcl": filepath.Join(dir, "secret.hcl"), "out": "..",
		"three.hcl": "out/secret.hcl",
		"loop.hcl":  "loop.hcl", "good.hcl": "parts/ok.hcl", "p": "parts", "up.hcl": "p/../parts/ok.hcl",
	} {
		if err := os.Symlink(to, filepath.Join(in, link)); err != nil {
			t.Skipf("no links here: %v", err)
		}
	}
	for name, ok := range map[string]bool{"one.hcl": false, "two.hcl": false, "out/secret.hcl": false, "three.hcl": false,
		"loop.hcl": false, "good.hcl": true, "p/ok.hcl": true, "up.hcl": true} {
		put("in/m.hcl", "group \"of the pier\" {\n  file = \""+name+"\"\n}\n")
		mp, diags, err := Load(folder.Regular(os.DirFS(in)), "m.hcl", "")
		require.NoError(t, err, name)
		assert.Equal(t, ok, len(diags) == 0, "%s %v", name, diags)
		assert.NotContains(t, fmt.Sprint(diags), "4711", name)
		if ok {
			assert.Len(t, mp.Rules, 1, name)
		}
	}
}
