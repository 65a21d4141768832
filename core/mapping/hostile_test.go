package mapping

import (
	"fmt"
	"runtime"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A text that would cost the parser more than its size is refused before it sees it, or
// read within bounds; the error names the place, and stays short.
func TestHostileTexts(t *testing.T) {
	for name, c := range map[string]struct{ text, wrong string }{
		"minus signs":        {"version = " + strings.Repeat("-", 400_000) + "1\n", "more than 50 minus signs"},
		"minus and blanks":   {"version = " + strings.Repeat("- ", 400_000) + "1\n", "more than 50 minus signs"},
		"conditions":         {"version = " + strings.Repeat("true ? ", 500_000) + "1\n", "signs of computing"},
		"negations":          {"version = " + strings.Repeat("!", 500_000) + "true\n", "signs of computing"},
		"per cent signs":     {"version = " + strings.Repeat("%", 80_000) + "\n", "signs of computing"},
		"templates":          {"version = " + strings.Repeat("${", 40_000) + "\n", "nested more than"},
		"templates in texts": {"remap \"CapsLock\" { to = \"" + strings.Repeat("${", 40_000) + "\" }\n", "more than 2000 times"},
		"labels":             {"disable " + strings.Repeat("\"F1\" ", 80_000) + "{}\n", "more than 2000 texts"},
		"bare labels":        {"disable " + strings.Repeat("a ", 80_000) + "{}\n", "characters outside of texts"},
		"unclosed texts":     {strings.Repeat("remap \"\n", 100_000), "quotes are not closed"},
		"a number":           {"version = " + strings.Repeat("7", 3_000_000) + "\n", "more than 100 digits"},
		"unknown attributes": {strings.Repeat("abcdefgh = 1\n", 250_000), "attributes stand outside"},
		"attributes of one": {"let {\n" + strings.Repeat("abcdefgh = 1\n", 250_000) + "}\n", "a block has more " +
			"than 5000 attributes"},
		"unknown blocks": {strings.Repeat("abc {}\n", 400_000), "brackets"},
		"a long name":    {"remap \"" + strings.Repeat("x", 3_900_000) + "\" { to = \"F1\" }\n", "is no key"},
		"brackets":       {"let { a = " + strings.Repeat("[", 500_000) + " }\n", "nested more than"},
		"traversals":     {"version = a" + strings.Repeat(".a", 500_000) + "\n", "characters outside of texts"},
		"indices":        {"version = a" + strings.Repeat("[0]", 500_000) + "\n", "characters outside of texts"},
		"machines":       {blocksOf("machine", `system = "linux"`), "more than 500 machines or boards"},
		"boards":         {blocksOf("board", `ids = ["built-in"]`), "more than 500 machines or boards"},
		"colons":         {strings.Repeat(": = ,\n", 400_000), "attributes stand outside"},
		"comments":       {"version = 1 " + strings.Repeat("/*", 500_000), ""},
	} {
		t.Run(name, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			_, diags, err := Load(fstest.MapFS{"m.hcl": {Data: []byte(c.text)}}, "m.hcl", "")
			runtime.ReadMemStats(&after)
			require.NoError(t, err)
			assert.Less(t, (after.TotalAlloc-before.TotalAlloc)>>20, uint64(600), "MB allocated in all")
			if c.wrong != "" {
				require.NotEmpty(t, diags)
				assert.Contains(t, diags[0].Summary, c.wrong)
			}
			size := 0
			for _, d := range diags {
				size += len(d.Summary) + len(d.Advice) + len(d.Line)
				assert.Equal(t, "m.hcl", d.Range.File)
			}
			assert.Less(t, size, 1<<20)
			assert.LessOrEqual(t, len(diags), mostErrors)
		})
	}
}

// blocksOf are blocks with a name each.
func blocksOf(kind, body string) string {
	var b strings.Builder
	for i := range 60_000 {
		fmt.Fprintf(&b, "%s \"n%d\" { %s }\n", kind, i, body)
	}
	return b.String()
}
