package mapping_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mapping"
)

// Rules are found by their kind and press, or by their group; a rule that has been changed keeps
// its name.
func TestNamed(t *testing.T) {
	mp, _ := scoped(t, `
launch "Ctrl+Alt+g" { run = "tidegauge" }
launch "Ctrl+Alt+G" {
  run = "chart"
  on  = "windows"
}
remap "CapsLock" { to = "Escape" }
group "night" {
  disable "F1" {}
  repeat { rate = 40 }
}
`)
	assert.Equal(
		t,
		[]string{"launch Ctrl+Alt+g", "launch Ctrl+Alt+G", "remap CapsLock", "group night", "disable F1", "repeat"},
		mp.RuleNames(),
	)
	for name, want := range map[string]int{"launch ctrl+alt+g": 2, "remap CapsLock": 1, "group night": 2, "night": 2, "repeat": 1} {
		list, err := mp.Named(name)
		require.NoError(t, err)
		assert.Len(t, list, want, name)
	}
	for name, nearest := range map[string]string{"remap CapLock": "remap CapsLock", "nights": "", "group nights": "group night"} {
		_, err := mp.Named(name)
		var unknown *mapping.UnknownRuleError
		require.ErrorAs(t, err, &unknown)
		assert.Equal(t, nearest, unknown.Nearest, name)
	}
}
