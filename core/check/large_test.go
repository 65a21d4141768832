package check_test

import (
	"fmt"
	"runtime"
	"runtime/debug"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/mapping"
)

// growing are mappings of so many of each block, and of each list and table in one, right ones and such as are in error.
var growing = map[string]func(n int) string{
	"rules for one key":       each("remap \"CapsLock\" { to = \"Escape\" }\n"),
	"layers by one key":       each("layer \"l%[1]d\" {\n  while = \"F1\"\n  keys = { KeyH = \"ArrowLeft\" }\n}\n"),
	"layers":                  each("layer \"l%[1]d\" {\n  while = \"F%[1]d\"\n  keys = {\n    KeyH = \"ArrowLeft\"\n  }\n}\n"),
	"launches":                each("launch \"Meta+g, %[2]s\" { run = \"x%[1]d\" }\n"),
	"launches of one program": each("launch \"Meta+g, %[2]s\" { run = \"x\" }\n"),
	"shortcuts in a table": func(n int) string {
		return "keys = {\n" + each("  \"Meta+g, %[2]s\" = { run = \"x%[1]d\" }\n")(n) + "}\n"
	},
	"abbreviations": each("abbreviation \";%[3]s\" {\n  text = \"x%[1]d\"\n}\n"),
	"machines":      each("machine \"m%[1]d\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\n"),
	"boards":        each("board \"b%[1]d\" { ids = [\"usb:1209:%04[1]x\"] }\n"),
	"apps":          each("app \"a%[1]d\" { linux = \"xterm\" }\n"),
	"modifiers":     each("modifier \"Desk%[1]d\" { other = \"Meta\" }\n"),
	"constants":     func(n int) string { return "let {\n" + each("  c%[1]d = \"x\"\n")(n) + "}\n" },
	"constants of constants": func(n int) string {
		return "let {\n  c0 = [\"x\", \"x\"]\n" + each("  d%[1]d = [let.c0, let.c0, let.c0, let.c0]\n")(n) + "}\n"
	},
	"groups":         each("group \"g%[1]d\" {\n  launch \"Meta+g, %[2]s\" { run = \"x%[1]d\" }\n}\n"),
	"scopes":         each("on \"linux\" {\n  launch \"Meta+g, %[2]s\" { run = \"x%[1]d\" }\n}\n"),
	"settings":       each("native \"gnome\" { set = { \"/org/gnome/a%[1]d\" = 1 } }\n"),
	"unknown keys":   each("remap \"Kez%[1]d\" { to = \"Escape\" }\n"),
	"unknown blocks": each("lunch \"F%[1]d\" {}\n"),
	"arguments":      func(n int) string { return "launch \"F6\" { run = [\"x\"" + strings.Repeat(", \"y\"", n) + "] }\n" },
	"comments":       each("# %[1]d\n"),
	"steps of a macro": func(n int) string {
		return "macro \"F6\" {\n  steps = [" + strings.Repeat("{ keys = \"KeyA\" }, ", n) + "]\n}\n"
	},
}

// each is a text for each number, its letters as a sequence, and as a word.
func each(form string) func(n int) string {
	return func(n int) string {
		var b strings.Builder
		for i := range n {
			if !strings.Contains(form, "%") {
				b.WriteString(form)
				continue
			}
			text := fmt.Sprintf(form, i, letters(i, ", "), letters(i, ""))
			text, _, _ = strings.Cut(text, "%!(EXTRA")
			if !strings.HasSuffix(text, "\n") {
				text += "\n"
			}
			b.WriteString(text)
		}
		return b.String()
	}
}

// measured is what one run allocates, and what it keeps, in bytes.
type measured struct{ times, bytes, kept float64 }

func measure(t *testing.T, text string) measured {
	t.Helper()
	var before, after, end runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	var found check.Report
	if !diags.HasErrors() {
		found, err = check.Mapping(mp, check.Here{}, nil)
		require.NoError(t, err)
	}
	runtime.ReadMemStats(&after)
	runtime.GC()
	runtime.ReadMemStats(&end)
	runtime.KeepAlive(found)
	runtime.KeepAlive(mp)
	return measured{
		float64(after.Mallocs - before.Mallocs), float64(after.TotalAlloc - before.TotalAlloc),
		max(0, float64(end.HeapAlloc)-float64(before.HeapAlloc)),
	}
}

// What is twice as large takes about twice as much memory, and keeps twice as much: of every block, of lists and tables,
// and of such as are in error. (Of time, the benchmarks tell.)
func TestLargeMappingsGrowEvenly(t *testing.T) {
	const machine = "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\n"
	for name, of := range growing {
		t.Run(name, func(t *testing.T) {
			const n = 400
			measure(t, machine+of(n)) // what is worked out once
			was, is := measure(t, machine+of(n)), measure(t, machine+of(2*n))
			const some = 300_000 // bytes that are no matter
			assert.LessOrEqual(t, is.times, 2.6*was.times+2000, "allocations")
			assert.LessOrEqual(t, is.bytes, 2.6*was.bytes+some, "bytes")
			assert.LessOrEqual(t, is.kept, 2.6*was.kept+some, "bytes kept")
		})
	}
}

// BenchmarkLargest checks 4 MB of each: two seconds and 300 MB are the aim, and half a second for what is refused.
func BenchmarkLargest(b *testing.B) {
	defer debug.SetGCPercent(debug.SetGCPercent(400))
	defer debug.SetMemoryLimit(debug.SetMemoryLimit(250 << 20)) // as the program has it for large mappings
	const machine = "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\n"
	for name, of := range growing {
		b.Run(name, func(b *testing.B) {
			text := []byte(machine + of((mapping.MaxSize-200)*1000/(len(of(2000))-len(of(1000))+1)*9/10))
			text = text[:min(len(text), mapping.MaxSize)]
			for b.Loop() {
				mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
				require.NoError(b, err)
				if !diags.HasErrors() {
					_, err = check.Mapping(mp, check.Here{}, nil)
					require.NoError(b, err)
				}
			}
			var end runtime.MemStats
			runtime.ReadMemStats(&end)
			b.ReportMetric(float64(end.HeapSys)/(1<<20), "MiB")
			b.ReportMetric(float64(len(text))/(1<<20), "MiB/text")
		})
	}
}
