package host_test

import (
	"path/filepath"
	"slices"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"

	"leitstand/core/host"
	"leitstand/core/mapping"
)

// The version is that of the desktop's package or session, as they are installed.
func TestVersion(t *testing.T) {
	const status = "Package: xfce4-settings\nStatus: install ok installed\nVersion: 4.20.1-1\n\nPackage: " +
		"gnome-shell\nStatus: deinstall ok config-files\nVersion: 43.9-0\n\n" +
		"Package: kwin-x11\nStatus: install ok installed\nVersion: 4:6.3.6-1\n\nPackage: muffin\nStatus: install " +
		"ok installed\nDescription: window manager\n of Cinnamon\nVersion: 6.4.1-1\n"
	for _, c := range []struct{ desktop, file, text, want string }{
		{"XFCE", "var/lib/dpkg/status", status, "4.20"}, {"GNOME", "var/lib/dpkg/status", status, ""},
		{"KDE", "var/lib/dpkg/status", status, "6.3"}, {"X-Cinnamon", "var/lib/dpkg/status", status, "6.4"},
		{"sway", "var/lib/pacman/local/sway-1:1.10.1-2/desc", "", "1.10"},
		{"KDE", "usr/share/wayland-sessions/plasma.desktop", "[Desktop Entry]\nX-KDE-PluginInfo-Version=5.27.5\n", "5.27"},
		{"KDE", "etc/hostname", "gauge\n", "6"}, {"i3", "etc/hostname", "gauge\n", ""},
		{"none", "var/lib/dpkg/status", status, ""},
	} {
		env := map[string]string{"XDG_CURRENT_DESKTOP": c.desktop, "KDE_SESSION_VERSION": "6"}
		got := host.Machine(
			fstest.MapFS{c.file: {Data: []byte(c.text)}}, func(name string) string { return env[name] }, "linux",
		)
		assert.Equal(t, c.want, got.DesktopVersion, "%s %s", c.desktop, c.file)
	}
}

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

func TestFindMapping(t *testing.T) {
	own := filepath.Join("config", "leitstand")
	ownFile := filepath.Join(own, "leitstand.hcl")
	for _, c := range []struct {
		env, config string
		there       []string
		path        string
		elsewhere   bool
	}{
		{"x.hcl", "config", []string{"leitstand.hcl", ownFile}, "x.hcl", true},
		{"", "config", []string{"leitstand.hcl", "leitstand", ownFile}, "leitstand.hcl", false},
		{"", "config", []string{"leitstand", ownFile}, "leitstand", false},
		{"", "config", []string{ownFile, own}, ownFile, true},
		{"", "config", []string{own}, own, true},
		{"", "config", nil, "leitstand.hcl", false},
		{"", "", []string{own}, "leitstand.hcl", false},
	} {
		env := func(name string) string { return map[string]string{"LEITSTAND_FILE": c.env}[name] }
		path, elsewhere := host.FindMapping(env, c.config, func(p string) bool { return slices.Contains(c.there, p) })
		assert.Equal(t, c.path, path)
		assert.Equal(t, c.elsewhere, elsewhere)
	}
}
