package mechanism_test

import (
	"flag"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mechanism"
)

var update = flag.Bool("update", false, "write the table of what was pressed into docs/platforms.md")

// What a mechanism says was pressed counts for the versions of the record only, and taking a
// line out of it lowers the evidence.
func TestWeigh(t *testing.T) {
	const record = "plasma\tkwin\t5.27\tchords\nplasma\tkwin\t6.3\tchords\nplasma\tkcalc\t22.12\tcopies\nhwdb\tLinux\t6.1\tkeys\nnot a line\n"
	facts := func(name string, e mechanism.Evidence) mechanism.Facts {
		return mechanism.Facts{Name: name, Evidence: e, Basis: "chords pressed"}
	}
	for _, c := range []struct {
		record, name, version string
		of, want              mechanism.Evidence
		basis                 string
	}{
		{record, "plasma", "6.3", mechanism.Tested, mechanism.Tested, "chords pressed"},
		{record, "plasma", "6", mechanism.Tested, mechanism.Tested, "chords pressed"},
		{record, "plasma", "6.4", mechanism.Tested, mechanism.Documented, "pressed on kcalc 22.12, kwin 5.27 and " +
			"6.3, not on 6.4: chords pressed"},
		{strings.Replace(record, "kwin\t6.3", "kwin\t6.2", 1), "plasma", "6.3", mechanism.Tested, mechanism.Documented, "pressed on kcalc 22.12, kwin 5.27 and 6.2, not on 6.3: chords pressed"},
		{record, "hwdb", "", mechanism.Tested, mechanism.Tested, "chords pressed"},
		{"", "hwdb", "", mechanism.Tested, mechanism.Documented, "by documentation only"},
		{"", "hwdb", "", mechanism.Parsed, mechanism.Parsed, "chords pressed"},
	} {
		got := facts(c.name, c.of).Weigh(mechanism.ReadRecord(c.record), c.version)
		assert.Equal(t, c.want, got.Evidence, "%s %s", c.name, c.version)
		assert.Equal(t, c.basis, got.Basis)
	}
}

var tableInDocs = regexp.MustCompile(`(?s)(<!-- what was pressed, by make record -->\n).*?(<!-- end -->)`)

// The table of the docs is that of the record.
func TestRecordInDocs(t *testing.T) {
	const file = "../../docs/platforms.md"
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	var w strings.Builder
	w.WriteString("| mechanism | component | versions | what did what was meant |\n|---|---|---|---|\n")
	list := mechanism.Record()
	for i := 0; i < len(list); {
		p, versions := list[i], []string{}
		for ; i < len(list) && list[i].Mechanism == p.Mechanism && list[i].Component == p.Component; i++ {
			if list[i].Did != p.Did {
				p.Did += "; " + list[i].Did
				require.NotContains(t, versions, list[i].Version, "two lines of one component differ in what they did")
			}
			versions = append(versions, list[i].Version)
		}
		fmt.Fprintf(&w, "| %s | %s | %s | %s |\n", p.Mechanism, p.Component, strings.Join(versions, ", "), p.Did)
	}
	want := tableInDocs.ReplaceAll(text, []byte("${1}"+strings.ReplaceAll(w.String(), "$", "$$")+"${2}"))
	require.Contains(t, string(text), "<!-- what was pressed")
	if *update {
		require.NoError(t, os.WriteFile(file, want, 0o644))
		return
	}
	assert.Equal(t, string(want), string(text), "run make record")
}
