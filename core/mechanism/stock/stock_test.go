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
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/stock"
	"leitstand/internal/sample"
)

func TestTake(t *testing.T) {
	for _, c := range []struct {
		system  mapping.System
		version string
		binding mechanism.Binding
		verdict mechanism.Verdict
		why     string
	}{
		{mapping.Windows, "", sample.Act(keys.Meta, "ArrowLeft", "tile-left"), mechanism.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.MetaLeft, "ArrowLeft", "tile-left"), mechanism.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "KeyL", "lock"), mechanism.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "ArrowUp", "maximize"), mechanism.Limited, "Meta+ArrowDown undoes it"},
		{mapping.Windows, "10", sample.Act(keys.Meta, "KeyN", "notifications"), mechanism.Unavailable, ""},
		{mapping.Windows, "11", sample.Act(keys.Meta, "KeyN", "notifications"), mechanism.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Ctrl, "KeyC", "copy"), mechanism.Limited, "terminals do something else"},
		{mapping.Windows, "", sample.Act(0, "AudioVolumeUp", "volume-up"), mechanism.Exact, ""},
		{mapping.Windows, "", sample.Act(keys.Meta, "KeyU", "suspend"), mechanism.Unavailable, ""},
		{mapping.Windows, "", runs(keys.Meta, "KeyE", "explorer.exe"), mechanism.Exact, ""},
		{mapping.Windows, "", runs(keys.Ctrl|keys.Shift, "Escape", "Taskmgr"), mechanism.Exact, ""},
		{mapping.Windows, "", runs(keys.Meta, "KeyE", "explorer.exe", `C:\Tide`), mechanism.Unavailable, ""},
		{mapping.Windows, "", runs(keys.Meta, "KeyI", "explorer.exe"), mechanism.Unavailable, ""},
		{mapping.Windows, "", sample.Launch(keys.Meta, "KeyI", behaviour.Launch{Open: "ms-settings:"}), mechanism.Exact, ""},
		{mapping.MacOS, "", runs(keys.Meta, "KeyE", "explorer.exe"), mechanism.Unavailable, ""},
		{mapping.MacOS, "", sample.Act(keys.Meta, "KeyC", "copy"), mechanism.Exact, ""},
		{mapping.MacOS, "", sample.Act(keys.Hyper, "KeyC", "copy"), mechanism.Unavailable, ""},
		{mapping.ChromeOS, "", sample.Act(keys.Meta|keys.Shift, "Digit3", "workspace-3"), mechanism.Exact, ""},
		{mapping.IPadOS, "", sample.Act(keys.Meta, "KeyH", "show-desktop"), mechanism.Exact, ""},
		{mapping.MacOS, "", sample.Off(keys.Meta, "KeyC"), mechanism.Unavailable, ""},
	} {
		got := stock.Mechanism{}.Take(
			sample.Machine(mapping.Machine{System: c.system, Version: c.version, Layouts: []string{"us"}}), c.binding,
		)
		assert.Equal(t, c.verdict, got.Verdict, "%s: %s", c.system, c.binding)
		assert.Contains(t, got.Why.String(), c.why)
	}
}

func runs(mods keys.Mods, code string, words ...string) mechanism.Binding {
	return sample.Launch(mods, code, behaviour.Launch{Command: words})
}

// What is taken needs no file, and is what the machine does by itself.
func TestReadsWhatItTakes(t *testing.T) {
	for _, s := range []mapping.System{mapping.MacOS, mapping.IPadOS, mapping.Windows, mapping.ChromeOS} {
		m := sample.Machine(mapping.Machine{System: s, Layouts: []string{"de"}})
		var list []mechanism.Binding
		for _, u := range desktop.Stock(m) {
			if _, ok := action.Find(u.Name); !ok {
				continue
			}
			b := mechanism.Binding{
				Level:  behaviour.Hotkey,
				Chord:  u.Chord,
				Effect: behaviour.Effect{Kind: behaviour.Acts, Action: u.Name},
			}
			require.GreaterOrEqual(t, stock.Mechanism{}.Take(m, b).Verdict, mechanism.Limited, b.String())
			list = append(list, b)
		}
		out, err := mechanism.Write(stock.Mechanism{}, m, list)
		require.NoError(t, err)
		assert.Empty(t, out.Changes)
		got, err := stock.Mechanism{}.Read(m, fstest.MapFS{})
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list), s)
	}
}
