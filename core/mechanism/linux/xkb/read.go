package xkb

import (
	"cmp"
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb/keymap"
)

// Layout is what the files say of a machine's keyboard.
type Layout struct {
	m      *mechanism.Machine
	layers []*layer            // the Wayland option, then the X11 keymap, whichever there are
	own    map[string][]*layer // the same of boards that have one of their own
}

// Open reads what Write wrote, in the machine's folder.
func Open(m *mechanism.Machine, fsys fs.FS) (*Layout, error) {
	r := &Layout{m: m}
	if text, err := fs.ReadFile(fsys, "xkb/symbols/leitstand"); err == nil {
		sections, err := parse("xkb/symbols/leitstand", string(text), len(m.Layouts))
		if err != nil {
			return nil, err
		}
		names := slices.Sorted(maps.Keys(sections))
		if err := upheldByRules(fsys, names); err != nil {
			return nil, err
		}
		if slices.Contains(names, "mapping") {
			if err := upheldBySwitch(m, fsys); err != nil {
				return nil, err
			}
		}
		if len(names) > 1 || !slices.Contains(names, "mapping") {
			if err := upheldByLine(fsys, "sway/config", "include ~/.config/sway/leitstand-boards"); err != nil {
				return nil, err
			}
		}
		for _, name := range names {
			if err := r.add("xkb/symbols/leitstand", name, sections[name]); err != nil {
				return nil, err
			}
		}
	}
	option := len(r.layers)+len(r.own) > 0
	files := []string{"keymap"}
	for _, b := range m.Boards {
		files = append(files, called(m, b.Name))
	}
	every, loaded := false, []*machine.Board(nil)
	for i, name := range files {
		file := "xkb/" + name + ".xkb"
		text, err := fs.ReadFile(fsys, file)
		if err != nil {
			continue
		}
		if i == 0 {
			every = true
		} else {
			loaded = append(loaded, m.Boards[i-1])
		}
		sections, err := parse(file, string(text), len(m.Layouts))
		if err != nil {
			return nil, err
		}
		if sections[""] == nil {
			return nil, fmt.Errorf("%s: a keymap without symbols", file)
		}
		if err := upheldByIncludes(m, file, string(text)); err != nil {
			return nil, err
		}
		if i == 0 {
			name = "mapping"
		}
		if err := r.add(file, name, sections[""]); err != nil {
			return nil, err
		}
	}
	keymap := every || len(loaded) > 0
	if m.Session != machine.Wayland && m.Session != machine.X11 && option != keymap {
		return nil, fmt.Errorf("a Wayland session has the mapping: %v; an X11 session has it: %v", option, keymap)
	}
	if keymap {
		if err := upheldByStart(m, fsys, every, loaded); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// called is the name by which files have a board: its own, or its number where that has letters
// beyond ASCII.
func called(m *mechanism.Machine, board string) string {
	for n, b := range m.Boards {
		if b.Name != board {
			continue
		}
		for _, c := range []byte(board) {
			if c > 0x7F {
				return "board" + strconv.Itoa(n+1)
			}
		}
	}
	return "board-" + board
}

// add adds a section of symbols, by the name that the rules have for it.
func (r *Layout) add(file, name string, l *layer) error {
	if name == "mapping" {
		r.layers = append(r.layers, l)
		return nil
	}
	for _, b := range r.m.Boards {
		if called(r.m, b.Name) == name {
			if r.own == nil {
				r.own = map[string][]*layer{}
			}
			r.own[b.Name] = append(r.own[b.Name], l)
			return nil
		}
	}
	return fmt.Errorf("%s: the section is called %q, and the rules name mapping, or a board of the machine", file, name)
}

// Read reads what Write wrote.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	r, err := Open(m, fsys)
	if err != nil {
		return nil, err
	}
	return r.Bindings(), nil
}

// Bindings is what the keys do: on every board, and on those that have a layout of their
// own what is different there.
func (r *Layout) Bindings() []mechanism.Binding {
	list := r.found(r.layers)
	every := list
	for _, board := range slices.Sorted(maps.Keys(r.own)) {
		own := r.found(r.own[board])
		for _, c := range behaviour.Compare(every, own) {
			e := c.After
			if e == nil { // the key is what it is by itself, or outside of the layer
				e = &behaviour.Effect{Kind: behaviour.Becomes, Key: c.Place.Chord.Key}
				outside := c.Place
				outside.Layer = ""
				if i := slices.IndexFunc(own, func(b mechanism.Binding) bool { return b.Place() == outside }); i >= 0 {
					e = &own[i].Effect
				}
			}
			b := mechanism.Binding{
				Level:  c.Place.Level,
				Board:  board,
				Layer:  c.Place.Layer,
				Chord:  c.Place.Chord,
				Effect: *e,
			}
			list = append(list[:len(list):len(list)], b)
		}
	}
	behaviour.Sort(list)
	return list
}

// found is what the keys do by layers. A machine with both kinds of session has the mapping
// twice; where the two differ, the press says so.
func (r *Layout) found(layers []*layer) []mechanism.Binding {
	if len(layers) == 0 {
		return nil
	}
	list := layers[0].bindings(r.m)
	for _, other := range layers[1:] {
		for _, c := range behaviour.Compare(list, other.bindings(r.m)) {
			words := "differs between the Wayland option and the X11 keymap"
			list = slices.DeleteFunc(list, func(b mechanism.Binding) bool { return b.Place() == c.Place })
			list = append(
				list,
				mechanism.Binding{Chord: c.Place.Chord, Effect: behaviour.Effect{Kind: behaviour.Other, Words: words}},
			)
		}
	}
	behaviour.Sort(list)
	return list
}

// Boards are those that have a layout of their own.
func (r *Layout) Boards() []string { return slices.Sorted(maps.Keys(r.own)) }

// Keymap is what a board does, or every one without a layout of its own where board is
// "": the machine's layouts with the mapping on top. It is the Wayland option's if there is
// one, else the X11 keymap's, and the bare layouts' where there is neither.
func (r *Layout) Keymap(board string) *keymap.Keymap {
	layers := r.layers
	if own := r.own[board]; own != nil {
		layers = own
	}
	if len(layers) == 0 {
		return keymap.Build(r.m.Layouts, nil, nil)
	}
	return layers[0].keymap(r.m)
}

func (l *layer) keymap(m *mechanism.Machine) *keymap.Keymap {
	changes := map[string]keymap.Change{}
	for name, k := range l.keys {
		var c keymap.Change
		for g := range k.types {
			c.Groups = append(c.Groups, keymap.GroupOf(k.types[g], strings.Split(k.symbols[g], ",")))
			if step, ok := groupStep(k.actions[g]); ok {
				if c.Steps == nil {
					c.Steps = make([]keymap.GroupStep, len(k.types))
				}
				c.Steps[g] = step
			}
			if list, ok := strings.CutPrefix(k.actions[g], "SetMods(modifiers="); ok {
				c.Actions = strings.Split(strings.TrimSuffix(list, ")"), "+")
			}
			for level, r := range k.redirects(g) {
				if c.Redirects == nil {
					c.Redirects = map[[2]int]keymap.RedirectTo{}
				}
				c.Redirects[[2]int{g, level}] = r
			}
		}
		c.Repeats = k.repeats
		changes[name] = c
	}
	return keymap.BuildWith(m.Layouts, changes, l.mods, l.types)
}

// bindings says what the keys of the layer do, against the machine's layouts.
func (l *layer) bindings(m *mechanism.Machine) []mechanism.Binding {
	var list []mechanism.Binding
	for _, name := range l.order {
		if name == "HYPR" {
			continue // no board has it; it only must not give Hyper, being on Mod4
		}
		k, ok := keys.ByXKB(name)
		if !ok {
			continue
		}
		at := keys.Chord{Key: k}
		if e, ok := chordOf(m, l.groups(m, name), l.keys[name].actions); ok { // one chord for the whole key
			list = append(list, mechanism.Binding{Chord: at, Effect: e})
			list = append(list, l.layers(m, at, name)...)
			continue
		}
		if chords := l.chords(m, k, name); chords != nil { // which no key has that is in a layer
			list = append(list, chords...)
			continue
		}
		if !l.unchanged(m, k, name) {
			list = append(list, mechanism.Binding{Chord: at, Effect: l.effect(m, name)})
		}
		list = append(list, l.layers(m, at, name)...)
	}
	behaviour.Sort(list)
	return list
}

// groups is what a key gives under the machine's layouts.
func (l *layer) groups(m *mechanism.Machine, name string) []keys.Symbols {
	groups := make([]keys.Symbols, len(m.Layouts))
	for g := range groups {
		groups[g] = keys.Symbols{Type: l.keys[name].types[g], Level: strings.Split(l.keys[name].symbols[g], ",")}
	}
	return groups
}

func (l *layer) effect(m *mechanism.Machine, name string) behaviour.Effect {
	k, mods := l.keys[name], l.mods[name]
	other := func(words string) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Other, Words: words} }
	groups := l.groups(m, name)
	first := groups[0].Level[0]
	// A modifier's keysym is worth nothing on a key outside its modifier map,
	// and a key in a map is that modifier whatever it types.
	want := "" // by the first group that has one
	for g := len(groups) - 1; g >= 0; g-- {
		want = cmp.Or(groups[g].RealModifier(), want)
	}
	for _, mod := range mods {
		if want != mod {
			return other(fmt.Sprintf("types %s and is the modifier %s", first, mod))
		}
	}
	if want != "" && !slices.Contains(mods, want) {
		return other(fmt.Sprintf("types %s without being the modifier %s", first, want))
	}
	plain := groups[0].Equal(keys.Symbols{Type: "ONE_LEVEL", Level: []string{first}})
	same := func(list []string) bool {
		return !slices.ContainsFunc(list[:len(groups)], func(s string) bool { return s != list[0] })
	}
	if plain && same(k.symbols) && same(k.types) && same(k.actions) {
		step, steps := groupStep(k.actions[0])
		switch {
		case first == "VoidSymbol" && steps:
			if n := len(m.Layouts); step.By > 0 && step.By%n == 0 {
				how := behaviour.SwitchNamed(step.How)
				return behaviour.Effect{Kind: behaviour.Layers, Layer: layerName(m, step.By/n-1), How: how}
			}
		case first == "Multi_key" && k.actions[0] == "":
			return behaviour.Effect{Kind: behaviour.Composes}
		case first == "VoidSymbol" && k.actions[0] == "":
			return behaviour.Effect{Kind: behaviour.Nothing}
		case first == "VoidSymbol":
			if mods, ok := heldMods(k.actions[0]); ok {
				return behaviour.Effect{Kind: behaviour.Modifier, Mods: mods}
			}
		case first == "Hyper_L" && k.actions[0] == "":
			if h := l.keys["HYPR"]; h == nil || h.symbols[0] != "VoidSymbol" || !same(h.symbols) ||
				len(l.mods["HYPR"]) > 0 {
				return other("types Hyper_L, which is also on Mod4 beside Super")
			}
			return behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Hyper}
		}
	}
	own, _ := keys.ByXKB(name)
	for _, candidate := range append([]keys.Key{own}, keys.All()...) { // of keys that are alike it is itself
		match := true
		for g := range m.Layouts {
			s, ok := m.Symbols(g, candidate)
			match = match && ok && s.Equal(groups[g]) && k.actions[g] == ""
		}
		if match {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: candidate}
		}
	}
	if text, ok := typedText(groups); ok && same(k.actions) && k.actions[0] == "" {
		return behaviour.Effect{Kind: behaviour.Types, Text: text}
	}
	return other("types " + strings.Join(groups[0].Level, " "))
}

