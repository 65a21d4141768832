package install

import (
	"errors"
	"fmt"
	"path"
	"strconv"
	"strings"

	"leitstand/core/change"
)

// locations are the files that each mechanism of Linux writes, as patterns of path.Match. A journal, a plan and a
// machine-wide record that name any other file are refused, whoever wrote them. What programs keep is named by the
// settings databases (change.CheckKey).
var locations = map[string][]string{
	own:                     {jobFile, restoreEntryFile},
	"hwdb":                  {"/etc/udev/hwdb.d/90-leitstand.hwdb"},
	"console":               {"/etc/leitstand/console.map", "/etc/systemd/system/leitstand-console.service"},
	"compose":               {"~/.XCompose"},
	"i3":                    {"~/.config/i3/config", "~/.config/i3/leitstand.conf"},
	"sway":                  {"~/.config/sway/config", "~/.config/sway/leitstand.conf"},
	"sway for everyone":     {"/etc/sway/config.d/leitstand.conf"},
	"plasma":                {"~/.local/share/applications/leitstand-*.desktop"},
	"plasma for everyone":   {forPlasma + "*", plasmaFolder},
	"xfce for everyone":     {"/etc/X11/Xsession.d/55leitstand", forXfce + "*.xml"},
	"gnome for everyone":    dconfForEveryone,
	"mate for everyone":     dconfForEveryone,
	"cinnamon for everyone": dconfForEveryone,
	"xkb": {
		"~/.config/xkb/rules/evdev", "~/.config/xkb/symbols/leitstand", "~/.config/leitstand/*.xkb",
		"~/.config/leitstand/load-keymaps", "~/.config/autostart/leitstand-keymap.desktop", "~/.config/i3/config",
		"~/.config/sway/config",
		"/etc/xkb/rules/evdev", "/etc/xkb/symbols/leitstand", "/etc/leitstand/*.xkb", "/etc/leitstand/load-keymaps",
		"/etc/xdg/autostart/leitstand-keymap.desktop", "/etc/i3/config", "/etc/sway/config.d/leitstand-layout.conf",
		"/etc/dconf/db/local.d/50-leitstand-layout", dconfProfile, forPlasma + "kxkbrc", plasmaFolder,
	},
}

const (
	forPlasma    = "/etc/leitstand/xdg/"
	forXfce      = "/etc/leitstand/xdg/xfce4/xfconf/xfce-perchannel-xml/"
	plasmaFolder = "/etc/xdg/plasma-workspace/env/leitstand.sh"
	dconfProfile = "/etc/dconf/profile/user"
)

var dconfForEveryone = []string{
	"/etc/dconf/db/local.d/90-leitstand", "/etc/dconf/db/local.d/locks/90-leitstand", dconfProfile,
}

// keyFiles are the files that programs keep their settings in, whose bytes are kept beside the keys'.
var keyFiles = []string{
	"~/.config/*", "~/.config/dconf/user.txt", "~/.config/xfce4/xfconf/xfce-perchannel-xml/*.xml",
}

// errLocation is for a location that no mechanism writes.
var errLocation = errors.New("no mechanism of Leitstand writes there")

// checkLocation returns an error for a place that no mechanism writes.
func checkLocation(p Place) error {
	if p.Path == "" {
		return change.CheckKey(p.Store, p.Key)
	}
	for _, patterns := range locations {
		if matches(patterns, p.Path) {
			return nil
		}
	}
	if matches(keyFiles, p.Path) || isRecord(p.Path) {
		return nil
	}
	return fmt.Errorf("%s: %w", strconv.Quote(p.Path), errLocation)
}

// matches reports whether a clean path matches one of the patterns.
func matches(patterns []string, name string) bool {
	if path.Clean(name) != name || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || r == 0x7f }) {
		return false
	}
	for _, p := range patterns {
		if ok, _ := path.Match(p, name); ok { // the patterns are good ones
			return true
		}
	}
	return false
}

// checkFolder returns an error for a folder in which no mechanism writes anything.
func checkFolder(name string) error {
	above := func(patterns []string) bool {
		for _, p := range patterns {
			for dir := path.Dir(p); dir != "." && dir != "/" && dir != "~"; dir = path.Dir(dir) {
				if dir == name {
					return true
				}
			}
		}
		return false
	}
	for _, patterns := range locations {
		if above(patterns) {
			return nil
		}
	}
	if above(keyFiles) || above([]string{recordFolder + "/*"}) || isRecord(name+"/x") {
		return nil
	}
	return fmt.Errorf("the folder %s: %w", strconv.Quote(name), errLocation)
}

// check returns an error where the journal names a location that no mechanism writes.
func (j *Journal) check() error {
	places := func(list []Held, steps []Step) []Place {
		var all []Place
		for _, h := range list {
			all = append(all, h.Place)
		}
		for _, s := range steps {
			for _, w := range s.Writes {
				all = append(all, w.Place)
			}
		}
		return all
	}
	for _, s := range j.Untold {
		if !s.IsCall() {
			return errors.New("what a program is to be told writes something")
		}
	}
	installed, steps := []Installed{j.Installed}, [][]Step{nil}
	if j.Begun != nil {
		installed, steps = append(installed, j.Begun.Next), append(steps, j.Begun.Steps)
	}
	if j.Trial != nil {
		installed, steps = append(installed, j.Trial.Was), append(steps, j.Trial.Steps)
	}
	for i, in := range installed {
		for _, p := range places(in.Held, steps[i]) {
			if err := checkLocation(p); err != nil {
				return err
			}
		}
		for _, list := range [][]Item{in.Items, in.Paused} {
			for _, item := range list {
				if at, ok := placeOf(item.Change); ok {
					if err := checkLocation(at); err != nil {
						return err
					}
				}
			}
		}
		for _, f := range in.Files {
			if err := checkLocation(Place{Path: f.Path}); err != nil {
				return err
			}
		}
		for _, dir := range in.Folders {
			if err := checkFolder(dir); err != nil {
				return err
			}
		}
	}
	return nil
}
