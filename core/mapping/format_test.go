package mapping

import (
	"strings"
	"testing"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/examples"
)

func TestFormat(t *testing.T) {
	for _, c := range []struct{ ugly, even string }{
		{"# first\nremap  \"CapsLock\"   {\nto=\"Escape\"  // why\n  why =   \"${x} %{y}\"\n}\n\n/* last */\n",
			"# first\nremap \"CapsLock\" {\n  to  = \"Escape\" // why\n  why = \"${x} %{y}\"\n}\n\n/* last */\n"},
		{"remap\"CapsLock\"{to=\"Escape\"}", "remap \"CapsLock\" { to = \"Escape\" }"},
		{"disable \"F1\" {  }", "disable \"F1\" {}"},
		{"a {\nids=[ \"x\",\"y\" ,]\n}\n", "a {\n  ids = [\"x\", \"y\", ]\n}\n"},
		// What ends on another line is not lined up with what follows it.
		{"a {\nlong_name = 1\nsteps=[\n{ press=\"a\" },# one\n      { type = \"bc\" }, # two\n]\nx=2\n}\n",
			"a {\n  long_name = 1\n  steps = [\n    { press = \"a\" }, # one\n    { type = \"bc\" }, # two\n  ]\n  " +
				"x = 2\n}\n"},
		{"a {\nsteps = [{\npress = \"a\"\n}, {\nwait=\"1s\"\n}]\n}\n", "a {\n  steps = [{\n    press = \"a\"\n    " +
			"}, {\n    wait = \"1s\"\n  }]\n}\n"},
		{"a {\ntext = <<-END\n   one\n two\nEND\nwhy = \"x\"\n}\n", "a {\n  text = <<-END\n   one\n two\nEND\n  " +
			"why  = \"x\"\n}\n"},
		{"a {\r\nb=1 # c\t\r\n}\r\n", "a {\r\n  b = 1 # c\t\r\n}\r\n"},
		// Rows of a table are lined up, however their presses are written.
		{"a {\nto={\nCapsLock=\"Escape\"\n\"Ctrl+Alt+v\"  =\"Ctrl+v\" # paste\n( let.x )={ " +
			"tap=\"a\",hold=\"b\"}\n\"=\" = \"x\"\n}\n}\n",
			"a {\n  to = {\n    CapsLock     = \"Escape\"\n    \"Ctrl+Alt+v\" = \"Ctrl+v\" # paste\n    (let.x)    " +
				"  = { tap = \"a\", hold = \"b\" }\n    \"=\"          = \"x\"\n  }\n}\n"},
		{"\n\n   \n", "\n\n\n"},
		{"", ""},
	} {
		even, err := Format([]byte(c.ugly))
		require.NoError(t, err, c.ugly)
		assert.Equal(t, c.even, string(even), c.ugly)
	}
	_, err := Format([]byte("remap {"))
	assert.ErrorContains(t, err, "syntax errors")
}

// However a mapping's spaces lie, they come to lie as the example has them.
func TestFormatOfExample(t *testing.T) {
	for _, source := range [][]byte{examples.TideOffice} {
		tokens, diags := hclsyntax.LexConfig(source, "", hcl.InitialPos)
		require.False(t, diags.HasErrors())
		want := string(source)
		rapid.Check(t, func(t *rapid.T) {
			spaces := rapid.SampledFrom([]string{" ", " ", "  ", "\t", "   "})
			var ugly strings.Builder
			at := 0
			for _, tok := range tokens {
				between := source[at:tok.Range.Start.Byte]
				at = tok.Range.End.Byte
				if len(between) > 0 {
					ugly.WriteString(spaces.Draw(t, "spaces"))
				}
				ugly.Write(tok.Bytes)
			}
			even, err := Format([]byte(ugly.String()))
			require.NoError(t, err)
			require.Equal(t, want, string(even))
		})
	}
}

func FuzzFormat(f *testing.F) {
	f.Add([]byte(examples.TideOffice))
	for _, s := range []string{"a=[1,\n2]", "a = <<E\nx\nE\n", "a { b = \"${1}\" } // c", "/* a\nb */ a = -1 + " +
		"f(2).x[0]", "a = 1 ? 2 : !true\n#", "a=[for x in y : x]"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, src []byte) {
		out, err := Format(src)
		if err != nil {
			return
		}
		was, _, _ := scan("", src) // as a template is none here
		is, _, _ := scan("", out)
		require.Equal(t, string(tokensOf(was)), string(tokensOf(is)), "%q became %q", src, out)
		again, err := Format(out)
		require.NoError(t, err)
		require.Equal(t, string(out), string(again))
	})
}
