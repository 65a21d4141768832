package keymap

import (
	"maps"
	"slices"
	"sync"

	"leitstand/core/keys"
	"leitstand/core/mechanism/linux/xkb/lexer"
)

// fake are keys that no board has: xkeyboard-config binds modifiers to them.
var fake = map[string][]string{
	"LVL3": {"ISO_Level3_Shift"}, "MDSW": {"Mode_switch"}, "ALT": {"NoSymbol", "Alt_L"}, "META": {"NoSymbol", "Meta_L"},
	"SUPR": {"NoSymbol", "Super_L"}, "HYPR": {"NoSymbol", "Hyper_L"},
}

// bound is the modifier maps of xkeyboard-config that name a key; bySym those
// that name a keysym, which mean the first key that gives it.
var (
	bound = map[string]Mask{"LVL3": Mod5, "MDSW": Mod5, "META": Mod1, "SUPR": Mod4, "HYPR": Mod4}
	bySym = []struct {
		sym  string
		mask Mask
	}{
		{"Shift_L", Shift}, {"Shift_R", Shift}, {"Caps_Lock", Lock}, {"Control_L", Control}, {"Control_R", Control},
		{
			"Alt_L",
			Mod1,
		}, {"Alt_R", Mod1}, {"Meta_L", Mod1}, {"Meta_R", Mod1}, {"Num_Lock", Mod2}, {"Super_L", Mod4}, {"Super_R", Mod4},
	}
)

// Change is what a mapping does to a key of the stock keymap.
type Change struct {
	Groups []Group // by layout
	// Actions holds modifiers for every group, in place of what the keysyms do; nil
	// for none.
	Actions []string
	// Steps changes the group, in place of what the keysyms do, for each group, by 0 for
	// not at all; nil for a key of which no group does.
	Steps []GroupStep
	// Repeats is whether the file says that the key repeats.
	Repeats bool
	// Redirects are the levels, by group and level from 0, whose presses are another
	// key's; nil for none. The other levels have no action then.
	Redirects map[[2]int]RedirectTo
}

// RedirectTo is a Redirect with its modifiers by name.
type RedirectTo struct {
	To           string
	Adds, Clears []string
}

// GroupStep is how a key changes the layout group.
type GroupStep struct {
	How string // while: it is held; toggle: until it is changed again; once: for the next key
	By  int
}

var stepKinds = map[string]actionKind{"while": setGroup, "toggle": lockGroup, "once": latchGroup}

// Build makes the keymap that the layouts give, one group each, with changes to
// keys by XKB name and further entries of the modifier maps. It is what
// libxkbcommon makes of the same layouts and our option.
func Build(layouts []*keys.Layout, changes map[string]Change, modMaps map[string][]string) *Keymap {
	return BuildWith(layouts, changes, modMaps, nil)
}

// BuildWith is Build with further key types. What nothing is changed about is shared
// with the layouts' own keymap, and is not to be written to.
func BuildWith(layouts []*keys.Layout, changes map[string]Change, modMaps map[string][]string, more Types) *Keymap {
	bare := bareOf(layouts)
	if len(changes) == 0 && len(modMaps) == 0 {
		return bare
	}
	k := &Keymap{
		Keys:   maps.Clone(bare.Keys),
		types:  maps.Clone(bare.types),
		interp: bare.interp,
		bySym:  bare.bySym,
		anySym: bare.anySym,
		fifth:  bare.fifth,
		joins:  bare.joins,
	}
	for name, c := range changes {
		key := &Key{Name: name, Groups: c.Groups, Repeats: c.Repeats, repeatSet: c.Repeats}
		if c.Actions != nil {
			key.explicit = true
			for g := range key.Groups {
				for l := range key.Groups[g].Levels {
					key.Groups[g].Levels[l].action = &action{kind: setMods, mods: named(c.Actions)}
				}
			}
		}
		for at, r := range c.Redirects {
			key.explicit = true
			g := &key.Groups[at[0]]
			for len(g.Levels) <= at[1] { // more actions than keysyms
				g.Levels = append(g.Levels, Level{})
			}
			g.Levels[at[1]].action = &action{kind: redirectKey, to: r.To, mods: named(r.Adds), clear: named(r.Clears)}
		}
		for g, step := range c.Steps {
			key.explicit = true
			if step.By == 0 {
				continue // the group says that there is no action
			}
			for l := range key.Groups[g].Levels {
				key.Groups[g].Levels[l].action = &action{kind: stepKinds[step.How], group: step.By, relative: true}
			}
		}
		k.Keys[name] = key
	}
	k.join(bare, modMaps)
	k.useTypes(more)
	k.resolve(bare)
	return k
}

