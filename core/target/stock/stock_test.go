package stock_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/target"
	"leitstand/core/target/stock"
	"leitstand/internal/sample"
)

func TestTake(t *testing.T) {
	for _, c := range []struct {
		system  mapping.System
		version string
		binding target.Binding
		verdict target.Verdict
		why     string
	}{
		{mapping.Windows, "", sample.Act(keys.Meta, "ArrowLeft", "tile-left"), target.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.MetaLeft, "ArrowLeft", "tile-left"), target.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "KeyL", "lock"), target.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "ArrowUp", "maximize"), target.Near, "Meta+ArrowDown undoes it"},
		{mapping.Windows, "10", sample.Act(keys.Meta, "KeyN", "notifications"), target.None, ""},
		{mapping.Windows, "11", sample.Act(keys.Meta, "KeyN", "notifications"), target.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Ctrl, "KeyC", "copy"), target.Near, "terminals do something else"},
		{mapping.Windows, "", sample.Act(0, "AudioVolumeUp", "volume-up"), target.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "KeyU", "suspend"), target.None, ""},
		{mapping.MacOS, "", sample.Act(keys.Meta, "KeyC", "copy"), target.Exact, ""},
		{mapping.MacOS, "", sample.Act(keys.Hyper, "KeyC", "copy"), target.None, ""},
		{mapping.ChromeOS, "", sample.Act(keys.Meta|keys.Shift, "Digit3", "workspace-3"), target.Exact, ""},
		{mapping.IPadOS, "", sample.Act(keys.Meta, "KeyH", "show-desktop"), target.Exact, ""},
		{mapping.MacOS, "", sample.Off(keys.Meta, "KeyC"), target.None, ""},
	} {
		got := stock.Target{}.Take(
			sample.Machine(mapping.Machine{System: c.system, Version: c.version, Layouts: []string{"us"}}),
			c.binding,
		)
		assert.Equal(t, c.verdict, got.Verdict, "%s: %s", c.system, c.binding)
		assert.Contains(t, got.Why.String(), c.why)
	}
}

// What is taken needs no file, and is what the machine does by itself.
func TestReadsWhatItTakes(t *testing.T) {
	for _, s := range []mapping.System{mapping.MacOS, mapping.IPadOS, mapping.Windows, mapping.ChromeOS} {
		m := sample.Machine(mapping.Machine{System: s, Layouts: []string{"de"}})
		var list []target.Binding
		for _, u := range desktop.Stock(m) {
			if _, ok := action.Find(u.Name); !ok {
				continue
			}
			b := target.Binding{
				Level:  behaviour.Hotkey,
				Chord:  u.Chord,
				Effect: behaviour.Effect{Kind: behaviour.Acts, Action: u.Name},
			}
			require.GreaterOrEqual(t, stock.Target{}.Take(m, b).Verdict, target.Near, b.String())
			list = append(list, b)
		}
		out, err := target.Write(stock.Target{}, m, list)
		require.NoError(t, err)
		assert.Empty(t, out.Changes)
		got, err := stock.Target{}.Read(m, fstest.MapFS{})
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list), s)
	}
}
