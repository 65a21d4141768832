package desktop_test

import (
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func TestOf(t *testing.T) {
	for _, c := range []struct {
		machine mapping.Machine
		mods    keys.Mods
		key     string
		want    string // "" for free
	}{
		{mapping.Machine{System: mapping.Linux, Desktop: "xfce"}, keys.Alt, "F10", "maximize_window"},
		{mapping.Machine{System: mapping.Linux, Desktop: "xfce"}, keys.Hyper, "KeyT", ""},
		{mapping.Machine{System: mapping.Linux, Desktop: "gnome"}, keys.Meta, "ArrowLeft", "toggle-tiled-left"},
		{mapping.Machine{System: mapping.Linux, Desktop: "gnome"}, keys.Alt, "Backquote", "switch-group"},
		{mapping.Machine{System: mapping.Linux, Desktop: "plasma"}, keys.Meta, "ArrowLeft", "Window Quick Tile Left"},
		{mapping.Machine{System: mapping.Linux, Desktop: "mate"}, keys.Ctrl | keys.Alt, "KeyD", "show-desktop"},
		{mapping.Machine{System: mapping.Linux, Desktop: "i3"}, keys.Alt, "Enter", "exec"},
		{mapping.Machine{System: mapping.Linux, Desktop: "sway"}, keys.Meta | keys.Shift, "KeyQ", "kill"},
		{mapping.Machine{System: mapping.Linux, Desktop: "sway"}, keys.MetaLeft | keys.Shift, "KeyQ", "kill"},
		{mapping.Machine{System: mapping.Linux, Desktop: "none"}, keys.Ctrl | keys.Alt, "F3", "system"},
		{mapping.Machine{System: mapping.Windows}, keys.Meta, "KeyH", "voice typing"},
		{mapping.Machine{System: mapping.MacOS}, keys.Ctrl, "ArrowUp", "overview"},
		{mapping.Machine{System: mapping.MacOS}, keys.Ctrl | keys.Alt, "KeyT", ""},
		{mapping.Machine{System: mapping.MacOS}, keys.Meta, "IntlBackslash", "next-window-of-app"}, // of an ISO board
	} {
		c.machine.Layouts = []string{"de"}
		u, ok := desktop.NewTable(sample.Machine(c.machine)).Of(keys.Chord{Mods: c.mods, Key: sample.Key(c.key)})
		assert.Equal(t, c.want != "", ok, "%v %s", c.machine, c.key)
		assert.Equal(t, c.want, u.Name)
	}
}

// The rows of the list of systems are chords of the board that it is about, each once in a
// version.
func TestChordsOfSystems(t *testing.T) {
	for _, s := range []mapping.System{mapping.MacOS, mapping.IPadOS, mapping.Windows, mapping.ChromeOS} {
		for _, version := range []string{"", "10", "11", "13"} {
			seen := map[keys.Chord]string{}
			for _, u := range desktop.Stock(sample.Machine(mapping.Machine{System: s, Version: version, Layouts: []string{"us"}})) {
				assert.False(t, u.Chord.Key == keys.None && u.Chord.Mods == 0, u.Words)
				assert.Empty(t, seen[u.Chord], "%s %s: %s, and %s", s, version, u.Chord, u.Words)
				assert.NotEmpty(t, u.Words)
				seen[u.Chord] = u.Words
			}
			assert.Greater(t, len(seen), 30, s)
		}
	}
	for _, c := range []struct {
		system        mapping.System
		version, want string
		layout        string
		chord         keys.Chord
	}{
		{mapping.Windows, "10", "notifications", "us", keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyA")}},
		{mapping.Windows, "", "quick-settings", "us", keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyA")}},
		{mapping.Windows, "", "quick-settings", "fr", keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyQ")}}, // where A is
		{mapping.Windows, "", "launcher", "us", keys.Chord{Mods: keys.Meta}},
		{mapping.MacOS, "14", "", "us", keys.Chord{Mods: keys.Ctrl | keys.Fn, Key: sample.Key("ArrowLeft")}},
		{mapping.MacOS, "15.2", "tile-left", "us", keys.Chord{Mods: keys.Ctrl | keys.Fn, Key: sample.Key("ArrowLeft")}},
		{mapping.MacOS, "", "quit", "fr", keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyA")}},
		{mapping.MacOS, "", "dock", "fr", keys.Chord{Mods: keys.Alt | keys.Meta, Key: sample.Key("KeyD")}},
		{mapping.ChromeOS, "", "", "us", keys.Chord{Mods: keys.Ctrl, Key: sample.Key("KeyC")}}, // which is the programs'
	} {
		u, _ := desktop.NewTable(
			sample.Machine(mapping.Machine{System: c.system, Version: c.version, Layouts: []string{c.layout}}),
		).Of(c.chord)
		assert.Equal(t, c.want, u.Name, "%s %s %s", c.system, c.version, c.chord)
	}
}

// A machine goes by the chords of the version that it says, or the newest.
func TestVersions(t *testing.T) {
	for _, c := range []struct{ desktop, version, since, chord, want string }{
		{"gnome", "", "48", "<Super>s", "toggle-quick-settings"},
		{"gnome", "43.9", "44", "<Super>s", "toggle-overview"}, {"gnome", "46", "46", "<Super>s", "toggle-overview"},
		{"gnome", "3.38", "40", "<Super>s", "toggle-overview"},
		{"gnome", "50", "48", "<Super>s", "toggle-quick-settings"},
		{"plasma", "5", "6", "<Super>R", ""}, {"plasma", "6", "6.3", "<Super>R", "RecordRegion"},
		{"plasma", "6.10", "6.9", "<Super>R", "RecordRegion"}, {"none", "", "1", "<Super>R", ""},
	} {
		m := sample.Machine(
			mapping.Machine{
				System:         mapping.Linux,
				Desktop:        c.desktop,
				DesktopVersion: c.version,
				Layouts:        []string{"us"},
			},
		)
		at, _ := desktop.Accelerator(m, c.chord)
		u, _ := desktop.NewTable(m).Of(at)
		assert.Equal(t, c.want, u.Name, "%s %s %s", c.desktop, c.version, c.chord)
		older := (c.version == "43.9" || c.version == "3.38" || c.version == "5" || c.desktop == "none")
		assert.Equal(t, !older, desktop.Since(m, c.since), "%s %s", c.desktop, c.version)
	}
	for _, d := range machine.DesktopNames() {
		list := desktop.Versions(d)
		assert.Equal(t, d == "none", len(list) == 0, d)
		for _, v := range list {
			m := sample.Machine(
				mapping.Machine{System: mapping.Linux, Desktop: d, DesktopVersion: v, Layouts: []string{"us"}},
			)
			assert.Greater(t, len(desktop.Stock(m)), 25, "%s %s", d, v)
		}
	}
}

// Nearly every default of every desktop is understood.
func TestDefaultsAreUnderstood(t *testing.T) {
	for d, least := range map[string]int{"gnome": 60, "xfce": 60, "mate": 25, "cinnamon": 45, "i3": 50, "sway": 48, "plasma": 44} {
		m := sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: d, Layouts: []string{"us"}})
		assert.GreaterOrEqual(t, len(desktop.Uses(m)), least+12, d)
	}
	assert.Len(t, desktop.Pressable(), 26+10+12+4)
}

// Xfce's own channel of defaults, where it is installed, is the one embedded.
func TestXfceDefaultsAreCurrent(t *testing.T) {
	const file = "/etc/xdg/xfce4/xfconf/xfce-perchannel-xml/xfce4-keyboard-shortcuts.xml"
	realtest.NeedFile(t, file, "libxfce4ui-common")
	out, err := exec.Command(
		"grep",
		"-o",
		`name="&lt;Alt&gt;F10" type="string" value="maximize_window_key"`,
		filepath.Clean(file),
	).CombinedOutput()
	require.NoError(t, err, "%s", out)
}
