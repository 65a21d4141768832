package byhand_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/byhand"
	"leitstand/internal/sample"
)

func TestSteps(t *testing.T) {
	ctrlAlt := keys.Ctrl | keys.Alt
	for _, c := range []struct {
		system  mapping.System
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string // of the verdict
		step    string
	}{
		{mapping.IPadOS, sample.Becomes("CapsLock", "Escape"), mechanism.Manual, "panel", "set **Caps Lock** to " +
			"**Escape**"},
		{mapping.IPadOS, sample.Becomes("MetaLeft", "ControlRight"), mechanism.Manual, "left and right are one", "set **Command** to **Control**"},
		{mapping.IPadOS, sample.Nothing("Fn"), mechanism.Manual, "panel", "set **Globe** to **No Action**"},
		{mapping.IPadOS, sample.Nothing("Insert"), mechanism.Unavailable, "modifier keys only", ""},
		{mapping.IPadOS, sample.Becomes("CapsLock", "F13"), mechanism.Unavailable, "cannot make", ""},
		{mapping.IPadOS, sample.Modifier("CapsLock", keys.Hyper), mechanism.Unavailable, "no Hyper", ""},
		{mapping.ChromeOS, sample.Becomes("MetaLeft", "CapsLock"), mechanism.Manual, "panel", "set **Launcher** to " +
			"**Caps Lock**"},
		{mapping.ChromeOS, sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{App: "x"}), mechanism.Unavailable, "no hotkeys", ""},
		{mapping.ChromeOS, sample.Launch(keys.Alt, "Digit3", behaviour.Launch{Open: "https://tides.example"}), mechanism.Manual, "place 3 of the shelf", "drag it to place 3"},
		{mapping.ChromeOS, sample.Launch(keys.Alt, "Digit9", behaviour.Launch{App: "x"}), mechanism.Unavailable, "no hotkeys", ""},
		{mapping.ChromeOS, sample.Act(ctrlAlt, "KeyM", "minimize"), mechanism.Manual, "further chord", "look for what minimizes the window, and give it **Ctrl+Alt+KeyM**"},
		{mapping.ChromeOS, sample.Becomes("MouseBack", "F5"), mechanism.Manual, "panel of the mouse", "press the button MouseBack, choose **Key combination**, and press **F5**"},
		{mapping.ChromeOS, sample.Off(0, "MouseBack"), mechanism.Unavailable, "give a key or a chord only", ""},
		{mapping.ChromeOS, sample.Act(keys.Alt, "MouseBack", "tile-right"), mechanism.Unavailable, "a button of a mouse", ""},
		{mapping.MacOS, sample.Launch(ctrlAlt, "MouseBack", behaviour.Launch{App: "org.tide.gauge"}), mechanism.Unavailable, "a button of a mouse", ""},
		{mapping.IPadOS, sample.Launch(ctrlAlt, "MouseBack", behaviour.Launch{App: "org.tide.gauge"}), mechanism.Unavailable, "a button of a mouse", ""},
		{mapping.ChromeOS, sample.Act(ctrlAlt, "KeyM", "suspend"), mechanism.Unavailable, "", ""},
		{mapping.MacOS, sample.Becomes("CapsLock", "Escape"), mechanism.Unavailable, "", ""},
		{mapping.MacOS, sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{App: "a.b.c"}), mechanism.Unavailable, "no Hyper", ""},
		{mapping.MacOS, sample.Launch(ctrlAlt, "KeyZ", behaviour.Launch{App: "org.tide.gauge"}), mechanism.Manual, "Shortcuts", "in its details, choose **Add Keyboard Shortcut** and press **Control-Option-Y**"},
		{mapping.IPadOS, sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Open: "https://tides.example"}), mechanism.Manual, "Full Keyboard Access", "give the shortcut the keys **Control-Option-T**"},
		{mapping.IPadOS, sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}}), mechanism.Unavailable, "runs no commands", ""},
		{mapping.IPadOS, sample.Setting("repeat delay", "220ms"), mechanism.Manual, "slider", "**Delay Until Repeat** as near to 220 ms"},
		{mapping.ChromeOS, sample.Setting("repeat rate", "40/s"), mechanism.Manual, "slider", "40 times a second"},
		{mapping.IPadOS, typed(";shf", "Süderhaff"), mechanism.Manual, "text replacement", "**Text Replacement**"},
		{mapping.ChromeOS, typed(";shf", "Süderhaff"), mechanism.Unavailable, "", ""},
		{mapping.MacOS, sample.Launch(keys.Meta, "F9", behaviour.Launch{Open: "https://tides.example"}), mechanism.Manual, "Shortcuts", "**Open URLs** with `https://tides.example`"},
	} {
		m := sample.Machine(mapping.Machine{System: c.system, Layouts: []string{"de"}})
		got := byhand.Mechanism{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words, c.binding.String())
		if c.verdict == mechanism.Manual {
			out, err := mechanism.Write(byhand.Mechanism{}, m, []behaviour.Binding{c.binding})
			require.NoError(t, err)
			require.Len(t, out.Steps(), 1)
			assert.Contains(t, out.Steps()[0].Text, c.step)
		}
	}
}

