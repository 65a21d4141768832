package hidutil

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"howett.net/plist"
	"mvdan.cc/sh/v3/syntax"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

const jobPath = "hidutil/leitstand.keymapping.plist"

// Read reads the job: what its script leaves set, after all its lines
// have run in their order.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, jobPath)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := read(m, text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", jobPath, err)
	}
	return asPreferences(fsys, list)
}

// asPreferences drops how keys repeat where the system's own preferences have it otherwise, since it is
// theirs from the next log-in on: they are in steps of 15 ms.
func asPreferences(fsys fs.FS, list []mechanism.Binding) ([]mechanism.Binding, error) {
	const name = "hidutil/NSGlobalDomain.plist"
	var domain struct {
		Delay int `plist:"InitialKeyRepeat"`
		Pause int `plist:"KeyRepeat"`
	}
	if text, err := fs.ReadFile(fsys, name); err == nil {
		if _, err := plist.Unmarshal(text, &domain); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	} else if !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	near := func(ticks int, ms float64) bool {
		return ticks > 0 && (float64(ticks)*15-ms <= 7.5 || ticks == 1) && ms-float64(ticks)*15 <= 7.5
	}
	return slices.DeleteFunc(list, func(b mechanism.Binding) bool {
		switch b.Option.Kind {
		case behaviour.RepeatDelay:
			return !near(domain.Delay, float64(b.Effect.Delay()))
		case behaviour.RepeatRate:
			return !near(domain.Pause, 1000/float64(b.Effect.Rate()))
		default: // a key's
			return false
		}
	}), nil
}

func read(m *mechanism.Machine, text []byte) ([]mechanism.Binding, error) {
	var job struct {
		Label   string
		Args    []string `plist:"ProgramArguments"`
		AtLoad  bool     `plist:"RunAtLoad"`
		Program string   `plist:"Program"`
	}
	if _, err := plist.Unmarshal(text, &job); err != nil {
		return nil, err
	}
	switch {
	case job.Label == "":
		return nil, errors.New("a job without a Label")
	case !job.AtLoad:
		return nil, errors.New("the job does not run at once (RunAtLoad)")
	case len(job.Args) != 3 || job.Args[0] != "/bin/sh" || job.Args[1] != "-c":
		return nil, errors.New("the job does not run a script with /bin/sh -c")
	}
	commands, err := shellCommands(job.Args[2])
	if err != nil {
		return nil, err
	}
	return set(m, commands)
}

// set is what hidutil has set when it has run with each of the command lines.
func set(m *mechanism.Machine, commands [][]string) ([]mechanism.Binding, error) {
	h := held{m: m, boards: map[string]effects{}}
	for _, words := range commands {
		if len(words) < 2 || words[0] != "/usr/bin/hidutil" || words[1] != "property" {
			return nil, fmt.Errorf("%q is no hidutil property command", strings.Join(words, " "))
		}
		var match, set string
		for i := 2; i < len(words); i += 2 {
			if i+1 == len(words) {
				return nil, fmt.Errorf("%s has no value", words[i])
			}
			switch words[i] {
			case "--matching":
				match = words[i+1]
			case "--set":
				set = words[i+1]
			default:
				return nil, fmt.Errorf("hidutil has no option %s", words[i])
			}
		}
		p, err := properties(set)
		if err != nil {
			return nil, err
		}
		if p.Mapping != nil {
			list, err := keyMapping(*p.Mapping)
			if err == nil {
				err = h.set(match, list)
			}
			if err != nil {
				return nil, err
			}
		}
		if match == "" {
			h.repeats(p)
		}
	}
	return h.bindings(), nil
}

// effects are what keys do.
type effects map[keys.Key]behaviour.Effect

// held is what the event system holds.
type held struct {
	m     *mechanism.Machine
	first effects // the first list for all boards
	every effects // the last
	// boards have lists of their own, by their names; those that the mapping has no board for are
	// those that say they are external, and the built-in one.
	boards       map[string]effects
	delay, pause int64 // nanoseconds, 0 for not set
}

// The boards that the mapping has no board for.
const (
	otherExternal = "any external board"
	otherBuiltIn  = "the built-in board"
)

