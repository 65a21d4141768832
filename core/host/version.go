package host

import (
	"bufio"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// version finds the version of a desktop, two numbers of it: what Plasma's session says, or
// what the database of installed packages does; "" if neither.
func version(root fs.FS, env func(string) string, desktop string) string {
	if desktop == "plasma" {
		for _, f := range []string{"usr/share/wayland-sessions/plasma.desktop", "usr/share/xsessions/" +
			"plasmax11.desktop", "usr/share/xsessions/plasma.desktop"} {
			if found := saying(root, f, "X-KDE-PluginInfo-Version="); found != "" {
				return found
			}
		}
	}
	d, _ := machine.FindDesktop(desktop)
	for _, name := range d.Packages {
		if found := debian(root, name); found != "" {
			return found
		}
		dirs, _ := fs.Glob(root, "var/lib/pacman/local/"+name+"-[0-9]*")
		for _, d := range dirs {
			if found := short(strings.TrimPrefix(d, "var/lib/pacman/local/"+name+"-")); found != "" {
				return found
			}
		}
	}
	if desktop == "plasma" {
		return short(env("KDE_SESSION_VERSION"))
	}
	return ""
}

var numbers = mechanism.Pattern(`^(?:\d+:)?(\d{1,4}(?:\.\d{1,4})?)`)

// short is two numbers of a version, without the epoch that a package may have before it.
func short(version string) string {
	if found := numbers().FindStringSubmatch(version); found != nil {
		return found[1]
	}
	return ""
}

// saying finds the version behind the beginning of a line.
func saying(root fs.FS, file, beginning string) string {
	text, err := fs.ReadFile(root, file)
	if err != nil {
		return ""
	}
	for line := range strings.Lines(string(text)) {
		if version, ok := strings.CutPrefix(line, beginning); ok {
			return short(version)
		}
	}
	return ""
}

// debian finds the version of an installed package in dpkg's database.
func debian(root fs.FS, name string) string {
	f, err := root.Open("var/lib/dpkg/status")
	if err != nil {
		return ""
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, 1<<20) // of one line
	var paragraph []string
	for lines.Scan() {
		if lines.Text() != "" {
			paragraph = append(paragraph, lines.Text())
			continue
		}
		if found := installed(paragraph, name); found != "" {
			return found
		}
		paragraph = paragraph[:0]
	}
	return installed(paragraph, name)
}

// installed is the version that a paragraph of dpkg's database gives a package, "" if it is
// another's, or one that was removed.
func installed(paragraph []string, name string) string {
	if len(paragraph) == 0 || paragraph[0] != "Package: "+name ||
		!slices.Contains(paragraph, "Status: install ok installed") {
		return ""
	}
	for _, line := range paragraph {
		if version, ok := strings.CutPrefix(line, "Version: "); ok {
			return short(version)
		}
	}
	return ""
}
