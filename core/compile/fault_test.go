package compile_test

import (
	"slices"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/mapping"
)

// Work that breaks off names the rule that it takes, and the machine; work that does not is
// done once.
func TestGuard(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte("machine \"pier\" {\n  system = " +
		"\"windows\"\n}\ndisable \"F5\" {}\ndisable \"F6\" {}\ndisable \"F7\" {}\n")}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	for place, breaks := range map[string]func(*mapping.Mapping) bool{
		"m.hcl:5:1": func(mp *mapping.Mapping) bool { return len(mp.Rules) >= 2 },
		"m.hcl:6:1": func(mp *mapping.Mapping) bool { return slices.Contains(mp.Rules, mp.Rules[0]) && len(mp.Rules) == 3 },
		"m.hcl:1:1": func(*mapping.Mapping) bool { return true },
	} {
		fault := compile.Guard(mp, mp.Machines[0], func(mp *mapping.Mapping) {
			if breaks(mp) {
				panic("no such key")
			}
		})
		require.Len(t, fault, 1)
		assert.Equal(t, "fault", fault[0].Code)
		assert.Equal(t, place, fault[0].Range.String())
		assert.Equal(t, []string{"pier"}, fault[0].Machines)
		assert.Contains(t, fault[0].Summary, "no such key")
		assert.NotEmpty(t, fault[0].Line)
	}
	n := 0
	assert.Empty(t, compile.Guard(mp, mp.Machines[0], func(*mapping.Mapping) { n++ }))
	assert.Equal(t, 1, n)
}
