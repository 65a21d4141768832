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
	for v, want := range map[mechanism.Verdict]string{mechanism.None: "none", mechanism.Resident: "resident", mechanism.ByHand: "by hand", mechanism.Near: "near", mechanism.Exact: "exact"} {
		text, err := json.Marshal(mechanism.Offer{Verdict: v})
		require.NoError(t, err)
		assert.Contains(t, string(text), `"`+want+`"`)
		assert.Equal(t, want, v.String())
	}
}
