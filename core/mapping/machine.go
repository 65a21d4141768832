package mapping

import (
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

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
			t.Range,
			"bad-name",
			fmt.Sprintf("%q cannot be a name", t.Value),
			"use letters, digits, hyphens and underscores, such as \"chart-table\"",
		)
		return "", false
	}
	if reserved(t.Value) {
		b.add(
			t.Range,
			"bad-name",
			fmt.Sprintf("%q is a device on Windows, and no folder can have that name there", t.Value),
			"choose another name",
		)
		return "", false
	}
	if what := kept(t.Value); what != "" && b.schema.typ != "app" { // which no scope names
		b.add(
			t.Range,
			"bad-name",
			fmt.Sprintf("%q is a %s, and on %q would not say which is meant", t.Value, what, t.Value),
			"choose another name",
		)
		return "", false
	}
	if r, ok := seen(t.Value); ok {
		b.add(
			t.Range,
			"duplicate",
			fmt.Sprintf("%q is defined twice", t.Value),
			"give one of them another name",
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

// mostPlaces is how many machines, and how many boards, a mapping may have: each machine is
// compiled and proved by itself.
const mostPlaces = 500

// place notes the name of a machine or board, which are so many by now. False is for one
// more than there may be, the first of which is told.
func (b *block) place(name string, count int) bool {
	if count == mostPlaces && !b.tooMany {
		b.tooMany = true
		b.add(
			b.head(),
			"too-large",
			fmt.Sprintf("the mapping has more than %d machines or boards", mostPlaces),
			"part it into several mappings",
		)
	}
	if count < mostPlaces {
		b.places[strings.ToLower(name)] = b.head()
	}
	return count < mostPlaces
}

func (b *block) machine() {
	if b.tooMany {
		return
	}
	m := &Machine{Range: b.head(), Admin: true}
	if !b.has("system") {
		b.add(
			b.head(),
			"missing-attribute",
			"the machine does not say its system",
			"add system = \"linux\", \"macos\", \"windows\", \"ipados\" or \"chromeos\"",
		)
	}
	m.System = System(b.called("system", string(Linux), machine.Systems, systemCalled))
	if v, ok := b.text("version"); ok {
		m.Version = v.Value
	}
	m.Desktop = b.called("desktop", machine.None, machine.DesktopNames(), machine.DesktopCalled)
	m.Session = b.word("session", "", machine.Sessions)
	if t, ok := b.text("desktop_version"); ok {
		switch {
		case m.Desktop == "none" && m.System == Linux:
			b.add(
				t.Range,
				"misplaced-attribute",
				"the machine has no desktop that could have a version",
				"add its desktop, or take this out",
			)
		case !isVersion(t.Value):
			b.add(
				t.Range,
				"bad-version",
				fmt.Sprintf("%q is no version of a desktop", t.Value),
				"write numbers with dots between, such as \"48\" or \"6.3\"",
			)
		default:
			m.DesktopVersion = t.Value
		}
	}
	for _, a := range []string{"desktop", "desktop_version", "session"} {
		if t, ok := b.text(a); ok && m.System != Linux {
			b.add(
				t.Range,
				"misplaced-attribute",
				fmt.Sprintf("%s is for linux, and this machine's system is %s", a, m.System),
				"take it out",
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
	for _, t := range b.texts("layouts") {
		if _, ok := keys.FindLayout(t.Value); !ok {
			if name, ok := languages[strings.ToLower(t.Value)]; ok {
				b.add(
					t.Range,
					"unknown-layout",
					fmt.Sprintf("there is no layout %q", t.Value),
					fmt.Sprintf("layouts go by their XKB names: write %q", name),
				)
			} else {
				b.unknown(t, "unknown-layout", fmt.Sprintf("there is no layout %q", t.Value), keys.LayoutNames())
			}
			continue
		}
		if slices.Contains(m.Layouts, t.Value) {
			b.add(t.Range, "duplicate", fmt.Sprintf("layout %q stands twice", t.Value), "name it once")
			continue
		}
		if m.Layouts = append(m.Layouts, t.Value); len(m.Layouts) == 5 {
			b.add(t.Range, "too-many-layouts", "XKB holds at most four layouts at once", "leave some out")
		}
	}
	if len(m.Layouts) == 0 {
		m.Layouts = []string{"us"}
	}
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
	for _, t := range b.texts("hosts") {
		_, err := path.Match(t.Value, "")
		switch {
		case err != nil || t.Value == "" || strings.ContainsAny(t.Value, "/ \t"):
			b.add(
				t.Range,
				"bad-host",
				fmt.Sprintf("%q is no pattern of host names", t.Value),
				"write a computer's name; a * stands for any characters, as in \"pc-a-*\"",
			)
		case slices.Contains(m.Hosts, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		default:
			m.Hosts = append(m.Hosts, t.Value)
		}
	}
	m.Admin = b.word("rights", "admin", []string{"admin", "user"}) == "admin"
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

// options reads the options of XKB's rules.
func (b *block) options(m *Machine) {
	for _, t := range b.texts("options") {
		o, ok := keys.FindOption(t.Value)
		switch {
		case m.System != Linux || m.Session == "console":
			b.add(
				t.Range,
				"misplaced-attribute",
				"options are those of XKB, which linux has in its graphical sessions",
				"take it out",
			)
			return
		case !ok:
			b.unknown(
				t,
				"unknown-option",
				fmt.Sprintf("there is no option %q that we can tell the work of", t.Value),
				keys.OptionNames(),
			)
			continue
		case !fits(o, m.Layouts):
			b.add(
				t.Range,
				"option-unknown-here",
				fmt.Sprintf(
					"what option %s does under layouts %s is not known",
					t.Value,
					strings.Join(m.Layouts, ", "),
				),
				"say what you want of its keys with rules",
			)
			continue
		case slices.Contains(m.Options, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("option %q stands twice", t.Value), "name it once")
			continue
		}
		for _, name := range m.Options {
			other, _ := keys.FindOption(name)
			if key := o.Clash(other); key != "" {
				k, _ := keys.ByXKB(key)
				b.add(
					t.Range,
					"two-options",
					fmt.Sprintf("options %s and %s make different things of %s", name, t.Value, k),
					"keep one of them, and say the rest with rules",
				)
			}
		}
		m.Options = append(m.Options, t.Value)
	}
}

// Fits says whether a machine can have one more option of XKB's rules, by its name.
func Fits(m *Machine, name string) bool {
	o, ok := keys.FindOption(name)
	return ok && fits(o, m.Layouts) && !slices.ContainsFunc(m.Options, func(other string) bool {
		x, _ := keys.FindOption(other)
		return other == name || o.Clash(x) != ""
	})
}

func fits(o *keys.Option, names []string) bool {
	var layouts []*keys.Layout
	for _, name := range names {
		l, _ := keys.FindLayout(name) // unknown ones are not among them
		layouts = append(layouts, l)
	}
	return o.Fits(layouts)
}

var shapeWords = []string{"ansi", "iso", "jis", "full", "tenkeyless", "compact", "laptop", "split"}

func (b *block) board() {
	if b.tooMany {
		return
	}
	d := &Board{Range: b.head()}
	for _, t := range b.texts("ids") {
		id, ok := b.boardID(t)
		if ok && slices.Contains(d.IDs, id) {
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		} else if ok {
			d.IDs = append(d.IDs, id)
		}
	}
	if !b.has("ids") {
		b.add(b.head(), "missing-attribute", "the board does not say by what it is known",
			"add ids, such as ids = [\"usb:1209:0001\"], [\"built-in\"] or [\"any external\"]")
	}
	for _, t := range b.texts("shape") {
		switch {
		case slices.Contains(d.Shape, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("%q stands twice", t.Value), "name it once")
		case slices.Contains(shapeWords, t.Value):
			d.Shape = append(d.Shape, t.Value)
		case strings.Contains(t.Value, " "):
			b.add(t.Range, "unknown-value", fmt.Sprintf("%q is no shape", t.Value), "shape is a list: "+asList(t.Value))
		default:
			b.unknown(t, "unknown-value", fmt.Sprintf("%q is no shape", t.Value), shapeWords)
		}
	}
	d.Legends = b.word("legends", "pc", []string{"pc", "mac"})
	for _, k := range b.keyList(b.texts("lacks")) {
		d.Lacks = append(d.Lacks, k.Key)
	}
	for _, k := range b.keyList(b.texts("broken")) {
		d.Broken = append(d.Broken, k.Key)
	}
	for _, p := range b.pairs("sends") {
		from, ok1 := b.key(p[0])
		to, ok2 := b.key(p[1])
		if ok1 && ok2 {
			if d.Sends == nil {
				d.Sends = map[keys.Key]keys.Key{}
			}
			d.Sends[from.Key] = to.Key
		}
	}
	name, ok := b.name(b.seenPlace)
	if !ok {
		return
	}
	if !b.place(name, len(b.m.Boards)) {
		return
	}
	d.Name = name
	b.m.Boards = append(b.m.Boards, d)
	b.m.boards[name] = d
}

func (b *block) boardID(t Text) (BoardID, bool) {
	id, ok := machine.ParseBoardID(t.Value)
	if !ok {
		b.add(
			t.Range,
			"bad-id",
			fmt.Sprintf("%q is no identity of a board", t.Value),
			"write \"usb:VVVV:PPPP\" or \"bluetooth:VVVV:PPPP\" with the four hexadecimal digits of vendor and "+
				"product, or \"built-in\", or \"any external\"",
		)
	}
	return id, ok
}

func (b *block) app() {
	a := &App{Range: b.head(), Commands: map[System][]Text{}}
	for _, s := range machine.Systems {
		if list := b.command(s); len(list) > 0 {
			a.Commands[System(s)] = list
		}
	}
	if len(a.Commands) == 0 && len(b.syn.Body.Attributes) == 0 {
		b.add(
			b.head(),
			"missing-attribute",
			"the app names no program",
			"add one for each system it is on, such as linux = \"xterm\"",
		)
	}
	if a.File = b.inFile; b.sharedApps[private(b.labels[0].Value, b.inFile)] {
		a.File = ""
	}
	name, ok := b.name(func(name string) (diag.Range, bool) {
		if o, ok := b.m.apps[private(name, a.File)]; ok {
			return o.Range, true
		}
		return diag.Range{}, false
	})
	if !ok {
		return
	}
	a.Name = name
	b.m.Apps = append(b.m.Apps, a)
	b.m.apps[private(name, a.File)] = a
}

// command reads a program and its arguments. What no system can pass on is
// refused: an empty program name, and a NUL in any argument.
func (b *block) command(name string) []Text {
	list := b.texts(name)
	if a, ok := b.syn.Body.Attributes[name]; ok && len(list) == 1 && b.isText(a.Expr) && wholeLine(list[0].Value) {
		b.add(
			list[0].Range,
			"bad-command",
			fmt.Sprintf("%q is one program with a blank in its name", list[0].Value),
			"part it: "+name+" = "+asList(list[0].Value),
		)
		return nil
	}
	for i, t := range list {
		if i == 0 && strings.TrimSpace(t.Value) == "" {
			b.add(t.Range, "empty-command", "the name of the program is empty", "write the program to start")
			return nil
		}
		if strings.ContainsRune(t.Value, 0) {
			b.add(t.Range, "bad-command", "an argument cannot hold the character U+0000", "take it out")
			return nil
		}
	}
	return list
}

// isText says whether a value is written as one string, not as a list.
func (b *block) isText(e hclsyntax.Expression) bool {
	if t, ok := e.(*hclsyntax.ScopeTraversalExpr); ok && len(t.Traversal) == 2 {
		name, _ := t.Traversal[1].(hcl.TraverseAttr)
		v, ok := b.lets[name.Name]
		return ok && v.Type() == cty.String
	}
	_, ok := e.(*hclsyntax.TemplateExpr)
	return ok
}

// wholeLine says whether a program's name is a whole command line: it has a blank, and is
// no path with one, or an option follows.
func wholeLine(s string) bool {
	_, rest, blank := strings.Cut(strings.TrimSpace(s), " ")
	return blank && (!strings.ContainsAny(s, `/\\`) || strings.HasPrefix(rest, "-"))
}

// asList spells a command line as a list of words.
func asList(line string) string {
	words := strings.Fields(line)
	for i, w := range words {
		words[i] = fmt.Sprintf("%q", w)
	}
	return "[" + strings.Join(words, ", ") + "]"
}
