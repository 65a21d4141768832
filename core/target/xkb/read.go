package xkb

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"text/scanner"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/target"
	"leitstand/core/target/xkb/keymap"
)

// Read reads what Write wrote. A machine with both kinds of session has the
// mapping twice; where the two differ, the press says so.
func (Target) Read(m *target.Machine, fsys fs.FS) ([]target.Binding, error) {
	var readings [][]target.Binding
	for _, file := range []string{"xkb/symbols/leitstand", "xkb/keymap.xkb"} {
		text, err := fs.ReadFile(fsys, file)
		if err != nil {
			continue
		}
		k, err := parse(file, string(text), len(m.Layouts))
		if err != nil {
			return nil, err
		}
		readings = append(readings, k.bindings(m))
	}
	if len(readings) == 2 {
		for _, c := range behaviour.Compare(readings[0], readings[1]) {
			words := "differs between the Wayland option and the X11 keymap"
			readings[0] = slices.DeleteFunc(readings[0], func(b target.Binding) bool { return b.Place() == c.Place })
			readings[0] = append(readings[0], target.Binding{Chord: c.Place.Chord, Effect: behaviour.Effect{Kind: behaviour.Other, Words: words}})
		}
	}
	if len(readings) == 0 {
		return nil, nil
	}
	behaviour.Sort(readings[0])
	return readings[0], nil
}

// Keymap is what the machine's keyboard does with the files: its layouts with the
// mapping on top. It is the Wayland option's if there is one, else the X11
// keymap's, and the bare layouts' where there is neither.
func (Target) Keymap(m *target.Machine, fsys fs.FS) (*keymap.Keymap, error) {
	for _, file := range []string{"xkb/symbols/leitstand", "xkb/keymap.xkb"} {
		text, err := fs.ReadFile(fsys, file)
		if err != nil {
			continue
		}
		l, err := parse(file, string(text), len(m.Layouts))
		if err != nil {
			return nil, err
		}
		return l.keymap(m), nil
	}
	return keymap.Build(m.Layouts, nil, nil), nil
}

func (l *layer) keymap(m *target.Machine) *keymap.Keymap {
	changes := map[string]keymap.Change{}
	for name, k := range l.keys {
		var c keymap.Change
		for g := range m.Layouts {
			c.Groups = append(c.Groups, keymap.GroupOf(k.types[g], strings.Split(k.symbols[g], ",")))
			if list, ok := strings.CutPrefix(k.actions[g], "SetMods(modifiers="); ok {
				c.Actions = strings.Split(strings.TrimSuffix(list, ")"), "+")
			}
		}
		changes[name] = c
	}
	return keymap.Build(m.Layouts, changes, l.mods)
}

// layer is the symbols that a file adds to the machine's layouts.
type layer struct {
	order []string
	keys  map[string]*keyText
	mods  map[string][]string // real modifiers by key name
}

type keyText struct{ types, symbols, actions []string }

// grow makes room for n groups.
func (k *keyText) grow(n int) {
	for len(k.types) < n {
		k.types = append(k.types, "")
		k.symbols = append(k.symbols, "")
		k.actions = append(k.actions, "")
	}
}