func typed(word, text string) behaviour.Binding {
	return behaviour.Binding{
		Level: behaviour.Typing, Word: word, Effect: behaviour.Effect{Kind: behaviour.Types, Text: text},
	}
}

// A panel's words for every key that it has, and for none that it lacks.
func TestPanels(t *testing.T) {
	for system, want := range map[mapping.System]struct {
		from, to map[string]string
		off      string
	}{
		mapping.IPadOS: {
			map[string]string{"CapsLock": "Caps Lock", "ControlLeft": "Control", "ControlRight": "Control", "AltLeft": "Option", "AltRight": "Option", "MetaLeft": "Command", "MetaRight": "Command", "Fn": "Globe"},
			map[string]string{"CapsLock": "Caps Lock", "ControlLeft": "Control", "ControlRight": "Control", "AltLeft": "Option", "AltRight": "Option", "MetaLeft": "Command", "MetaRight": "Command", "Fn": "Globe", "Escape": "Escape"},
			"No Action",
		},
		mapping.ChromeOS: {
			map[string]string{"CapsLock": "Caps Lock", "ControlLeft": "Ctrl", "ControlRight": "Ctrl", "AltLeft": "Alt", "AltRight": "Alt", "MetaLeft": "Launcher", "MetaRight": "Launcher", "Escape": "Escape", "Backspace": "Backspace"},
			map[string]string{"CapsLock": "Caps Lock", "ControlLeft": "Ctrl", "ControlRight": "Ctrl", "AltLeft": "Alt", "AltRight": "Alt", "MetaLeft": "Launcher", "MetaRight": "Launcher", "Escape": "Escape", "Backspace": "Backspace"},
			"Disabled",
		},
	} {
		m := sample.Machine(mapping.Machine{System: system, Layouts: []string{"us"}})
		said := func(b behaviour.Binding) string {
			if (byhand.Mechanism{}).Take(m, b).Verdict != mechanism.Manual {
				return ""
			}
			out, err := mechanism.Write(byhand.Mechanism{}, m, []behaviour.Binding{b})
			require.NoError(t, err)
			return out.Steps()[0].Text
		}
		for _, k := range keys.All() {
			if from, ok := want.from[k.String()]; ok {
				assert.Contains(t, said(sample.Nothing(k.String())), "set **"+from+"** to **"+want.off+"**", k)
			} else {
				assert.Empty(t, said(sample.Nothing(k.String())), k)
			}
			if k.String() == "CapsLock" {
				continue
			}
			if to, ok := want.to[k.String()]; ok {
				assert.Contains(t, said(sample.Becomes("CapsLock", k.String())), "set **Caps Lock** to **"+to+"**", k)
			} else {
				assert.Empty(t, said(sample.Becomes("CapsLock", k.String())), k)
			}
		}
	}
}

// The shell line of a step survives what a command may hold.
func TestShellLine(t *testing.T) {
	m := sample.Machine(mapping.Machine{System: mapping.MacOS, Layouts: []string{"us"}})
	out, err := mechanism.Write(byhand.Mechanism{}, m, []behaviour.Binding{
		sample.Launch(
			keys.Ctrl, "KeyT", behaviour.Launch{Command: []string{"tidegauge", "it's $HOME"}, Dir: "/log files"},
		),
	})
	require.NoError(t, err)
	assert.Equal(t, []string{`cd '/log files' && tidegauge "it's \$HOME"`}, out.Steps()[0].Lines)
}
