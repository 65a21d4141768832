// Package keymap says what a compiled XKB keymap does: which keysym a key gives
// under which modifiers, which of them are left over, and how keys change the
// state. It knows keymaps as libxkbcommon and xkbcomp write them, and builds one
// from the embedded layouts.
//
// Sources: the X Keyboard Extension protocol specification; libxkbcommon's "XKB
// keymap text format, V1" and its documentation of xkb_state.
package keymap

import (
	"slices"

	"leitstand/core/keys"
)

// Mask is a set of the eight real modifiers.
type Mask uint8

// The real modifiers.
const (
	Shift Mask = 1 << iota
	Lock
	Control
	Mod1
	Mod2
	Mod3
	Mod4
	Mod5
)

var realNames = []string{"Shift", "Lock", "Control", "Mod1", "Mod2", "Mod3", "Mod4", "Mod5"}

// Names lists the modifiers of a mask.
func (m Mask) Names() []string {
	var names []string
	for i, n := range realNames {
		if m&(1<<i) != 0 {
			names = append(names, n)
		}
	}
	return names
}

// mods is a set of modifiers by name, real and virtual, before the virtual ones
// are known.
type mods struct {
	real    Mask
	modMap  bool // those of the key's own modifier map
	virtual []string
}

// Keymap is a compiled keymap.
type Keymap struct {
	Keys   map[string]*Key // by XKB name
	types  map[string]*keyType
	interp []interpretation
	bySym  map[string][]*interpretation // those for one keysym, in order
	anySym []*interpretation
	vmods  map[string]Mask
	codes  map[int]string      // XKB names by X keycode
	groups int                 // how many groups the key with most of them has
	joins  map[string][]string // by key, the real modifiers that options name for it
	fifth  bool                // a layout with a fifth level, which brings its modifier map
}

// Key is what one key does.
type Key struct {
	Name    string
	Groups  []Group
	Repeats bool
	modMap  Mask
	vmodMap []string
	// explicit: the file gives the actions itself, so that no interpretation counts.
	explicit  bool
	repeatSet bool
	vmodSet   bool // its virtual modifiers, too
}

// Group is a key under one layout.
type Group struct {
	Type   string
	Levels []Level
	typ    *keyType // of that name, found when the keymap is resolved
}

// Level is one level of a group.
type Level struct {
	Syms   []string // keysyms by name; none for a level that gives nothing
	action *action  // nil for none
}

// does is the level's action.
func (l *Level) does() *action {
	if l.action == nil {
		return &none
	}
	return l.action
}

var none action

type keyType struct {
	mods    mods
	entries []typeEntry
	mask    Mask
}

type typeEntry struct {
	mods     mods
	level    int // from 0
	preserve mods

	mask, preserved Mask
	dead            bool // asks for a virtual modifier that no key has
}

type actionKind uint8

const (
	noAction actionKind = iota
	setMods
	lockMods
	latchMods
	setGroup
	lockGroup
	latchGroup
	redirectKey
	otherAction
)

type action struct {
	kind       actionKind
	mods       mods
	mask       Mask
	clearLocks bool
	group      int
	relative   bool
	// Of redirectKey: the key that is pressed instead, by name, and the modifiers that
	// are off meanwhile; mods are on.
	to      string
	clear   mods
	cleared Mask
}

// interpretation gives an action to keysyms that have none of their own.
type interpretation struct {
	sym          string // "Any", or a keysym
	match        string // Exactly, AllOf, NoneOf, AnyOf, AnyOfOrNone
	mask         Mask
	virtual      string
	levelOneOnly bool
	repeat       bool
	action       action
}

// resolve gives actions to the keys, finds what the virtual modifiers are, and
// works out all masks. It is the last step of compiling. Keys and types shared with a
// keymap that is resolved already, nil for none, stay as they are there if that is what
// they are here.
func (k *Keymap) resolve(bare *Keymap) {
	shared := func(key *Key) bool { return bare != nil && bare.Keys[key.Name] == key }
	if k.bySym == nil {
		k.index()
	}
	k.vmods = map[string]Mask{}
	for _, key := range k.Keys {
		if !shared(key) {
			k.interpret(key)
		}
		k.groups = max(k.groups, len(key.Groups))
		for _, v := range key.vmodMap {
			k.vmods[v] |= key.modMap
		}
	}
	for name, t := range k.types {
		if bare != nil && bare.types[name] == t {
			if t.resolved(k) {
				continue
			}
			t = t.copied()
			k.types[name] = t
		}
		t.mask = k.mask(t.mods, 0)
		for i := range t.entries {
			e := &t.entries[i]
			e.mask, e.preserved = k.mask(e.mods, 0), k.mask(e.preserve, 0)
			e.dead = e.mask == 0 && (e.mods.real != 0 || len(e.mods.virtual) > 0)
		}
	}
	for name, key := range k.Keys {
		if shared(key) {
			if key.resolved(k) {
				continue
			}
			key = key.copied()
			k.Keys[name] = key
		}
		for g := range key.Groups {
			key.Groups[g].typ = k.types[key.Groups[g].Type]
			for l := range key.Groups[g].Levels {
				if a := key.Groups[g].Levels[l].action; a != nil {
					a.mask, a.cleared = k.mask(a.mods, key.modMap), k.mask(a.clear, 0)
				}
			}
		}
	}
}

