package machine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/machine"
)

// The rows of a board are as wide as each other, no two keys overlap, and each key is there once, or in two rows one
// above the other.
func TestMainBlock(t *testing.T) {
	for _, kind := range machine.Kinds {
		caps := machine.MainBlock(kind)
		ends := map[int]int{}
		for i, c := range caps {
			assert.Positive(t, c.Width)
			assert.GreaterOrEqual(t, c.From, ends[c.Row], "%s: %s", kind, c.Key)
			ends[c.Row] = c.From + c.Width
			for _, o := range caps[:i] {
				if o.Key == c.Key {
					assert.Equal(t, o.Row+1, c.Row, "%s: %s", kind, c.Key)
					assert.Less(t, max(o.From, c.From), min(o.From+o.Width, c.From+c.Width))
				}
			}
		}
		for row := range 6 {
			assert.Equal(t, 15*machine.Unit, ends[row], "%s, row %d", kind, row)
		}
		assert.Equal(t, map[string]int{"ansi": 74, "iso": 76, "jis": 80}[kind], len(caps), kind)
	}
}
