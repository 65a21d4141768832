package xkb

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

const option = "leitstand:mapping"

// Write makes the option folder, the complete keymap, or both, and the same for boards that
// have bindings of their own.
func (Mechanism) Write(m *mechanism.Machine, taken []mechanism.Taken) (mechanism.Output, error) {
	list := make([]plan, len(taken))
	for i, b := range taken {
		list[i] = b.Plan.(plan)
	}
	wayland, x11 := sessions(m)
	every, own := on("", list), boards(m, list)
	general := len(every) > 0 || len(own) == 0
	p := &placer{m: m, at: placesOf(m), every: general, own: own, serves: mechanism.Presses(taken)}
	if wayland {
		rules, sections := "", symbolsHead(m)
		if general {
			rules, sections = rules+rule("mapping"), sections+section(m, "mapping", every)
		}
		for _, b := range own {
			rules, sections = rules+rule(tag(m, b.Name)), sections+section(m, tag(m, b.Name), on(b.Name, list))
		}
		p.wayland(rules, sections)
	}
	if x11 {
		keymaps := map[string][]byte{}
		if general {
			keymaps[keymapFile] = keymapOf(m, every)
		}
		for _, b := range own {
			keymaps["xkb/"+tag(m, b.Name)+".xkb"] = keymapOf(m, on(b.Name, list))
		}
		p.x11(keymaps, loader(m, general, own))
	}
	return mechanism.Changed(p.list), nil
}

// Files that a machine's folder may have.
const (
	symbolsFile = "xkb/symbols/leitstand"
	keymapFile  = "xkb/keymap.xkb"
)

// stanza is what one key means, a Symbols for each layout group.
type stanza struct {
	name    string
	groups  []keys.Symbols
	actions []string // explicit actions by group; none for those of the keysyms
	repeats bool     // said where explicit actions leave it open
}

// inOrder sorts bindings by their places.
func inOrder(list []plan) {
	slices.SortStableFunc(list, func(a, b plan) int { return behaviour.Order(&a.Binding, &b.Binding) })
}

// stanzas turns bindings into key stanzas in the order of the key table, and
// the names of keys by the real modifier they must join.
func stanzas(m *intent.Machine, list []plan) ([]stanza, map[string][]string) {
	list = slices.Clone(list)
	inOrder(list)
	var all []stanza
	mods := map[string][]string{}
	hyper := false
	for _, b := range list {
		if b.Layer != "" || b.Effect.Kind == behaviour.Layers {
			continue
		}
		name, _ := b.Chord.Key.XKB()
		s := stanza{name: name}
		for g := range m.Layouts {
			sym := oneLevel("VoidSymbol")
			switch {
			case b.Effect.Kind == behaviour.Modifier && b.Effect.Mods == keys.Hyper:
				sym.Level[0], hyper = "Hyper_L", true
			case b.Effect.Kind == behaviour.Modifier:
				action, _ := setMods(b.Effect.Mods)
				s.actions = append(s.actions, action)
			case b.Effect.Kind == behaviour.Composes:
				sym.Level[0] = "Multi_key"
			case b.Effect.Kind == behaviour.Types:
				sym = character(b.Effect.Text)
			case b.Effect.Kind == behaviour.Sends:
				// Programs look up the other key in this group, too.
				sym, _ = m.Symbols(g, b.Effect.Chord.Key)
				s.actions, s.repeats = append(s.actions, onAllLevels(b, sym)), true
			case b.Effect.Kind == behaviour.Becomes:
				if own, ok := m.Symbols(g, b.Effect.Key); ok {
					sym = own
				}
			}
			s.groups = append(s.groups, sym)
		}
		if mod := modifierIn(s.groups); mod != "" {
			mods[mod] = append(mods[mod], name)
		}
		all = append(all, s)
	}
	all = layers(m, list, all)
	// The stock map names keysyms, and a keysym means the first key that gives it:
	// a key that keeps giving one of them must be named, or it is a modifier no
	// longer once a key with a lower keycode gives the same.
	for _, b := range list {
		if b.Layer != "" || b.Effect.Kind != behaviour.Becomes ||
			slices.ContainsFunc(list, func(o plan) bool { return o.Layer == "" && o.Chord.Key == b.Effect.Key }) {
			continue
		}
		name, _ := b.Effect.Key.XKB()
		var groups []keys.Symbols
		for g := range m.Layouts {
			s, _ := m.Symbols(g, b.Effect.Key)
			groups = append(groups, s)
		}
		if mod := modifierIn(groups); mod != "" && !slices.Contains(mods[mod], name) {
			mods[mod] = append(mods[mod], name)
		}
	}
	if hyper {
		// The stock keymap has a key <HYPR> that no board bears and that puts
		// Hyper on Mod4, beside Super. It stays there and gives nothing: xkbcomp
		// takes the one or the other of two maps that name a key, as it happens.
		own := stanza{name: "HYPR"}
		for range m.Layouts {
			own.groups = append(own.groups, oneLevel("VoidSymbol"))
		}
		all = append(all, own)
	}
	return all, mods
}