// bareOf is the keymap of layouts with nothing on top. It is kept: what is built of them
// shares it, and is held against it.
func bareOf(layouts []*keys.Layout) *Keymap {
	var id string
	for _, l := range layouts {
		id += l.ID + "\x00"
	}
	once, _ := bares.LoadOrStore(id, sync.OnceValue(func() *Keymap {
		base := stock()
		k := &Keymap{
			Keys:   plain(layouts),
			types:  map[string]*keyType{},
			interp: base.interp,
			bySym:  base.bySym,
			anySym: base.anySym,
		}
		if len(layouts) == 1 && layouts[0].Name == "jp" { // whose rules add the compatibility section "japan"
			k.interp = append(
				[]interpretation{{sym: "Eisu_toggle", match: "Exactly", mask: Lock, action: action{kind: otherAction}}},
				base.interp...)
			k.bySym, k.anySym = nil, nil
			k.index()
		}
		for name, syms := range fake {
			k.Keys[name] = &Key{Name: name, Groups: []Group{group("", syms)}}
		}
		k.withOptions(layouts[0].Extra)
		k.addFifth(layouts)
		k.join(nil, nil)
		k.useTypes(nil)
		k.resolve(nil)
		return k
	}))
	return once.(func() *Keymap)()
}

var bares sync.Map // func() *Keymap by layouts

// join puts the keys into their modifier maps. A key shared with the layouts' own keymap
// that is in others there is replaced by one of its own.
func (k *Keymap) join(bare *Keymap, modMaps map[string][]string) {
	joined := map[*Key]Mask{}
	for name, list := range k.joins {
		if key := k.Keys[name]; key != nil {
			joined[key] = named(list).real
		}
	}
	for name, mask := range bound {
		if name == "MDSW" && k.fifth {
			mask = Mod3
		}
		if _, moved := modMaps[name]; !moved {
			joined[k.Keys[name]] |= mask
		}
	}
	givers := k.givers()
	for _, b := range bySym {
		if key := givers[b.sym].key; key != nil {
			joined[key] |= b.mask
		}
	}
	for name, list := range modMaps {
		if key := k.Keys[name]; key != nil {
			joined[key] = named(list).real
		}
	}
	for name, key := range k.Keys {
		mask := joined[key]
		if key.modMap == mask {
			continue
		}
		if bare != nil && bare.Keys[name] == key {
			key = key.copied()
			if key.Repeats = false; !key.vmodSet {
				key.vmodMap = nil
			}
			for g := range key.Groups {
				for l := range key.Groups[g].Levels {
					if !key.explicit {
						key.Groups[g].Levels[l].action = nil
					}
				}
			}
			k.Keys[name] = key
		}
		key.modMap = mask
	}
}

// addFifth gives the key that xkeyboard-config keeps for it the fifth level of those
// layouts that have one, each in its own group.
func (k *Keymap) addFifth(layouts []*keys.Layout) {
	var groups []Group
	for g, l := range layouts {
		if !slices.ContainsFunc(keys.All(), func(key keys.Key) bool {
			s, _ := l.SymbolsIn(g, key)
			return (g == 0 || l.Defines(key)) &&
				(slices.Contains(s.Level, "ISO_Level5_Shift") || slices.Contains(s.Level, "ISO_Level5_Latch"))
		}) {
			continue
		}
		for len(groups) < g {
			groups = append(groups, group("", fake["MDSW"]))
		}
		groups = append(groups, group("", []string{"ISO_Level5_Shift"}))
	}
	if k.fifth = groups != nil; k.fifth {
		k.Keys["MDSW"].Groups = groups
	}
}

// withOptions adds what options of the layouts say beside keysyms.
func (k *Keymap) withOptions(extra keys.Extra) {
	k.joins = extra.Joins
	for name, s := range extra.Keys {
		k.Keys[name] = &Key{Name: name, Groups: []Group{group(s.Type, s.Level)}}
	}
	for name, list := range extra.Virtual {
		if key := k.Keys[name]; key != nil {
			key.vmodMap, key.vmodSet = list, true
		}
	}
	for name, list := range extra.Actions {
		key := k.Keys[name]
		if key == nil {
			continue
		}
		key.explicit = true
		for l, text := range list {
			if l < len(key.Groups[0].Levels) {
				made := newParser(lexer.Open(name, text)).action()
				key.Groups[0].Levels[l].action = &made
			}
		}
	}
}

