package proof_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/compile"
)

// Each change of the demo's machines and of others is dropped, or made otherwise, and the
// proof must notice. What it does not is named below, with why it means nothing for what keys
// do.
func TestChangesAreNoticed(t *testing.T) {
	unseen := map[string]string{
		"assumed":      "nobody sets it, and the machine has it already",
		"manual":       "what a person has done is seen by nobody but the person",
		"call":         "a running program that is not told does it later",
		"setting name": "what a shortcut is called in the desktop's panel",
	}
	noticed, all := 0, 0
	for _, machine := range []string{
		`desktop = "gnome"`, `desktop = "cinnamon"`, `desktop = "mate"`, `desktop = "i3"`, `desktop = "sway"`, `desktop = "xfce"`, `desktop = "plasma"`,
		`desktop = "plasma"
  session = "wayland"`, `session = "console"`, `rights = "user"
  desktop = "i3"`, `rights = "user"
  desktop = "gnome"
  session = "wayland"`, `rights = "user"
  desktop = "plasma"
  session = "wayland"`, `rights = "user"
  desktop = "sway"
  session = "wayland"`, `system = "macos"`, `system = "windows"`,
	} {
		if !strings.Contains(machine, "system") {
			machine = "system = \"linux\"\n  " + machine
		}
		b := build(t, fmt.Sprintf(`machine "m" {
  %s
  layouts = ["de"]
}
board "wheelhouse" { ids = ["usb:1209:0002"] }
launch "Ctrl+Alt+t" { run = ["tidegauge", "--station", "Süderhaff 3"] }
launch "Ctrl+Alt+g" { open = "https://tides.example" }
action "Meta+u" { does = "close" }
action "Meta+F5" {
  does  = "maximize"
  override = true
}
disable "Alt+F4" {}
repeat { delay = "220ms" }
hyper "CapsLock" {}
remap "ScrollLock" { to = "Escape" }
remap "Pause" {
  to = "F6"
  on = ["wheelhouse"]
}
snippet "F7" { text = "NHN" }
`, machine))[0]
		list := b.Changes()
		require.NotEmpty(t, list)
		for i, c := range list {
			for how, mutant := range mutants(c) {
				all++
				var changed []change.Change
				if mutant != nil {
					changed = []change.Change{mutant}
				}
				if seen(t, b, slices.Replace(slices.Clone(list), i, i+1, changed...)) {
					noticed++
					continue
				}
				assert.Contains(t, unseen, kind(c), "%s: %s %#v", machine, how, c)
			}
		}
		assert.False(t, seen(t, b, list), "%s: the changes as they are", machine)
	}
	t.Logf("%d of %d changed changes are noticed (%.0f %%)", noticed, all, 100*float64(noticed)/float64(all))
}

// seen says whether the proof finds anything wrong with a machine that has the changes.
func seen(t *testing.T, b *compile.Build, list []change.Change) bool {
	t.Helper()
	has, err := b.SimulatedWith(list)
	require.NoError(t, err)
	return wrong(b, has)
}

// kind names a change for the list of those that mean nothing, "" for any other.
func kind(c change.Change) string {
	switch c := c.(type) {
	case change.Call:
		return "call"
	case change.Hand:
		return "manual"
	case change.File, change.Line, change.Block, change.Member:
	case change.Setting:
		switch {
		case c.Assumed:
			return "assumed"
		case strings.HasSuffix(c.Key, "/name"):
			return "setting name"
		}
	}
	return ""
}

// mutants are a change made otherwise; nil for none at all.
func mutants(c change.Change) map[string]change.Change {
	list := map[string]change.Change{"dropped": nil}
	switch c := c.(type) {
	case change.File:
		cut := c
		cut.Data = c.Data[:len(c.Data)/2]
		list["cut short"] = cut
	case change.Block:
		other := c
		other.Text = c.Begins + "\n" + c.Ends + "\n"
		list["empty"] = other
	case change.Line:
		other := c
		other.Text += "x"
		list["another line"] = other
	case change.Setting:
		other := c
		switch v := c.To.(type) {
		case change.Text:
			other.To = v + "x"
		case change.Texts:
			other.To = append(slices.Clone(v), "<Super>F12")
		case change.Int:
			other.To = v + 40
		case change.Unsigned:
			other.To = v + 40
		case change.Bool:
			other.To = !v
		case change.Bytes:
			other.To = v[:len(v)-8] + change.Bytes(v[len(v)-8]^1) + v[len(v)-7:]
		case change.Raw: // a property list
			text := strings.NewReplacer("<true/>", "<false/>", "<false/>", "<true/>").Replace(string(v))
			other.To = change.Raw(strings.Replace(text, "<integer>", "<integer>1", 1))
		case nil:
			other.To = change.Text("close_window_key")
		}
		list["another value"] = other
	case change.Member:
		other := c
		other.Item += "x"
		list["another item"] = other
	}
	return list
}
