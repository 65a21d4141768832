package check_test

import (
	"fmt"
	"runtime"
	"runtime/debug"
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
		return fmt.Sprintf("abbreviation \";%s\" {\n  text = \"x%d\"\n}\n", letters(i, ""), i)
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
				text := []byte("machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\nremap \"Pause\" " +
					"{ to = \"Compose\" }\n")
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

// BenchmarkLaunchersOnFiveMachines checks ten thousand launchers that land on each of five
// machines. What it keeps and takes is printed: a second and 150 MiB are the aim. Garbage is collected as the program
// has it.
func BenchmarkLaunchersOnFiveMachines(b *testing.B) {
	defer debug.SetGCPercent(debug.SetGCPercent(400))
	defer debug.SetMemoryLimit(debug.SetMemoryLimit(120 << 20))
	var text []byte
	for i, desktop := range []string{"i3", "sway", "i3", "sway", "i3"} {
		text = fmt.Appendf(text, "machine \"m%d\" {\n  system  = \"linux\"\n  desktop = %q\n}\n", i, desktop)
	}
	const n = 10_000
	for i := range n {
		text = append(text, large["launch"](i)...)
	}
	var most uint64
	for b.Loop() {
		runtime.GC()
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
		require.NoError(b, err)
		require.Empty(b, diags)
		r, err := check.Mapping(mp, check.Here{}, nil)
		require.NoError(b, err)
		require.Len(b, r.Builds, 5)
		for _, build := range r.Builds {
			require.NotNil(b, build.Landings[n-1].Mechanism)
		}
		runtime.ReadMemStats(&after)
		most = max(most, after.HeapSys-before.HeapReleased)
	}
	b.ReportMetric(float64(most)/(1<<20), "MiB")
}
