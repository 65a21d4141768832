package hidutil

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"howett.net/plist"
	"mvdan.cc/sh/v3/syntax"

	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

const label = "leitstand.keymapping"

// job is the property list for launchd.
type job struct {
	Label            string
	ProgramArguments []string
	RunAtLoad        bool
	StartInterval    int `plist:",omitempty"` // seconds
}

// pair is one usage and the one that it becomes; it is what a press needs.
type pair struct {
	Src uint64 `json:"HIDKeyboardModifierMappingSrc"`
	Dst uint64 `json:"HIDKeyboardModifierMappingDst"`
}

// Write makes the job.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	lists, interval, err := allLists(m, list)
	if err != nil {
		return mechanism.Output{}, err
	}
	var script, boards, clear []string
	if slices.ContainsFunc(list, func(b mechanism.Taken) bool { return b.Plan.(plan).pair != nil }) {
		for _, l := range lists {
			line, err := command(l.match, map[string][]pair{"UserKeyMapping": l.pairs})
			if err != nil {
				return mechanism.Output{}, err
			}
			script = append(script, line)
			if !slices.Contains(boards, cmp.Or(l.match, "all")) {
				boards = append(boards, cmp.Or(l.match, "all")) // which comes first
			}
		}
	}
	repeats := map[string]int{}
	for _, b := range list {
		if p := b.Plan.(plan); p.property != "" {
			repeats[p.property] = p.value
		}
	}
	if len(repeats) > 0 {
		line, err := command("", repeats)
		if err != nil {
			return mechanism.Output{}, err
		}
		script, clear = append(script, line), []string{asPreferred}
	}
	if len(script) == 0 { // keys that are to be what they are anyhow
		return mechanism.Changed(nil), nil
	}
	text, err := plist.MarshalIndent(job{Label: label, RunAtLoad: true, StartInterval: interval,
		ProgramArguments: []string{"/bin/sh", "-c", strings.Join(script, "\n")}}, plist.XMLFormat, "  ")
	if err != nil {
		return mechanism.Output{}, err
	}
	text = bytes.Replace(text, []byte("<plist"), []byte(comments(list)+"<plist"), 1)
	all := changes(m, list, append(text, '\n'), boards, clear, asked(lists, repeats))
	return mechanism.Changed(append(all, preferences(list)...)), nil
}

// preferences are how keys repeat by the system's own settings, as near as they go.
func preferences(list []mechanism.Taken) []change.Change {
	var all []change.Change
	for _, b := range list {
		if p := b.Plan.(plan); p.preference != "" {
			all = append(all, change.Setting{
				About: change.About{
					Serves: []string{b.Press()}, In: "hidutil/NSGlobalDomain.plist",
					Says: "Set how keys repeat in the system's own settings as well, as near as their steps go: it may take " +
						"those at log-in. What they were is saved for the way back.",
					Unsays: "Have the system's own settings of how keys repeat as they were.",
				},
				Store: change.Defaults, Key: "NSGlobalDomain:" + p.preference, To: change.Int(p.ticks),
			})
		}
	}
	return all
}

// asPreferred has keys repeat as the user's preferences say, in ticks of 15 ms there.
const asPreferred = `hidutil property --set "{\"HIDInitialKeyRepeat\":$((15000000 * $(defaults read -g InitialKeyRepeat 2> /dev/null || echo 25))),\"HIDKeyRepeat\":$((15000000 * $(defaults read -g KeyRepeat 2> /dev/null || echo 6)))}"`

// asked is a line of shell that succeeds where the event system holds what was set for all.
func asked(lists []boardList, repeats map[string]int) string {
	var all []string
	for _, l := range lists {
		if l.match == "" && len(l.pairs) > 0 {
			all = []string{fmt.Sprintf("hidutil property --get UserKeyMapping | grep -q %d", l.pairs[0].Src)}
		}
	}
	for _, name := range []string{initialRepeat, keyRepeat} {
		if v := repeats[name]; v != 0 {
			all = append(all, fmt.Sprintf("hidutil property --get %s | grep -q %d", name, v))
		}
	}
	return strings.Join(all, " && ")
}

// comments name what the job does, as comments of XML.
func comments(list []mechanism.Taken) string {
	var w strings.Builder
	for _, b := range list {
		words := b.String()
		for strings.Contains(words, "--") { // which XML keeps for a comment's end
			words = strings.ReplaceAll(words, "--", "- -")
		}
		fmt.Fprintf(&w, "<!-- %s -->\n", words)
	}
	return w.String()
}