// parse reads the key and modifier_map statements of a symbols file or a keymap.
func parse(file, text string, groups int) (*layer, error) {
	l := &layer{keys: map[string]*keyText{}, mods: map[string][]string{}}
	p := &parser{file: file}
	p.s.Init(strings.NewReader(text))
	p.s.Mode = scanner.ScanIdents | scanner.ScanStrings | scanner.ScanInts | scanner.ScanComments | scanner.SkipComments
	p.s.Error = func(_ *scanner.Scanner, msg string) { p.fail(msg) }
	p.next()
	var open []string // the blocks that are not closed yet
	for p.tok != scanner.EOF && p.err == nil {
		word := p.word()
		inside := len(open) > 0 && open[len(open)-1] == "xkb_symbols"
		if (word == "key" || word == "modifier_map" || word == "include") && !inside {
			p.fail(fmt.Sprintf("%q stands outside of xkb_symbols", word))
		}
		switch word {
		case "xkb_symbols":
			if p.tok == scanner.String {
				if name := p.word(); name != `"mapping"` {
					p.fail(fmt.Sprintf("the section is called %s, and the rules name mapping", name))
				}
			} else if len(open) == 0 {
				p.fail("the section has no name")
			}
			open = append(open, word)
			p.expect("{")
		case "key":
			p.key(l)
		case "modifier_map":
			p.modifierMap(l)
		case "include":
			p.next()
		case "xkb_keymap":
			open = append(open, word)
			p.expect("{")
		case "xkb_keycodes", "xkb_types", "xkb_compat", "xkb_geometry":
			p.expect("{")
			for p.tok != '}' && p.tok != scanner.EOF {
				p.next()
			}
			p.expect("}")
			p.expect(";")
		case "default", "partial", "replace", "modifier_keys", "alphanumeric_keys":
		case "}":
			if len(open) == 0 {
				p.fail("a brace is closed that was not opened")
				break
			}
			open = open[:len(open)-1]
			p.expect(";")
		default:
			p.fail(fmt.Sprintf("%q is no statement of a layout", word))
		}
	}
	if len(open) > 0 {
		p.fail(open[len(open)-1] + " is not closed")
	}
	for _, k := range l.keys {
		k.grow(groups)
	}
	return l, p.err
}

type parser struct {
	s    scanner.Scanner
	tok  rune
	file string
	err  error
}

func (p *parser) next()        { p.tok = p.s.Scan() }
func (p *parser) text() string { return p.s.TokenText() }

func (p *parser) fail(msg string) {
	if p.err == nil {
		p.err = fmt.Errorf("%s:%d:%d: %s", p.file, p.s.Position.Line, p.s.Position.Column, msg)
	}
}

func (p *parser) word() string { t := p.text(); p.next(); return t }

func (p *parser) expect(t string) {
	if p.text() != t {
		p.fail(fmt.Sprintf("%q where %q should be", p.text(), t))
	}
	p.next()
}

// name reads <NAME>.
func (p *parser) name() string {
	p.expect("<")
	var b strings.Builder
	for p.tok != '>' && p.tok != scanner.EOF && p.err == nil {
		b.WriteString(p.word())
	}
	p.expect(">")
	if _, ok := keys.ByXKB(b.String()); !ok && b.String() != "HYPR" {
		p.fail(fmt.Sprintf("there is no key <%s>", b.String()))
	}
	return b.String()
}

// until collects the text up to a closing token at this depth.
func (p *parser) until(end rune) string {
	var parts []string
	depth := 0
	for p.tok != scanner.EOF && p.err == nil && (depth > 0 || p.tok != end) {
		switch p.tok {
		case '(', '[', '{':
			depth++
		case ')', ']', '}':
			depth--
		}
		parts = append(parts, p.word())
	}
	p.next()
	return strings.Join(parts, "")
}

func (p *parser) key(l *layer) {
	name := p.name()
	p.expect("{")
	k := l.keys[name]
	if k == nil {
		k = &keyText{}
		l.keys[name] = k
		l.order = append(l.order, name)
	}
	for p.tok != '}' && p.tok != scanner.EOF && p.err == nil {
		what := p.word()
		p.expect("[")
		var g int
		if _, err := fmt.Sscanf(p.word(), "Group%d", &g); err != nil || g < 1 || g > 4 {
			p.fail("a group between Group1 and Group4 should stand here")
			return
		}
		p.expect("]")
		p.expect("=")
		k.grow(g)
		switch what {
		case "type":
			k.types[g-1] = strings.Trim(p.word(), `"`)
		case "symbols":
			p.expect("[")
			k.symbols[g-1] = p.until(']')
		case "actions":
			p.expect("[")
			k.actions[g-1] = p.until(']')
		default:
			p.fail(fmt.Sprintf("%q is no part of a key", what))
		}
		if p.tok == ',' {
			p.next()
		}
	}
	p.expect("}")
	p.expect(";")
}

