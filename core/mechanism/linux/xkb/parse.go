package xkb

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/mechanism/linux/xkb/lexer"
)

// layer is the symbols that a file adds to the machine's layouts.
type layer struct {
	order []string
	keys  map[string]*keyText
	mods  map[string][]string // real modifiers by key name
	types keymap.Types        // of the file's own
}

type keyText struct {
	types, symbols, actions []string
	repeats                 bool // the file says so
}

// grow makes room for n groups.
func (k *keyText) grow(n int) {
	for len(k.types) < n {
		k.types = append(k.types, "")
		k.symbols = append(k.symbols, "")
		k.actions = append(k.actions, "")
	}
}

// parse reads the key and modifier_map statements of a symbols file or a keymap, by the
// names of its sections; that of a keymap has none.
func parse(file, text string, groups int) (map[string]*layer, error) {
	sections := map[string]*layer{}
	l := newLayer()
	p := &parser{lexer.Open(file, text)}
	var open []string // the blocks that are not closed yet
	for p.Tok != lexer.EOF && p.Err == nil {
		word := p.Word()
		inside := len(open) > 0 && open[len(open)-1] == "xkb_symbols"
		if (word == "key" || word == "modifier_map" || word == "include") && !inside {
			p.Fail(fmt.Sprintf("%q stands outside of xkb_symbols", word))
		}
		switch word {
		case "xkb_symbols":
			name := ""
			if p.Tok == lexer.String {
				name, l = strings.Trim(p.Word(), `"`), newLayer()
			} else if len(open) == 0 {
				p.Fail("the section has no name")
			}
			if sections[name] != nil {
				p.Fail(fmt.Sprintf("the section %q stands twice", name))
			}
			sections[name] = l
			open = append(open, word)
			p.Expect("{")
		case "key":
			p.key(l)
		case "modifier_map":
			p.modifierMap(l)
		case "include":
			p.Step()
		case "xkb_keymap":
			open = append(open, word)
			p.Expect("{")
		case "xkb_types":
			p.types(l)
		case "xkb_keycodes", "xkb_compat", "xkb_geometry":
			p.Expect("{")
			for p.Tok != '}' && p.Tok != lexer.EOF {
				p.Step()
			}
			p.Expect("}")
			p.Expect(";")
		case "default", "partial", "replace", "modifier_keys", "alphanumeric_keys":
		case "}":
			if len(open) == 0 {
				p.Fail("a brace is closed that was not opened")
				break
			}
			open = open[:len(open)-1]
			p.Expect(";")
		default:
			p.Fail(fmt.Sprintf("%q is no statement of a layout", word))
		}
	}
	if len(open) > 0 {
		p.Fail(open[len(open)-1] + " is not closed")
	}
	for _, l := range sections {
		for _, k := range l.keys {
			k.grow(groups)
		}
	}
	return sections, p.Err
}

func newLayer() *layer { return &layer{keys: map[string]*keyText{}, mods: map[string][]string{}} }

type parser struct{ *lexer.Cursor }

// name reads the name of a key that there is.
func (p *parser) name() string {
	name := p.Name()
	if _, ok := keys.ByXKB(name); !ok && name != "HYPR" {
		p.Fail(fmt.Sprintf("there is no key <%s>", name))
	}
	return name
}

// until collects the text up to a closing token at this depth.
func (p *parser) until(end rune) string {
	var parts []string
	depth := 0
	for p.Tok != lexer.EOF && p.Err == nil && (depth > 0 || p.Tok != end) {
		switch p.Tok {
		case '(', '[', '{':
			depth++
		case ')', ']', '}':
			depth--
		}
		parts = append(parts, p.Word())
	}
	p.Step()
	return strings.Join(parts, "")
}

func (p *parser) key(l *layer) {
	name := p.name()
	p.Expect("{")
	k := l.keys[name]
	if k == nil {
		k = &keyText{}
		l.keys[name] = k
		l.order = append(l.order, name)
	}
	for p.Tok != '}' && p.Tok != lexer.EOF && p.Err == nil {
		what := p.Word()
		if what == "repeat" {
			p.Expect("=")
			p.Expect("Yes")
			k.repeats = true
			continue
		}
		p.Expect("[")
		number, named := strings.CutPrefix(p.Word(), "Group")
		g, err := strconv.Atoi(number)
		if !named || err != nil || g < 1 || g > 4 {
			p.Fail("a group between Group1 and Group4 should stand here")
			return
		}
		p.Expect("]")
		p.Expect("=")
		k.grow(g)
		switch what {
		case "type":
			k.types[g-1] = strings.Trim(p.Word(), `"`)
		case "symbols":
			p.Expect("[")
			k.symbols[g-1] = p.until(']')
		case "actions":
			p.Expect("[")
			k.actions[g-1] = p.until(']')
		default:
			p.Fail(fmt.Sprintf("%q is no part of a key", what))
		}
		if p.Tok == ',' {
			p.Step()
		}
	}
	p.Expect("}")
	p.Expect(";")
}

func (p *parser) modifierMap(l *layer) {
	mod := p.Word()
	p.Expect("{")
	for p.Tok != '}' && p.Tok != lexer.EOF && p.Err == nil {
		name := p.name()
		if !slices.Contains(l.mods[name], mod) {
			l.mods[name] = append(l.mods[name], mod)
		}
		if p.Tok == ',' {
			p.Step()
		}
	}
	p.Expect("}")
	p.Expect(";")
}
