// Command gen writes the chords that desktops use when nobody has changed them,
// as their packages define them: GNOME's, MATE's and Cinnamon's schemas, Xfce's
// settings channel, the default configurations of i3 and sway. Its argument is the
// root of a Debian system with these packages: gsettings-desktop-schemas,
// mutter-common, gnome-settings-daemon-common, gnome-shell-common, marco-common,
// mate-settings-daemon-common, mate-desktop-common, cinnamon-desktop-data,
// libxfce4ui-common, i3-wm, sway. KDE's are in no file of a package; the parts of
// Plasma write them into ~/.config/kglobalshortcutsrc when they start in a home
// without settings, one after the other under Xvfb and dbus-run-session: kglobalaccel5
// or kglobalacceld, kwin_x11, kded5 or kded6, ksmserver, org_kde_powerdevil,
// kactivitymanagerd, plasmashell, krunner, kaccess, with spectacle and the volume applet
// installed. That file is expected in the root's etc. What the control of media players
// uses is not in it. The lines of other versions than the root's stay as they are.
package main

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"log"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

func main() {
	log.SetFlags(0)
	if len(os.Args) < 2 {
		log.Fatal("usage: gen ROOT [OUTPUT]")
	}
	out := "data/defaults.tsv"
	if len(os.Args) > 2 {
		out = os.Args[2]
	}
	lines, err := collect(os.Args[1])
	if err != nil {
		log.Fatal(err)
	}
	old, err := os.ReadFile(out)
	if err != nil {
		log.Fatal(err)
	}
	renewed := map[string]bool{}
	for _, l := range lines {
		renewed[head(l)] = true
	}
	for _, l := range strings.Split(strings.TrimSpace(string(old)), "\n")[1:] {
		if !renewed[head(l)] {
			lines = append(lines, l)
		}
	}
	slices.Sort(lines)
	text := "# DESKTOP VERSION\tACCELERATOR\tNAME\tWORDS\tDCONF KEY OR GROUP, from the desktops' packages of " +
		"Debian 12 and 13.\n" + strings.Join(
		lines,
		"\n",
	) + "\n"
	if err := os.WriteFile(out, []byte(text), 0o644); err != nil {
		log.Fatal(err)
	}
}

// head is the desktop and the version of a line.
func head(line string) string {
	name, _, _ := strings.Cut(line, "\t")
	return name
}

// packages have the versions of the desktops.
var packages = map[string]string{
	"gnome": "gnome-shell-common", "plasma": "kwin-common", "xfce": "libxfce4ui-common", "mate": "marco-common",
	"cinnamon": "cinnamon-desktop-data", "i3": "i3-wm", "sway": "sway",
}

var installed = regexp.MustCompile(`(?m)^Package: (\S+)\n(?:\S.*\n| .*\n)*?Version: (?:\d+:)?(\d+)\.(\d+)`)

// versionsOf reads the versions of desktops from the database of a root's packages. GNOME's
// is one number.
func versionsOf(root string) (map[string]string, error) {
	text, err := os.ReadFile(filepath.Join(root, "var/lib/dpkg/status"))
	if err != nil {
		return nil, err
	}
	found := map[string]string{}
	for _, f := range installed.FindAllStringSubmatch(string(text), -1) {
		for desktop, p := range packages {
			if p == f[1] {
				found[desktop] = f[2] + "." + f[3]
			}
		}
	}
	found["gnome"], _, _ = strings.Cut(found["gnome"], ".")
	return found, nil
}

// schemas are those that hold shortcuts, and the desktop they belong to.
var schemas = map[string]string{
	"org.gnome.desktop.wm.keybindings": "gnome", "org.gnome.mutter.keybindings": "gnome",
	"org.gnome.mutter.wayland.keybindings": "gnome",
	"org.gnome.shell.keybindings":          "gnome", "org.gnome.settings-daemon.plugins.media-keys": "gnome",
	"org.mate.Marco.global-keybindings": "mate", "org.mate.Marco.window-keybindings": "mate",
	"org.mate.SettingsDaemon.plugins.media-keys": "mate",
	"org.cinnamon.desktop.keybindings":           "cinnamon", "org.cinnamon.desktop.keybindings.wm": "cinnamon",
	"org.cinnamon.desktop.keybindings.media-keys": "cinnamon",
}

type schemaList struct {
	Schemas []struct {
		ID   string `xml:"id,attr"`
		Path string `xml:"path,attr"`
		Keys []struct {
			Name    string `xml:"name,attr"`
			Default string `xml:"default"`
			Summary string `xml:"summary"`
		} `xml:"key"`
	} `xml:"schema"`
}

