package compare

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
)

// What a press was, and is, reads as a sentence.
func TestState(t *testing.T) {
	key, _ := keys.ByCode("Escape")
	becomes := behaviour.Effect{Kind: behaviour.Becomes, Key: key}
	started := behaviour.Launching(behaviour.Launch{Open: "https://tides.example"})
	for _, c := range []struct {
		level behaviour.Level
		e     *behaviour.Effect
		want  string
	}{
		{behaviour.Position, nil, "itself"},
		{behaviour.Setting, nil, "the system's"},
		{behaviour.Hotkey, nil, "unassigned"},
		{behaviour.Hotkey, &behaviour.Effect{Kind: behaviour.Nothing}, "off"},
		{behaviour.Position, &becomes, "Escape"},
		{behaviour.Setting, &behaviour.Effect{Kind: behaviour.Sets, Value: behaviour.Milliseconds(220)}, "220ms"},
		{behaviour.Hotkey, &started, "opens https://tides.example"},
		{behaviour.Position, &behaviour.Effect{Kind: behaviour.TapHold, Tap: &becomes, Hold: &behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Ctrl}, Within: 200 * time.Millisecond},
			"tapped within 200ms acts as Escape, held acts as Ctrl"},
		{behaviour.Hotkey, &behaviour.Effect{Kind: behaviour.Acts, Action: "lock"}, "does lock"},
	} {
		assert.Equal(t, c.want, state(behaviour.Place{Level: c.level}, c.e))
	}
}
