package mapping

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/examples"
)

// However a text is cut into parts, HCL makes of them what it makes of the whole, places
// and complaints included.
func FuzzParts(f *testing.F) {
	f.Add([]byte(examples.TideOffice), uint16(700))
	for _, s := range []string{
		"a = 1\nb \"c\" {\n}\n# end\nd = [\n1,\n]\n", "a = 1\na = 2\n", "a = <<E\nb = 1\nE\nc = 2\n",
		"/* a\nb\n*/\nc = 1\n", "/* a\nb = 1\nc = 2\n",
		"a {\n", "a = \"x\nb = \"y\"\n", "a = (\n1\n)\r\nb = 2\r\n", "a {\nb = 1\n}\n}\nc = 3\n", "\"a\n\"b = 1\n",
		"a\n= 1\nb = 2", "a = 1 +\n2\nb = ä\n",
	} {
		f.Add([]byte(s), uint16(1))
	}
	f.Fuzz(func(t *testing.T, src []byte, enough uint16) {
		ready, parts, bad := scanParts("m.hcl", src, int(enough))
		if bad != nil {
			return
		}
		body, diags := parseParts("m.hcl", ready, parts)
		whole, complaints := hclsyntax.ParseConfig(ready, "m.hcl", hcl.InitialPos)
		require.Equal(t, complaints, diags)
		require.Equal(t, whole.Body, body)
	})
}

// However many rules there are, wrong ones among them, they are read side by side as they are one after the other.
func TestRulesSideBySide(t *testing.T) {
	kinds := []string{
		"launch \"Meta+g, %d\" { app = \"chart\" }",
		"remap \"CapsLock\" {\n  to = \"Escape\"\n  on = [\"pier%d\", \"gauge\"]\n}",
		"abbreviation \";a%d\" {\n  text = let.office\n}",
		"remap \"Caps%d\" { to = \"Escape\" }", "disable \"F%d\" {}",
		"launch \"Meta+g\" { run = [\"x\", %d] }", "board \"b%d\" { ids = [\"usb:1209:0001\"] }",
		"on \"gauge\" {\n  disable \"Ctrl+%d\" {}\n}",
	}
	rapid.Check(t, func(t *rapid.T) {
		likely := rapid.SliceOfN(rapid.SampledFrom(kinds), 1, 3).Draw(t, "kinds")
		var text strings.Builder
		text.WriteString("let { office = \"Tide Office\" }\nmachine \"gauge\" {\n  system = \"linux\"\n}\n" +
			"app \"chart\" {\n  linux = \"x\"\n}\n")
		for i := range rapid.IntRange(0, 700).Draw(t, "rules") {
			kind := likely[0]
			if i%50 == 49 {
				kind = rapid.SampledFrom(likely).Draw(t, "kind")
			}
			fmt.Fprintf(&text, kind+"\n", i)
		}
		open := func() *Opened {
			o, err := Open(fstest.MapFS{"m.hcl": {Data: []byte(text.String())}}, "m.hcl", "")
			require.NoError(t, err)
			return o
		}
		got, diags := open().Mapping()

		one := open().l
		one.m.Unread.Definitions = one.diags.HasErrors()
		for _, p := range one.opened {
			one.each(p.src, p.body.Blocks, setting{common: Common{Enabled: true}})
		}
		one.resolve()
		one.m.Unread.Definitions = one.m.Unread.Definitions || one.guessing
		one.diags.Sort()
		require.Equal(t, one.diags, diags)
		require.Equal(t, one.m, got)
	})
}

// A mapping of any size is parted where its blocks begin.
func TestPartsOfTheExample(t *testing.T) {
	long := strings.Repeat(string(examples.TideOffice), 20)
	_, parts, _ := scan("m.hcl", []byte(long))
	require.Greater(t, len(parts), len(long)/partSize/2)
	for i, at := range parts[1:] {
		require.Equal(t, byte('\n'), long[at-1])
		require.GreaterOrEqual(t, at-parts[i], partSize)
	}
	_, parts, _ = scan("m.hcl", []byte("a = 1\n"))
	require.Equal(t, []int{0}, parts)
}
