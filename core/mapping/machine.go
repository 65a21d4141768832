package mapping

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// name reads the block's label as the name of something new. Names become
// folders, so they are plain.
func (b *block) name(seen func(string) (diag.Range, bool)) (string, bool) {
	t := b.labels[0]
	if !plainName(t.Value) {
		b.add(
			t.Range, "bad-name", fmt.Sprintf("%q cannot be a name", t.Value),
			"use letters, digits, hyphens and underscores, such as \"chart-table\"",
		)
		return "", false
	}
	if reserved(t.Value) {
		b.add(
			t.Range, "bad-name",
			fmt.Sprintf("%q is a device on Windows, and no folder can have that name there", t.Value),
			"choose another name",
		)
		return "", false
	}
	if what := kept(t.Value); what != "" && b.schema.typ != "app" { // which no scope names
		b.add(
			t.Range, "bad-name",
			fmt.Sprintf("%q is a %s, and on %q would not say which is meant", t.Value, what, t.Value),
			"choose another name",
		)
		return "", false
	}
	if r, ok := seen(t.Value); ok {
		b.add(
			t.Range, "duplicate", fmt.Sprintf("%q is defined twice", t.Value), "give one of them another name",
			diag.Related{Range: r, Words: "first here"},
		)
		return "", false
	}
	return t.Value, true
}

// kept says what a name is that no machine or board can have: those of systems and desktops
// that are known, those that a mapping cannot speak of yet included, unless they are everyday
// words; "" for any other.
func kept(name string) string {
	name = strings.ToLower(name)
	switch {
	case slices.Contains(machine.Systems, name),
		slices.Contains([]string{"android", "ios", "tvos", "visionos", "freebsd", "netbsd", "openbsd", "haiku", "illumos", "solaris"}, name):
		return "system"
	case slices.Contains(machine.DesktopNames(), name),
		slices.Contains([]string{"kde", "lxqt", "lxde", "hyprland", "niri", "labwc"}, name):
		return "desktop"
	case slices.Contains(machine.Sessions, name):
		return "kind of session"
	}
	return ""
}

// IsName says whether a text can be the name of a machine or a board: names become folders
// on every system, so they are plain, and none that a system keeps for itself.
func IsName(s string) bool {
	return plainName(s) && !reserved(s) && kept(s) == ""
}

// reserved says whether Windows has a name for a device of its own.
func reserved(s string) bool {
	low := strings.ToLower(s)
	if len(low) == 4 && low[3] >= '0' && low[3] <= '9' {
		low = low[:3] + "N"
	}
	return slices.Contains([]string{"con", "prn", "aux", "nul", "comN", "lptN"}, low)
}

func plainName(s string) bool {
	if s == "" || len(s) > 60 || s[0] == '-' {
		return false
	}
	return !strings.ContainsFunc(s, func(r rune) bool {
		return !(r == '-' || r == '_' || r < 0x80 &&
			(r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z') ||
			r >= 0xC0 && (unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r)))
	})
}

// seenPlace finds a machine or board of that name, whose folder would be the same on some
// systems: on blocks name both.
func (l *loader) seenPlace(name string) (diag.Range, bool) {
	r, ok := l.places[strings.ToLower(name)]
	return r, ok
}

// place notes the name of a machine or board, which are so many by now. False is for one
// more than there may be, the first of which is told.
func (b *block) place(name string, count int) bool {
	if count == machine.Most && !b.tooMany {
		b.tooMany = true
		b.add(
			b.head(), "too-large", fmt.Sprintf("the mapping has more than %d machines or boards", machine.Most),
			"part it into several mappings",
		)
	}
	if count < machine.Most {
		b.places[strings.ToLower(name)] = b.head()
	}
	return count < machine.Most
}

func (b *block) machine() {
	if b.tooMany {
		return
	}
	m := &Machine{Range: b.head(), Admin: true}
	if !b.has("system") {
		b.add(
			b.head(), "missing-attribute", "the machine does not say its system",
			"add system = \"linux\", \"macos\", \"windows\", \"ipados\" or \"chromeos\"",
		)
	}
	m.System = System(b.called("system", string(Linux), machine.Systems, systemCalled))
	if v, ok := b.text("version"); ok {
		m.Version = v.Value
	}
	b.desktop(m)
	b.layouts(m)
	b.options(m)
	for _, t := range b.texts("boards") {
		if slices.Contains(m.Boards, t.Value) {
			b.add(t.Range, "duplicate", fmt.Sprintf("board %q stands twice", t.Value), "name it once")
			continue
		}
		m.Boards = append(m.Boards, t.Value)
		b.usedBoards = append(b.usedBoards, t)
	}
	m.Allow = b.allow(nil)
	b.hosts(m)
	m.Admin = b.word("rights", "admin", []string{"admin", "user"}) == "admin"
	m.LayoutLibrary = b.ofWindows(m, "layout_library", "a layout library")
	m.KeyboardFilter = b.ofWindows(m, "keyboard_filter", "the keyboard filter")
	b.systemLayouts(m)
	name, ok := b.name(b.seenPlace)
	if !ok {
		return
	}
	if !b.place(name, len(b.m.Machines)) {
		return
	}
	m.Name = name
	b.m.Machines = append(b.m.Machines, m)
	b.m.machines[name] = m
}

// ofWindows reads whether a machine has what only Windows has.
func (b *block) ofWindows(m *Machine, name, what string) bool {
	wanted := b.boolean(name, false)
	if wanted && m.System != machine.Windows {
		b.add(b.head(), "wrong-system", what+" is a thing of Windows", "leave "+name+" out of this machine")
	}
	return wanted
}

