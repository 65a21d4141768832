package keys

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
)

//go:embed data/options.txt
var optionData string

// Option is an option of XKB's rules, such as compose:rctrl: what it makes of keys.
//
// Source: xkeyboard-config's rules and symbols.
type Option struct {
	Name    string
	Include string // what the rules have a keymap include for it: +compose(rctrl)
	place   int    // in the order in which the rules apply options
	lines   string
}

// FindOption finds an option by its name.
func FindOption(name string) (*Option, bool) {
	i := slices.IndexFunc(options(), func(o *Option) bool { return o.Name == name })
	if i < 0 {
		return nil, false
	}
	return options()[i], true
}

// OptionNames lists the options we carry, in the order of the rules.
func OptionNames() []string {
	var names []string
	for _, o := range options() {
		names = append(names, o.Name)
	}
	return names
}

var options = sync.OnceValue(func() []*Option {
	var list []*Option
	for i, text := range strings.Split(optionData, "\noption ")[1:] {
		head, lines, _ := strings.Cut(text, "\n")
		name, include, _ := strings.Cut(head, " ")
		list = append(list, &Option{name, include, i, lines})
	}
	return list
})

// OptionBases are the layouts by which the work of options is known.
var OptionBases = []string{"us", "de", "fr", "gb", "se", "es"}

// Fits says whether what the option does in a keymap of layouts is known: whether each key
// that it changes is, under the first, what it is under one of OptionBases, and is given
// something by a further one only where one of those gives something, too. (The keys of
// the numeric pad have types that do not show; there, the first must be one of those. So
// have those of a layout with a fifth level.)
func (o *Option) Fits(layouts []*Layout) bool {
	first := layouts[0]
	if first.FifthLevel() {
		return false
	}
	known := func(is func(base *Layout) bool) bool {
		return slices.ContainsFunc(OptionBases, func(name string) bool { base, _ := FindLayout(name); return is(base) })
	}
	return !slices.ContainsFunc(o.Changes(), func(name string) bool {
		k, ok := ByXKB(name)
		switch {
		case !ok:
			return false
		case k.Section() == Numpad:
			return !slices.Contains(OptionBases, first.Name)
		case slices.ContainsFunc(layouts[1:], func(l *Layout) bool { return l.Defines(k) }) &&
			!known(func(base *Layout) bool { return base.Defines(k) }):
			return true
		}
		return !known(func(base *Layout) bool { return first.keys[k].Equal(base.keys[k].Symbols) })
	})
}

// Changes says which keys, by XKB name, the option gives something else than a layout
// does.
func (o *Option) Changes() []string {
	var names []string
	for line := range strings.Lines(o.lines) {
		if name, _, ok := strings.Cut(line, " "); ok && !slices.Contains(details, name) {
			names = append(names, name)
		}
	}
	return names
}

// Clash names a key, by XKB name, of which two options make different things, "" if
// there is none. What comes of it is a mixture that we do not tell.
func (o *Option) Clash(with *Option) string {
	if o == with {
		return ""
	}
	for _, w := range wholesale {
		mine, other := strings.HasPrefix(o.Name, w.family), strings.HasPrefix(with.Name, w.family)
		a, b := slices.IndexFunc(o.Changes(), w.of), slices.IndexFunc(with.Changes(), w.of)
		switch {
		case (mine || other) && a >= 0 && b >= 0:
			return with.Changes()[b]
		case mine && other:
			return with.Changes()[0]
		}
	}
	for _, name := range o.Changes() {
		if other := with.line(name); other != "" && other != o.line(name) {
			return name
		}
	}
	return ""
}

// wholesale are families of options that say what all keys of a kind are, whether they
// change them or not.
var wholesale = []struct {
	family string
	of     func(name string) bool
}{
	{"altwin:", func(name string) bool { k, ok := ByXKB(name); return ok && k.IsModifier() }},
	{"keypad:", func(name string) bool { k, ok := ByXKB(name); return ok && k.Section() == Numpad }},
}

