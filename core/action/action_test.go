package action_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/action"
)

func TestActions(t *testing.T) {
	seen := map[string]bool{}
	for _, a := range action.All() {
		assert.False(t, seen[a.Name], a.Name)
		seen[a.Name] = true
		assert.NotEmpty(t, a.Words)
		found, ok := action.Find(a.Name)
		assert.True(t, ok)
		assert.Equal(t, a, found)
	}
	_, ok := action.Find("make-coffee")
	assert.False(t, ok)
	base, n, ok := action.Number("window-to-workspace-11")
	assert.Equal(t, []any{"window-to-workspace", 11, true}, []any{base, n, ok})
	_, _, ok = action.Number("tile-left")
	assert.False(t, ok)
}