// set sets a list for the boards that match, "" for all.
func (h *held) set(match string, list effects) error {
	if match == "" { // which replaces those of single boards, too
		if h.every = list; h.first == nil {
			h.first = list
		}
		h.boards = map[string]effects{}
		return nil
	}
	board, id, err := matched(h.m, match)
	if err != nil {
		return err
	}
	if id.Bus == machine.AnyExternal { // and that for all external boards replaces theirs
		for _, b := range h.m.Boards {
			if b.External() {
				h.boards[b.Name] = list
			}
		}
	}
	h.boards[board] = list
	return nil
}

// repeats notes how keys repeat.
func (h *held) repeats(p property) {
	if p.Delay != 0 {
		h.delay = p.Delay
	}
	if p.Pause != 0 {
		h.pause = p.Pause
	}
}

// bindings turns whole lists into bindings: for a board only what differs there. What every board does
// is what an external board does that the mapping does not know; where there is none, what the first
// list said.
func (h *held) bindings() []mechanism.Binding {
	base := h.every
	if list, ok := h.boards[otherExternal]; ok {
		base = list
	} else if slices.ContainsFunc(h.m.Boards, standsForAny) && h.first != nil {
		base = h.first
	}
	var list []mechanism.Binding
	layer, held := h.m.LayerOf(intent.OptionState)
	add := func(board string, k keys.Key, e behaviour.Effect) {
		if held && k == layer.Key && e.Kind == behaviour.Becomes && e.Key.String() == "AltRight" {
			e = behaviour.Effect{Kind: behaviour.Layers, Layer: layer.Layer, How: layer.How}
		}
		list = append(list, mechanism.Binding{Board: board, Chord: keys.Chord{Key: k}, Effect: e})
	}
	for k, e := range base {
		add("", k, e)
	}
	names := []string{otherBuiltIn}
	for _, b := range h.m.Boards {
		names = append(names, b.Name)
	}
	for _, name := range names {
		own, ok := h.boards[name]
		if !ok {
			if name == otherBuiltIn {
				continue
			}
			own = h.every
		}
		for k, e := range own {
			if all, ok := base[k]; !ok || !e.Equal(all) {
				add(name, k, e)
			}
		}
		for k := range base {
			if _, ok := own[k]; !ok {
				add(name, k, behaviour.Effect{Kind: behaviour.Becomes, Key: k})
			}
		}
	}
	if h.delay != 0 {
		ms := behaviour.Milliseconds((h.delay + 500_000) / 1_000_000)
		list = append(list, behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, ms))
	}
	if h.pause != 0 {
		rate := behaviour.PerSecond((1_000_000_000 + h.pause/2) / h.pause)
		list = append(list, behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, rate))
	}
	behaviour.Sort(list)
	return list
}

// standsForAny says whether a board is any external one.
func standsForAny(b *machine.Board) bool {
	return slices.ContainsFunc(b.IDs, func(id machine.BoardID) bool { return id.Bus == machine.AnyExternal })
}

// property is what hidutil sets.
type property struct {
	Mapping *[]usagePair `json:"UserKeyMapping"`
	Delay   int64        `json:"HIDInitialKeyRepeat"` // nanoseconds
	Pause   int64        `json:"HIDKeyRepeat"`        // nanoseconds
}

type usagePair struct {
	Src *uint64 `json:"HIDKeyboardModifierMappingSrc"`
	Dst *uint64 `json:"HIDKeyboardModifierMappingDst"`
}

func properties(set string) (p property, err error) {
	d := json.NewDecoder(strings.NewReader(set))
	d.DisallowUnknownFields()
	if err = d.Decode(&p); err != nil {
		return p, fmt.Errorf("--set: %w", err)
	}
	const most = 60_000_000_000
	if p.Delay < 0 || p.Delay > most || p.Pause < 0 || p.Pause > most {
		return p, errors.New("--set: keys repeat after no such time")
	}
	return p, nil
}

// actionOf are the usages of what the system does and no key of a board has. (AppleHIDUsageTables.h)
var actionOf = map[uint64]string{
	0xFF01_0000_0010: "overview", 0xFF01_0000_0011: "show-desktop", 0xFF01_0000_0001: "launcher",
	0xFF01_0000_0020: "brightness-up", 0xFF01_0000_0021: "brightness-down",
}