// typedText is the one character that a key types in all groups, whatever is held with it.
func typedText(groups []keys.Symbols) (string, bool) {
	first := groups[0].Level[0]
	r, ok := keys.KeysymRune(first)
	for _, s := range groups { // a letter is there with Shift and Lock as well
		plain, letter := keys.Symbols{
			Type:  "ONE_LEVEL",
			Level: []string{first},
		}, keys.Symbols{
			Type:  "ALPHABETIC",
			Level: []string{first, first},
		}
		ok = ok && (s.Equal(letter) || s.Equal(plain) && !unicode.IsLetter(r))
	}
	return string(r), ok
}

// unchanged says whether a key that has a meaning in a layer is outside of it what the
// layouts make it.
func (l *layer) unchanged(m *mechanism.Machine, key keys.Key, name string) bool {
	k := l.keys[name]
	if len(k.types) <= len(m.Layouts) {
		return false
	}
	for g := range m.Layouts {
		s, ok := m.Symbols(g, key)
		if !ok {
			s = keys.Symbols{Type: "ONE_LEVEL", Level: []string{"NoSymbol"}}
		}
		if k.actions[g] != "" || !s.Equal(keys.Symbols{Type: k.types[g], Level: strings.Split(k.symbols[g], ",")}) {
			return false
		}
	}
	return true
}

