package keys

import (
	"slices"
	"strconv"
	"strings"
)

// Search lists the keys that every word fits: part of the code or the section's name, a
// name by which people or other systems call it, a character that it types under one of the
// layouts, the XKB name, or any of the numbers. Words that fit nothing one by one are tried
// as one, as in "page down". No words fit all keys.
func Search(words []string, layouts ...*Layout) []Key {
	list := append(All(), Buttons()...)
	if len(words) == 0 {
		return All()
	}
	for _, w := range words {
		list = slices.DeleteFunc(list, func(k Key) bool { return !k.fits(w, layouts) })
	}
	if joined := strings.Join(words, ""); len(list) == 0 && len(words) > 1 {
		return Search([]string{joined}, layouts...)
	}
	return list
}

// signNames are characters by their names.
var signNames = map[string]string{
	"euro":    "€",
	"pound":   "£",
	"hash":    "#",
	"at":      "@",
	"bracket": "[",
	"brace":   "{",
	"umlaut":  "ü",
	"tilde":   "~",
	"pipe":    "|",
}

func (k Key) fits(word string, layouts []*Layout) bool {
	r, low := k.row(), strings.ToLower(word)
	if strings.Contains(strings.ToLower(r.code), low) || strings.Contains(r.group.String(), low) ||
		strings.EqualFold(r.xkb, word) {
		return true
	}
	if code, ok := otherKeys[low]; ok && r.code == code {
		return true
	}
	if mod, ok := otherMods[low]; ok && slices.Contains(keysOf[mod], r.code) {
		return true
	}
	if sign, ok := signNames[low]; ok {
		word = sign
	}
	if char := []rune(word); len(char) == 1 {
		for _, l := range layouts {
			if slices.Contains(l.Characters(k), char[0]) {
				return true
			}
		}
	}
	n, err := strconv.ParseInt(low, 0, 32)
	return err == nil && slices.Contains([]int{r.hid, r.evdev, r.scan, r.vk, r.mac}, int(n))
}

// keysOf are the keys of a modifier.
var keysOf = map[string][]string{
	"Ctrl": {
		"ControlLeft",
		"ControlRight",
	}, "CtrlLeft": {"ControlLeft"}, "CtrlRight": {"ControlRight"}, "Alt": {"AltLeft", "AltRight"},
	"Shift": {"ShiftLeft", "ShiftRight"}, "Meta": {"MetaLeft", "MetaRight"}, "AltGr": {"AltRight"}, "Fn": {"Fn"},
}
