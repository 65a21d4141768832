package keymap

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"sync"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/lexer"
)

//go:generate go run ./gen data

//go:embed data/stock.xkb
var stockText string

// stock is the types and interpretations that every keymap has.
var stock = sync.OnceValue(func() *Keymap {
	k, err := parse("stock.xkb", stockText)
	if err != nil {
		panic(err) // embedded, and held against its source by a test
	}
	k.index()
	return k
})

// Warm parses the embedded data, which otherwise waits until it is asked for.
func Warm() { stock() }

// Parse reads a whole keymap, as xkbcli compile-keymap or xkbcomp writes it.
func Parse(file, text string) (*Keymap, error) {
	k, err := parse(file, text)
	if err != nil {
		return nil, err
	}
	if len(k.Keys) == 0 || len(k.types) == 0 {
		return nil, fmt.Errorf("%s: no whole keymap", file)
	}
	k.resolve(nil)
	return k, nil
}

func newParser(c *lexer.Cursor) *parser {
	return &parser{
		Cursor:  c,
		k:       &Keymap{Keys: map[string]*Key{}, types: map[string]*keyType{}},
		modMaps: map[string]Mask{},
	}
}

func parse(file, text string) (*Keymap, error) {
	p := newParser(lexer.Open(file, text))
	p.Expect("xkb_keymap")
	if p.Tok == lexer.String {
		p.Step()
	}
	p.Expect("{")
	for p.Going('}') {
		section := p.Word()
		if p.Tok == lexer.String {
			p.Step()
		}
		p.Expect("{")
		for p.Going('}') {
			switch section {
			case "xkb_keycodes":
				p.keycode()
			case "xkb_types":
				p.keyType()
			case "xkb_compatibility", "xkb_compat":
				p.interpretation()
			case "xkb_symbols":
				p.symbols()
			default:
				p.skip()
			}
		}
		p.Expect("}")
		p.Expect(";")
	}
	for name, mask := range p.modMaps {
		if key := p.k.Keys[name]; key != nil {
			key.modMap |= mask
		}
	}
	return p.k, p.Err
}

type parser struct {
	*lexer.Cursor
	k       *Keymap
	modMaps map[string]Mask
	// The defaults that "interpret.name = value" sets.
	levelOne, repeat bool
}

func (p *parser) quoted() string { return strings.Trim(p.Word(), `"`) }

// skip passes over a statement.
func (p *parser) skip() {
	depth := 0
	for p.Tok != lexer.EOF && p.Err == nil {
		switch p.Tok {
		case '{', '(', '[':
			depth++
		case '}', ')', ']':
			depth--
		case ';':
			if depth == 0 {
				p.Step()
				return
			}
		}
		p.Step()
	}
}

func (p *parser) keycode() {
	if p.Tok != '<' {
		p.skip()
		return
	}
	name := p.Name()
	p.Expect("=")
	code, err := strconv.Atoi(p.Word())
	if err != nil {
		p.Fail("a keycode should stand here")
	}
	if p.k.codes == nil {
		p.k.codes = map[int]string{}
	}
	p.k.codes[code] = name
	p.Expect(";")
}

// mods reads Shift+Lock+LevelThree up to what cannot belong to it.
func (p *parser) mods() mods {
	var m mods
	for p.Err == nil {
		name := p.Word()
		switch real := realMask(name); {
		case real != 0:
			m.real |= real
		case strings.EqualFold(name, "none"):
		case strings.EqualFold(name, "all"):
			m.real = 0xFF
		case name == "modMapMods":
			m.modMap = true
		default:
			m.virtual = append(m.virtual, name)
		}
		if !p.Maybe("+") {
			break
		}
	}
	return m
}

// realMask is the real modifier of a name, 0 for another.
func realMask(name string) Mask {
	if len(name) < 4 {
		return 0
	}
	for i, n := range realNames {
		if n[3] == name[3] && n == name { // Mod1 to Mod5 differ there
			return 1 << i
		}
	}
	return 0
}

func (p *parser) interpretation() {
	if p.Text() != "interpret" {
		p.skip()
		return
	}
	p.Step()
	if p.Maybe(".") { // a default for those that follow
		what := p.Word()
		p.Expect("=")
		value := p.Word()
		switch what {
		case "useModMapMods":
			p.levelOne = strings.EqualFold(value, "level1") || strings.EqualFold(value, "levelone")
		case "repeat":
			p.repeat = truth(value)
		}
		p.Expect(";")
		return
	}
	in := interpretation{sym: p.Word(), match: "AnyOfOrNone", mask: 0xFF, levelOneOnly: p.levelOne, repeat: p.repeat}
	if p.Maybe("+") {
		in.match = p.Word()
		if p.Maybe("(") {
			in.mask = p.mods().real
			p.Expect(")")
		}
	}
	p.Expect("{")
	for p.Going('}') {
		what := p.Word()
		negated := what == "!"
		if negated {
			what = p.Word()
		}
		value := ""
		if p.Maybe("=") {
			if what == "action" {
				in.action = p.action()
				p.Expect(";")
				continue
			}
			value = p.Word()
		}
		switch what {
		case "virtualModifier":
			in.virtual = value
		case "useModMapMods":
			in.levelOneOnly = strings.EqualFold(value, "level1") || strings.EqualFold(value, "levelone")
		case "repeat":
			in.repeat = !negated && (value == "" || truth(value))
		}
		p.Expect(";")
	}
	p.Expect("}")
	p.Expect(";")
	p.k.interp = append(p.k.interp, in)
}

