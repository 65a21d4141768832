// Package host describes the machine a program runs on, as far as a mapping
// needs it, from files and environment that are handed in.
package host

import (
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/machine"
)

// Name is what a machine is called that no mapping names.
const Name = "this-machine"

// Machine describes the machine: goos is its operating system by Go's name, env
// looks up an environment variable, and root is its file system from the root
// folder. What cannot be seen is left at the mapping's defaults.
func Machine(root fs.FS, env func(string) string, goos string) *machine.Machine {
	m := &machine.Machine{Name: Name, System: System(goos), Desktop: machine.None, Admin: true}
	if m.System == machine.Linux {
		m.Desktop = desktop(env)
		m.DesktopVersion = version(root, env, m.Desktop)
		switch s := env("XDG_SESSION_TYPE"); s {
		case "wayland", "x11":
			m.Session = s
		case "tty":
			m.Session = "console"
		}
		m.Layouts, m.Options = keyboard(root)
	}
	if len(m.Layouts) == 0 {
		m.Layouts = []string{"us"}
	}
	return m
}

// System is the operating system that Go calls goos; every one that it does not know is Linux.
func System(goos string) machine.System {
	switch goos {
	case "darwin":
		return machine.MacOS
	case "windows":
		return machine.Windows
	default:
		return machine.Linux
	}
}

// desktop reads XDG_CURRENT_DESKTOP, a list joined by colons.
func desktop(env func(string) string) string {
	for part := range strings.SplitSeq(strings.ToLower(env("XDG_CURRENT_DESKTOP")), ":") {
		for _, d := range machine.Desktops() {
			if slices.Contains(d.Announces, part) {
				return d.Name
			}
		}
	}
	return machine.None
}

// keyboard reads the settings for all users: the layouts, each once and as many as XKB takes, and the options whose
// work we can tell.
func keyboard(root fs.FS) (layouts, options []string) {
	values := systemKeyboard(root)
	for name := range strings.SplitSeq(values["XKBOPTIONS"], ",") {
		if _, ok := keys.FindOption(name); ok {
			options = append(options, name)
		}
	}
	if values["XKBLAYOUT"] == "" {
		return nil, options
	}
	return knownLayouts(joined(values["XKBLAYOUT"], values["XKBVARIANT"])), options
}
