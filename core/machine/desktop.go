package machine

import (
	"slices"
	"strings"
)

// Desktop is a Linux desktop: what is known of it besides its shortcuts.
type Desktop struct {
	Name      string   // as mappings and verdicts spell it
	Title     string   // as its makers write it
	Only      string   // its one kind of graphical session, "" where it has both
	Called    []string // what people call it otherwise, in lower case
	Announces []string // its names in XDG_CURRENT_DESKTOP, in lower case
	Packages  []string // packages whose version is its own, on Debian, Arch and their kin
	Hyper     HyperForm
}

// None is the name of no desktop at all.
const None = "none"

// desktops is the one list of desktops; what is asked of one elsewhere goes by it.
var desktops = []Desktop{
	{"gnome", "GNOME", "", []string{"ubuntu", "mutter"}, []string{"gnome"}, []string{"gnome-shell"}, RealHyper},
	{
		"plasma",
		"Plasma",
		"",
		[]string{"kde", "kwin", "kubuntu"},
		[]string{"kde"},
		[]string{"kwin-wayland", "kwin-x11", "kwin"},
		SeveralModifiers,
	},
	{"xfce", "Xfce", X11, []string{"xfwm4", "xubuntu"}, []string{"xfce"}, []string{"xfce4-settings"}, RealHyper},
	{"mate", "MATE", X11, []string{"marco"}, []string{"mate"}, []string{"marco"}, RealHyper},
	{
		"cinnamon",
		"Cinnamon",
		"",
		[]string{"muffin", "mint"},
		[]string{"x-cinnamon", "cinnamon"},
		[]string{"muffin"},
		RealHyper,
	},
	{"i3", "i3", X11, nil, []string{"i3"}, []string{"i3-wm"}, RealHyper},
	{"sway", "sway", Wayland, nil, []string{"sway"}, []string{"sway"}, RealHyper},
}

// The kinds of session of a Linux machine.
const (
	Wayland = "wayland"
	X11     = "x11"
	Console = "console"
)

// Sessions are the kinds of session a Linux machine can run.
var Sessions = []string{Wayland, X11, Console}

// Desktops are those that are known. The list is shared; nobody may change it.
func Desktops() []Desktop { return desktops }

// DesktopNames are the names of the desktops, and that of none.
func DesktopNames() []string {
	var names []string
	for _, d := range desktops {
		names = append(names, d.Name)
	}
	return append(names, None)
}

// FindDesktop finds a desktop by its name.
func FindDesktop(name string) (Desktop, bool) {
	i := slices.IndexFunc(desktops, func(d Desktop) bool { return d.Name == name })
	if i < 0 {
		return Desktop{}, false
	}
	return desktops[i], true
}

// DesktopCalled is the name of the desktop that people call so, in any case.
func DesktopCalled(name string) (string, bool) {
	for _, d := range desktops {
		if slices.Contains(d.Called, strings.ToLower(name)) {
			return d.Name, true
		}
	}
	return "", false
}

// HasSession says whether a desktop can run in a kind of session.
func HasSession(desktop, session string) bool {
	d, _ := FindDesktop(desktop)
	return d.Only == "" || session == d.Only || session == Console
}

// Add adds a desktop to the list, and returns what takes it out again: for tests that hold
// whether the list is all that a desktop takes. Nobody else may use the list meanwhile.
func Add(d Desktop) (remove func()) {
	before := desktops
	desktops = append(slices.Clone(desktops), d)
	return func() { desktops = before }
}
