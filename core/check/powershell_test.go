package check_test

import (
	"fmt"
	"path"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/check"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// Whatever chords do on Windows, the files do what the verdicts say, and the scripts that are made of it are PowerShell.
// A grammar says so: none runs here.
func TestChordsOnWindows(t *testing.T) {
	scripts, landed := map[string]bool{}, map[string]int{}
	rapid.Check(t, func(r *rapid.T) {
		text := fmt.Sprintf(
			"machine \"desk\" {\n  system = \"windows\"\n  layouts = [%q]\n  keyboard_filter = %t\n  layout_library = %t\n}\n",
			rapid.SampledFrom([]string{"us", "de", "fr", "ru"}).Draw(r, "layout"),
			rapid.Bool().Draw(r, "filter"), rapid.Bool().Draw(r, "library"),
		)
		for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(keys.All()), 5, 30, rapid.ID[keys.Key]).Draw(r, "keys") {
			if k.IsModifier() || k.String() == "F9" { // which a chord is given for
				continue
			}
			chord := rapid.SampledFrom([]string{"Ctrl+", "Alt+", "Ctrl+Alt+", "Meta+", "Ctrl+Shift+"}).Draw(r, "mods") + k.String()
			if rapid.Bool().Draw(r, "a second stroke") {
				chord += ", " + rapid.SampledFrom([]string{"KeyP", "Ctrl+KeyP", "F8"}).Draw(r, "stroke")
			}
			typed := rapid.OneOf(rapid.StringOf(rapid.RuneFrom([]rune("'’‘\"`$({;}) \n\t#@\\€😀x"))), rapid.Just(sample.Nasty))
			to := []string{"Ctrl+Backspace", "Ctrl+Delete", "Home", "Ctrl+ArrowLeft", "Shift+End", "Ctrl+Shift+KeyC", "Meta+F9"}
			switch of := typed.Draw(r, "text"); {
			case of != "" && rapid.Bool().Draw(r, "types"):
				text += fmt.Sprintf("snippet %q { text = %s }\n", chord, mapping.Quote(of))
			case rapid.Bool().Draw(r, "gives"):
				given := rapid.SampledFrom(to).Draw(r, "to")
				if strings.HasSuffix(given, "+"+k.String()) { // which may be the chord itself
					given = "Meta+F9"
				}
				text += fmt.Sprintf("remap %q { to = %q }\n", chord, given)
			default:
				text += fmt.Sprintf("disable %q {}\n", chord)
			}
		}
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
		require.NoError(r, err)
		require.False(r, diags.HasErrors(), "%v\n%s", diags, text)
		got, err := check.Mapping(mp, check.Here{}, nil)
		require.NoError(r, err)
		require.False(r, got.Findings.HasErrors(), "%v\n%s", got.Findings, text)
		for _, l := range got.Builds[0].Landings {
			if l.Mechanism != nil {
				landed[l.Mechanism.Facts().Name]++
			}
		}
		for _, f := range got.Builds[0].Folder() {
			if path.Ext(f.Path) == ".ps1" {
				scripts[string(f.Data)] = true
			}
		}
	})
	for _, name := range []string{"filter", "lineeditor", "terminal", "explorer"} {
		assert.NotZero(t, landed[name], name)
	}
	var list [][]byte
	for text := range scripts {
		list = append(list, []byte(text))
	}
	assert.Empty(t, realtest.FaultsOfPowerShell(t, list...))
	assert.NotEmpty(t, realtest.FaultsOfPowerShell(t, []byte("if ($x { foo'")))
}
