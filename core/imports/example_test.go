package imports_test

import (
	"fmt"
	"testing/fstest"

	"leitstand/core/imports"
	"leitstand/core/machine"
)

// A configuration that somebody wrote becomes a mapping.
func ExampleFiles() {
	files := fstest.MapFS{"i3/config": {Data: []byte("bindsym Mod4+g exec tidegauge\nbindsym Mod4+F2 workspace " +
		"number 2\n")}}
	here := &machine.Machine{Name: "gauge", System: machine.Linux, Desktop: "i3", Layouts: []string{"de"}, Admin: true}
	got, err := imports.Files([]imports.Path{{FS: files, Name: "i3/config", Shown: "i3/config"}}, here, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	text, _, err := got.Text()
	fmt.Println(string(text), err)
	// Output:
	// # Taken over from i3/config
	// version = 1
	//
	// machine "gauge" {
	//   system  = "linux"
	//   desktop = "i3"
	//   layouts = ["de"]
	// }
	//
	// keys = {
	//   "Meta+g"  = { run = "tidegauge" }
	//   "Meta+F2" = { does = "workspace-2" }
	// }
	//  <nil>
}
