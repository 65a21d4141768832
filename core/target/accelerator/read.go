package accelerator

import (
	"fmt"
	"strings"

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

// Key finds the key that gives a keysym without modifiers, under the first of the
// layouts that has one. The numpad's keys have two names each.
func Key(layouts []*keys.Layout, keysym string) (keys.Key, error) {
	for _, l := range layouts {
		for _, k := range l.Giving(keysym, 0) {
			return k, nil
		}
		for _, k := range l.Giving(keysym, 1) {
			if s, _ := l.Symbols(k); strings.Contains(s.Type, "KEYPAD") {
				return k, nil
			}
		}
	}
	return keys.None, fmt.Errorf("no key of the machine's layouts types %q", keysym)
}
