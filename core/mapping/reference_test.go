package mapping

import (
	"os"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/action"
	"leitstand/core/machine"
)

// The language reference has a section for every block, a line in its table for
// every attribute and none for another, and an example of it that loads.
func TestReferenceIsComplete(t *testing.T) {
	text, err := os.ReadFile("../../docs/mapping.md")
	require.NoError(t, err)
	sections := map[string]string{}
	for _, part := range strings.Split(string(text), "\n## ")[1:] {
		title, body, _ := strings.Cut(part, "\n")
		sections[strings.Trim(title, "`")] = body
	}
	row := regexp.MustCompile("(?m)^\\| `(\\w+)` \\|")
	documented := func(section string) []string {
		var names []string
		for _, f := range row.FindAllStringSubmatch(sections[section], -1) {
			names = append(names, f[1])
		}
		return names
	}
	names := func(list []attribute) []string {
		var all []string
		for _, a := range list {
			all = append(all, a.name)
		}
		return all
	}
	assert.ElementsMatch(t, names(ruleAttrs), documented("What every rule takes"))
	example := regexp.MustCompile("(?s)```hcl\n(.*?)```")
	for _, s := range schemas {
		body, ok := sections[s.typ]
		if !assert.True(t, ok, "no section for %s", s.typ) {
			continue
		}
		assert.ElementsMatch(t, names(s.attrs), documented(s.typ), "the table of %s", s.typ)
		assert.Regexp(
			t,
			"(?m)^ *"+s.typ+"\\b",
			strings.Join(example.FindStringSubmatch(body), ""),
			"the example of %s",
			s.typ,
		)
	}
	for _, f := range example.FindAllStringSubmatch(string(text), -1) {
		_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte(f[1])}}, "m.hcl", "")
		require.NoError(t, err)
		assert.Empty(t, diags, f[1])
		laidOut, err := Format([]byte(f[1]))
		require.NoError(t, err)
		assert.Equal(t, f[1], string(laidOut), "the example is laid out as format does")
	}
	readme, err := os.ReadFile("../../README.md")
	require.NoError(t, err)
	of := example.FindAllStringSubmatch(string(readme), -1)
	assert.NotEmpty(t, of)
	for _, f := range of {
		_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte(f[1])}}, "m.hcl", "")
		require.NoError(t, err)
		assert.Empty(t, diags, f[1])
	}
	for _, a := range action.All() {
		if base, n, ok := action.Number(a.Name); ok && n > 1 && n < action.MaxWorkspace {
			assert.Contains(t, sections["action"], base+"-1`")
			continue
		}
		assert.Contains(t, sections["action"], "`"+a.Name+"`")
	}
	for _, d := range machine.DesktopNames() {
		assert.Contains(t, sections["machine"], "`"+d+"`")
	}
	for word := range reservedBlocks {
		assert.Contains(t, sections["Words for later"], "`"+word+"`")
	}
	for _, attrs := range reservedAttrs {
		for word := range attrs {
			assert.Contains(t, sections["Words for later"], "`"+word+"`")
		}
	}
	for _, code := range Findings {
		assert.Contains(t, sections["What every rule takes"], "`"+code+"`")
	}
}
