package keymap

import (
	_ "embed"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"leitstand/core/keys"
	"leitstand/core/target/xkb/lexer"
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

// Warm parses the embedded data, as keys.Warm does.
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
	k.resolve()
	return k, nil
}

// Types are key types, by name.
type Types map[string]*keyType

// ParseTypes reads the inside of a section of key types, up to the brace that closes
// it, which is left as the last word read. What it includes is not looked up.
func ParseTypes(file string, words *lexer.Lexer) (Types, error) {
	p := newParser(file, words)
	for p.going('}') {
		if p.maybe("include") {
			p.next()
			continue
		}
		if p.text() != "type" {
			p.fail(fmt.Sprintf("%q is no key type", p.text()))
		}
		p.keyType()
	}
	return p.k.types, p.err
}

// Leads lists the sets of modifiers, by their names, with which a type gives a level,
// from 0.
func (t Types) Leads(name string, level int) [][]string {
	var list [][]string
	if t[name] == nil {
		return nil
	}
	for _, e := range t[name].entries {
		if e.level == level {
			list = append(list, append(e.mods.real.Names(), e.mods.virtual...))
		}
	}
	return list
}

func newParser(file string, words *lexer.Lexer) *parser {
	p := &parser{s: words, k: &Keymap{Keys: map[string]*Key{}, types: map[string]*keyType{}}, file: file, modMaps: map[string]Mask{}}
	p.s.Error = p.fail
	p.next()
	return p
}

