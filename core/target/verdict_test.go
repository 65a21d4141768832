package target_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/target"
)

// Programs read the words that tables show.
func TestVerdictsInJSON(t *testing.T) {
	for v, want := range map[target.Verdict]string{target.None: "none", target.Resident: "resident", target.ByHand: "by hand", target.Near: "near", target.Exact: "exact"} {
		text, err := json.Marshal(target.Offer{Verdict: v})
		require.NoError(t, err)
		assert.Contains(t, string(text), `"`+want+`"`)
		assert.Equal(t, want, v.String())
	}
}
