package machine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/machine"
)

func TestDesktops(t *testing.T) {
	seen := map[string]bool{}
	for _, d := range machine.Desktops() {
		found, ok := machine.FindDesktop(d.Name)
		assert.True(t, ok)
		assert.Equal(t, d, found)
		assert.NotEmpty(t, d.Announces, d.Name)
		assert.True(t, machine.HasSession(d.Name, machine.Console), d.Name)
		for _, name := range append(d.Called, d.Name) {
			assert.False(t, seen[name], "%s stands for two desktops", name)
			seen[name] = true
		}
		for _, name := range d.Called {
			called, ok := machine.DesktopCalled(name)
			assert.True(t, ok)
			assert.Equal(t, d.Name, called)
		}
	}
	_, ok := machine.FindDesktop(machine.None)
	assert.False(t, ok)
	assert.False(t, machine.HasSession("i3", machine.Wayland))
	assert.True(t, machine.HasSession("plasma", machine.Wayland) && machine.HasSession("plasma", machine.X11))
}

// Identities of boards are read as they are written.
func TestBoardIDs(t *testing.T) {
	for _, text := range []string{"usb:1209:0001", "bluetooth:1209:00ff", "built-in", "any external"} {
		id, ok := machine.ParseBoardID(text)
		assert.True(t, ok, text)
		assert.Equal(t, text, id.String())
	}
	for _, text := range []string{"", "usb", "usb:1209", "usb:1209:1", "ps2:1209:0001", "usb:12g9:0001", "usb:1209:0001:2", "Built-in"} {
		_, ok := machine.ParseBoardID(text)
		assert.False(t, ok, text)
	}
}
