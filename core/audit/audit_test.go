package audit_test

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/audit"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

const machines = `
machine "gauge" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["de"]
}
machine "lab" {
  system  = "windows"
  layouts = ["de"]
  boards  = ["wheelhouse"]
}
board "wheelhouse" {
  ids    = ["usb:1209:0003"]
  broken = ["F5"]
}
`

func findings(t *testing.T, rules string) string {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(machines + rules)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	list := audit.Whole(mp)
	for _, b := range builds {
		list = append(list, audit.Machine(mp, station.Unwritten(mp, b))...)
	}
	list = list.Merge()
	list.Sort()
	var lines []string
	for _, d := range list {
		if d.Severity != diag.Note || d.Code == "convention" {
			lines = append(lines, fmt.Sprintf("%s: %s %v", d.Code, d.Summary, d.Machines))
		}
	}
	return strings.Join(lines, "\n")
}

func TestFindings(t *testing.T) {
	for _, c := range []struct{ rules, want string }{
		{`remap "CapsLock" { to = "Escape" }`, ""},
		{`remap "Escape" { to = "CapsLock" }`, "lost-key: no key gives Escape any more [gauge lab]"},
		{`swap "Escape" "CapsLock" {}`, ""},
		{`disable "Enter" {}`, "lost-key: no key gives Enter any more [gauge lab]"},
		{`disable "Tab" {}`, "lost-key: no key gives Tab any more [gauge lab]"},
		{`disable "Backspace" {}`, "lost-key: no key gives Backspace any more [gauge lab]"},
		{`disable "Space" {}`, "lost-key: no key gives Space any more [gauge lab]"},
		{`disable "Delete" {}`, ""},
		{`launch "Ctrl+Alt+MouseBack" { run = ["x"] }`, ""},
		{`disable "KeyQ" {}`, "lost-key: no key types q any more [gauge lab]"},
		{`swap "KeyQ" "KeyA" {}`, ""},
		{"disable \"KeyQ\" { allow = [\"lost-key\"] }", ""},
		{`disable "IntlBackslash" {}`, "lost-character: no key types < > | any more under layout de [gauge lab]"},
		{"disable \"ShiftLeft\" {}\ndisable \"ShiftRight\" {}", "lost-modifier: no key acts as Shift any more " +
			"[gauge lab]\nlost-modifier: no key acts as Shift any more [gauge lab]"},
		{`disable "ControlRight" {}`, ""},
		{"launch \"F9\" { run = [\"sudo\", \"reboot\"] }", "ends-session: F9 alone runs sudo reboot " +
			"[gauge lab]"},
		{"launch \"F9\" { run = [\"sh\", \"-c\", \"sync; /sbin/poweroff\"] }", "ends-session: F9 alone " +
			"runs sh -c \"sync; /sbin/poweroff\" [gauge lab]"},
		{"launch \"F9\" { run = [\"osascript\", \"-e\", \"tell app \\\"System Events\\\" to shut down\"] }", "ends-session: F9 alone runs osascript -e \"tell app \\\"System Events\\\" to shut down\" [gauge lab]"},
		{"launch \"F9\" { run = [\"echo\", \"reboot\"] }", ""},
		{"launch \"F9\" { run = [\"cat\", \"~/x\", \"|\", \"sort\"] }", `no-shell: no shell looks at "|", so | stands for itself [gauge lab]`},
		{"launch \"F9\" { run = [\"sh\", \"-c\", \"cat $HOME/x | sort\"] }", ""},
		{"launch \"F9\" { open = \"tides.example\" }", `no-address: "tides.example" is neither an address, which begins with a scheme, nor a path [gauge]`},
		{"launch \"F9\" { open = \"~/x\" }", ""},
		{`launch "Ctrl+Alt+F13" { run = "x" }`, ""},
		{`launch "Meta+l" { run = "x" }`, ""},
		{`launch "Alt+F10" { run = "x" }`, "taken: Alt+F10 is taken on Linux with Xfce: maximize window [gauge]"},
		{"launch \"Alt+F10\" {\n run = \"x\"\n override = true\n}", ""},
		{`launch "Meta+e" { run = "thunar" }`, ""},
		{"action \"Ctrl+Alt+l\" {\n does = \"lock\"\n on = \"gauge\"\n}", ""},
		{"machine \"mess\" {\n system = \"linux\"\n desktop = \"sway\"\n}\non \"mess\" {\n" +
			"  action \"Meta+1\" { does = \"workspace-1\" }\n  action \"Meta+Shift+q\" { does = \"close\" }\n" +
			"  action \"Meta+2\" { does = \"workspace-3\" }\n}",
			"taken: Meta+Digit2 is taken on Linux with sway: workspace number 2 [mess]"},
		{`launch "Meta+e" { run = "mousepad" }`, "taken: Meta+KeyE is taken on Linux with Xfce: thunar [gauge]"},
		{`launch "Ctrl+Alt+q" { run = "C:\\x.exe" }`, `types-character: Ctrl+Alt+KeyQ types '@' under layout de, which the rule takes [lab]`},
		{`launch "Shift+KeyQ" { run = "x" }`, `types-character: Shift+KeyQ types 'Q' under layout de, which the rule takes [gauge lab]`},
		{`launch "F9" { run = ["systemctl", "poweroff"] }`, "ends-session: F9 alone runs systemctl " +
			"poweroff [gauge lab]"},
		{`launch "Ctrl+Alt+F24" { run = ["systemctl", "poweroff"] }`, ""},
		{"launch \"F9\" {\n run = [\"systemctl\", \"poweroff\"]\n confirm = true\n}", ""},
		{`launch "F9" { run = ["systemctl", "status"] }`, ""},
		{`action "Sleep" { does = "suspend" }`, "ends-session: Sleep alone does suspend " +
			"[gauge lab]"},
		{`action "F9" { does = "power-off" }`, "ends-session: F9 alone does power-off " +
			"[gauge lab]"},
		{"action \"F9\" {\n does = \"restart\"\n confirm = true\n}", ""},
		{"disable \"F15\" {}\nlaunch \"Ctrl+F15\" { run = \"x\" }", "unreachable: no key gives F15 any more, so " +
			"Ctrl+F15 cannot be pressed [gauge lab]"},
		// The layout has the key by itself apart from the key with Option.
		{"machine \"vessel\" {\n  system  = \"macos\"\n  layouts = [\"de\"]\n  rights  = \"admin\"\n}\n" +
			"layer \"nav\" {\n  once = \"IntlBackslash\"\n  on   = [\"vessel\"]\n  keys = { KeyA = \"ß\" }\n}\n" +
			"disable \"Alt+IntlBackslash\" { on = [\"vessel\"] }",
			"lost-character: no key types < > any more under layout de [vessel]"},
		// Nor is a character lost that another rule has a key type, or that the key has left with AltGr.
		{"machine \"tide\" {\n  system  = \"windows\"\n  layouts = [\"de\"]\n  layout_library = true\n}\n" +
			"on \"tide\" {\n  snippet \"IntlBackslash\" { text = \"é\" }\n  snippet \"Shift+F9\" { text = \"<\" }\n}",
			"lost-character: no key types > any more under layout de [tide]"},
		{`launch "F5" { run = "x" }`, "convention: F5 is reload in many programs [gauge lab]"},
		{`board "chart-table" { ids = ["usb:1209:0001"] }`, `unused-board: no machine has the board "chart-table" []`},
		{"on \"macos\" {\n  disable \"Insert\" {}\n}", "no-machine: disable Insert holds on no machine of the " +
			"mapping []"},
		{"on \"macos\" {\n  disable \"Insert\" {\n allow = [\"no-machine\"]\n }\n}", ""},
		{"on \"wheelhouse\" {\n  disable \"Insert\" {}\n}", ""},
		{`native "gnome" { settings = { "idle" = 1 } }`, "no-machine: native gnome holds on no machine of the " +
			"mapping []"},
		{`native "xfce" { settings = { "idle" = 1 } }`, ""},
	} {
		assert.Equal(t, c.want, findings(t, c.rules), c.rules)
	}
	mp, _, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(machines + "disable \"Insert\" { on = [\"i3\", " +
		"\"windows\"] }\n")}}, "m.hcl", "")
	require.NoError(t, err)
	assert.Contains(t, audit.Whole(mp)[0].Advice, "i3 and windows are names of different kinds")
}