// groupStep reads SetGroup(group=+1), LockGroup(group=-1) and LatchGroup(group=+1).
func groupStep(action string) (keymap.GroupStep, bool) {
	for how, verb := range stepVerbs {
		if rest, ok := strings.CutPrefix(action, verb+"(group="); ok && len(rest) > 1 &&
			(rest[0] == '+' || rest[0] == '-') {
			if by, err := strconv.Atoi(strings.TrimSuffix(rest, ")")); err == nil && fmt.Sprintf("%+d)", by) == rest {
				return keymap.GroupStep{How: how, By: by}, true
			}
		}
	}
	return keymap.GroupStep{}, false
}

// stepVerbs are the actions of keys that switch a layer on, by how they do.
var stepVerbs = map[string]string{"while": "SetGroup", "toggle": "LockGroup", "once": "LatchGroup"}

// layerName is the name of a layer by its place, for a machine whose layers are
// known.
func layerName(m *mechanism.Machine, i int) string {
	if i < len(m.Layers) {
		return m.Layers[i]
	}
	return fmt.Sprintf("layer-%d", i+1)
}

// layers is what a key means in the groups behind those of the layouts.
func (l *layer) layers(m *mechanism.Machine, at keys.Chord, name string) []mechanism.Binding {
	k, n := l.keys[name], len(m.Layouts)
	var list []mechanism.Binding
	for i := 0; n*(2+i) <= len(k.types); i++ {
		kept := true // the group says what the key would wrap to
		groups := make([]keys.Symbols, n)
		for g := range n {
			at := n*(1+i) + g
			groups[g] = keys.Symbols{Type: k.types[at], Level: strings.Split(k.symbols[at], ",")}
			kept = kept && k.types[at] == k.types[g] && k.symbols[at] == k.symbols[g] && k.actions[at] == k.actions[g]
		}
		if !kept {
			list = append(
				list,
				mechanism.Binding{
					Layer:  layerName(m, i),
					Chord:  at,
					Effect: l.inLayer(m, groups, k.actions[n*(1+i):n*(2+i)], n*(1+i), layerName(m, i)),
				},
			)
		}
	}
	return list
}

