package host

import (
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Setting looks a user's own value of a store up, nil for none.
type Setting func(store, key string) (change.Value, error)

// The settings of layouts. (GNOME's schema org.gnome.desktop.input-sources; KDE's kxkbrc; Xfce's channel
// keyboard-layout.)
const (
	gnomeSources = "/org/gnome/desktop/input-sources/sources"
	gnomeOptions = "/org/gnome/desktop/input-sources/xkb-options"
	kdeLayout    = "kxkbrc:[Layout]"
	xfceLayout   = "keyboard-layout:/Default/"
)

var gnomeSource = mechanism.Pattern(`\('xkb', '([^']+)'\)`)

// DesktopLayouts gives a machine the layouts and the options that its desktop is set to, where the desktop has its own.
func DesktopLayouts(m *machine.Machine, get Setting) {
	text := func(store, key string) string {
		v, err := get(store, key)
		if s, ok := v.(change.Text); err == nil && ok {
			return string(s)
		}
		return ""
	}
	var layouts, options []string
	switch m.Desktop {
	case "gnome":
		v, _ := get(change.Dconf, gnomeSources) // without an answer the system's own stay
		raw, _ := v.(change.Raw)
		for _, found := range gnomeSource().FindAllStringSubmatch(string(raw), -1) {
			name, variant, _ := strings.Cut(found[1], "+")
			layouts = append(layouts, withVariant(name, variant))
		}
		v, _ = get(change.Dconf, gnomeOptions)
		list, _ := v.(change.Texts)
		options = list
	case "plasma":
		if text(change.KDE, kdeLayout+"Use") == "true" {
			layouts = joined(text(change.KDE, kdeLayout+"LayoutList"), text(change.KDE, kdeLayout+"VariantList"))
		}
		options = strings.Split(text(change.KDE, kdeLayout+"Options"), ",")
	case "xfce":
		if off, _ := get(change.Xfconf, xfceLayout+"XkbDisable"); off == change.Bool(false) {
			layouts = joined(text(change.Xfconf, xfceLayout+"XkbLayout"), text(change.Xfconf, xfceLayout+"XkbVariant"))
		}
	}
	if known := knownLayouts(layouts); len(known) > 0 {
		m.Layouts = known
	}
	for _, o := range options {
		if _, ok := keys.FindOption(o); ok && !slices.Contains(m.Options, o) {
			m.Options = append(m.Options, o)
		}
	}
}

// joined are layouts of two lists with commas, of names and of variants.
func joined(names, variants string) (list []string) {
	of := strings.Split(variants, ",")
	for i, name := range strings.Split(names, ",") {
		variant := ""
		if i < len(of) {
			variant = of[i]
		}
		list = append(list, withVariant(name, variant))
	}
	return list
}

func withVariant(name, variant string) string {
	if variant == "" {
		return name
	}
	return name + "(" + variant + ")"
}

// knownLayouts are those of a list that XKB has, each once and as many as it takes.
func knownLayouts(names []string) (list []string) {
	for _, name := range names {
		if _, ok := keys.FindLayout(name); ok && !slices.Contains(list, name) && len(list) < 4 {
			list = append(list, name)
		}
	}
	return list
}

var xorgOption = mechanism.Pattern(`(?m)^\s*Option\s+"(Xkb\w+)"\s+"([^"]*)"`)

// systemKeyboard are the settings of the keyboard for all users: what Debian and its kin keep, what systemd keeps for
// the console, or what it has written for X servers, by their names in the first of these.
func systemKeyboard(root fs.FS) map[string]string {
	values := map[string]string{}
	for _, file := range []string{"etc/default/keyboard", "etc/vconsole.conf"} {
		text, err := fs.ReadFile(root, file)
		if err != nil {
			continue
		}
		for line := range strings.Lines(string(text)) {
			if name, value, ok := strings.Cut(strings.TrimSpace(line), "="); ok && values[name] == "" {
				values[name] = strings.Trim(value, `"'`)
			}
		}
	}
	if values["XKBLAYOUT"] != "" {
		return values
	}
	text, _ := fs.ReadFile(root, "etc/X11/xorg.conf.d/00-keyboard.conf") // none is no setting
	for _, o := range xorgOption().FindAllStringSubmatch(string(text), -1) {
		values[strings.ToUpper(o[1])] = o[2]
	}
	return values
}

// SettingFiles are the files of a machine that may say something of its keyboard, and are there to be taken over: of
// its user, its desktop, and the system.
func SettingFiles(m *machine.Machine) []string {
	list := []string{"~/.XCompose", "/etc/udev/hwdb.d"}
	switch m.Desktop {
	case "i3", "sway":
		list = append(list, "~/.config/"+m.Desktop+"/config", "~/."+m.Desktop+"/config")
	case "plasma":
		list = append(list, "~/.config/kglobalshortcutsrc", "~/.config/kcminputrc")
	case "xfce":
		for _, channel := range []string{"xfce4-keyboard-shortcuts", "keyboards"} {
			list = append(list, "~/.config/xfce4/xfconf/xfce-perchannel-xml/"+channel+".xml")
		}
	}
	return list
}

// InDconf says whether a desktop keeps its settings in dconf, which are in no file that could be read.
func InDconf(m *machine.Machine) bool {
	return m.Desktop == "gnome" || m.Desktop == "mate" || m.Desktop == "cinnamon"
}