func TestOptionsLost(t *testing.T) {
	assert.Equal(
		t,
		"option-lost: CapsLock is a key of option caps:escape, and the rule gives it another meaning [mess]",
		findings(t, `
machine "mess" {
  system  = "linux"
  options = ["caps:escape", "compose:menu"]
}
on "mess" {
  remap "CapsLock" { to = "F13" }
  remap "Pause" { to = "F14" }
}
`),
	)
}

// Each finding of the catalogue is explained, has a section in the docs, and those
// that a rule may allow are the language's.
func TestCatalogue(t *testing.T) {
	text, err := os.ReadFile("../../docs/findings.md")
	require.NoError(t, err)
	for _, f := range audit.Catalogue {
		assert.NotEmpty(t, f.About, f.Code)
		assert.Contains(t, string(text), "\n## `"+f.Code+"`\n\n"+strings.ToUpper(f.Title[:1])+f.Title[1:], f.Code)
	}
	assert.Equal(t, len(audit.Catalogue), strings.Count(string(text), "\n## "))
	for _, code := range mapping.Findings {
		f, ok := audit.Find(code)
		assert.True(t, ok && f.Allowable(), code)
	}
}

// A mapping with one machine may have a rule for none, too; one without machines is for the
// machine it lies on.
func TestRulesForNoMachine(t *testing.T) {
	rule := "on \"macos\" {\n  disable \"Insert\" {}\n}\n"
	for machines, want := range map[string]int{"": 0, "machine \"lab\" { system = \"windows\" }\n": 1, "machine \"lab\" { system = \"macos\" }\n": 0} {
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(machines + rule)}}, "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags)
		require.Len(t, audit.Whole(mp), want, machines)
	}
}
