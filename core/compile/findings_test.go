package compile_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/mapping"
)

func TestFindings(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{`hyper "CapsLock" { on = "lab" }`, "warning needs-agent CapsLock needs an agent: Windows maps one key to one " +
			"key and has no Hyper [lab]"},
		{"hyper \"CapsLock\" {\n on = \"lab\"\n need = \"exact\"\n}", "error below-need CapsLock needs an agent, and the rule needs exact: " +
			"Windows maps one key to one key and has no Hyper [lab]"},
		{"disable \"Insert\" {\n on = \"gauge\"\n need = \"exact\"\n}", "error below-need Insert is limited, and the rule needs exact: " +
			"programs that look at keycodes (games, virtual machines) still see the old key [gauge]"},
		{"launch \"Ctrl+t\" {\n run = \"x\"\n on = [\"pier\", \"mole\"]\n}\nmachine \"pier\" {\n system = " +
			"\"linux\"\n desktop = \"none\"\n}\nmachine \"mole\" {\n system = \"linux\"\n desktop = \"none\"\n}", "warning unavailable Ctrl+KeyT is unavailable: the machine has no desktop, which would have shortcuts [pier mole]"},
		{"launch \"Ctrl+t\" {\n run = \"x\"\n on = \"chart-table\"\n}\nboard \"chart-table\" { ids = " +
			"[\"usb:1209:0001\"] }\nmachine \"mess\" {\n system = \"linux\"\n desktop = \"xfce\"\n boards = " +
			"[\"chart-table\"]\n}",
			"warning needs-agent Ctrl+KeyT on chart-table needs an agent: only a running process can tell which board a " +
				"chord comes from [mess]"},
		{"launch \"Ctrl+t\" {\n run = \"x\"\n on = \"mess\"\n except = \"chart-table\"\n}\nboard \"chart-table\" { " +
			"ids = [\"usb:1209:0001\"] }\nmachine \"mess\" {\n system = \"linux\"\n desktop = \"xfce\"\n boards = " +
			"[\"chart-table\"]\n}",
			"warning needs-agent Ctrl+KeyT needs an agent: only a running process can tell which board a chord comes " +
				"from [mess]"},
		{"layer \"nav\" {\n while = \"Space\"\n tap = \"Space\"\n fallback = \"F1\"\n on = \"gauge\"\n keys = { KeyH " +
			"= \"ArrowLeft\" }\n}", "note fallback Space is needs-agent: only a running process can tell a tap from a " +
			"hold. Instead, Space acts as F1 (limited) [gauge]\nwarning unavailable KeyH in layer nav is unavailable: " +
			"nothing switches layer nav on here [gauge]"},
		{"group \"go\" {\n enabled = false\n hyper \"CapsLock\" {}\n}\nlaunch \"Hyper+F3\" {\n run = \"x\"\n " +
			"fallback = \"Meta+k, t\"\n on = \"lab\"\n}",
			"warning unavailable Hyper+F3 is unavailable: no key of this machine is Hyper; its fallback Meta+KeyK, KeyT: " +
				"Windows uses Meta+KeyK itself: it opens Cast; only a running process can follow a sequence of " +
				"strokes here [lab]"},
		{"launch \"Ctrl+Alt+F3\" {\n run = \"x\"\n on = \"gauge\"\n override = true\n}", "warning system-keeps " +
			"Ctrl+Alt+F3 is unavailable: Linux keeps Ctrl+Alt+F3 for itself: it switches to console 3 [gauge]"},
		{"disable \"Insert\" {\n on = \"gauge\"\n need = \"limited\"\n}", ""},
		{"disable \"Sleep\" {\n on = \"lab\"\n need = \"limited\"\n}", "error below-need Sleep is unavailable, and the rule " +
			"needs limited: the keyboard's driver takes Sleep before the scancode map is looked at [lab]"},
		{"disable \"Sleep\" {\n on = \"lab\"\n allow = \"needs-agent\"\n}", "warning unavailable Sleep is unavailable: the " +
			"keyboard's driver takes Sleep before the scancode map is looked at [lab]"},
		{"macro \"F8\" {\n steps = [{ wait = \"1s\" }]\n on = \"lab\"\n allow = \"unavailable\"\n}", ""},
		{"macro \"F8\" {\n steps = [{ wait = \"1s\" }]\n on = \"lab\"\n need = \"manual\"\n}", "error below-need F8 needs " +
			"an agent, and the rule needs manual: only a running process can play a macro [lab]"},
		{`disable "Sleep" { on = "lab" }`, "warning unavailable Sleep is unavailable: the keyboard's driver takes Sleep " +
			"before the scancode map is looked at [lab]"},
		{"remap \"MediaPlayPause\" {\n to = \"F13\"\n on = \"lab\"\n need = \"exact\"\n}", "error below-need " +
			"MediaPlayPause is limited, and the rule needs exact: a service of Windows takes the media keys of USB boards past the " +
			"scancode map [lab]"},
		{"remap \"CapsLock\" {\n tap = \"Escape\"\n hold = \"ControlLeft\"\n fallback = \"Escape\"\n on = " +
			"\"gauge\"\n need = \"exact\"\n}", "error below-need CapsLock needs an agent, and the rule needs exact: only a running process " +
			"can tell a tap from a hold [gauge]"},
		{"hyper \"CapsLock\" {\n tap = \"Escape\"\n on = \"gauge\"\n}", "warning needs-agent the tap of CapsLock " +
			"needs an agent: only a running process can tell a tap from a hold [gauge]"},
		{"layer \"nav\" {\n while = \"Space\"\n tap = \"Space\"\n on = \"gauge\"\n keys = { KeyH = \"ArrowLeft\" }\n}", "warning needs-agent Space needs an agent: only a running process can tell a tap from a hold [gauge]\nwarning unavailable KeyH in layer nav is unavailable: nothing switches layer nav on here [gauge]"},
		{"layer \"nav\" {\n while = \"F1\"\n on = \"gauge\"\n keys = { KeyH = { steps = [{ press = \"F2\" }] } }\n}", "warning needs-agent KeyH in layer nav needs an agent: only a running process can play a macro [gauge]"},
		{`disable "Pause" { on = "lab" }`, "warning unavailable Pause is unavailable: Pause has no scan code that " +
			"Windows can map; a keyboard layout library could have it, which machine lab does not ask for " +
			"(layout_library = true) [lab]"},
		{`disable "Insert" { on = "tablet" }`, "warning unavailable Insert is unavailable: iPadOS can change modifier " +
			"keys only, and Insert is none [tablet]"},
	} {
		_, _, diags := build(t, machines+c.text)
		var lines []string
		for _, d := range diags {
			lines = append(lines, fmt.Sprintf("%s %s %s %v", d.Severity, d.Code, d.Summary, d.Machines))
		}
		assert.Equal(t, c.want, strings.Join(lines, "\n"))
	}
}

