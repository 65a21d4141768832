package imports_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/imports"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// A first mapping has the machine as it is, its boards, and what files say that works there: whatever else a folder
// has, and what nothing would do, is told at its end.
func TestFirst(t *testing.T) {
	here := &machine.Machine{
		Name: "gauge", System: machine.Linux, Desktop: "i3", Session: "x11", Layouts: []string{"de", "us"}, Admin: true,
	}
	files := mechanism.Folder{
		{Path: "config", Data: []byte("bindsym Mod4+g exec tidegauge\nbindsym Mod4+x exec $nothing\n")},
		{Path: "XCompose", Data: []byte("include \"%L\"\n<Multi_key> <t> <o> : \"Tide office\"\n<F7> : \"NHN\"\n")},
		{Path: "hwdb.d/90-own.hwdb", Data: []byte("evdev:input:b0003v1209p0001*\n KEYBOARD_KEY_70039=esc\n")},
		{Path: "empty/readme", Data: []byte("nothing\n")},
	}
	at := func(name, shown string) imports.Path { return imports.Path{FS: files, Name: name, Shown: shown} }
	got, err := imports.First([]imports.Path{
		at("XCompose", "~/.XCompose"), at("hwdb.d", "/etc/udev/hwdb.d"), at("empty", "/empty"), at("none", "/none"),
		at("config", "~/.config/i3/config"),
	}, here, []*machine.Board{
		{Name: "wheelhouse", IDs: []machine.BoardID{{Bus: machine.USB, Vendor: 0x1209, Product: 2}}},
	})
	require.NoError(t, err)
	text, left, err := got.Text()
	require.NoError(t, err)
	assert.Equal(t, `# Taken over from:
# - ~/.XCompose
# - /etc/udev/hwdb.d/90-own.hwdb
# - ~/.config/i3/config
version = 1

machine "gauge" {
  system  = "linux"
  desktop = "i3"
  session = "x11"
  layouts = ["de", "us"]
  boards  = ["wheelhouse", "board-1209-0001"]
}

board "wheelhouse" { ids = ["usb:1209:0002"] }

board "board-1209-0001" { ids = ["usb:1209:0001"] }
`, firstOf(string(text), "\nkeys ="))
	assert.Regexp(t, `"Meta\+g" += { run = "tidegauge" }`, string(text))
	assert.Regexp(t, `F7 += { text = "NHN" }`, string(text))
	assert.Contains(t, string(text), `keys = { CapsLock = "Escape" }`)
	assert.NotContains(t, string(text), "abbreviation")
	require.NotEmpty(t, left)
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: text}}, "m.hcl", "")
	require.NoError(t, err)
	assert.Empty(t, diags)
	assert.Len(t, mp.Rules, 4)
}

func firstOf(text, end string) string {
	before, _, _ := strings.Cut(text, end)
	return before
}