// modifierIn is the real modifier that a key is in the first of its groups in which it is one: a map of
// modifiers is for all of them.
func modifierIn(groups []keys.Symbols) string {
	for _, s := range groups {
		if mod := s.RealModifier(); mod != "" {
			return mod
		}
	}
	return ""
}

// onAllLevels has the server press another key, whatever the level.
func onAllLevels(b plan, sym keys.Symbols) string {
	return strings.Join(slices.Repeat([]string{redirect(b)}, len(sym.Level)), ", ")
}

func oneLevel(keysym string) keys.Symbols {
	return keys.Symbols{Type: "ONE_LEVEL", Level: []string{keysym}}
}

// character is what a key gives that types one character, whatever is held with it.
func character(text string) keys.Symbols {
	r := []rune(text)[0]
	sym := oneLevel(keys.RuneKeysym(r))
	if unicode.IsLetter(r) { // a type that uses Shift and Lock up keeps them from making a capital
		sym = keys.Symbols{Type: "ALPHABETIC", Level: []string{sym.Level[0], sym.Level[0]}}
	}
	return sym
}

// layers adds what keys mean in layers. The groups of the layouts are followed by as
// many for each layer; a key that switches a layer on moves on by that many, so that
// it stays with its layout, and a key without a meaning in the layer wraps back to
// its own.
func layers(m *intent.Machine, list []plan, all []stanza) []stanza {
	n := len(m.Layouts)
	at := func(k keys.Key) *stanza {
		name, _ := k.XKB()
		i := slices.IndexFunc(all, func(s stanza) bool { return s.name == name })
		if i < 0 {
			s := stanza{name: name}
			for g := range n {
				sym, ok := m.Symbols(g, k)
				if !ok {
					sym = oneLevel("NoSymbol")
				}
				s.groups = append(s.groups, sym)
			}
			i, all = len(all), append(all, s)
		}
		return &all[i]
	}
	for _, b := range list {
		if b.Effect.Kind != behaviour.Layers {
			continue
		}
		s := at(b.Chord.Key)
		for g := range n {
			s.groups[g] = oneLevel("VoidSymbol")
			s.actions = append(
				s.actions,
				fmt.Sprintf("%s(group=+%d)", stepVerbs[b.Effect.How.String()], n*(1+slices.Index(m.Layers, b.Effect.Layer))),
			)
		}
	}
	// Where the server presses another key in place of one of a layer, that key has actions
	// of its own, and none from keysyms. The other key must be what the layouts make it.
	chords := map[keys.Key]bool{}
	for _, b := range list {
		chords[b.Chord.Key] = chords[b.Chord.Key] || b.Layer != "" && b.redirects
	}
	for _, b := range list {
		if b.Layer == "" {
			continue
		}
		s, layer := at(b.Chord.Key), slices.Index(m.Layers, b.Layer)
		if chords[b.Chord.Key] && s.actions == nil {
			s.actions, s.repeats = make([]string, len(s.groups)), true
		}
		// The groups of other layers keep the key's own; it would not wrap to that from
		// all of them.
		for len(s.groups) < n*(1+len(m.GroupLayers())) {
			g := len(s.groups) % n
			s.groups = append(s.groups, s.groups[g])
			if s.actions != nil {
				s.actions = append(s.actions, s.actions[g])
			}
		}
		for g := range n {
			sym, action := inLayer(m, b, g, layer, s.actions != nil)
			s.groups[n*(1+layer)+g] = sym
			if s.actions != nil {
				s.actions[n*(1+layer)+g] = action
			}
		}
	}
	slices.SortStableFunc(all, func(a, b stanza) int {
		x, _ := keys.ByXKB(a.name)
		y, _ := keys.ByXKB(b.name)
		return cmp.Compare(x, y)
	})
	return all
}

// inLayer is what a key gives in a layer, in the group of a layout, and its action; acts says that the
// key has actions of its own.
func inLayer(m *intent.Machine, b plan, g, layer int, acts bool) (sym keys.Symbols, action string) {
	sym, action = oneLevel("VoidSymbol"), "NoAction()"
	switch {
	case b.redirects:
		// Programs look up the other key in this group, too.
		sym, _ = m.Symbols(g, sent(b.Effect).Key)
		action = onAllLevels(b, sym)
	case b.Effect.Kind == behaviour.Becomes:
		sym, _ = m.Symbols(g, b.Effect.Key)
	case b.Effect.Kind == behaviour.Types:
		sym = character(b.Effect.Text)
	case b.Effect.Kind == behaviour.Composes:
		sym.Level[0] = "Multi_key"
	case b.Effect.Kind == behaviour.Leaves:
		// The key that switches it on goes back by as much; another one has the
		// keysym whose action is to go to the first group.
		if action = fmt.Sprintf("LockGroup(group=-%d)", len(m.Layouts)*(1+layer)); !acts {
			sym = oneLevel("ISO_First_Group")
		}
	}
	return sym, action
}