func (p *parser) modifierMap(l *layer) {
	mod := p.word()
	p.expect("{")
	for p.tok != '}' && p.tok != scanner.EOF && p.err == nil {
		name := p.name()
		if !slices.Contains(l.mods[name], mod) {
			l.mods[name] = append(l.mods[name], mod)
		}
		if p.tok == ',' {
			p.next()
		}
	}
	p.expect("}")
	p.expect(";")
}

// bindings says what the keys of the layer do, against the machine's layouts.
func (l *layer) bindings(m *target.Machine) []target.Binding {
	var list []target.Binding
	for _, name := range l.order {
		if name == "HYPR" {
			continue // no board has it; it only has to leave Mod4
		}
		k, ok := keys.ByXKB(name)
		if !ok {
			continue
		}
		list = append(list, target.Binding{Chord: keys.Chord{Key: k}, Effect: l.effect(m, name)})
	}
	behaviour.Sort(list)
	return list
}

func (l *layer) effect(m *target.Machine, name string) behaviour.Effect {
	k, mods := l.keys[name], l.mods[name]
	other := func(words string) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Other, Words: words} }
	groups := make([]keys.Symbols, len(m.Layouts))
	for g := range groups {
		groups[g] = keys.Symbols{Type: k.types[g], Level: strings.Split(k.symbols[g], ",")}
	}
	first := groups[0].Level[0]
	// A modifier's keysym is worth nothing on a key outside its modifier map,
	// and a key in a map is that modifier whatever it types.
	for _, mod := range mods {
		if keys.RealModifier(first) != mod {
			return other(fmt.Sprintf("types %s and is the modifier %s", first, mod))
		}
	}
	if want := keys.RealModifier(first); want != "" && !slices.Contains(mods, want) {
		return other(fmt.Sprintf("types %s without being the modifier %s", first, want))
	}
	plain := groups[0].Equal(keys.Symbols{Type: "ONE_LEVEL", Level: []string{first}})
	same := func(list []string) bool {
		return !slices.ContainsFunc(list[:len(groups)], func(s string) bool { return s != list[0] })
	}
	if plain && same(k.symbols) && same(k.types) && same(k.actions) {
		switch {
		case first == "VoidSymbol" && k.actions[0] == "":
			return behaviour.Effect{Kind: behaviour.Nothing}
		case first == "VoidSymbol":
			if mods, ok := heldMods(k.actions[0]); ok {
				return behaviour.Effect{Kind: behaviour.Modifier, Mods: mods}
			}
		case first == "Hyper_L" && k.actions[0] == "":
			if h := l.keys["HYPR"]; h == nil || h.symbols[0] != "Hyper_L" || !same(h.symbols) || !slices.Equal(l.mods["HYPR"], []string{"Mod3"}) {
				return other("types Hyper_L, which is also on Mod4 beside Super")
			}
			return behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Hyper}
		}
	}
	for _, candidate := range keys.All() {
		match := true
		for g := range m.Layouts {
			s, ok := m.Symbols(g, candidate)
			match = match && ok && s.Equal(groups[g]) && k.actions[g] == ""
		}
		if match {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: candidate}
		}
	}
	return other("types " + strings.Join(groups[0].Level, " "))
}

// heldMods reads the modifiers that an action SetMods(modifiers=…) holds.
func heldMods(action string) (keys.Mods, bool) {
	list, ok := strings.CutPrefix(action, "SetMods(modifiers=")
	if !ok || !strings.HasSuffix(list, ")") {
		return 0, false
	}
	names := map[string]keys.Mods{"Shift": keys.Shift, "Control": keys.Ctrl, "Alt": keys.Alt, "Super": keys.Meta, "LevelThree": keys.AltGr}
	var mods keys.Mods
	for name := range strings.SplitSeq(strings.TrimSuffix(list, ")"), "+") {
		m, ok := names[name]
		if !ok {
			return 0, false
		}
		mods |= m
	}
	return mods, true
}
