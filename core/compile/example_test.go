package compile_test

import (
	"fmt"
	"testing/fstest"

	"leitstand/core/compile"
	"leitstand/core/mapping"
)

// A mapping is compiled for its machines: how each press lands, and what is written.
func ExampleAll() {
	files := fstest.MapFS{"leitstand.hcl": {Data: []byte(`
machine "gauge" {
  system  = "linux"
  desktop = "i3"
}
launch "Ctrl+Alt+F1" {
  run      = "tidegauge"
  fallback = "Meta+F1"
}
`)}}
	mp, _, _ := mapping.Load(files, "leitstand.hcl", "")
	builds, _, err := compile.All(mp, nil, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, l := range builds[0].Landings {
		fmt.Printf(
			"%s: %s, since %s; instead, %s by %s\n",
			l.Instead(),
			l.Verdict(),
			l.Why(),
			l.StandIn(),
			l.Facts().Name,
		)
	}
	for _, f := range builds[0].Files() {
		fmt.Println(f.Path, "goes to", f.Goes)
	}
	// Output:
	// Ctrl+Alt+F1: unavailable, since Linux keeps Ctrl+Alt+F1 for itself: it switches to console 1; instead, Meta+F1 by i3
	// i3/leitstand.conf goes to ~/.config/i3/leitstand.conf
}
