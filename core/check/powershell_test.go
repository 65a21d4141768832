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

	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// Whatever a mapping says, the scripts that are made of it are PowerShell. A grammar says so: none runs here.
func TestScriptsArePowerShell(t *testing.T) {
	scripts := map[string]bool{}
	rapid.Check(t, func(r *rapid.T) {
		text := "machine \"desk\" {\n  system          = \"windows\"\n  keyboard_filter = true\n}\n"
		for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(keys.All()), 5, 12, rapid.ID[keys.Key]).Draw(r, "keys") {
			chord := rapid.SampledFrom([]string{"Ctrl+", "Alt+", "Ctrl+Alt+", "Meta+", "Ctrl+Shift+"}).Draw(r, "mods") + k.String()
			typed := rapid.OneOf(rapid.StringOf(rapid.RuneFrom([]rune("'’‘\"`$({;}) \n\t#@\\€😀x"))), rapid.Just(sample.Nasty))
			if of := typed.Draw(r, "text"); of != "" && rapid.Bool().Draw(r, "types") {
				text += fmt.Sprintf("snippet %q { text = %s }\n", chord, mapping.Quote(of))
			} else {
				text += fmt.Sprintf("disable %q {}\n", chord)
			}
		}
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
		require.NoError(r, err)
		if diags.HasErrors() {
			return
		}
		builds, diags, err := compile.All(mp, nil, nil)
		require.NoError(r, err)
		require.False(r, diags.HasErrors(), "%v", diags)
		for _, f := range builds[0].Folder() {
			if path.Ext(f.Path) == ".ps1" {
				scripts[string(f.Data)] = true
			}
		}
	})
	require.Greater(t, len(scripts), 50)
	var list [][]byte
	for text := range scripts {
		list = append(list, []byte(text))
	}
	assert.Empty(t, realtest.FaultsOfPowerShell(t, list...))
	assert.NotEmpty(t, strings.TrimSpace(realtest.FaultsOfPowerShell(t, []byte("if ($x { foo'"))))
}
