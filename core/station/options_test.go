package station_test

import (
	"fmt"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/station"
)

// A key is the modifier that the compiled keymap switches on by it, whatever its keysym is called.
func TestModifiersByOption(t *testing.T) {
	for _, c := range []struct {
		option, key string
		want        keys.Mods
	}{
		{"", "AltLeft", keys.AltLeft}, {"", "AltRight", keys.AltRight}, {"", "MetaLeft", keys.MetaLeft},
		{"", "CapsLock", 0}, {"", "Fn", keys.Fn},
		{"altwin:swap_lalt_lwin", "AltLeft", keys.MetaLeft}, {"altwin:swap_lalt_lwin", "MetaLeft", keys.AltLeft},
		{"altwin:swap_lalt_lwin", "AltRight", keys.AltRight},
		{"altwin:hyper_win", "MetaLeft", keys.MetaLeft}, {"altwin:hyper_win", "MetaRight", keys.MetaRight},
		{"caps:ctrl_modifier", "CapsLock", keys.Ctrl}, {"ctrl:swapcaps", "CapsLock", keys.CtrlLeft},
		{"ctrl:swapcaps", "ControlLeft", 0},
		{"caps:hyper", "CapsLock", keys.Meta}, {"lv3:lsgt_switch", "IntlBackslash", keys.AltGr},
		{"lv5:ralt_switch", "AltRight", 0},
	} {
		options := ""
		if c.option != "" {
			options = fmt.Sprintf("options = [%q]", c.option)
		}
		text := "machine \"gauge\" {\n  system = \"linux\"\n  desktop = \"i3\"\n  " + options + "\n}\n"
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags, c.option)
		b, _, err := compile.Machine(mp, mp.Machines[0])
		require.NoError(t, err)
		k, _ := keys.ByCode(c.key)
		assert.Equal(t, c.want.Names(), of(t, mp, b).Natural(k).Names(), "option %q, %s", c.option, c.key)
	}
}

// What a station says is what the files say: without them, nothing is done, and what they say
// otherwise is told.
func TestFilesAreWhatCounts(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "gauge" {
  system  = "linux"
  desktop = "i3"
}
remap "CapsLock" { to = "Escape" }
launch "Ctrl+F9" { run = "tidegauge" }
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	b, _, err := compile.Machine(mp, mp.Machines[0])
	require.NoError(t, err)
	ask := func(files mechanism.Folder, press string) station.Answer {
		s, err := station.With(mp, b, files)
		require.NoError(t, err)
		answers, err := s.Ask(press, station.Where{})
		require.NoError(t, err)
		return answers[0]
	}
	has, err := b.Simulated()
	require.NoError(t, err)
	assert.Equal(t, "runs tidegauge", ask(has, "Ctrl+F9").Does)
	assert.Equal(t, "acts as Escape", ask(has, "CapsLock").Does)
	assert.Equal(t, "goes to the program in front, as Ctrl+F9", ask(nil, "Ctrl+F9").Does)
	assert.Equal(t, "acts as CapsLock", ask(nil, "CapsLock").Does)
}

// What a desktop did by a chord that it has given up for another, it does no longer; and a dead key
// joins what is typed with Shift.
func TestAskBesideStock(t *testing.T) {
	for _, c := range []struct{ desktop, layout, press, want string }{
		{"mate", "us", "Alt+F4", "goes to the program in front, as Alt+F4"},
		{"mate", "us", "Ctrl+Meta+F8", "does close"},
		{"plasma", "us", "Alt+F4", "does close"}, {"gnome", "us", "Alt+F4", "does close"},
		{"i3", "de", "Equal, Shift+KeyE", "waits for the key that ´ is to be put on; then types É"},
		{"i3", "de", "AltGr+KeyQ", "types @"},
		{"i3", "us", "Shift+ArrowUp", "goes to the program in front, as Shift+ArrowUp"},
	} {
		text := fmt.Sprintf("machine \"m\" {\n  system = \"linux\"\n  desktop = %q\n  layouts = [%q]\n}\naction "+
			"\"Ctrl+Meta+F8\" { does = \"close\" }\n", c.desktop, c.layout)
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags)
		b, _, err := compile.Machine(mp, mp.Machines[0])
		require.NoError(t, err)
		answers, err := of(t, mp, b).Ask(c.press, station.Where{})
		require.NoError(t, err)
		assert.Equal(t, c.want, answers[0].Does, "%s under %s", c.press, c.desktop)
	}
}

// A rule for one side of a modifier has that side of what the system does by itself, and leaves it
// the other.
func TestOneSideOfStockChord(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "vessel" { system = "macos" }
action "CtrlRight+Meta+KeyQ" { does = "lock" }
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	b, _, err := compile.Machine(mp, mp.Machines[0])
	require.NoError(t, err)
	for press, want := range map[string]string{
		"CtrlRight+Meta+KeyQ": "does lock", "CtrlLeft+Meta+KeyQ": "locks the screen",
	} {
		answers, err := of(t, mp, b).Ask(press, station.Where{})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Does, press)
	}
}

// A key that an option makes a modifier is held although a shortcut takes its press.
func TestShortcutOnModifier(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "gauge" {
  system  = "linux"
  desktop = "gnome"
  options = ["altwin:menu_win"]
}
action "ContextMenu" { does = "previous-workspace" }
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	b, _, err := compile.Machine(mp, mp.Machines[0])
	require.NoError(t, err)
	for press, want := range map[string]string{
		"ContextMenu": "does previous-workspace", "Meta+Digit2": "Switch to application 2",
	} {
		answers, err := of(t, mp, b).Ask(press, station.Where{})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Does, press)
	}
}