var quoted = regexp.MustCompile(`['"]([^'"]+)['"]`)

func collect(root string) ([]string, error) {
	versions, err := versionsOf(root)
	if err != nil {
		return nil, err
	}
	var lines []string
	at := "" // where GNOME and its kin keep the shortcut, and Plasma
	add := func(desktop, accel, name, words string) {
		if accel == "" || accel == "disabled" {
			return
		}
		words = strings.Join(strings.Fields(words), " ")
		lines = append(
			lines,
			strings.Join([]string{desktop + " " + versions[desktop], accel, name, cmp.Or(words, name), at}, "\t"),
		)
	}
	files, err := filepath.Glob(filepath.Join(root, "usr/share/glib-2.0/schemas/*.gschema.xml"))
	if err != nil {
		return nil, err
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			return nil, err
		}
		var list schemaList
		if err := xml.Unmarshal(text, &list); err != nil {
			return nil, fmt.Errorf("%s: %w", file, err)
		}
		for _, s := range list.Schemas {
			desktop, ok := schemas[s.ID]
			if !ok {
				continue
			}
			for _, k := range s.Keys {
				at = s.Path + k.Name
				for _, f := range quoted.FindAllStringSubmatch(k.Default, -1) {
					add(desktop, f[1], strings.TrimSuffix(k.Name, "-static"), k.Summary)
				}
			}
		}
	}
	at = ""
	if err := xfce(filepath.Join(root, "etc/xdg/xfce4/xfconf/xfce-perchannel-xml/xfce4-keyboard-shortcuts.xml"), func(key, accel, name, words string) {
		at = key
		add("xfce", accel, name, words)
	}); err != nil {
		return nil, err
	}
	ofPlasma := func(group, accel, name, words string) {
		at = group
		add("plasma", accel, name, words)
	}
	if err := plasma(filepath.Join(root, "etc/kglobalshortcutsrc"), ofPlasma); err != nil {
		return nil, err
	}
	if err := programs(filepath.Join(root, "usr/share/kglobalaccel"), ofPlasma); err != nil {
		return nil, err
	}
	at = ""
	for desktop, file := range map[string]string{"i3": "etc/i3/config", "sway": "etc/sway/config"} {
		if err := bindings(desktop, filepath.Join(root, file), add); err != nil {
			return nil, err
		}
	}
	slices.Sort(lines)
	return slices.Compact(lines), nil
}

type node struct {
	Name  string `xml:"name,attr"`
	Value string `xml:"value,attr"`
	Nodes []node `xml:"property"`
}

// xfce reads what chords start, and what the window manager does by them, whose names end with _key.
func xfce(file string, add func(key, accel, name, words string)) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	var root node
	if err := xml.Unmarshal(text, &root); err != nil {
		return err
	}
	for _, group := range root.Nodes {
		for _, set := range group.Nodes {
			if set.Name != "default" {
				continue
			}
			for _, p := range set.Nodes {
				words, managed := strings.CutSuffix(p.Value, "_key")
				key := ""
				if managed {
					key = p.Value
				}
				add(key, p.Name, words, strings.ReplaceAll(words, "_", " "))
			}
		}
	}
	return nil
}

// qtKeys are Qt's names of keys whose keysym is called otherwise.
var qtKeys = map[string]string{
	"Esc": "Escape", "Return": "Return", "PgUp": "Prior", "PgDown": "Next", "Del": "Delete", "Ins": "Insert",
	"Backtab": "Tab",
	"-":       "minus", "=": "equal", "`": "grave", "~": "asciitilde", ".": "period", "Space": "space", "Search": "XF86Search", "Screensaver": "XF86ScreenSaver",
	"Media Play": "XF86AudioPlay", "Media Stop": "XF86AudioStop", "Media Previous": "XF86AudioPrev", "Media Next": "XF86AudioNext", "Media Pause": "XF86AudioPause",
	"Calculator": "XF86Calculator", "Display": "XF86Display", "Battery": "XF86Battery",
	"Volume Up": "XF86AudioRaiseVolume", "Volume Down": "XF86AudioLowerVolume", "Volume Mute": "XF86AudioMute", "Microphone Mute": "XF86AudioMicMute",
	"Touchpad Toggle": "XF86TouchpadToggle", "Touchpad On": "XF86TouchpadOn", "Touchpad Off": "XF86TouchpadOff", "Sleep": "XF86Sleep", "Hibernate": "XF86Hibernate",
	"Power Off": "XF86PowerOff", "Power Down": "XF86PowerDown", "Monitor Brightness Up": "XF86MonBrightnessUp", "Monitor Brightness Down": "XF86MonBrightnessDown",
	"Keyboard Brightness Up": "XF86KbdBrightnessUp", "Keyboard Brightness Down": "XF86KbdBrightnessDown", "Keyboard Light On/Off": "XF86KbdLightOnOff",
}

