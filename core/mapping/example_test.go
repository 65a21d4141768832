package mapping_test

import (
	"fmt"

	"leitstand/core/mapping"
)

// A mapping that a program makes is printed as a person would lay it out.
func ExamplePrint() {
	text, err := mapping.Print([]mapping.Item{
		mapping.Block{Type: "machine", Labels: []string{"vessel"}, Items: []mapping.Item{
			mapping.Attr{Name: "system", Value: mapping.Str("macos")},
			mapping.Attr{Name: "layouts", Value: mapping.Strs{"de"}},
		}},
		mapping.Blank{},
		mapping.Block{Type: "disable", Labels: []string{"Insert"}},
	})
	fmt.Println(string(text), err)
	// Output:
	// machine "vessel" {
	//   system  = "macos"
	//   layouts = ["de"]
	// }
	//
	// disable "Insert" {}
	//  <nil>
}