// resolved says whether a type has the masks that it has in a keymap.
func (t *keyType) resolved(k *Keymap) bool {
	return t.mask == k.mask(t.mods, 0) && !slices.ContainsFunc(t.entries, func(e typeEntry) bool {
		return e.mask != k.mask(e.mods, 0) || e.preserved != k.mask(e.preserve, 0)
	})
}

// resolved says whether a key has the types and masks that it has in a keymap.
func (key *Key) resolved(k *Keymap) bool {
	for g := range key.Groups {
		if key.Groups[g].typ != k.types[key.Groups[g].Type] {
			return false
		}
		for l := range key.Groups[g].Levels {
			if a := key.Groups[g].Levels[l].action; a != nil &&
				(a.mask != k.mask(a.mods, key.modMap) || a.cleared != k.mask(a.clear, 0)) {
				return false
			}
		}
	}
	return true
}

func (k *Keymap) mask(m mods, modMap Mask) Mask {
	mask := m.real
	for _, v := range m.virtual {
		mask |= k.vmods[v]
	}
	if m.modMap {
		mask |= modMap
	}
	return mask
}

// interpret gives each level of a key its action, and the key its virtual
// modifiers.
func (k *Keymap) interpret(key *Key) {
	if key.explicit {
		return
	}
	for g := range key.Groups {
		for l := range key.Groups[g].Levels {
			level := &key.Groups[g].Levels[l]
			if len(level.Syms) == 0 {
				continue
			}
			in := k.find(key, level, l)
			if g == 0 && l == 0 && !key.repeatSet {
				key.Repeats = in.repeat
			}
			if (g == 0 && l == 0 || !in.levelOneOnly) && in.virtual != "" && !key.vmodSet {
				key.vmodMap = append(key.vmodMap, in.virtual)
			}
			if in.action.kind != noAction {
				own := in.action
				level.action = &own
			}
		}
	}
}

// usual is the interpretation of keysyms that have none.
var usual = interpretation{repeat: true}

// index sorts the interpretations by their keysyms. One for a keysym goes before
// one for any, as compilers order them.
func (k *Keymap) index() {
	k.bySym = map[string][]*interpretation{}
	for i := range k.interp {
		if in := &k.interp[i]; in.sym == "Any" {
			k.anySym = append(k.anySym, in)
		} else {
			k.bySym[in.sym] = append(k.bySym[in.sym], in)
		}
	}
}

func (k *Keymap) find(key *Key, level *Level, l int) *interpretation {
	if len(level.Syms) != 1 {
		return &usual
	}
	if in := match(k.bySym[level.Syms[0]], key, l); in != nil {
		return in
	}
	if in := match(k.anySym, key, l); in != nil {
		return in
	}
	return &usual
}

// match is the first interpretation that fits a key's modifier map.
func match(list []*interpretation, key *Key, l int) *interpretation {
	for _, in := range list {
		has := key.modMap
		if in.levelOneOnly && l != 0 {
			has = 0
		}
		var ok bool
		switch in.match {
		case "NoneOf":
			ok = in.mask&has == 0
		case "AnyOfOrNone":
			ok = has == 0 || in.mask&has != 0
		case "AnyOf":
			ok = in.mask&has != 0
		case "AllOf":
			ok = in.mask&has == in.mask
		case "Exactly":
			ok = in.mask == has
		}
		if ok {
			return in
		}
	}
	return nil
}

// KeyOf finds a key of the key table.
func (k *Keymap) KeyOf(key keys.Key) (*Key, bool) {
	if key == keys.None {
		return nil, false
	}
	name, ok := key.XKB()
	if !ok {
		return nil, false
	}
	// A keymap may call the keycode by another name.
	if code, has := key.Evdev(); has && k.codes != nil {
		if name, ok = k.codes[code+8]; !ok {
			return nil, false
		}
	}
	found, ok := k.Keys[name]
	return found, ok
}
