package xkb

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb/keymap"
)

// types reads the file's own key types.
func (p *parser) types(l *layer) {
	p.Expect("{")
	l.types = keymap.ParseTypes(p.Cursor)
	p.Expect("}")
	p.Expect(";")
}

// redirects are the levels of a group that are another key's presses.
func (k *keyText) redirects(g int) map[int]keymap.RedirectTo {
	var found map[int]keymap.RedirectTo
	for level, action := range strings.SplitAfter(k.actions[g], ")") {
		args, ok := strings.CutPrefix(strings.TrimPrefix(action, ","), "RedirectKey(")
		if !ok {
			continue
		}
		var r keymap.RedirectTo
		for arg := range strings.SplitSeq(strings.TrimSuffix(args, ")"), ",") {
			switch name, value, _ := strings.Cut(arg, "="); name {
			case "key":
				r.To = strings.Trim(value, "<>")
			case "clearMods":
				r.Clears = strings.Split(value, "+")
			case "modifiers":
				r.Adds = strings.Split(value, "+")
			}
		}
		if found == nil {
			found = map[int]keymap.RedirectTo{}
		}
		found[level] = r
	}
	return found
}

// chords is what the chords of a key do, nil for a key that has none. Beside them it
// must be what the layouts make it; that its type leaves all else alone, the whole
// keymap tells.
func (l *layer) chords(m *mechanism.Machine, key keys.Key, name string) []mechanism.Binding {
	k := l.keys[name]
	var list []mechanism.Binding
	for g := range m.Layouts {
		var here []mechanism.Binding
		levels := strings.Split(k.symbols[g], ",")
		for level, r := range k.redirects(g) {
			if level >= len(levels) {
				continue
			}
			for _, lead := range l.types.Leads(k.types[g], level) {
				if slices.Contains(lead, "Lock") {
					continue
				}
				c := keys.Chord{Mods: modsOf(lead), Key: key}
				here = append(here, mechanism.Binding{Level: behaviour.Hotkey, Chord: c, Effect: redirected(c, r)})
			}
		}
		behaviour.Sort(here)
		if g == 0 {
			list = here
			continue
		}
		for _, c := range behaviour.Compare(list, here) {
			list = slices.DeleteFunc(list, func(b mechanism.Binding) bool { return b.Place() == c.Place })
			list = append(
				list,
				mechanism.Binding{
					Level:  behaviour.Hotkey,
					Chord:  c.Place.Chord,
					Effect: behaviour.Effect{Kind: behaviour.Other, Words: "gives one chord or another, by layout"},
				},
			)
		}
	}
	if list == nil {
		return nil
	}
	for g := range m.Layouts {
		s, _ := m.Symbols(g, key)
		if levels := strings.Split(k.symbols[g], ","); len(levels) < len(s.Level) ||
			!slices.Equal(levels[:len(s.Level)], s.Level) {
			return append(
				list,
				mechanism.Binding{
					Chord:  keys.Chord{Key: key},
					Effect: behaviour.Effect{Kind: behaviour.Other, Words: "types " + strings.Join(levels, " ")},
				},
			)
		}
	}
	return list
}

// modsOf is the modifiers of a chord by the names of a keymap.
func modsOf(names []string) keys.Mods {
	known := map[string]keys.Mods{
		"Shift":   keys.Shift,
		"Mod5":    keys.AltGr,
		"Control": keys.Ctrl,
		"Mod1":    keys.Alt,
		"Mod4":    keys.Meta,
		"Mod3":    keys.Hyper,
	}
	var mods keys.Mods
	for _, n := range names {
		mods |= known[n]
	}
	return mods
}

// redirected is the effect of a chord.
func redirected(c keys.Chord, r keymap.RedirectTo) behaviour.Effect {
	k, ok := keys.ByXKB(r.To)
	if !ok {
		return behaviour.Effect{Kind: behaviour.Other, Words: fmt.Sprintf("gives the key <%s>", r.To)}
	}
	mods := c.Mods&^modsOf(r.Clears) | modsOf(r.Adds)
	if mods == 0 {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
	}
	return behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: mods, Key: k}}
}

// chordOf reads a group in which all levels of a key are another key or a chord, and
// whose keysyms are the other key's, since programs look it up there.
func chordOf(m *mechanism.Machine, groups []keys.Symbols, actions []string) (behaviour.Effect, bool) {
	var effect behaviour.Effect
	for g, s := range groups {
		all := (&keyText{actions: actions}).redirects(g)
		first, ok := all[0]
		to, known := keys.ByXKB(first.To)
		if !ok || !known || len(all) != len(s.Level) || len(first.Clears) > 0 {
			return effect, false
		}
		for _, r := range all {
			if r.To != first.To || len(r.Clears) > 0 || !slices.Equal(r.Adds, first.Adds) {
				return effect, false
			}
		}
		if want, _ := m.Symbols(g, to); !want.Equal(s) {
			return effect, false
		}
		e := redirected(keys.Chord{}, first)
		if g > 0 && !e.Equal(effect) {
			return effect, false
		}
		effect = e
	}
	return effect, len(groups) > 0
}
