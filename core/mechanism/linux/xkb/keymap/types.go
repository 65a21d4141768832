package keymap

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/mechanism/linux/xkb/lexer"
)

// Types are key types, by name.
type Types map[string]*keyType

// ParseTypes reads the inside of a section of key types, up to the brace that closes
// it, on which the cursor is left. What it includes is not looked up.
func ParseTypes(c *lexer.Cursor) Types {
	p := newParser(c)
	for p.Going('}') {
		if p.Maybe("include") {
			p.Step()
			continue
		}
		if p.Text() != "type" {
			p.Fail(fmt.Sprintf("%q is no key type", p.Text()))
		}
		p.keyType()
	}
	return p.k.types
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

func (p *parser) keyType() {
	if p.Text() != "type" {
		p.skip()
		return
	}
	p.Step()
	t := &keyType{}
	name := p.quoted()
	p.Expect("{")
	for p.Going('}') {
		switch what := p.Word(); what {
		case "modifiers":
			p.Expect("=")
			t.mods = p.mods()
		case "map", "preserve":
			p.Expect("[")
			m := p.mods()
			p.Expect("]")
			p.Expect("=")
			if what == "map" {
				level, err := strconv.Atoi(strings.TrimPrefix(p.Word(), "Level"))
				if err != nil || level < 1 {
					p.Fail("a level should stand here")
				}
				t.entries = append(t.entries, typeEntry{mods: m, level: level - 1})
				break
			}
			keep := p.mods()
			for i := range slices.Backward(t.entries) { // it mostly follows what it is for
				if same(t.entries[i].mods, m) {
					t.entries[i].preserve = keep
					break
				}
			}
		default:
			p.skip()
			continue
		}
		p.Expect(";")
	}
	p.Expect("}")
	p.Expect(";")
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