func (l *layer) inLayer(
	m *mechanism.Machine, groups []keys.Symbols, actions []string, by int, layer string,
) behaviour.Effect {
	first := groups[0].Level[0]
	other := behaviour.Effect{Kind: behaviour.Other, Words: "types " + strings.Join(groups[0].Level, " ")}
	one := true
	for g, s := range groups {
		one = one && s.Equal(keys.Symbols{Type: "ONE_LEVEL", Level: []string{first}}) && actions[g] == actions[0]
	}
	step, steps := groupStep(actions[0])
	if e, ok := chordOf(m, groups, actions); ok {
		return e
	}
	switch {
	case one &&
		(first == "ISO_First_Group" && actions[0] == "" || first == "VoidSymbol" && steps && step.How == "toggle" && step.By == -by):
		return behaviour.Effect{Kind: behaviour.Leaves, Layer: layer}
	case slices.ContainsFunc(actions, func(a string) bool { return a != "" && a != "NoAction()" }):
		return other
	case one && first == "VoidSymbol":
		return behaviour.Effect{Kind: behaviour.Nothing}
	case one && first == "Multi_key":
		return behaviour.Effect{Kind: behaviour.Composes}
	}
	for _, candidate := range keys.All() {
		match := true
		for g := range groups {
			s, ok := m.Symbols(g, candidate)
			match = match && ok && s.Equal(groups[g])
		}
		if match {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: candidate}
		}
	}
	if text, ok := typedText(groups); ok {
		return behaviour.Effect{Kind: behaviour.Types, Text: text}
	}
	return other
}

// heldMods reads the modifiers that an action SetMods(modifiers=…) holds.
func heldMods(action string) (keys.Mods, bool) {
	list, ok := strings.CutPrefix(action, "SetMods(modifiers=")
	if !ok || !strings.HasSuffix(list, ")") {
		return 0, false
	}
	names := map[string]keys.Mods{
		"Shift":      keys.Shift,
		"Control":    keys.Ctrl,
		"Alt":        keys.Alt,
		"Super":      keys.Meta,
		"LevelThree": keys.AltGr,
	}
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
