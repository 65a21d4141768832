package picture_test

import (
	"testing"

	"leitstand/core/picture"
)

// BenchmarkBoards asks for every board of the example.
func BenchmarkBoards(b *testing.B) {
	all := stations(b)
	for b.Loop() {
		for _, s := range all {
			if _, err := picture.All(s, picture.Asked{}); err != nil {
				b.Fatal(err)
			}
		}
	}
}
