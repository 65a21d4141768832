package xkb

import (
	"bytes"
	"fmt"
	"math/bits"
	"slices"
	"strconv"
	"strings"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// base is a key type of xkeyboard-config on which we can put chords: its modifiers but
// for Control and such, its levels, and what it gives for those modifiers.
type base struct {
	shift, lock, third bool
	levels             int
	level              func(shift, lock, third bool) int // from 0
	keepsLock          bool                              // for the third level, so that programs make the capital
}

var bases = map[string]base{
	"ONE_LEVEL": {levels: 1, level: func(_, _, _ bool) int { return 0 }},
	"TWO_LEVEL": {shift: true, levels: 2, level: func(shift, _, _ bool) int { return one(shift) }},
	"ALPHABETIC": {shift: true, lock: true, levels: 2,
		level: func(shift, lock, _ bool) int { return one(shift != lock) }},
	"FOUR_LEVEL": {shift: true, third: true, levels: 4,
		level: func(shift, _, third bool) int { return one(shift) + 2*one(third) }},
	"FOUR_LEVEL_ALPHABETIC": {shift: true, lock: true, third: true, levels: 4,
		level: func(shift, lock, third bool) int { return one(shift != lock) + 2*one(third) }},
	"FOUR_LEVEL_SEMIALPHABETIC": {shift: true, lock: true, third: true, levels: 4, keepsLock: true,
		level: func(shift, lock, third bool) int {
			if third {
				return one(shift) + 2
			}
			return one(shift != lock)
		}},
}

func one(b bool) int {
	if b {
		return 1
	}
	return 0
}

// chordMods are the modifiers of chords as key types and actions name them.
var chordMods = []struct {
	mod  keys.Mods
	name string
}{{keys.Shift, "Shift"}, {keys.AltGr, "Mod5"}, {keys.Ctrl, "Control"}, {keys.Alt, "Mod1"}, {keys.Hyper, "Mod3"}, {keys.Meta, "Mod4"}}

// named spells modifiers, and says whether all have a name.
func named(mods keys.Mods) ([]string, bool) {
	names := make([]string, 0, len(chordMods)+1)
	for _, m := range chordMods {
		if mods.Has(m.mod) {
			names = append(names, m.name)
			mods &^= m.mod
		}
	}
	return names, mods == 0
}

// otherChord says how well a chord lands that is to be another one. The X server has
// an action for it, which libxkbcommon has not.
func otherChord(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	to := sent(b.Effect)
	_, spelled := named(b.Chord.Mods | to.Mods)
	switch {
	case m.Session != "x11":
		return mechanism.Offer{Why: reason.ChordOnX11.Of("another chord for a chord")}
	case b.Chord.Mods == 0:
		return mechanism.Offer{Why: reason.ChordByKeyAlone.Of()}
	case !spelled:
		return mechanism.Offer{Why: reason.NoSides.Of()}
	case !reaches(b.Chord.Key) || b.Chord.Key.IsModifier():
		return mechanism.Offer{Why: reason.NoChordOf.Of(b.Chord.Key)}
	case !reaches(to.Key):
		return mechanism.Offer{Why: reason.NoX11Key.Of(to.Key)}
	}
	for g := range m.Layouts {
		s, ok := m.Symbols(g, b.Chord.Key)
		if _, known := bases[s.Type]; !ok || !known || slices.ContainsFunc(s.Level, acts) {
			return mechanism.Offer{Why: reason.OwnWithModifiers.Of(b.Chord.Key, m.Layouts[g].Name)}
		}
	}
	return mechanism.Offer{Verdict: mechanism.Exact}
}

// chordOfKey says whether a key, of a layer or outside of all, may have the server press
// another key, with or without modifiers, in its place.
func chordOfKey(m *mechanism.Machine, b mechanism.Binding, inLayer bool) mechanism.Offer {
	to := sent(b.Effect)
	_, spelled := named(to.Mods)
	switch {
	case m.Session != "x11":
		return mechanism.Offer{Why: reason.ChordOnX11.Of("a chord for a key")}
	case !spelled:
		return mechanism.Offer{Why: reason.NoSides.Of()}
	case !reaches(to.Key) || to.Key.IsModifier():
		return mechanism.Offer{Why: reason.NoX11ChordWith.Of(to.Key)}
	}
	for g := range m.Layouts {
		if s, ok := m.Symbols(g, b.Chord.Key); inLayer &&
			(!ok || slices.ContainsFunc(s.Level, acts)) { // which it is to stay outside
			return mechanism.Offer{Why: reason.OwnThing.Of(b.Chord.Key, m.Layouts[g].Name)}
		}
		if s, ok := m.Symbols(g, to.Key); !ok || slices.ContainsFunc(s.Level, switches) {
			return mechanism.Offer{Why: reason.ChangesKeyboard.Of(to.Key, m.Layouts[g].Name)}
		}
	}
	return mechanism.Offer{Verdict: mechanism.Exact}
}

// sent is the chord that a press gives instead.
func sent(e behaviour.Effect) keys.Chord {
	if e.Kind == behaviour.Becomes {
		return keys.Chord{Key: e.Key}
	}
	return e.Chord
}

// reaches says whether X11 sees a key.
func reaches(k keys.Key) bool {
	code, ok := k.Evdev()
	_, named := k.XKB()
	return ok && named && code <= 247
}

// acts says whether a keysym may have an action by itself, which a key with actions of
// ours would lose.
func acts(sym string) bool {
	return strings.HasPrefix(sym, "XF86") || strings.HasPrefix(sym, "KP_") || switches(sym)
}

// switches says whether a keysym changes the state of the keyboard.
func switches(sym string) bool {
	return strings.HasPrefix(sym, "ISO_") && sym != "ISO_Left_Tab" || strings.HasPrefix(sym, "Pointer_") ||
		keys.RealModifier(sym) != "" ||
		sym == "Terminate_Server" ||
		sym == "Mode_switch"
}

// split parts what is said of keys from what is said of chords.
func split(list []plan) (positions, chords []plan) {
	positions = make([]plan, 0, len(list))
	for _, b := range list {
		if b.Level == behaviour.Hotkey {
			chords = append(chords, b)
		} else {
			positions = append(positions, b)
		}
	}
	inOrder(chords)
	return positions, chords
}

// redirects makes a stanza of each key that has chords, and writes the key types for
// them. hyper says whether a key is Hyper.
func redirects(types *bytes.Buffer, m *intent.Machine, chords []plan, hyper bool) (stanzas []stanza) {
	numbers := map[string]int{} // of types, by what they are
	for len(chords) > 0 {
		key := chords[0].Chord.Key
		n := 1
		for n < len(chords) && chords[n].Chord.Key == key {
			n++
		}
		own := chords[:n]
		chords = chords[n:]
		name, _ := key.XKB()
		st := stanza{name: name, repeats: true}
		for g := range m.Layouts {
			s, _ := m.Symbols(g, key)
			form := bases[s.Type]
			id := s.Type
			levels := slices.Clone(s.Level)
			for len(levels) < form.levels {
				levels = append(levels, "NoSymbol")
			}
			levels = append(levels[:form.levels], levels[0])
			actions := slices.Repeat([]string{"NoAction()"}, len(levels))
			for _, b := range own {
				id += fmt.Sprint(" ", b.Chord.Mods)
				levels = append(
					levels,
					levels[form.level(b.Chord.Mods.Has(keys.Shift) && form.shift, false, b.Chord.Mods.Has(keys.AltGr) && form.third)],
				)
				actions = append(actions, redirect(b))
			}
			number, known := numbers[id]
			if !known {
				number = len(numbers) + 1
				numbers[id] = number
				types.Grow(10000) // a hundred states
				chordType(types, typeName(number), form, own, hyper)
			}
			st.groups = append(st.groups, keys.Symbols{Type: typeName(number), Level: levels})
			st.actions = append(st.actions, strings.Join(actions, ", "))
		}
		stanzas = append(stanzas, st)
	}
	return stanzas
}

func typeName(n int) string { return fmt.Sprintf("LEITSTAND_%d", n) }

// redirect is the action of a chord.
func redirect(b plan) string {
	to := sent(b.Effect)
	name, _ := to.Key.XKB()
	text := "RedirectKey(key=<" + name + ">"
	if off, _ := named(b.Chord.Mods &^ to.Mods); len(off) > 0 {
		text += ", clearMods=" + strings.Join(off, "+")
	}
	if on, _ := named(to.Mods &^ b.Chord.Mods); len(on) > 0 {
		text += ", modifiers=" + strings.Join(on, "+")
	}
	return text + ")"
}

// chordType is a key type that gives the levels of another one, and one more for each
// chord when just its modifiers are on, locks aside. A modifier that the other type
// does not look at stays on for programs. xkbcomp forgets what is said of the first
// level, so that level is there a second time; what it is to keep of a virtual
// modifier, so there are real ones only; and it wants every level named. It has no word
// for a level behind the eighth, so levels stand as numbers.
func chordType(b *bytes.Buffer, name string, form base, chords []plan, hyper bool) {
	looked := keys.Shift | keys.AltGr | keys.Ctrl | keys.Alt | keys.Meta
	if hyper ||
		slices.ContainsFunc(chords, func(b plan) bool { return b.Chord.Mods.Has(keys.Hyper) }) { // else no key holds it
		looked |= keys.Hyper
	}
	mods, _ := named(looked)
	if form.lock {
		mods = slices.Insert(mods, 0, "Lock")
	}
	fmt.Fprintf(b, "    type \"%s\" {\n      modifiers = %s;\n", name, strings.Join(mods, "+"))
	spelled := spellings()
	for set, on := range spelled.mods {
		if !looked.Has(on) {
			continue
		}
		for locked := range 1 + one(form.lock) {
			shift, third := on.Has(keys.Shift) && form.shift, on.Has(keys.AltGr) && form.third
			level := form.level(shift, locked == 1, third)
			if i := slices.IndexFunc(chords, func(c plan) bool { return c.Chord.Mods == on }); i >= 0 {
				level = form.levels + 1 + i
			}
			kept := set &^ (setShift*one(form.shift) | setThird*one(form.third))
			if locked == 1 && form.keepsLock && third {
				kept |= setLock
			}
			switch {
			case level == 0 && kept == 0:
				continue // that is so where nothing is said
			case level == 0:
				level = form.levels
			}
			state := spelled.names[set|setLock*locked]
			b.WriteString("      map[")
			b.WriteString(state)
			b.WriteString("] = ")
			b.WriteString(strconv.Itoa(level + 1))
			b.WriteString(";\n")
			if kept != 0 {
				b.WriteString("      preserve[")
				b.WriteString(state)
				b.WriteString("] = ")
				b.WriteString(spelled.names[kept])
				b.WriteString(";\n")
			}
		}
	}
	for i := range form.levels + 1 + len(chords) {
		fmt.Fprintf(b, "      level_name[%d] = \"%d\";\n", i+1, i+1)
	}
	b.WriteString("    };\n")
}

// Bits of a set of chordMods and Lock.
const (
	setShift = 1 << iota
	setThird
	setLock = 1 << 6
)

// spelling is every set of chordMods as modifiers, and with Lock or without as a key
// type names it.
type spelling struct {
	mods  [setLock]keys.Mods
	names [2 * setLock]string
}

var spellings = sync.OnceValue(func() *spelling {
	var s spelling
	for set := 1; set < len(s.names); set++ {
		last := bits.Len(uint(set)) - 1
		rest, name := set&^(1<<last), "Lock"
		if set < setLock {
			name = chordMods[last].name
			s.mods[set] = s.mods[rest] | chordMods[last].mod
		}
		if s.names[set] = name; rest != 0 {
			s.names[set] = s.names[rest] + "+" + name
		}
	}
	return &s
})