// plasma reads each line's default, and what is set without being the default: some
// parts set theirs that way.
func plasma(file string, add func(group, accel, name, words string)) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	group := ""
	for line := range strings.Lines(string(text)) {
		line = strings.TrimSpace(line)
		if strings.HasPrefix(line, "[") {
			group = strings.Trim(line, "[]")
			continue
		}
		name, value, ok := strings.Cut(line, "=")
		f := strings.SplitN(value, ",", 3)
		if !ok || len(f) < 3 {
			continue
		}
		for chord := range strings.SplitSeq(f[0]+`\t`+f[1], `\t`) {
			if accel := accelerator(chord); accel != "" {
				add(group, accel, name, f[2])
			}
		}
	}
	return nil
}

// accelerator spells a chord of Qt as GTK does, "" for none, and for what has no key.
func accelerator(chord string) string {
	if chord == "" || chord == "none" || strings.Contains(chord, "(") || strings.HasSuffix(chord, "++") {
		return "" // the plus key is in no one place
	}
	parts := strings.Split(chord, "+")
	accel := ""
	for _, p := range parts[:len(parts)-1] {
		if p == "Meta" {
			p = "Super"
		}
		accel += "<" + p + ">"
	}
	key := parts[len(parts)-1]
	return accel + cmp.Or(qtKeys[key], key)
}

// programs reads the shortcuts that programs ask for by their desktop files, which Plasma 6
// writes into its own file only when they are changed.
func programs(dir string, add func(group, accel, name, words string)) error {
	files, err := filepath.Glob(filepath.Join(dir, "*.desktop"))
	if err != nil {
		return err
	}
	for _, file := range files {
		text, err := os.ReadFile(file)
		if err != nil {
			return err
		}
		name, words := "_launch", ""
		for line := range strings.Lines(string(text)) {
			line = strings.TrimSpace(line)
			switch key, value, _ := strings.Cut(line, "="); {
			case strings.HasPrefix(line, "[Desktop Action "):
				name = strings.TrimSuffix(strings.TrimPrefix(line, "[Desktop Action "), "]")
			case key == "Name":
				words = value
			case key == "X-KDE-Shortcuts":
				for chord := range strings.SplitSeq(value, ",") {
					if accel := accelerator(chord); accel != "" {
						add(filepath.Base(file), accel, name, words)
					}
				}
			}
		}
	}
	return nil
}

// bindings reads the bindsym lines of a configuration, its variables replaced.
func bindings(desktop, file string, add func(desktop, accel, name, words string)) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	variables := map[string]string{}
	mode := ""
	for line := range strings.Lines(string(text)) {
		f := strings.Fields(line)
		switch {
		case len(f) >= 3 && f[0] == "set":
			variables[f[1]] = strings.Join(f[2:], " ")
		case len(f) >= 2 && f[0] == "mode" && strings.HasSuffix(strings.TrimSpace(line), "{"):
			mode = f[1]
		case len(f) == 1 && f[0] == "}":
			mode = ""
		case len(f) >= 3 && f[0] == "bindsym" && mode == "":
			for len(f) > 3 && strings.HasPrefix(f[1], "--") {
				f = slices.Delete(f, 1, 2)
			}
			chord := f[1]
			chord = replaced(chord, variables)
			parts := strings.Split(chord, "+")
			accel := ""
			for _, p := range parts[:len(parts)-1] {
				accel += "<" + p + ">"
			}
			words := replaced(strings.Join(f[2:], " "), variables)
			add(desktop, accel+parts[len(parts)-1], f[2], strings.TrimPrefix(words, "exec --no-startup-id "))
		}
	}
	return nil
}

// replaced puts in the variables, the longer names first: $ws10 is not $ws1.
func replaced(text string, variables map[string]string) string {
	names := slices.Sorted(maps.Keys(variables))
	slices.SortStableFunc(names, func(a, b string) int { return len(b) - len(a) })
	for _, n := range names {
		text = strings.ReplaceAll(text, n, variables[n])
	}
	return text
}