// text writes a stanza with all its groups. A statement is what begins it: "key"
// or "replace key".
func (s stanza) text(statement string) string {
	text := "    " + statement + " <" + s.name + "> {"
	for i, sym := range s.groups {
		if i > 0 {
			text += ",\n       "
		}
		group := "[Group" + strconv.Itoa(i+1) + "]"
		text += " type" + group + " = \"" + sym.Type + "\", symbols" + group + " = [ " + strings.Join(
			sym.Level, ", ",
		) + " ]"
		if s.actions != nil && s.actions[i] != "" {
			text += ", actions" + group + " = [ " + s.actions[i] + " ]"
		}
	}
	if s.repeats {
		text += ",\n        repeat = Yes"
	}
	return text + " };\n"
}

func modifierMaps(mods map[string][]string) string {
	var b strings.Builder
	for _, mod := range []string{"Shift", "Lock", "Control", "Mod1", "Mod2", "Mod3", "Mod4"} {
		if len(mods[mod]) > 0 {
			fmt.Fprintf(&b, "    modifier_map %s { <%s> };\n", mod, strings.Join(mods[mod], ">, <"))
		}
	}
	return b.String()
}

// rule makes the option of a section known.
func rule(section string) string {
	return fmt.Sprintf("  leitstand:%s = +leitstand(%s)\n", section, section)
}

func symbolsHead(m *intent.Machine) string {
	return fmt.Sprintf(
		"// The keyboard mapping, on top of the layouts %s (one group each).\n", strings.Join(m.Machine.Layouts, ", "),
	)
}

// section is the symbols of an option.
func section(m *intent.Machine, name string, list []plan) string {
	var b strings.Builder
	list, _ = split(list)
	stanzas, mods := stanzas(m, list)
	if name == "mapping" {
		b.WriteString("default ")
	}
	fmt.Fprintf(&b, "partial modifier_keys alphanumeric_keys\nxkb_symbols %q {\n", name)
	for _, s := range stanzas {
		b.WriteString(s.text("key"))
	}
	b.WriteString(modifierMaps(mods))
	b.WriteString("};\n")
	return b.String()
}

// keymapOf is the complete keymap with bindings.
func keymapOf(m *intent.Machine, list []plan) []byte {
	list, chords := split(list)
	stanzas, mods := stanzas(m, list)
	return wholeKeymap(m, stanzas, mods, chords)
}

// wholeKeymap is a complete keymap: the machine's layouts with the mapping on top.
func wholeKeymap(m *intent.Machine, list []stanza, mods map[string][]string, chords []plan) []byte {
	include := "pc"
	for g, l := range m.Layouts {
		include += "+" + l.Name
		if g > 0 {
			include += fmt.Sprintf(":%d", g+1)
		}
	}
	include += "+inet(evdev)"
	for _, o := range m.Layouts[0].Extra.Options {
		include += o.Include
	}
	var b bytes.Buffer
	b.Grow(6000)
	b.WriteString("// " + ofOurs + " Load it with:\n")
	b.WriteString("//   xkbcomp -w0 keymap.xkb $DISPLAY\n")
	b.WriteString("xkb_keymap {\n")
	fmt.Fprintf(&b, "  xkb_keycodes { include \"evdev+aliases(%s)\" };\n", aliases(m.Layouts[0].Name))
	if len(chords) == 0 {
		b.WriteString("  xkb_types { include \"complete\" };\n")
	} else {
		b.WriteString("  xkb_types {\n    include \"complete\"\n")
		list = append(list, redirects(&b, m, chords, len(mods["Mod3"]) > 0 || thirdTaken(m))...)
		b.WriteString("  };\n")
	}
	b.WriteString("  xkb_compat { include \"complete\" };\n")
	fmt.Fprintf(&b, "  xkb_symbols {\n    include \"%s\"\n", include)
	for _, s := range list {
		// Without replace, xkbcomp keeps the levels a key had beyond ours.
		b.WriteString(s.text("replace key"))
	}
	b.WriteString(modifierMaps(mods))
	b.WriteString("  };\n  xkb_geometry { include \"pc(pc105)\" };\n};\n")
	return b.Bytes()
}

// aliases names xkeyboard-config's set of letter aliases for a layout, as its
// rules choose it.
func aliases(layout string) string {
	name, _ := keys.SplitLayout(layout)
	switch name {
	case "fr", "be":
		return "azerty"
	case "de", "at", "ch", "cz", "hu", "si", "hr", "sk", "pl":
		return "qwertz"
	}
	return "qwerty"
}
