package hwdb

import (
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// For is a machine with Linux, whatever its desktop.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Linux} }

var (
	keyLine = mechanism.Pattern(`(?m)^ KEYBOARD_KEY_[0-9a-fA-F]+=`)
	// single is a pattern that singles out one device, however it goes on.
	single = mechanism.Pattern(`^evdev:input:b(0003|0005)v([0-9A-F]{4})p([0-9A-F]{4})(e\*|e0110\*|\*)?$`)
)

// kinds are the patterns of whole kinds of boards.
var kinds = map[string]machine.Bus{
	"evdev:atkbd:*": machine.BuiltIn, "evdev:atkbd:dmi:*": machine.BuiltIn, "evdev:input:b0018*": machine.BuiltIn,
	"evdev:input:b0003*": machine.AnyExternal, "evdev:input:b0005*": machine.AnyExternal,
}

// Knows says whether a text gives keys of boards others to be.
func (Mechanism) Knows(name string, text []byte) bool {
	return strings.HasSuffix(name, ".hwdb") && keyLine().Match(text)
}

// Import reads a file with the keys of boards. A pattern that singles out a device is a
// board of its own.
func (Mechanism) Import(_ *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	i := &importer{effects: map[string]map[keys.Key]behaviour.Effect{}, left: map[line]bool{}}
	var patterns []line
	inKeys := false
	for n, text := range strings.Split(string(text), "\n") {
		l := line{n + 1, strings.TrimRight(text, " \t\r")}
		switch {
		case strings.HasPrefix(l.text, "#"):
		case l.text == "":
			patterns = nil
		case l.text[0] != ' ':
			if inKeys {
				patterns = nil
			}
			patterns, inKeys = append(patterns, l), false
		default:
			inKeys = true
			i.key(l, patterns)
		}
	}
	return i.list(), nil
}

type line struct {
	number int
	text   string
}

type importer struct {
	got     mechanism.Imported
	effects map[string]map[keys.Key]behaviour.Effect // by board, "" for every board
	left    map[line]bool                            // patterns that are reported already
}

// key reads a line with a key, for the boards of patterns.
func (i *importer) key(l line, patterns []line) {
	name, value, _ := strings.Cut(l.text[1:], "=")
	hex, isKey := strings.CutPrefix(name, "KEYBOARD_KEY_")
	if !isKey {
		return
	}
	code, err := strconv.ParseUint(hex, 16, 32)
	value, _, _ = strings.Cut(value, "#")
	e := effect(strings.TrimPrefix(strings.TrimSpace(value), "!"))
	for _, p := range patterns {
		b, every := board(p.text)
		k, ok := source(code, strings.HasPrefix(p.text, "evdev:atkbd:"))
		switch {
		case b == nil && !every:
			if !i.left[p] {
				i.left[p] = true
				i.got.Leave(p.number, p.text, "it is no single board, and no whole kind of boards either")
			}
		case err != nil || !ok:
			i.got.Leave(l.number, strings.TrimSpace(l.text), "no key that we know has this scan code")
		case e.Kind == behaviour.Other:
			i.got.Leave(l.number, strings.TrimSpace(l.text), k.String()+" "+e.Words)
		case every:
			i.set("", k, e)
		default:
			if i.effects[b.Name] == nil {
				i.got.Boards = append(i.got.Boards, b)
			}
			i.set(b.Name, k, e)
		}
	}
}

func (i *importer) set(board string, k keys.Key, e behaviour.Effect) {
	if i.effects[board] == nil {
		i.effects[board] = map[keys.Key]behaviour.Effect{}
	}
	i.effects[board][k] = e
}

// list is what was found. What built-in boards and all others have alike, every board has.
func (i *importer) list() mechanism.Imported {
	own, others := i.effects[kindName(machine.BuiltIn)], i.effects[kindName(machine.AnyExternal)]
	for k, e := range own {
		if o, ok := others[k]; ok && o.Equal(e) {
			i.set("", k, e)
			delete(own, k)
			delete(others, k)
		}
	}
	for board, keysOf := range i.effects {
		for k, e := range keysOf {
			i.got.Bindings = append(
				i.got.Bindings, mechanism.Binding{Board: board, Chord: keys.Chord{Key: k}, Effect: e},
			)
		}
	}
	i.got.Boards = slices.DeleteFunc(i.got.Boards, func(b *machine.Board) bool { return len(i.effects[b.Name]) == 0 })
	behaviour.Sort(i.got.Bindings)
	return i.got
}

func kindName(bus machine.Bus) string { return strings.ReplaceAll(string(bus), " ", "-") }

// board is the board of a pattern, or every board.
func board(pattern string) (b *machine.Board, every bool) {
	if pattern == "evdev:input:*" || pattern == "evdev:*" {
		return nil, true
	}
	if bus, ok := kinds[pattern]; ok {
		return &machine.Board{Name: kindName(bus), Legends: "pc", IDs: []machine.BoardID{{Bus: bus}}}, false
	}
	f := single().FindStringSubmatch(pattern)
	if f == nil {
		return nil, false
	}
	bus := map[string]string{"0003": "usb", "0005": "bluetooth"}[f[1]]
	id, _ := machine.ParseBoardID(bus + ":" + f[2] + ":" + f[3])
	return &machine.Board{
		Name:    "board-" + strings.ToLower(f[2]+"-"+f[3]),
		Legends: "pc",
		IDs:     []machine.BoardID{id},
	}, false
}