// changes put the job in place and load it, after what the boards have was saved; clear are further lines that take back what
// it has set.
func changes(
	m *mechanism.Machine, list []mechanism.Taken, text []byte, boards, clear []string, holds string,
) []change.Change {
	about := change.About{
		Serves: mechanism.Presses(list), In: "hidutil/" + label + ".plist",
		Says: "Copy the launch agent, and load it now, or log in again. macOS shows a notice about a background " +
			"item, called sh; leave it switched on.",
		Unsays: "Unload the agent, delete its file, and have the mapping as it was.",
	}
	path, sudo, domain := "~/Library/LaunchAgents/"+label+".plist", "", "gui/$(id -u)"
	if m.Admin {
		about.Everyone = true
		about.Says = strings.Replace(about.Says, "launch agent, and load it now, or log in again", "launch daemon, "+
			"and load it now, or start the machine anew", 1)
		about.Unsays = strings.Replace(about.Unsays, "agent", "daemon", 1)
		path, sudo, domain = "/Library/LaunchDaemons/"+label+".plist", "sudo ", "system"
	}
	shell := func(line string) []string { return []string{"sh", "-c", line} }
	unload := sudo + "launchctl bootout " + domain + "/" + label + " 2> /dev/null || true"
	load := unload + "\n" + sudo + "launchctl bootstrap " + domain + " " + path
	if m.Admin { // launchd loads no daemon that others could write
		load = "sudo chown root:wheel " + path + " && sudo chmod 644 " + path + "\n" + load
	}
	for i, line := range clear {
		clear[i] = sudo + line
	}
	save := ""
	for _, match := range boards {
		of := "sh " + change.PreferencesFile + " "
		save += change.ShellLine("sh", change.PreferencesFile, "keys", match) + "\n"
		clear = append(clear, of+strings.TrimSuffix("keys-back "+change.ShellWord(match)+" "+sudo, " "))
	}
	load = save + load
	return []change.Change{
		change.File{About: about, Path: path, Data: text},
		change.Call{About: about, Do: shell(load), Undo: shell(unload), InTurn: true, Holds: holds},
		change.Call{About: about, Undo: shell(strings.Join(clear, "\n"))},
	}
}

// boardList is the whole list of the boards that match, "" for all.
type boardList struct {
	match string
	pairs []pair
}

// The boards that say of themselves that they are built in, in both of their ways, and those that say
// that they are not.
const (
	builtIn       = `{"Built-In":true}`
	builtInByName = `{"Product":"Apple Internal Keyboard / Trackpad"}`
	external      = `{"Built-In":false}`
)

// allLists are the lists in the order in which they are set, and after how many seconds they are to be
// set again, 0 for never.
func allLists(m *mechanism.Machine, list []mechanism.Taken) (lists []boardList, interval int, err error) {
	own := func(board string) bool {
		return slices.ContainsFunc(list, func(b mechanism.Taken) bool { return b.Board == board && board != "" })
	}
	every := pairs(list, "")
	lists = []boardList{{"", every}}
	one := onlyExternal(m)
	usual := one != nil && own(one.Name)
	if usual {
		all := pairs(list, one.Name)
		if anyExternal(one) {
			lists = append(lists, boardList{"", all})
		} else {
			lists = []boardList{{"", all}, {external, every}}
		}
		board := ""
		for _, b := range m.Boards {
			if b != one && len(b.IDs) > 0 {
				board = b.Name
			}
		}
		lists = append(lists, boardList{builtIn, pairs(list, board)}, boardList{builtInByName, pairs(list, board)})
	}
	for _, b := range m.Boards {
		if !own(b.Name) {
			continue
		}
		for _, id := range b.IDs {
			all := pairs(list, b.Name)
			switch {
			case id.Bus == machine.BuiltIn && !usual:
				lists = append(lists, boardList{builtIn, all}, boardList{builtInByName, all})
			case id.Bus == machine.BuiltIn || usual && anyExternal(b): // it has its list already
			default:
				match, err := matching(id)
				if err != nil {
					return nil, 0, err
				}
				if lists = append(lists, boardList{match, all}); !usual {
					interval = 60
				}
			}
		}
	}
	return lists, interval, nil
}

// pairs lists the usages of one board's whole mapping, the bindings of every
// board with its own on top; board "" is every board.
func pairs(list []mechanism.Taken, board string) []pair {
	own := map[keys.Key]bool{}
	for _, b := range list {
		if b.Board == board {
			own[b.Chord.Key] = true
		}
	}
	ps := []pair{}
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b mechanism.Taken) int { return cmp.Compare(a.Chord.Key, b.Chord.Key) })
	for _, b := range list {
		if b.Board != board && (b.Board != "" || own[b.Chord.Key]) {
			continue
		}
		if p := b.Plan.(plan).pair; p != nil {
			ps = append(ps, *p)
		}
	}
	return ps
}

// nothing is the usage of no key.
const nothing = 0x700000000

// usage widens page<<16|id to the page<<32|id of the HID mapping.
func usage(u int) uint64 { return uint64(u>>16)<<32 | uint64(u&0xFFFF) }

// command is the line of shell that sets a property, for the boards that match.
func command(match string, properties any) (string, error) {
	words := []string{"/usr/bin/hidutil", "property"}
	if match != "" {
		words = append(words, "--matching", match)
	}
	set, err := json.Marshal(properties)
	if err != nil {
		return "", err
	}
	words = append(words, "--set", string(set))
	for i, w := range words {
		if words[i], err = syntax.Quote(w, syntax.LangPOSIX); err != nil {
			return "", fmt.Errorf("hidutil: %w", err)
		}
	}
	return strings.Join(words, " "), nil
}

// matching is the JSON by which the event system finds an external board; not by what it is used as,
// since media keys are another part of it.
func matching(id machine.BoardID) (string, error) {
	if id.Bus == machine.AnyExternal {
		return external, nil
	}
	text, err := json.Marshal(struct {
		Vendor  int `json:"VendorID"`
		Product int `json:"ProductID"`
	}{int(id.Vendor), int(id.Product)})
	return string(text), err
}
