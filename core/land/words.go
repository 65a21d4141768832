package land

import (
	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// wordsOfLostCharacters are abbreviations behind a Compose key with a character that no key types any more,
// since the mapping has that key do something else.
func wordsOfLostCharacters(b *Landed) (list []strike) {
	var t *typed
	for i := range b.Landings {
		l := &b.Landings[i]
		if !behindCompose(l) {
			continue
		}
		if t == nil {
			t = newTyped(b)
		}
		for _, r := range l.Binding.Word {
			if by, lost := t.lost(r); lost {
				list = append(list, strike{at: i, why: reason.NoKeyLeft.Of(string(r)), by: by})
				break
			}
		}
	}
	return list
}

// typed is which characters keys still type.
type typed struct {
	b      *Landed
	places map[keys.Chord]int // what has a key, or a chord of it, do something else, by its number
	stands map[keys.Key]bool  // keys that others have become
	texts  map[string]bool    // texts that keys give
	known  map[rune]int       // what took a character, -1 for nothing
}

func newTyped(b *Landed) *typed {
	t := &typed{
		b: b, places: map[keys.Chord]int{}, stands: map[keys.Key]bool{}, texts: map[string]bool{}, known: map[rune]int{},
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Mechanism == nil || l.Binding.Board != "" || l.Binding.Level > behaviour.Hotkey ||
			!l.at(mechanism.Kernel) && !l.at(mechanism.Layout) {
			continue
		}
		e := l.Written().Effect
		switch {
		case e.Kind == behaviour.Types:
			t.texts[e.Text] = true
		case e.Kind == behaviour.Becomes && e.Key != l.Binding.Chord.Key:
			t.stands[e.Key] = true
		}
		if l.Binding.Layer == "" && (e.Kind != behaviour.Becomes || e.Key != l.Binding.Chord.Key) {
			t.places[l.Binding.Chord] = i
		}
	}
	return t
}

// lost says whether a character that a layout types is typed by no key any more, and what took the key.
func (t *typed) lost(r rune) (by int, lost bool) {
	by, seen := t.known[r]
	if !seen {
		by = t.find(r)
		t.known[r] = by
	}
	return by, by >= 0
}

// find names what took the last key of a character, -1 for nothing. A layout of ours has an abbreviation under each
// of the machine's layouts, or not at all; XKB's are typed under any.
func (t *typed) find(r rune) int {
	if t.texts[string(r)] {
		return -1
	}
	by := -1
	for _, l := range t.b.Machine.Layouts {
		switch took, free := t.under(l, r); {
		case free && t.b.Machine.System == machine.Linux:
			return -1
		case !free && took >= 0:
			by = took
		}
	}
	return by
}

// under says whether a key still types a character under a layout, and what took one that does no longer, -1 for
// nothing.
func (t *typed) under(l *keys.Layout, r rune) (by int, free bool) {
	by = -1
	for _, k := range keys.All() {
		for level, typed := range l.Characters(k) {
			if typed != r {
				continue
			}
			took, ok := t.taken(k, level)
			if !ok || t.stands[k] {
				return -1, true
			}
			by = took
		}
	}
	return by, false
}

// taken says what has a key do something else in a state: plain, with Shift, with AltGr or Option, or with both.
func (t *typed) taken(k keys.Key, level int) (int, bool) {
	if by, ok := t.places[keys.Chord{Key: k}]; ok && level < 2 {
		return by, true
	}
	shift := keys.Mods(0)
	if level%2 == 1 {
		shift = keys.Shift
	}
	for _, third := range []keys.Mods{keys.AltGr, keys.Alt} {
		c := keys.Chord{Mods: shift, Key: k}
		if level > 1 {
			c.Mods |= third
		}
		if by, ok := t.places[c]; ok {
			return by, true
		}
	}
	return -1, false
}