// useTypes makes the types known that the keys name: those given, or stock ones.
func (k *Keymap) useTypes(more Types) {
	for _, key := range k.Keys {
		for g := range key.Groups {
			name := key.Groups[g].Type
			t, ok := more[name]
			if _, has := k.types[name]; has && !ok {
				continue
			} else if !ok {
				t = stock().types[name]
			}
			if t != nil {
				k.types[name] = t.copied() // which others use, too
			}
		}
	}
}

// copied is a key with groups and levels of its own.
func (key *Key) copied() *Key {
	c := *key
	c.Groups = slices.Clone(key.Groups)
	for g := range c.Groups {
		c.Groups[g].Levels = slices.Clone(key.Groups[g].Levels)
		for l := range c.Groups[g].Levels {
			if a := c.Groups[g].Levels[l].action; a != nil {
				own := *a
				c.Groups[g].Levels[l].action = &own
			}
		}
	}
	return &c
}

func (t *keyType) copied() *keyType {
	return &keyType{mods: t.mods, entries: slices.Clone(t.entries)}
}

// plain is the keys of layouts before anything has given them actions.
func plain(layouts []*keys.Layout) map[string]*Key {
	all := make(map[string]*Key, 256)
	for _, key := range keys.All() {
		name, ok := key.XKB()
		if code, has := key.Evdev(); !ok || !has || code > 247 {
			continue
		}
		made := Key{Name: name}
		for g, l := range layouts {
			if g > 0 && !l.Defines(key) {
				continue
			}
			if s, ok := l.SymbolsIn(g, key); ok {
				if g > 0 && len(made.Groups) == 0 { // the first layout has no such key
					made.Groups = append(made.Groups, Group{Type: "ONE_LEVEL", Levels: []Level{{}}})
				}
				for len(made.Groups) < g { // a layout between that leaves the key out has it as the first
					made.Groups = append(made.Groups, made.Groups[0])
				}
				made.Groups = append(made.Groups, group(s.Type, s.Level))
			}
		}
		if len(made.Groups) > 0 {
			all[name] = &made
		}
	}
	return all
}

// GroupOf makes a group of a type and keysyms.
func GroupOf(typ string, syms []string) Group { return group(typ, syms) }

func group(typ string, syms []string) Group {
	g := Group{Type: typ, Levels: make([]Level, len(syms))}
	for i, s := range syms {
		if name := keys.KeysymName(s); s == name && s != "NoSymbol" {
			g.Levels[i].Syms = syms[i : i+1 : i+1]
		} else if s != "NoSymbol" {
			g.Levels[i].Syms = []string{name}
		}
	}
	if g.Type == "" {
		g.Type = automatic(g.Levels)
	}
	return g
}

func automatic(levels []Level) string {
	syms := make([]string, len(levels))
	for i, l := range levels {
		if syms[i] = "NoSymbol"; len(l.Syms) > 0 {
			syms[i] = l.Syms[0]
		}
	}
	return keys.AutomaticType(syms)
}

// giver is the key that gives a keysym first.
type giver struct {
	key  *Key
	rank [3]int // group, level, keycode
}

// givers finds, for the keysyms that matter here, the key that gives each in the
// lowest group, then on the lowest level, then by the lowest keycode.
func (k *Keymap) givers() map[string]giver {
	found := map[string]giver{}
	for _, b := range bySym {
		found[b.sym] = giver{}
	}
	for _, key := range k.Keys {
		code := 1000
		if known, ok := keys.ByXKB(key.Name); ok {
			code, _ = known.Evdev()
		}
		for g := range key.Groups {
			for l := range key.Groups[g].Levels {
				syms := key.Groups[g].Levels[l].Syms
				// All of them have names; letters and digits are most of the rest.
				if len(syms) != 1 || len(syms[0]) < 5 {
					continue
				}
				rank := [3]int{g, l, code}
				if old, wanted := found[syms[0]]; wanted && (old.key == nil || less(rank, old.rank)) {
					found[syms[0]] = giver{key, rank}
				}
			}
		}
	}
	return found
}

func less(a, b [3]int) bool {
	for i := range a {
		if a[i] != b[i] {
			return a[i] < b[i]
		}
	}
	return false
}

func named(names []string) mods {
	var m mods
	for _, n := range names {
		found := false
		for i, r := range realNames {
			if r == n {
				m.real |= 1 << i
				found = true
			}
		}
		if !found {
			m.virtual = append(m.virtual, n)
		}
	}
	return m
}
