package check_test

import (
	"fmt"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/mapping"
)

// large are mappings of n rules of one kind, of which there can be as many as one likes.
var large = map[string]func(i int) string{
	"launch": func(i int) string {
		return fmt.Sprintf("launch \"Meta+g, %s\" { run = [\"x%d\"] }\n", letters(i, ", "), i)
	},
	"disable": func(i int) string { return fmt.Sprintf("disable \"Meta+g, %s\" {}\n", letters(i, ", ")) },
	"remap": func(i int) string {
		return fmt.Sprintf("remap \"Meta+g, %s\" { to = \"Ctrl+F9\" }\n", letters(i, ", "))
	},
	"action": func(i int) string {
		return fmt.Sprintf("action \"Meta+g, %s\" { does = \"close\" }\n", letters(i, ", "))
	},
	"abbreviation": func(i int) string {
		return fmt.Sprintf("snippet {\n  abbreviation = \";%s\"\n  text = \"x%d\"\n}\n", letters(i, ""), i)
	},
}

// letters are four letters for a number, other ones for each.
func letters(i int, between string) string {
	return fmt.Sprintf("%c%s%c%s%c%s%c", 'a'+i%26, between, 'a'+i/26%26, between, 'a'+i/676%26, between, 'a'+i/17576%26)
}

// The time a rule takes should not grow with their number.
func BenchmarkSizes(b *testing.B) {
	for kind, rule := range large {
		for _, n := range []int{1_000, 10_000, 50_000} {
			b.Run(fmt.Sprintf("%s/%d", kind, n), func(b *testing.B) {
				text := []byte("machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\nremap \"Pause\" { to = \"Compose\" }\n")
				for i := range n {
					text = append(text, rule(i)...)
				}
				for b.Loop() {
					mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
					require.NoError(b, err)
					require.Empty(b, diags)
					_, err = check.Mapping(mp, check.Here{}, nil)
					require.NoError(b, err)
				}
				b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N*n), "µs/rule")
			})
		}
	}
}