func parse(file, text string) (*Keymap, error) {
	p := newParser(file, lexer.New(text))
	p.take("xkb_keymap")
	if p.tok == lexer.String {
		p.next()
	}
	p.take("{")
	for p.going('}') {
		section := p.word()
		if p.tok == lexer.String {
			p.next()
		}
		p.take("{")
		for p.going('}') {
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
		p.take("}")
		p.take(";")
	}
	for name, mask := range p.modMaps {
		if key := p.k.Keys[name]; key != nil {
			key.modMap |= mask
		}
	}
	return p.k, p.err
}

type parser struct {
	s       *lexer.Lexer
	tok     rune
	k       *Keymap
	file    string
	err     error
	modMaps map[string]Mask
	// The defaults that "interpret.name = value" sets.
	levelOne, repeat bool
}

func (p *parser) next()        { p.tok = p.s.Next() }
func (p *parser) text() string { return p.s.Text() }

func (p *parser) fail(msg string) {
	if p.err == nil {
		line, column := p.s.Position()
		p.err = fmt.Errorf("%s:%d:%d: %s", p.file, line, column, msg)
	}
}

// going says whether there is more before a closing token.
func (p *parser) going(end rune) bool { return p.tok != end && p.tok != lexer.EOF && p.err == nil }

func (p *parser) word() string { t := p.text(); p.next(); return t }

func (p *parser) take(t string) {
	if p.text() != t {
		p.fail(fmt.Sprintf("%q where %q should be", p.text(), t))
	}
	p.next()
}

// maybe takes a token if it is there.
func (p *parser) maybe(t string) bool {
	if p.text() != t || p.tok == lexer.EOF {
		return false
	}
	p.next()
	return true
}

func (p *parser) quoted() string { return strings.Trim(p.word(), `"`) }

// name reads <NAME>.
func (p *parser) name() string {
	p.take("<")
	var b strings.Builder
	for p.going('>') {
		b.WriteString(p.word())
	}
	p.take(">")
	return b.String()
}

// skip passes over a statement.
func (p *parser) skip() {
	depth := 0
	for p.tok != lexer.EOF && p.err == nil {
		switch p.tok {
		case '{', '(', '[':
			depth++
		case '}', ')', ']':
			depth--
		case ';':
			if depth == 0 {
				p.next()
				return
			}
		}
		p.next()
	}
}

func (p *parser) keycode() {
	if p.tok != '<' {
		p.skip()
		return
	}
	name := p.name()
	p.take("=")
	code, err := strconv.Atoi(p.word())
	if err != nil {
		p.fail("a keycode should stand here")
	}
	if p.k.codes == nil {
		p.k.codes = map[int]string{}
	}
	p.k.codes[code] = name
	p.take(";")
}

// mods reads Shift+Lock+LevelThree up to what cannot belong to it.
func (p *parser) mods() mods {
	var m mods
	for p.err == nil {
		name := p.word()
		switch i := slices.Index(realNames, name); {
		case i >= 0:
			m.real |= 1 << i
		case strings.EqualFold(name, "none"):
		case strings.EqualFold(name, "all"):
			m.real = 0xFF
		case name == "modMapMods":
			m.modMap = true
		default:
			m.virtual = append(m.virtual, name)
		}
		if !p.maybe("+") {
			break
		}
	}
	return m
}

func (p *parser) keyType() {
	if p.text() != "type" {
		p.skip()
		return
	}
	p.next()
	t := &keyType{}
	name := p.quoted()
	p.take("{")
	for p.going('}') {
		switch what := p.word(); what {
		case "modifiers":
			p.take("=")
			t.mods = p.mods()
		case "map", "preserve":
			p.take("[")
			m := p.mods()
			p.take("]")
			p.take("=")
			if what == "map" {
				level, err := strconv.Atoi(strings.TrimPrefix(p.word(), "Level"))
				if err != nil || level < 1 {
					p.fail("a level should stand here")
				}
				t.entries = append(t.entries, typeEntry{mods: m, level: level - 1})
				break
			}
			keep := p.mods()
			for i := range t.entries {
				if same(t.entries[i].mods, m) {
					t.entries[i].preserve = keep
				}
			}
		default:
			p.skip()
			continue
		}
		p.take(";")
	}
	p.take("}")
	p.take(";")
	p.k.types[name] = t
}

func same(a, b mods) bool {
	if a.real != b.real || len(a.virtual) != len(b.virtual) {
		return false
	}
	for _, v := range a.virtual {
		if !slices.Contains(b.virtual, v) {
			return false
		}
	}
	return true
}

func (p *parser) interpretation() {
	if p.text() != "interpret" {
		p.skip()
		return
	}
	p.next()
	if p.maybe(".") { // a default for those that follow
		what := p.word()
		p.take("=")
		value := p.word()
		switch what {
		case "useModMapMods":
			p.levelOne = strings.EqualFold(value, "level1") || strings.EqualFold(value, "levelone")
		case "repeat":
			p.repeat = truth(value)
		}
		p.take(";")
		return
	}
	in := interpretation{sym: p.word(), match: "AnyOfOrNone", mask: 0xFF, levelOneOnly: p.levelOne, repeat: p.repeat}
	if p.maybe("+") {
		in.match = p.word()
		if p.maybe("(") {
			in.mask = p.mods().real
			p.take(")")
		}
	}
	p.take("{")
	for p.going('}') {
		what := p.word()
		negated := what == "!"
		if negated {
			what = p.word()
		}
		value := ""
		if p.maybe("=") {
			if what == "action" {
				in.action = p.action()
				p.take(";")
				continue
			}
			value = p.word()
		}
		switch what {
		case "virtualModifier":
			in.virtual = value
		case "useModMapMods":
			in.levelOneOnly = strings.EqualFold(value, "level1") || strings.EqualFold(value, "levelone")
		case "repeat":
			in.repeat = !negated && (value == "" || truth(value))
		}
		p.take(";")
	}
	p.take("}")
	p.take(";")
	p.k.interp = append(p.k.interp, in)
}

func truth(s string) bool {
	return strings.EqualFold(s, "true") || strings.EqualFold(s, "yes") || strings.EqualFold(s, "on")
}

// action reads Name(argument=value,…).
func (p *parser) action() action {
	a := action{kind: otherAction}
	switch p.word() {
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
	if !p.maybe("(") {
		return a
	}
	for p.going(')') {
		if p.maybe("!") || p.maybe("~") {
			p.next()
			p.maybe(",")
			continue
		}
		what := p.word()
		if !p.maybe("=") {
			a.clearLocks = a.clearLocks || strings.EqualFold(what, "clearLocks")
			p.maybe(",")
			continue
		}
		switch {
		case what == "modifiers" || what == "mods":
			a.mods = p.mods()
		case what == "group":
			sign := 1
			if p.maybe("+") {
				a.relative = true
			} else if p.maybe("-") {
				a.relative, sign = true, -1
			}
			n, err := strconv.Atoi(p.word())
			if err != nil {
				p.fail("a group should stand here")
			}
			a.group = sign * n
		case strings.EqualFold(what, "clearLocks"):
			a.clearLocks = truth(p.word())
		case strings.EqualFold(what, "clearMods"):
			a.clear = p.mods()
		case a.kind == redirectKey && (what == "key" || what == "keycode"):
			a.to = p.name()
		default:
			for p.going(')') && p.tok != ',' {
				p.next()
			}
		}
		p.maybe(",")
	}
	p.take(")")
	return a
}

func (p *parser) symbols() {
	switch p.text() {
	case "key":
		p.next()
		p.key()
	case "modifier_map":
		p.next()
		mod := p.mods()
		p.take("{")
		for p.going('}') {
			p.modMaps[p.name()] |= mod.real
			p.maybe(",")
		}
		p.take("}")
		p.take(";")
	default:
		p.skip()
	}
}

func (p *parser) key() {
	key := &Key{Name: p.name()}
	p.take("{")
	group := func(n int) *Group {
		if n < 1 || n > 4 {
			p.fail("a group between 1 and 4 should stand here")
			return &Group{}
		}
		for len(key.Groups) < n {
			key.Groups = append(key.Groups, Group{})
		}
		return &key.Groups[n-1]
	}
	anyType, plain, plainActions := "", 0, 0
	for p.going('}') {
		if p.tok == '[' { // symbols, or actions, of the next group
			p.next()
			plain++
			p.levels(group(plain), false)
			p.maybe(",")
			continue
		}
		what := p.word()
		n := 0
		if p.maybe("[") {
			n, _ = strconv.Atoi(strings.TrimPrefix(strings.TrimPrefix(p.word(), "Group"), "group"))
			p.take("]")
		}
		p.take("=")
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
			p.take("[")
			if what == "actions" {
				key.explicit = true
			}
			p.levels(group(n), what == "actions")
		case "virtualMods", "virtualmods", "vmods":
			key.vmodMap = append(key.vmodMap, p.mods().virtual...)
		case "repeat":
			key.Repeats, key.repeatSet = truth(p.word()), true
		default:
			p.word()
		}
		p.maybe(",")
	}
	p.take("}")
	p.take(";")
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
	for l := 0; p.going(']'); l++ {
		for len(g.Levels) <= l {
			g.Levels = append(g.Levels, Level{})
		}
		switch {
		case actions || p.tok == lexer.Ident && strings.HasSuffix(p.text(), "Mods") || p.tok == lexer.Ident && strings.HasSuffix(p.text(), "Action"):
			made := p.action()
			g.Levels[l].action = &made
		case p.maybe("{"):
			for p.going('}') {
				g.Levels[l].Syms = append(g.Levels[l].Syms, p.keysym())
				p.maybe(",")
			}
			p.take("}")
		default:
			if s := p.keysym(); s != "NoSymbol" {
				g.Levels[l].Syms = []string{s}
			}
		}
		p.maybe(",")
	}
	p.take("]")
}

func (p *parser) keysym() string { return keys.KeysymName(p.word()) }
