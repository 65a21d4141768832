package check_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/check"
	"leitstand/internal/sample"
)

// Whatever rules come together on whatever machines, the files do what the verdicts say.
func TestRandomMappingsAreProved(t *testing.T) {
	sample.Checks(150)
	rapid.Check(t, func(t *rapid.T) {
		text, mp := sample.Mapping(t)
		r, err := check.Mapping(mp, check.Here{}, nil)
		require.NoError(t, err, "%s", text)
		for _, f := range r.Findings {
			if f.Code == "not-proved" {
				t.Fatalf("%s %v\n%s", f.Summary, f.Machines, text)
			}
		}
	})
}
