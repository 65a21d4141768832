package imports

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// chord spells a chord as people do: a letter or digit stands for the key that types it.
// What stands for Hyper on the machine is called so.
func (s *speaker) chord(c keys.Chord) string {
	if s.four && c.Mods.Has(intent.Four) {
		c.Mods = c.Mods&^intent.Four | keys.Hyper
	}
	name := c.Key.String()
	if char, ok := s.letter(c.Key); ok {
		name = char
	}
	if c.Key == keys.None {
		return strings.Join(c.Mods.Names(), "+")
	}
	return strings.Join(append(c.Mods.Names(), name), "+")
}

func (s *speaker) letter(k keys.Key) (string, bool) {
	if digit, ok := strings.CutPrefix(k.String(), "Digit"); ok {
		return digit, true
	}
	l := s.m.Latin()
	sym, ok := l.Symbols(k)
	if !ok || len(sym.Level[0]) != 1 || sym.Level[0] < "a" || sym.Level[0] > "z" {
		return "", false
	}
	p, found := l.Find(rune(sym.Level[0][0]))
	return sym.Level[0], found && p.Key == k && p.Mods == 0
}

// apps are the programs that the system names by something else than a command.
type apps struct{ list []app }

type app struct {
	name   string
	system machine.System
	id     string
}

// blocks are the definitions of the apps.
func (a *apps) blocks() []mapping.Item {
	var list []mapping.Item
	for _, o := range a.list {
		id := mapping.Attr{Name: string(o.system), Value: mapping.Str(o.id)}
		list = append(
			list,
			mapping.Blank{},
			mapping.Block{Type: "app", Labels: []string{o.name}, Items: []mapping.Item{id}},
		)
	}
	return list
}

// name is the name of an app's block.
func (a *apps) name(system machine.System, id string) string {
	for _, known := range a.list {
		if known.system == system && known.id == id {
			return known.name
		}
	}
	base := strings.TrimSuffix(id, ".desktop")
	base = base[strings.LastIndexByte(base, '.')+1:]
	base = strings.Trim(strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, strings.ToLower(base)), "-")
	if base == "" || len(base) > 40 {
		base = "program"
	}
	name := base
	for n := 2; slices.ContainsFunc(a.list, func(o app) bool { return o.name == name }); n++ {
		name = fmt.Sprintf("%s-%d", base, n)
	}
	a.list = append(a.list, app{name, system, id})
	return name
}
