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
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

const agentPath = "hidutil/leitstand.keymapping.plist"

// Read reads the launch agent: what its script leaves set, after all its lines
// have run in their order.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, agentPath)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := read(m, text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", agentPath, err)
	}
	return list, nil
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
		return nil, errors.New("a launch agent without a Label")
	case !job.AtLoad:
		return nil, errors.New("the agent does not run at log-in (RunAtLoad)")
	case len(job.Args) != 3 || job.Args[0] != "/bin/sh" || job.Args[1] != "-c":
		return nil, errors.New("the agent does not run a script with /bin/sh -c")
	}
	commands, err := shellCommands(job.Args[2])
	if err != nil {
		return nil, err
	}
	return set(m, commands)
}

// set is what hidutil has set when it has run with each of the command lines.
func set(m *mechanism.Machine, commands [][]string) ([]mechanism.Binding, error) {
	every := map[keys.Key]behaviour.Effect{}
	boards := map[string]map[keys.Key]behaviour.Effect{}
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
		effects, err := keyMapping(set)
		if err != nil {
			return nil, err
		}
		if match == "" {
			// A list for all services replaces those of single boards, too.
			every, boards = effects, map[string]map[keys.Key]behaviour.Effect{}
			continue
		}
		board, err := matched(m, match)
		if err != nil {
			return nil, err
		}
		for _, b := range m.Boards { // a list for every external board replaces theirs, too
			if b.External() && b.Name != board &&
				slices.Contains(boardNamed(m, board).IDs, machine.BoardID{Bus: machine.AnyExternal}) {
				delete(boards, b.Name)
			}
		}
		boards[board] = effects
	}
	return merge(every, boards), nil
}

// merge turns whole lists into bindings: for a board only what differs there.
func merge(every map[keys.Key]behaviour.Effect, boards map[string]map[keys.Key]behaviour.Effect) []mechanism.Binding {
	var list []mechanism.Binding
	add := func(board string, k keys.Key, e behaviour.Effect) {
		list = append(list, mechanism.Binding{Board: board, Chord: keys.Chord{Key: k}, Effect: e})
	}
	for k, e := range every {
		add("", k, e)
	}
	for name, effects := range boards {
		for k, e := range effects {
			if all, ok := every[k]; !ok || !e.Equal(all) {
				add(name, k, e)
			}
		}
		for k := range every {
			if _, ok := effects[k]; !ok {
				add(name, k, behaviour.Effect{Kind: behaviour.Becomes, Key: k})
			}
		}
	}
	behaviour.Sort(list)
	return list
}

func keyMapping(set string) (map[keys.Key]behaviour.Effect, error) {
	var property struct {
		UserKeyMapping []struct {
			Src *uint64 `json:"HIDKeyboardModifierMappingSrc"`
			Dst *uint64 `json:"HIDKeyboardModifierMappingDst"`
		}
	}
	d := json.NewDecoder(strings.NewReader(set))
	d.DisallowUnknownFields()
	if err := d.Decode(&property); err != nil {
		return nil, fmt.Errorf("--set: %w", err)
	}
	effects := map[keys.Key]behaviour.Effect{}
	for _, p := range property.UserKeyMapping {
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
			effects[src] = behaviour.Effect{Kind: behaviour.Nothing}
		case ok:
			effects[src] = behaviour.Effect{Kind: behaviour.Becomes, Key: dst}
		default:
			effects[src] = behaviour.Effect{
				Kind:  behaviour.Other,
				Words: fmt.Sprintf("acts as the unknown usage %d", *p.Dst),
			}
		}
	}
	return effects, nil
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
	case match.BuiltIn != nil && *match.BuiltIn:
		return machine.BoardID{Bus: machine.BuiltIn}, nil
	case match.BuiltIn != nil:
		return machine.BoardID{Bus: machine.AnyExternal}, nil
	}
	return machine.BoardID{}, fmt.Errorf("--matching: %s picks no single board", text)
}

// matched finds the board of the machine that a matching dictionary picks.
func matched(m *mechanism.Machine, text string) (string, error) {
	id, err := identity(text)
	if err != nil {
		return "", err
	}
	for _, b := range m.Boards {
		if slices.ContainsFunc(b.IDs, func(o machine.BoardID) bool {
			if id.Bus == "" {
				return o.Vendor == id.Vendor && o.Product == id.Product
			}
			return o.Bus == id.Bus
		}) {
			return b.Name, nil
		}
	}
	return "", fmt.Errorf("--matching: %s is no board of machine %q", text, m.Name)
}

func boardNamed(m *mechanism.Machine, name string) *machine.Board {
	i := slices.IndexFunc(m.Boards, func(b *machine.Board) bool { return b.Name == name })
	return m.Boards[i]
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