func keyMapping(list []usagePair) (effects, error) {
	does := effects{}
	for _, p := range list {
		if p.Src == nil || p.Dst == nil {
			return nil, errors.New("--set: a pair lacks its source or its destination")
		}
		src, ok := keyOf(*p.Src)
		if !ok {
			return nil, fmt.Errorf("--set: no key has the usage %d", *p.Src)
		}
		dst, ok := keyOf(*p.Dst)
		switch {
		case *p.Dst == 0x700000000:
			does[src] = behaviour.Effect{Kind: behaviour.Nothing}
		case ok:
			does[src] = behaviour.Effect{Kind: behaviour.Becomes, Key: dst}
		case actionOf[*p.Dst] != "":
			does[src] = behaviour.Effect{Kind: behaviour.Acts, Action: actionOf[*p.Dst]}
		default:
			does[src] = behaviour.Effect{
				Kind:  behaviour.Other,
				Words: fmt.Sprintf("acts as the unknown usage %d", *p.Dst),
			}
		}
	}
	return does, nil
}

func keyOf(wide uint64) (keys.Key, bool) {
	if wide>>32 > 0xFFFF || wide&0xFFFFFFFF > 0xFFFF {
		return keys.None, false
	}
	return keys.ByHID(int(wide>>32<<16 | wide&0xFFFF))
}

// identity is the identity that a matching dictionary picks; of a device, which has no bus
// there, the numbers only.
func identity(text string) (machine.BoardID, error) {
	var match struct {
		VendorID, ProductID *uint16
		Product             string
		BuiltIn             *bool `json:"Built-In"`
		PrimaryUsagePage    *int
		PrimaryUsage        *int
	}
	if err := json.Unmarshal([]byte(text), &match); err != nil {
		return machine.BoardID{}, fmt.Errorf("--matching: %w", err)
	}
	switch {
	case match.VendorID != nil && match.ProductID != nil:
		return machine.BoardID{Vendor: *match.VendorID, Product: *match.ProductID}, nil
	case match.BuiltIn != nil && *match.BuiltIn, match.Product == "Apple Internal Keyboard / Trackpad":
		return machine.BoardID{Bus: machine.BuiltIn}, nil
	case match.BuiltIn != nil:
		return machine.BoardID{Bus: machine.AnyExternal}, nil
	}
	return machine.BoardID{}, fmt.Errorf("--matching: %s picks no single board", text)
}

// matched finds the board of the machine that a matching dictionary picks.
func matched(m *mechanism.Machine, text string) (string, machine.BoardID, error) {
	id, err := identity(text)
	if err != nil {
		return "", id, err
	}
	for _, b := range m.Boards {
		if slices.ContainsFunc(b.IDs, func(o machine.BoardID) bool {
			if id.Bus == "" {
				return o.Vendor == id.Vendor && o.Product == id.Product
			}
			return o.Bus == id.Bus
		}) {
			return b.Name, id, nil
		}
	}
	switch id.Bus {
	case machine.BuiltIn:
		return otherBuiltIn, id, nil
	case machine.AnyExternal:
		return otherExternal, id, nil
	}
	return "", id, fmt.Errorf("--matching: %s is no board of machine %q", text, m.Name)
}

// shellCommands parses a script of simple commands whose words are literal.
func shellCommands(script string) ([][]string, error) {
	file, err := syntax.NewParser(syntax.Variant(syntax.LangPOSIX)).Parse(strings.NewReader(script), "")
	if err != nil {
		return nil, err
	}
	var commands [][]string
	for _, stmt := range file.Stmts {
		call, ok := stmt.Cmd.(*syntax.CallExpr)
		if !ok || stmt.Negated || stmt.Background || len(stmt.Redirs) > 0 || len(call.Assigns) > 0 {
			return nil, errors.New("the script holds more than plain commands")
		}
		var words []string
		for _, w := range call.Args {
			var b strings.Builder
			for _, part := range w.Parts {
				switch part := part.(type) {
				case *syntax.Lit:
					b.WriteString(part.Value)
				case *syntax.SglQuoted:
					b.WriteString(part.Value)
				default:
					return nil, errors.New("the script holds words that are not literal")
				}
			}
			words = append(words, b.String())
		}
		commands = append(commands, words)
	}
	return commands, nil
}