// Where a machine has no Hyper, the finding says what to write; where the mapping says what its chords take, nothing.
func TestWayOutWithoutHyper(t *testing.T) {
	const machine = "machine \"vessel\" { system = \"macos\" }\nlaunch \"Hyper+t\" { run = \"x\" }\n"
	for rule, want := range map[string][]string{
		`hyper "CapsLock" {}`: {
			`give the rule a fallback, or the hyper rule instead = "Ctrl+Alt"`,
			`add instead = "Ctrl+Alt": what chords with Hyper take where there is none`,
		},
		`hyper "CapsLock" { instead = "Ctrl+Alt" }`: {"", ""},
	} {
		_, _, diags := build(t, machine+rule)
		var got []string
		for _, d := range diags {
			if d.Code == "unavailable" || d.Code == "needs-agent" {
				got = append(got, d.Advice)
			}
		}
		assert.Subset(t, want, got, rule)
		assert.NotEmpty(t, got, rule)
	}
}

// A key that is to do what a key of the board does on a system acts as that key.
func TestKeyActsForAction(t *testing.T) {
	for system, want := range map[string]string{
		"macos": "hidutil limited F9 acts as AudioVolumeUp", "windows": "scancodemap limited F9 acts as AudioVolumeUp",
		"linux\"\n  desktop = \"gnome": "gnome exact F9 does volume-up", "ipados": "",
		"windows\"\n}\nlaunch \"Ctrl+Alt+F9\" {\n  run = \"C:\\\\Tide\\\\chart.exe": "", // whose key must stay what it is
	} {
		mp, diags, err := mapping.Load(mapFile("machine \"m\" {\n  system = \""+system+"\"\n}\naction \"F9\" { "+
			"does = \"volume-up\" }\n"), "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags)
		b, _, err := compile.Machine(mp, mp.Machines[0])
		require.NoError(t, err)
		got := ""
		if l := b.Landings[len(b.Landings)-1]; l.Mechanism != nil {
			got = l.Facts().Name + " " + l.Verdict().String() + " " + l.Binding.String()
		}
		assert.Equal(t, want, got, system)
	}
}

// Where it is not known what keys type, a chord may be another key.
func TestAssumedLayout(t *testing.T) {
	for layout, want := range map[string]string{"de": "exact", "de(nodeadkeys)": "limited which key it is under " +
		"layout de(nodeadkeys) is known of Linux only"} {
		mp, diags, err := mapping.Load(
			mapFile(
				"machine \"m\" {\n  system = \"windows\"\n  layouts = [\""+layout+"\"]\n}\naction \"Meta+l\" { does = \"lock\" }\n",
			),
			"m.hcl",
			"",
		)
		require.NoError(t, err)
		require.Empty(t, diags)
		b, _, err := compile.Machine(mp, mp.Machines[0])
		require.NoError(t, err)
		l := b.Landings[0]
		assert.Equal(t, want, strings.TrimSpace(l.Verdict().String()+" "+l.Why().String()))
	}
}
