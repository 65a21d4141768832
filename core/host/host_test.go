package host_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"

	"leitstand/core/host"
	"leitstand/core/mapping"
)

func TestMachine(t *testing.T) {
	for _, c := range []struct {
		goos string
		env  map[string]string
		file string
		want mapping.Machine
	}{
		{"darwin", nil, "", mapping.Machine{System: mapping.MacOS, Desktop: "none", Layouts: []string{"us"}}},
		{"windows", nil, "", mapping.Machine{System: mapping.Windows, Desktop: "none", Layouts: []string{"us"}}},
		{"linux", nil, "", mapping.Machine{System: mapping.Linux, Desktop: "none", Layouts: []string{"us"}}},
		{"linux", map[string]string{"XDG_CURRENT_DESKTOP": "ubuntu:GNOME", "XDG_SESSION_TYPE": "wayland"}, "XKBLAYOUT=\"de\"\nXKBVARIANT=\"nodeadkeys\"\n",
			mapping.Machine{System: mapping.Linux, Desktop: "gnome", Session: "wayland", Layouts: []string{"de(nodeadkeys)"}}},
		{"linux", map[string]string{"XDG_CURRENT_DESKTOP": "KDE", "XDG_SESSION_TYPE": "x11"}, "# a comment\nXKBLAYOUT=fr,us\nXKBVARIANT=,intl\nXKBOPTIONS=compose:rctrl,tide:none\n",
			mapping.Machine{System: mapping.Linux, Desktop: "plasma", Session: "x11", Layouts: []string{"fr", "us(intl)"}, Options: []string{"compose:rctrl"}}},
		{"linux", nil, "XKBLAYOUT=us,de,us,fr,ru,gb\n", mapping.Machine{System: mapping.Linux, Desktop: "none", Layouts: []string{"us", "de", "fr", "ru"}}},
		{"linux", map[string]string{"XDG_SESSION_TYPE": "tty"}, "XKBLAYOUT=xx\n", mapping.Machine{System: mapping.Linux, Desktop: "none", Session: "console", Layouts: []string{"us"}}},
	} {
		root := fstest.MapFS{}
		if c.file != "" {
			root["etc/default/keyboard"] = &fstest.MapFile{Data: []byte(c.file)}
		}
		c.want.Name, c.want.Admin = host.Name, true
		got := host.Machine(root, func(name string) string { return c.env[name] }, c.goos)
		assert.Equal(t, c.want, *got)
	}
}
