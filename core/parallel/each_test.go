package parallel_test

import (
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/parallel"
)

// However many there are, each has its turn, and only one.
func TestEach(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		turns := make([]atomic.Int32, rapid.IntRange(0, 300).Draw(t, "n"))
		parallel.Each(len(turns), func(i int) { turns[i].Add(1) })
		for i := range turns {
			require.EqualValues(t, 1, turns[i].Load(), i)
		}
	})
}

// Work that breaks off does so where the caller can catch it, and always with the same: work with a smaller number has
// begun before.
func TestEachPanics(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 300).Draw(t, "n")
		from := rapid.IntRange(0, n-1).Draw(t, "from")
		require.PanicsWithValue(t, from, func() {
			parallel.Each(n, func(i int) {
				if i >= from {
					panic(i)
				}
			})
		})
	})
}
