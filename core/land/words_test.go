package land_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/behaviour"
)

// An abbreviation behind Compose lands where its characters can be typed: in a layout of ours under each of the
// machine's layouts, in XKB's under any.
func TestWordsOfLostCharacters(t *testing.T) {
	for rule, want := range map[string]string{
		`remap "Digit8" { to = "Compose" }`: "compose keylayout",
		// A is typed by this key under the second layout only.
		`remap "KeyQ" { to = "Compose" }`: "compose texts",
		`remap "KeyB" { to = "Compose" }`: "none texts",
	} {
		builds, _ := build(t, `
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["us", "fr"]
}
machine "vessel" {
  system  = "macos"
  layouts = ["us", "fr"]
}
abbreviation "ab" {
  text         = "€"
}
`+rule)
		var got []string
		for _, b := range builds {
			for _, l := range b.Landings {
				switch {
				case l.Binding.Level != behaviour.Typing:
				case l.Mechanism == nil:
					got = append(got, "none")
				default:
					got = append(got, l.Facts().Name)
				}
			}
		}
		assert.Equal(t, want, got[0]+" "+got[1], rule)
	}
}
