package accelerator

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/keys"
)

var mods = map[string]keys.Mods{
	"shift": keys.Shift, "primary": keys.Ctrl, "control": keys.Ctrl, "ctrl": keys.Ctrl, "ctl": keys.Ctrl,
	"alt": keys.Alt, "mod1": keys.Alt, "super": keys.Meta, "mod4": keys.Meta, "hyper": keys.Hyper, "mod3": keys.Hyper,
}

// Mod is a modifier by one of the names that GTK and X know, without regard to
// case.
func Mod(name string) (keys.Mods, bool) {
	m, ok := mods[strings.ToLower(name)]
	return m, ok
}

// Parse parts a name such as <Primary><Alt>t into its modifiers and its keysym.
func Parse(name string) (keys.Mods, string, error) {
	var set keys.Mods
	rest := name
	for strings.HasPrefix(rest, "<") {
		tag, after, ok := strings.Cut(rest[1:], ">")
		mod, known := Mod(tag)
		if !ok || !known {
			return 0, "", fmt.Errorf("%q names no modifier we know", name)
		}
		set |= mod
		rest = after
	}
	return set, rest, nil
}

// Keys finds the keys that give a keysym without modifiers, under the first of the
// layouts that has one: more than one where two keys type the same, which a desktop
// that goes by keysyms cannot tell apart. The numpad's keys have two names each.
func Keys(layouts []*keys.Layout, keysym string) ([]keys.Key, error) {
	for _, l := range layouts {
		list := slices.Clone(l.Giving(keysym, 0))
		for _, k := range l.Giving(keysym, 1) {
			if s, _ := l.Symbols(k); strings.Contains(s.Type, "KEYPAD") && !slices.Contains(list, k) {
				list = append(list, k)
			}
		}
		if len(list) > 0 {
			return list, nil
		}
	}
	return nil, fmt.Errorf("no key of the machine's layouts types %q", keysym)
}

// ParseTranslated finds the chords of a name for programs that compare the keysym of a
// press: the keys that give it with the chord's Shift, under the first of the layouts
// that has one.
func ParseTranslated(layouts []*keys.Layout, name string) ([]keys.Chord, error) {
	mods, keysym, err := Parse(name)
	if err != nil {
		return nil, err
	}
	for _, l := range layouts {
		var list []keys.Chord
		for _, k := range keys.All() {
			if s, ok := l.Symbols(k); ok && gives(s, keysym, mods.Has(keys.Shift)) {
				list = append(list, keys.Chord{Mods: mods, Key: k})
			}
		}
		if len(list) > 0 {
			return list, nil
		}
	}
	return nil, fmt.Errorf("%q: no key of the machine's layouts types %q", name, keysym)
}

// gives says whether a press of a key with these symbols gives the keysym, as
// such a program sees it: Shift makes a letter no other, and NumLock either.
func gives(s keys.Symbols, keysym string, shift bool) bool {
	second := ""
	if len(s.Level) > 1 {
		second = s.Level[1]
	}
	if keysym != s.Level[0] && keysym != second {
		return false
	}
	switch s.Type {
	case "KEYPAD", "FOUR_LEVEL_KEYPAD", "FOUR_LEVEL_MIXED_KEYPAD":
		return keysym == s.Level[0] || keysym == second
	}
	lower, ok1 := keys.KeysymRune(s.Level[0])
	upper, ok2 := keys.KeysymRune(second)
	if letter := ok1 && ok2 && unicode.ToLower(upper) == lower; shift && second != "" && !letter {
		if ok2 || strings.HasPrefix(second, "dead_") {
			return keysym == second
		}
	}
	return keysym == s.Level[0]
}
