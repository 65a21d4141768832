package mapping

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPrint(t *testing.T) {
	text, err := Print([]Item{
		Comment("Taken over\nfrom \x1b[31m"),
		Attr{"version", Int(1)},
		Blank{},
		Block{Type: "board", Labels: []string{"chart-table"}, Items: []Item{Attr{"ids", Strs{"usb:1209:0001"}}}},
		Block{Type: "disable", Labels: []string{"Insert", "F1"}},
		Block{Type: "layer", Labels: []string{"tide"}, Items: []Item{
			Attr{"while", Str("KeyF")},
			Attr{"keys", Table{{"KeyJ", Short{{"does", Str("close")}}}}},
		}},
		Attr{
			"keys",
			Table{{"CapsLock", Str("Escape")}, {"Ctrl+Alt+v", Str("${x}\n\u202e\"")}, {"in", Bool(true)}},
		},
	})
	require.NoError(t, err)
	assert.Equal(t, `# Taken over from  [31m
version = 1

board "chart-table" { ids = ["usb:1209:0001"] }
disable "Insert" "F1" {}
layer "tide" {
  while = "KeyF"
  keys = {
    KeyJ = { does = "close" }
  }
}
keys = {
  CapsLock     = "Escape"
  "Ctrl+Alt+v" = "${x}\n\u202e\""
  "in"         = true
}
`, string(text))
}

// A keyword of HCL is quoted where it is a name.
func TestKeywordsAreQuoted(t *testing.T) {
	for _, name := range []string{"for", "if", "in", "null", "true", "false"} {
		text, err := Print([]Item{Attr{"keys", Table{{name, Str("F1")}}}})
		require.NoError(t, err)
		assert.Contains(t, string(text), `"`+name+`" = "F1"`)
	}
}

// What is printed is what the language reads: every text comes back as it was.
func TestPrintedTextsAreRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		why := rapid.StringOf(rapid.Rune().Filter(func(r rune) bool { return r != 0 })).Draw(t, "why")
		text, err := Print(
			[]Item{
				Block{
					Type:   "remap",
					Labels: []string{"CapsLock"},
					Items:  []Item{Attr{"to", Str("Escape")}, Attr{"why", Str(why)}},
				},
			},
		)
		require.NoError(t, err)
		mp, diags, err := Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags, "%s", text)
		require.Equal(t, why, mp.Rules[0].Head().Why)
	})
}
