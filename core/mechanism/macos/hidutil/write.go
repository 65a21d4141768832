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

// agent is the launch agent's property list.
type agent struct {
	Label            string
	ProgramArguments []string
	RunAtLoad        bool
	StartInterval    int `plist:",omitempty"` // seconds
}

// pair is one usage and the one that it becomes; it is the plan of a press.
type pair struct {
	Src uint64 `json:"HIDKeyboardModifierMappingSrc"`
	Dst uint64 `json:"HIDKeyboardModifierMappingDst"`
}

// Write makes the launch agent.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	list = mechanism.Sorted(list)
	var script []string
	all, err := command(nil, pairs(list, ""))
	if err != nil {
		return mechanism.Output{}, err
	}
	script = append(script, all)
	interval := 0
	for _, board := range m.Boards {
		own := slices.ContainsFunc(list, func(b mechanism.Taken) bool { return b.Board == board.Name })
		if !own {
			continue
		}
		for _, id := range board.IDs {
			c, err := command(&id, pairs(list, board.Name))
			if err != nil {
				return mechanism.Output{}, err
			}
			script = append(script, c)
			if id.Bus != machine.BuiltIn {
				interval = 60
			}
		}
	}
	a := agent{Label: label, RunAtLoad: true, StartInterval: interval,
		ProgramArguments: []string{"/bin/sh", "-c", strings.Join(script, "\n")}}
	text, err := plist.MarshalIndent(a, plist.XMLFormat, "  ")
	if err != nil {
		return mechanism.Output{}, err
	}
	var clear strings.Builder
	for _, b := range list {
		words := b.String()
		for strings.Contains(words, "--") { // which XML keeps for a comment's end
			words = strings.ReplaceAll(words, "--", "- -")
		}
		fmt.Fprintf(&clear, "<!-- %s -->\n", words)
	}
	text = bytes.Replace(text, []byte("<plist"), []byte(clear.String()+"<plist"), 1)
	about := change.About{Serves: mechanism.Presses(list), In: "hidutil/" + label + ".plist",
		Says: "Copy the launch agent, and load it now, or log in again. macOS shows a notice about a background " +
			"item; leave it switched on.",
		Unsays: "Unload the agent, delete its file, and empty the mapping; one that another program had given " +
			"`hidutil` before is not known here.",
	}
	shell := func(line string) []string { return []string{"sh", "-c", line} }
	path := "~/Library/LaunchAgents/" + label + ".plist"
	return mechanism.Changed([]change.Change{
		change.File{About: about, Path: path, Data: append(text, '\n')},
		change.Call{
			About:  about,
			Do:     shell("launchctl bootstrap gui/$(id -u) " + path),
			Undo:   shell("launchctl bootout gui/$(id -u)/" + label),
			InTurn: true,
		},
		change.Call{About: about, Undo: shell(`hidutil property --set '{"UserKeyMapping":[]}'`)},
	}), nil
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
		ps = append(ps, b.Plan.(pair))
	}
	return ps
}

// nothing is the usage of no key.
const nothing = 0x700000000

// usage widens page<<16|id to the page<<32|id of the HID mapping.
func usage(u int) uint64 { return uint64(u>>16)<<32 | uint64(u&0xFFFF) }

// command is the line of shell that sets one list.
func command(id *machine.BoardID, ps []pair) (string, error) {
	words := []string{"/usr/bin/hidutil", "property"}
	if id != nil {
		match, err := matching(*id)
		if err != nil {
			return "", err
		}
		words = append(words, "--matching", match)
	}
	set, err := json.Marshal(map[string][]pair{"UserKeyMapping": ps})
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

// matching is the JSON by which the event system finds a board.
func matching(id machine.BoardID) (string, error) {
	var match any
	switch id.Bus {
	case machine.BuiltIn:
		match = struct {
			BuiltIn bool `json:"Built-In"`
		}{true}
	case machine.AnyExternal:
		match = struct {
			BuiltIn bool `json:"Built-In"`
			Page    int  `json:"PrimaryUsagePage"`
			Usage   int  `json:"PrimaryUsage"`
		}{false, 1, 6}
	default:
		match = struct {
			Vendor  int `json:"VendorID"`
			Product int `json:"ProductID"`
		}{int(id.Vendor), int(id.Product)}
	}
	text, err := json.Marshal(match)
	return string(text), err
}