func truth(s string) bool {
	return strings.EqualFold(s, "true") || strings.EqualFold(s, "yes") || strings.EqualFold(s, "on")
}

// action reads Name(argument=value,…).
func (p *parser) action() action {
	a := action{kind: otherAction}
	switch p.Word() {
	case "SetMods":
		a.kind = setMods
	case "LockMods":
		a.kind = lockMods
	case "LatchMods":
		a.kind = latchMods
	case "SetGroup":
		a.kind = setGroup
	case "LockGroup":
		a.kind = lockGroup
	case "LatchGroup":
		a.kind = latchGroup
	case "RedirectKey":
		a.kind = redirectKey
	case "NoAction":
		a.kind = noAction
	}
	if !p.Maybe("(") {
		return a
	}
	for p.Going(')') {
		if p.Maybe("!") || p.Maybe("~") {
			p.Step()
			p.Maybe(",")
			continue
		}
		what := p.Word()
		if !p.Maybe("=") {
			a.clearLocks = a.clearLocks || strings.EqualFold(what, "clearLocks")
			p.Maybe(",")
			continue
		}
		switch {
		case what == "modifiers" || what == "mods":
			a.mods = p.mods()
		case what == "group":
			sign := 1
			if p.Maybe("+") {
				a.relative = true
			} else if p.Maybe("-") {
				a.relative, sign = true, -1
			}
			n, err := strconv.Atoi(p.Word())
			if err != nil {
				p.Fail("a group should stand here")
			}
			a.group = sign * n
		case strings.EqualFold(what, "clearLocks"):
			a.clearLocks = truth(p.Word())
		case strings.EqualFold(what, "clearMods"):
			a.clear = p.mods()
		case a.kind == redirectKey && (what == "key" || what == "keycode"):
			a.to = p.Name()
		default:
			for p.Going(')') && p.Tok != ',' {
				p.Step()
			}
		}
		p.Maybe(",")
	}
	p.Expect(")")
	return a
}

func (p *parser) symbols() {
	switch p.Text() {
	case "key":
		p.Step()
		p.key()
	case "modifier_map":
		p.Step()
		mod := p.mods()
		p.Expect("{")
		for p.Going('}') {
			p.modMaps[p.Name()] |= mod.real
			p.Maybe(",")
		}
		p.Expect("}")
		p.Expect(";")
	default:
		p.skip()
	}
}

func (p *parser) key() {
	key := &Key{Name: p.Name()}
	p.Expect("{")
	group := func(n int) *Group {
		if n < 1 || n > 4 {
			p.Fail("a group between 1 and 4 should stand here")
			return &Group{}
		}
		for len(key.Groups) < n {
			key.Groups = append(key.Groups, Group{})
		}
		return &key.Groups[n-1]
	}
	anyType, plain, plainActions := "", 0, 0
	for p.Going('}') {
		if p.Tok == '[' { // symbols, or actions, of the next group
			p.Step()
			plain++
			p.levels(group(plain), false)
			p.Maybe(",")
			continue
		}
		what := p.Word()
		n := 0
		if p.Maybe("[") {
			n, _ = strconv.Atoi(strings.TrimPrefix(strings.TrimPrefix(p.Word(), "Group"), "group"))
			p.Expect("]")
		}
		p.Expect("=")
		switch what {
		case "type":
			if n == 0 {
				anyType = p.quoted()
			} else {
				group(n).Type = p.quoted()
			}
		case "symbols", "actions":
			if n == 0 {
				n = plainActions + 1
				plainActions++
			}
			p.Expect("[")
			if what == "actions" {
				key.explicit = true
			}
			p.levels(group(n), what == "actions")
		case "virtualMods", "virtualmods", "vmods":
			key.vmodMap = append(key.vmodMap, p.mods().virtual...)
		case "repeat":
			key.Repeats, key.repeatSet = truth(p.Word()), true
		default:
			p.Word()
		}
		p.Maybe(",")
	}
	p.Expect("}")
	p.Expect(";")
	for i := range key.Groups {
		g := &key.Groups[i]
		if g.Type == "" {
			g.Type = anyType
		}
		if g.Type == "" {
			g.Type = automatic(g.Levels)
		}
	}
	p.k.Keys[key.Name] = key
}

// levels reads the list of a group up to its closing bracket.
func (p *parser) levels(g *Group, actions bool) {
	for l := 0; p.Going(']'); l++ {
		for len(g.Levels) <= l {
			g.Levels = append(g.Levels, Level{})
		}
		switch {
		case actions || p.Tok == lexer.Ident && strings.HasSuffix(p.Text(), "Mods") ||
			p.Tok == lexer.Ident && strings.HasSuffix(p.Text(), "Action"):
			made := p.action()
			g.Levels[l].action = &made
		case p.Maybe("{"):
			for p.Going('}') {
				g.Levels[l].Syms = append(g.Levels[l].Syms, p.keysym())
				p.Maybe(",")
			}
			p.Expect("}")
		default:
			if s := p.keysym(); s != "NoSymbol" {
				g.Levels[l].Syms = []string{s}
			}
		}
		p.Maybe(",")
	}
	p.Expect("]")
}

func (p *parser) keysym() string { return keys.KeysymName(p.Word()) }