// systemLayouts reads libraries of the system's own for layouts of the machine.
func (b *block) systemLayouts(m *Machine) {
	for _, pair := range b.pairs("system_layouts") {
		name, file := pair[0], pair[1]
		switch {
		case m.System != machine.Windows:
			b.add(
				name.Range, "wrong-system", "a library with a keyboard layout is a thing of Windows",
				"leave system_layouts out of this machine",
			)
			return
		case !slices.Contains(m.Layouts, name.Value):
			b.add(
				name.Range, "unknown-layout", fmt.Sprintf("%q is none of the machine's layouts", name.Value),
				"name one of "+strings.Join(m.Layouts, ", "),
			)
			continue
		}
		at, ok := b.beside(file)
		if !ok {
			continue
		}
		l, text, err := keys.OpenLayout(b.fsys, at, name.Value)
		if errors.Is(err, fs.ErrNotExist) {
			err = errors.New("there is no such file")
		}
		if err != nil {
			b.add(
				file.Range, "bad-file", fmt.Sprintf("%q cannot be read as a keyboard layout: %s", file.Value, err),
				"leave it out: what the layout types is then taken from a list",
			)
			continue
		}
		m.Own = append(m.Own, machine.OwnLayout{Layout: l, File: text})
	}
}

// desktop reads which desktop a machine runs, and how.
func (b *block) desktop(m *Machine) {
	m.Desktop = b.called("desktop", machine.None, machine.DesktopNames(), machine.DesktopCalled)
	m.Session = b.word("session", "", machine.Sessions)
	if t, ok := b.text("desktop_version"); ok {
		switch {
		case m.Desktop == "none" && m.System == Linux:
			b.add(
				t.Range, "misplaced-attribute", "the machine has no desktop that could have a version",
				"add its desktop, or take this out",
			)
		case !isVersion(t.Value):
			b.add(
				t.Range, "bad-version", fmt.Sprintf("%q is no version of a desktop", t.Value),
				"write numbers with dots between, such as \"48\" or \"6.3\"",
			)
		default:
			m.DesktopVersion = t.Value
		}
	}
	for _, a := range []string{"desktop", "desktop_version", "session"} {
		if t, ok := b.text(a); ok && m.System != Linux {
			b.add(
				t.Range, "misplaced-attribute",
				fmt.Sprintf("%s is for linux, and this machine's system is %s", a, m.System), "take it out",
			)
		}
	}
	if d, _ := machine.FindDesktop(m.Desktop); m.Session == "" {
		m.Session = d.Only
	} else if !machine.HasSession(m.Desktop, m.Session) {
		t, _ := b.text("session")
		b.add(t.Range, "impossible-session", fmt.Sprintf("%s has no %s session", m.Desktop, map[string]string{"wayland": "Wayland", "x11": "X11"}[m.Session]),
			fmt.Sprintf("write session = %q", d.Only))
	}
}

// hosts reads the patterns of host names by which a computer is the machine.
func (b *block) hosts(m *Machine) {
	for _, t := range b.texts("hosts") {
		_, err := path.Match(t.Value, "")
		switch {
		case err != nil || t.Value == "" || strings.ContainsAny(t.Value, "/ \t"):
			b.add(
				t.Range, "bad-host", fmt.Sprintf("%q is no pattern of host names", t.Value),
				"write a computer's name; a * stands for any characters, as in \"pc-a-*\"",
			)
		case slices.Contains(m.Hosts, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		default:
			m.Hosts = append(m.Hosts, t.Value)
		}
	}
}

// isVersion says whether a text is numbers with dots between.
func isVersion(s string) bool {
	for part := range strings.SplitSeq(s, ".") {
		if part == "" || len(part) > 4 || strings.Trim(part, "0123456789") != "" {
			return false
		}
	}
	return true
}

// What people call systems, desktops and layouts.
var (
	otherSystems = map[string]string{
		"mac":    "macos",
		"osx":    "macos",
		"darwin": "macos",
		"win":    "windows",
		"ios":    "ipados",
		"ipad":   "ipados",
		"chrome": "chromeos",
		"ubuntu": "linux",
		"debian": "linux",
		"fedora": "linux",
	}
	languages = map[string]string{
		"german": "de", "deutsch": "de", "qwertz": "de", "english": "us", "american": "us", "qwerty": "us",
		"british": "gb", "uk": "gb", "french": "fr", "azerty": "fr",
		"spanish": "es", "italian": "it", "portuguese": "pt", "brazilian": "br", "swedish": "se", "norwegian": "no",
		"danish": "dk", "finnish": "fi", "dutch": "nl", "belgian": "be",
		"swiss": "ch", "austrian": "at", "polish": "pl", "czech": "cz", "slovak": "sk", "hungarian": "hu",
		"russian": "ru", "ukrainian": "ua", "greek": "gr", "turkish": "tr",
		"japanese": "jp", "canadian": "ca", "icelandic": "is", "romanian": "ro", "croatian": "hr", "bulgarian": "bg",
	}
)

// systemCalled is the name of the system that people call so, in any case.
func systemCalled(name string) (string, bool) {
	s, ok := otherSystems[strings.ToLower(name)]
	return s, ok
}

// called reads an attribute that must be one of a few words, some of which people call
// otherwise.
func (b *block) called(name, otherwise string, words []string, called func(string) (string, bool)) string {
	t, ok := b.text(name)
	if known, other := called(t.Value); ok && other {
		b.add(t.Range, "unknown-value", fmt.Sprintf("%s cannot be %q", name, t.Value), fmt.Sprintf("write %q", known))
		return known
	}
	return b.word(name, otherwise, words)
}
