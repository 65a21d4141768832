package compile_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/action"
	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// pressed are the actions that the tests of the mechanisms really press, and see done.
var pressed = map[string][]string{
	"gnome":    {"tile-left", "tile-right", "maximize", "close"},
	"plasma":   {"tile-left", "tile-right", "maximize", "close", "copy"},
	"xfce":     {"tile-left", "tile-right", "maximize"},
	"mate":     {"tile-left", "tile-right", "maximize"},
	"cinnamon": {"tile-left", "tile-right", "maximize", "close"},
	"i3":       {"workspace-1", "workspace-3", "close", "full-screen"},
}

// docs/actions.md is what the mechanisms answer when they are asked for each action.
func TestActionsTableIsCurrent(t *testing.T) {
	desktops := slices.DeleteFunc(machine.DesktopNames(), func(d string) bool { return d == machine.None })
	var text strings.Builder
	text.WriteString(`# What the desktops do by themselves

Each value of ` + "`does`" + ` in a mapping, and how it lands on each Linux desktop and on macOS. The table is what ` + "`leitstand validate`" + ` goes by;
a test keeps this page in step with it. **Bold**: the chord was pressed in a test, on the real window manager, and the
action was seen done. A dash: the desktop has no shortcut for it. Editing is there under GNOME and Cinnamon as well where
the session is said to be X11. On macOS, the mechanism is named, and [macos.md](macos.md) says what differs; media, volume and brightness
are there by a single key. Windows, iPadOS and ChromeOS do some of these on chords of their own; others are still to be written.

| action | ` + strings.Join(desktops, " | ") + " | macos |\n|---|" + strings.Repeat("---|", len(desktops)+1) + "\n")
	var notes []string
	for _, a := range action.All() {
		if base, n, ok := action.Number(a.Name); ok && n > 1 && n < action.MaxWorkspace {
			continue
		} else if ok && n == 1 {
			a.Name = fmt.Sprintf("%s-1 … %s-%d", base, base, action.MaxWorkspace)
		} else if ok {
			continue
		}
		cells := []string{"`" + strings.ReplaceAll(a.Name, " … ", "` … `") + "`"}
		name, _, _ := strings.Cut(a.Name, " ")
		for _, d := range desktops {
			mp, diags, err := mapping.Load(mapFile(fmt.Sprintf("machine \"office\" {\n system = \"linux\"\n "+
				"desktop = %q\n layouts = [\"us\"]\n}\naction \"Meta+Shift+u\" { does = %q }\n", d, name)), "m.hcl", "")
			require.NoError(t, err)
			require.Empty(t, diags)
			b, _, err := compile.Machine(mp, mp.Machines[0])
			require.NoError(t, err)
			answer := b.Landings[0].Offer
			cell := "–"
			if answer.Verdict >= mechanism.Limited {
				cell = answer.Verdict.String()
				if slices.Contains(pressed[d], name) {
					cell = "**" + cell + "**"
				}
			}
			if answer.Verdict == mechanism.Limited {
				if answer.Why.Has(reason.OneChord) {
					answer.Why = reason.OneChord.Of("MATE", "its own")
				}
				i := slices.Index(notes, answer.Why.String())
				if i < 0 {
					i = len(notes)
					notes = append(notes, answer.Why.String())
				}
				cell += fmt.Sprintf(" (%d)", i+1)
			}
			cells = append(cells, cell)
		}
		cells = append(cells, onMac(t, name))
		text.WriteString("| " + strings.Join(cells, " | ") + " |\n")
	}
	text.WriteString("\nWhat near means there:\n\n")
	for i, n := range notes {
		fmt.Fprintf(&text, "%d. %s\n", i+1, n)
	}
	if *update {
		require.NoError(t, os.WriteFile("../../docs/actions.md", []byte(text.String()), 0o644))
		return
	}
	want, err := os.ReadFile("../../docs/actions.md")
	require.NoError(t, err)
	assert.Equal(t, string(want), text.String(), "run this test with -update")
}

// onMac is how an action lands on a Mac, and where.
func onMac(t *testing.T, name string) string {
	t.Helper()
	_, builds, _ := build(t, fmt.Sprintf("machine \"vessel\" {\n system = \"macos\"\n layouts = [\"us\"]\n}\n"+
		"action \"Ctrl+Alt+u\" {\n does = %q\n allow = \"unavailable\"\n}\n", name))
	l := builds[0].Landings[0]
	if l.Mechanism == nil {
		return "–"
	}
	return l.Offer.Verdict.String() + " `" + l.Facts().Name + "`"
}

func mapFile(text string) fstest.MapFS { return fstest.MapFS{"m.hcl": {Data: []byte(text)}} }
