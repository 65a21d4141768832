package station_test

import (
	"fmt"
	"testing/fstest"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

// A mapping is read, compiled for one of its machines, and asked what a press does there.
func Example() {
	files := fstest.MapFS{"leitstand.hcl": {Data: []byte(`
machine "gauge" {
  system  = "linux"
  desktop = "i3"
  layouts = ["de"]
}
hyper "CapsLock" {}
launch "Hyper+g" { run = "tidegauge" }
`)}}
	mp, found, err := mapping.Load(files, "leitstand.hcl", "")
	if err != nil || found.HasErrors() {
		fmt.Println(found, err)
		return
	}
	build, _, err := compile.Machine(mp, mp.Machines[0])
	if err != nil {
		fmt.Println(err)
		return
	}
	s, err := station.Of(mp, build)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, strokes := range []string{"Hyper+g", "Equal, KeyE", "Meta+Shift+q"} {
		answers, err := s.Ask(strokes, station.Where{})
		if err != nil {
			fmt.Println(err)
			return
		}
		fmt.Printf("%s: %s\n", strokes, answers[0].Does)
	}
	// Output:
	// Hyper+g: runs tidegauge
	// Equal, KeyE: waits for the key that ´ is to be put on; then types é
	// Meta+Shift+q: goes to the program in front, as Shift+Meta+KeyQ
}