// Touches says whether the option says anything of a key, by XKB name.
func (o *Option) Touches(name string) bool {
	return slices.Contains(strings.Fields(o.lines), name)
}

// line is what the option makes of the keysyms of a key.
func (o *Option) line(name string) string {
	for line := range strings.Lines(o.lines) {
		if strings.HasPrefix(line, name+" ") {
			return line
		}
	}
	return ""
}

var details = []string{"joins", "virtual", "actions", "next"}

// Extra is what options make of keys beside keysyms, and of keys that no board has, by
// XKB name.
type Extra struct {
	Options []*Option           // in the order of the rules
	Joins   map[string][]string // the real modifiers whose maps a key is put into by name
	Virtual map[string][]string // the virtual modifiers that a key is
	Actions map[string][]string // what a key does by level, in place of what its keysyms do
	Keys    map[string]Symbols  // keys that the table does not have
}

// With is the layout, the first of a keymap, with options.
func (l *Layout) With(list []*Option) *Layout {
	if len(list) == 0 {
		return l
	}
	list = slices.Clone(list)
	slices.SortFunc(list, func(a, b *Option) int { return a.place - b.place })
	c := &Layout{Name: l.Name, ID: l.ID, keys: l.keys, behind: l.behind}
	c.Extra = Extra{
		Options: list,
		Joins:   map[string][]string{},
		Virtual: map[string][]string{},
		Actions: map[string][]string{},
		Keys:    map[string]Symbols{},
	}
	for _, o := range list {
		c.ID += "+" + o.Name
		for line := range strings.Lines(o.lines) {
			f := strings.Fields(line)
			switch {
			case len(f) < 2 || f[0] == "next":
			case f[0] == "joins":
				c.Extra.Joins[f[len(f)-1]] = f[1 : len(f)-1]
			case f[0] == "virtual":
				c.Extra.Virtual[f[1]] = f[2:]
			case f[0] == "actions":
				c.Extra.Actions[f[1]] = f[2:]
			default:
				if k, ok := ByXKB(f[0]); ok {
					c.keys[k].Symbols, c.keys[k].has, c.keys[k].typed = c.keys[k].Symbols.over(f[1], f[2:]), true, ""
				} else {
					c.Extra.Keys[f[0]] = c.Extra.Keys[f[0]].over(f[1], f[2:])
				}
				delete(c.Extra.Virtual, f[0])
				delete(c.Extra.Actions, f[0])
			}
		}
	}
	c.index()
	return c
}

// Behind is the layout, not the first of a keymap, with options.
func (l *Layout) Behind(list []*Option) *Layout {
	c := l
	for _, o := range list {
		for line := range strings.Lines(o.lines) {
			f := strings.Fields(line)
			if len(f) < 3 || f[0] != "next" {
				continue
			}
			k, ok := ByXKB(f[1])
			if !ok || !l.Defines(k) {
				continue // it is as under the first layout
			}
			if c == l {
				c = &Layout{Name: l.Name, keys: l.keys, behind: l.behind}
				c.index()
			}
			c.keys[k].Symbols, c.keys[k].typed = c.keys[k].Symbols.over(f[2], f[3:]), ""
		}
	}
	if c != l {
		c.ID = l.ID
		for _, o := range list {
			c.ID += "+" + o.Name
		}
	}
	return c
}

// over lays a type and keysyms over what a key has.
func (s Symbols) over(typ string, levels []string) Symbols {
	made := Symbols{Type: typ}
	if typ == "=" {
		if made.Type = s.Type; s.Type == "ONE_LEVEL" {
			levels = levels[:min(1, len(levels))]
		}
	}
	for i, sym := range levels {
		if sym == "-" {
			if sym = "NoSymbol"; i < len(s.Level) {
				sym = s.Level[i]
			}
		}
		made.Level = append(made.Level, sym)
	}
	if typ == "-" {
		made.Type = AutomaticType(made.Level)
	}
	return made
}
