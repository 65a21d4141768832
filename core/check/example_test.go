package check_test

import (
	"fmt"
	"testing/fstest"

	"leitstand/core/check"
	"leitstand/core/mapping"
)

// All that can be found out of a mapping without writing anything.
func ExampleMapping() {
	files := fstest.MapFS{"leitstand.hcl": {Data: []byte(`
machine "lab" { system = "windows" }
action "Meta+l" { does = "lock" }
disable "Ctrl+Alt+Delete" {}
`)}}
	mp, _, _ := mapping.Load(files, "leitstand.hcl", "")
	report, err := check.Mapping(mp, check.Here{}, nil)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, f := range report.Findings {
		fmt.Println(f.Severity, f.Code+":", f.Summary)
	}
	fmt.Println(report.Proof.Unexplained, "unexplained")
	// Output:
	// warning unavailable: Ctrl+Alt+Delete is unavailable: Windows keeps Ctrl+Alt+Delete for itself: it opens the security screen; the keyboard filter of managed editions could block it, which machine lab does not ask for (keyboard_filter)
	// 0 unexplained
}
