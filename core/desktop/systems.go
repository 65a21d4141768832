package desktop

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"

	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// What Windows, macOS, iPadOS and ChromeOS do by themselves, by version. Sources: Microsoft,
// "Keyboard shortcuts in Windows"; Apple, "Mac keyboard shortcuts" and "Keyboard shortcuts for
// iPad"; Google, "Chromebook keyboard shortcuts".
//
//go:embed data/systems.tsv
var systemsText string

// row is a line of the list of systems' chords.
type row struct {
	since, before string // versions, "" for any
	chord         string // its key by a code, or by the character that it types; - for none at first
	use           Use
}

// rowsOf are the lines of a system.
func rowsOf(system machine.System) []row {
	if known, ok := systemRows.Load(system); ok {
		return known.([]row)
	}
	var list []row
	for line := range strings.Lines(systemsText) {
		line, ours := strings.CutPrefix(line, string(system)+"\t")
		if !ours {
			continue
		}
		f := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		r := row{since: f[0], chord: f[1], use: Use{
			Name: f[2], Words: f[3], Fixed: f[4] == "fixed", Programs: f[4] == "programs", But: f[5],
		}}
		if _, err := strconv.Atoi(f[6]); err == nil {
			r.use.Key = NumberedKeys + f[6]
		} else if f[6] != "" {
			r.use.Key = MenuKeys + MenuEntry(f[6])
		}
		if program := programs[f[2]]; system == machine.Windows && program != "" {
			r.use.Starts = []string{program}
		}
		if before, ok := strings.CutPrefix(f[0], "<"); ok {
			r.since, r.before = "", before
		}
		list = append(list, r)
	}
	systemRows.Store(system, list)
	return list
}

var systemRows sync.Map

// programs are those that Windows starts by chords, by the list's names of these.
var programs = map[string]string{"explorer": "explorer.exe", "task manager": "taskmgr.exe", "settings": "ms-settings:"}

// ofSystem lists what a system does in the machine's version of it, the newest if that is not
// said.
func ofSystem(m *intent.Machine) []Use {
	var list []Use
	for _, r := range rowsOf(m.System) {
		old := m.Version != "" && r.since != "" && CompareVersions(m.Version, r.since) < 0
		over := r.before != "" && (m.Version == "" || CompareVersions(m.Version, r.before) >= 0)
		c, known := chordOn(m, r.chord)
		if r.chord != "-" && !old && !over && known {
			r.use.Chord = c
			list = append(list, r.use)
		}
	}
	return list
}

// NumberedKeys is where macOS keeps its own shortcuts, each by a number: a dictionary in its
// preferences.
const NumberedKeys = "com.apple.symbolichotkeys:AppleSymbolicHotKeys:"

// MenuKeys is where macOS keeps the chords of menu items that the user has changed, by the items' titles,
// or by a path of titles.
const MenuKeys = "NSGlobalDomain:NSUserKeyEquivalents:"

// MenuEntry spells a title, or a path of them with › between, as macOS spells it.
func MenuEntry(title string) string {
	if strings.Contains(title, "›") {
		return "\x1b" + strings.ReplaceAll(title, "›", "\x1b")
	}
	return title
}

// Later is the version from which on a machine's system does an action by itself, where the machine's
// is older; "" where there is none.
func Later(m *intent.Machine, action string) string {
	for _, r := range rowsOf(m.System) {
		if r.use.Name == action && r.since != "" && m.Version != "" && CompareVersions(m.Version, r.since) < 0 {
			return r.since
		}
	}
	return ""
}

// Numbered lists what macOS does by a shortcut that has a number in its preferences, and InMenus what
// programs do by an item of their menus: also what has no chord as long as nobody gives it one. The lists
// are shared; nobody may change them.
func Numbered(m *intent.Machine) []Use { return kept(m, NumberedKeys) }

// InMenus is as Numbered says.
func InMenus(m *intent.Machine) []Use { return kept(m, MenuKeys) }

func kept(m *intent.Machine, under string) []Use {
	of := under + kind(m)
	if known, ok := keptUses.Load(of); ok {
		return known.([]Use)
	}
	var list []Use
	for _, r := range rowsOf(m.System) {
		if strings.HasPrefix(r.use.Key, under) &&
			(r.since == "" || m.Version == "" || CompareVersions(m.Version, r.since) >= 0) &&
			(r.before == "" || m.Version != "" && CompareVersions(m.Version, r.before) < 0) {
			u := r.use
			u.Chord, _ = chordOn(m, r.chord)
			list = append(list, u)
		}
	}
	keptUses.Store(of, list)
	return list
}

// keptUses are lists by what they depend on; mechanisms ask for each press.
var keptUses sync.Map

// chordOn reads a chord of the list for a machine: a key is named by its code, or by the character
// that it types under the layout, since menus go by that.
func chordOn(m *intent.Machine, text string) (keys.Chord, bool) {
	var c keys.Chord
	if text == "-" {
		return c, false
	}
	for part := range strings.SplitSeq(text, "+") {
		if mod, ok := keys.ModByName(part); ok {
			c.Mods |= mod
			continue
		}
		if len(part) > 1 {
			var ok bool
			if c.Key, ok = keys.ByCode(part); ok && m.System == machine.MacOS && len(m.Layouts) > 0 {
				c.Key = atKeycode(m.Layouts[0], c.Key)
			}
			return c, ok
		}
		place, ok := m.Latin().Find(rune(part[0]))
		c.Key = place.Key
		return c, ok && place.Mods == 0
	}
	return c, true
}

// atKeycode is the key that has the virtual keycode of a Mac that the list calls by its place on an ANSI
// board: on boards of the ISO shape two are exchanged.
func atKeycode(l *keys.Layout, k keys.Key) keys.Key {
	code, ok := k.Mac()
	if own, _ := l.MacCode(k); !ok || own == code {
		return k
	}
	for _, o := range keys.All() {
		if n, has := l.MacCode(o); has && n == code {
			return o
		}
	}
	return k
}

// consoles are the chords by which a Linux machine goes to another console, before any setting
// or program of a user can act. (xkeyboard-config: the function keys with Ctrl and Alt.)
func consoles() []Use {
	var list []Use
	for n := 1; n <= 12; n++ {
		k, _ := keys.ByCode("F" + strconv.Itoa(n))
		list = append(
			list,
			Use{
				Chord: keys.Chord{Mods: keys.Ctrl | keys.Alt, Key: k},
				Name:  "system",
				Words: "switches to console " + strconv.Itoa(n),
				Fixed: true,
			},
		)
	}
	return list
}

// Pressable are the keys that a free chord may have: letters, digits, function keys
// and arrows.
func Pressable() []keys.Key {
	var list []keys.Key
	for _, k := range keys.All() {
		name := k.String()
		letter := len(name) == 4 && name[:3] == "Key"
		digit := len(name) == 6 && name[:5] == "Digit"
		function := len(name) <= 3 && name[0] == 'F' && name != "Fn" && (len(name) == 2 || name <= "F12")
		if letter || digit || function || k.Section() == keys.ArrowPad {
			list = append(list, k)
		}
	}
	return list
}
