package compile_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
)

// BenchmarkLaunchers compiles and reads back launchers for each Linux desktop, to show
// that the time grows with their number and not faster.
func BenchmarkLaunchers(b *testing.B) {
	mods := []string{"Meta", "Ctrl+Alt", "Ctrl+Meta", "Alt+Meta", "Ctrl+Alt+Meta", "Shift+Meta", "Ctrl+Shift+Meta"}
	for _, desktop := range []string{"gnome", "plasma", "xfce", "mate", "i3"} {
		for _, n := range []int{50, 500} {
			var text strings.Builder
			fmt.Fprintf(
				&text,
				"machine \"office\" {\n system = \"linux\"\n desktop = %q\n layouts = [\"us\"]\n}\n",
				desktop,
			)
			made := 0
			for _, m := range mods {
				for _, k := range keys.All() {
					if section := k.Section(); made < n && (section == keys.Writing || section == keys.Function) {
						fmt.Fprintf(&text, "launch \"%s+%s\" { run = [\"tidegauge\", \"%d\"] }\n", m, k, made)
						made++
					}
				}
			}
			mp, diags, err := mapping.Load(mapFile(text.String()), "m.hcl", "")
			require.NoError(b, err)
			require.Empty(b, diags)
			b.Run(fmt.Sprintf("%s/%d", desktop, made), func(b *testing.B) {
				for b.Loop() {
					build, _, err := compile.Machine(mp, mp.Machines[0])
					require.NoError(b, err)
					_, err = compile.Read(build.Machine, filesOf(build))
					require.NoError(b, err)
				}
			})
		}
	}
}
