package steps_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/target"
	"leitstand/core/target/steps"
	"leitstand/internal/sample"
)

func TestSteps(t *testing.T) {
	ctrlAlt := keys.Ctrl | keys.Alt
	for _, c := range []struct {
		system  mapping.System
		binding behaviour.Binding
		verdict target.Verdict
		words   string // of the verdict
		step    string
	}{
		{mapping.IPadOS, sample.Becomes("CapsLock", "Escape"), target.ByHand, "panel", "set **Caps Lock** to **Escape**"},
		{mapping.IPadOS, sample.Becomes("MetaLeft", "ControlRight"), target.ByHand, "left and right are one", "set **Command** to **Control**"},
		{mapping.IPadOS, sample.Nothing("Fn"), target.ByHand, "panel", "set **Globe** to **No Action**"},
		{mapping.IPadOS, sample.Nothing("Insert"), target.None, "modifier keys only", ""},
		{mapping.IPadOS, sample.Becomes("CapsLock", "F13"), target.None, "cannot make", ""},
		{mapping.IPadOS, sample.Modifier("CapsLock", keys.Hyper), target.None, "no Hyper", ""},
		{mapping.ChromeOS, sample.Becomes("MetaLeft", "CapsLock"), target.ByHand, "panel", "set **Launcher** to **Caps Lock**"},
		{mapping.ChromeOS, sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{App: "x"}), target.None, "no hotkeys", ""},
		{mapping.MacOS, sample.Becomes("CapsLock", "Escape"), target.None, "", ""},
		{mapping.MacOS, sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{App: "a.b.c"}), target.None, "no Hyper", ""},
		{mapping.MacOS, sample.Launch(ctrlAlt, "KeyZ", behaviour.Launch{App: "org.tide.gauge"}), target.ByHand, "Shortcuts", "**Open App** with the program `org.tide.gauge`; in its details, choose **Add Keyboard Shortcut** and press **Control-Option-Y**"},
		{mapping.MacOS, sample.Launch(keys.Meta, "F9", behaviour.Launch{Open: "https://tides.example"}), target.ByHand, "Shortcuts", "**Open URLs** with `https://tides.example`"},
	} {
		m := sample.Machine(mapping.Machine{System: c.system, Layouts: []string{"de"}})
		got := steps.Target{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Words, c.words, c.binding.String())
		if c.verdict == target.ByHand {
			out, err := steps.Target{}.Write(m, []behaviour.Binding{c.binding})
			require.NoError(t, err)
			require.Len(t, out.Steps, 1)
			assert.Contains(t, out.Steps[0].Text, c.step)
		}
	}
}

// The shell line of a step survives what a command may hold.
func TestShellLine(t *testing.T) {
	m := sample.Machine(mapping.Machine{System: mapping.MacOS, Layouts: []string{"us"}})
	out, err := steps.Target{}.Write(m, []behaviour.Binding{
		sample.Launch(keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"tidegauge", "it's $HOME"}, Dir: "/log files"}),
	})
	require.NoError(t, err)
	assert.Equal(t, []string{`cd '/log files' && tidegauge "it's \$HOME"`}, out.Steps[0].Lines)
}
