package mechanism_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mechanism"
)

// Programs read the words that tables show.
func TestVerdictsInJSON(t *testing.T) {
	for v, want := range map[mechanism.Verdict]string{mechanism.Unavailable: "unavailable", mechanism.NeedsAgent: "needs-agent", mechanism.Manual: "manual", mechanism.Limited: "limited", mechanism.Exact: "exact"} {
		text, err := json.Marshal(mechanism.Offer{Verdict: v})
		require.NoError(t, err)
		assert.Contains(t, string(text), `"`+want+`"`)
		assert.Equal(t, want, v.String())
	}
}
