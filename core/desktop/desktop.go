// Package desktop knows which chords a desktop or system uses by itself as long as
// nobody has changed them. What Linux desktops use is taken from their own
// packages; what Windows and macOS use, from their makers' public lists.
package desktop

import (
	"cmp"
	_ "embed"
	"slices"
	"strings"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

//go:generate sh -c "test -n \"$LEITSTAND_PACKAGES\" && go run ./gen \"$LEITSTAND_PACKAGES\" || echo 'set LEITSTAND_PACKAGES to renew core/desktop/data; see gen/main.go'"

//go:embed data/defaults.tsv
var defaultsText string

// Use is a chord that a desktop uses, and for what.
type Use struct {
	Chord keys.Chord
	Name  string // the desktop's own name of the action
	Words string // what it does
	Fixed bool   // the system acts on it before any setting can
	// Programs says that not the system does it, but most of its programs: whoever takes the chord
	// takes it from them.
	Programs bool
	But      string // how it differs from the action that it is named by, "" for not at all
	// Key is where GNOME, MATE, Cinnamon and macOS keep the shortcut in their settings,
	// and the group of Plasma's file; of Xfce, the name of the window manager's action; "" elsewhere. Accel is how it is
	// spelled in our data.
	Key, Accel string
	// Starts is the command, or the address, that it starts; none where it starts no program.
	Starts []string
}

// IsLaunch says whether a launch starts what the chord starts anyhow.
func (u Use) IsLaunch(l behaviour.Launch) bool {
	words := l.Command
	if l.Open != "" {
		words = []string{l.Open}
	}
	if len(u.Starts) == 0 || len(words) != len(u.Starts) || l.Confirm || l.Dir != "" {
		return false
	}
	plain := func(word string) string { return strings.TrimSuffix(strings.ToLower(word), ".exe") }
	return plain(words[0]) == plain(u.Starts[0]) && slices.Equal(words[1:], u.Starts[1:])
}

type line struct{ accel, name, words, key string }

// lines lists what the data say of a desktop in a version.
func lines(desktop, version string) []line {
	desktop += " " + nearest(desktop, version)
	if known, ok := parsed.Load(desktop); ok {
		return known.([]line)
	}
	_, own, _ := strings.Cut(defaultsText, "\n"+desktop+"\t") // its lines stand together
	list := make([]line, 0, strings.Count(own, "\n"+desktop+"\t")+1)
	for more := own != ""; more; {
		var text string
		text, own, _ = strings.Cut(own, "\n")
		accel, rest, _ := strings.Cut(text, "\t")
		name, rest, _ := strings.Cut(rest, "\t")
		words, key, _ := strings.Cut(rest, "\t")
		list = append(list, line{accel, name, words, key})
		own, more = strings.CutPrefix(own, desktop+"\t")
	}
	parsed.Store(desktop, list)
	return list
}

var parsed sync.Map

// Uses lists the chords that a machine's desktop or system uses, under the
// machine's layouts, each chord once.
func Uses(m *intent.Machine) []Use {
	var own []Use
	if m.System == machine.Linux {
		own = consoles()
	}
	stock := Stock(m)
	list := make([]Use, 0, len(own)+len(stock))
	seen := make(map[keys.Chord]bool, cap(list))
	for _, uses := range [][]Use{own, stock} {
		for _, u := range uses {
			if !seen[u.Chord] && !u.Programs {
				seen[u.Chord] = true
				list = append(list, u)
			}
		}
	}
	return list
}

// Stock lists what a machine's desktop does when nobody has changed it, a chord as
// often as the desktop names it. The list is shared; nobody may change it.
func Stock(m *intent.Machine) []Use {
	if known, ok := stocks.Load(kind(m)); ok {
		return known.([]Use)
	}
	list := stock(m)
	stocks.Store(kind(m), list)
	return list
}

// kind is what the chords of a machine depend on.
func kind(m *intent.Machine) string {
	words := slices.Concat(
		[]string{string(m.System), m.Version, m.Desktop, m.DesktopVersion, m.Session}, m.Machine.Layouts, m.Options,
	)
	for _, l := range m.Machine.Own {
		words = append(words, l.ID)
	}
	return strings.Join(words, "\x00")
}

// stocks and tables keep what is known by kind of machine: mechanisms ask for each press.
var stocks, tables sync.Map

func stock(m *intent.Machine) []Use {
	var list []Use
	if m.System == machine.Linux {
		for _, l := range lines(m.Desktop, Version(m)) {
			c, ok := Accelerator(m, l.accel)
			if l.accel == "Meta" { // alone
				c, ok = keys.Chord{Mods: keys.Meta}, true
			}
			if ok && !(m.Desktop == "xfce" && whileMoving[l.name]) {
				use := Use{Chord: c, Name: l.name, Words: l.words, Key: l.key, Accel: l.accel}
				if m.Desktop == "xfce" && l.key == "" { // a command
					use.Starts = strings.Fields(l.words)
				}
				list = append(list, use)
			}
		}
		return list
	}
	return ofSystem(m)
}

// whileMoving are the names of what Xfce's keys do only while a window is moved or resized.
var whileMoving = map[string]bool{"up": true, "down": true, "left": true, "right": true, "cancel": true}

// Spelled lists the stock chords of a machine's desktop as it spells them, by the key
// of its settings database, whether or not a layout has them.
func Spelled(m *intent.Machine) map[string][]string {
	found := map[string][]string{}
	for _, l := range lines(m.Desktop, Version(m)) {
		if l.key != "" {
			found[l.key] = append(found[l.key], l.accel)
		}
	}
	return found
}

// Spells says whether a machine's desktop spells a stock chord of an action so, whether or
// not a layout has it.
func Spells(m *intent.Machine, accel, action string) bool {
	return slices.ContainsFunc(
		lines(m.Desktop, Version(m)), func(l line) bool { return l.accel == accel && l.name == action },
	)
}

// Gap says what we do not know of the chords that a machine's desktop uses, ""
// if nothing.
func Gap(m *intent.Machine) string {
	switch {
	case m.System == machine.Linux && m.Desktop == "plasma" && !Since(m, "6"):
		return "what its control of media players uses is not known"
	case m.System == machine.Linux && len(Versions(m.Desktop)) == 0,
		m.System != machine.Linux && len(rowsOf(m.System)) == 0:
		return "only what the system keeps for itself is known"
	}
	return ""
}

// Table finds what a machine uses a chord for.
type Table []Use // by key, and for one key in the order of Uses

// NewTable is the table of a machine. It is shared; nobody may change it.
func NewTable(m *intent.Machine) Table {
	if known, ok := tables.Load(kind(m)); ok {
		return known.(Table)
	}
	t := Table(Uses(m))
	slices.SortStableFunc(t, func(a, b Use) int { return cmp.Compare(a.Chord.Key, b.Chord.Key) })
	tables.Store(kind(m), t)
	return t
}

// Of finds the use of a chord, a bare modifier being either side.
func (t Table) Of(c keys.Chord) (Use, bool) {
	at, _ := slices.BinarySearchFunc(t, c.Key, func(u Use, k keys.Key) int { return cmp.Compare(u.Chord.Key, k) })
	for _, u := range t[at:] {
		if u.Chord.Key != c.Key {
			break
		}
		if u.Chord.Overlaps(c) {
			return u, true
		}
	}
	return Use{}, false
}

var accelMods = map[string]keys.Mods{
	"shift": keys.Shift, "ctrl": keys.Ctrl, "control": keys.Ctrl, "primary": keys.Ctrl, "alt": keys.Alt,
	"mod1":  keys.Alt,
	"super": keys.Meta, "mod4": keys.Meta, "hyper": keys.Hyper, "mod3": keys.Hyper,
}

// Accelerator reads the spelling of GTK, with the names of real modifiers as well:
// <Super>Left, <Mod1>Return. The key is a keysym, found under the machine's
// layouts; Above_Tab is the key above Tab.
func Accelerator(m *intent.Machine, text string) (keys.Chord, bool) {
	var c keys.Chord
	rest := text
	for strings.HasPrefix(rest, "<") {
		tag, after, ok := strings.Cut(rest[1:], ">")
		mod, known := accelMods[strings.ToLower(tag)]
		if !ok || !known {
			return c, false
		}
		c.Mods |= mod
		rest = after
	}
	if rest == "Above_Tab" {
		k, ok := keys.ByCode("Backquote")
		c.Key = k
		return c, ok
	}
	// The names of keypad and letter keysyms vary in case between desktops.
	for _, l := range m.Layouts {
		plain := l.Giving(rest, 0)
		if len(rest) == 1 {
			plain = slices.Concat(plain, l.Giving(strings.ToLower(rest), 0), l.Giving(strings.ToUpper(rest), 0))
		}
		shifted := slices.DeleteFunc(slices.Clone(l.Giving(rest, 1)), func(k keys.Key) bool {
			return k.Section() != keys.Writing || strings.HasPrefix(rest, "XF86")
		})
		switch {
		case len(plain) > 0 && (len(shifted) == 0 || slices.Min(plain) <= slices.Min(shifted)):
			c.Key = slices.Min(plain)
			return c, true
		case len(shifted) > 0:
			c.Key, c.Mods = slices.Min(shifted), c.Mods|keys.Shift
			return c, true
		}
	}
	return c, false
}
