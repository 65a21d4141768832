package keys

import (
	"slices"
	"strconv"
	"strings"
)

// Search lists the keys that every word fits: part of the code or the section's
// name, the XKB name, or any of the numbers. No words fit all keys.
func Search(words []string) []Key {
	list := All()
	for _, w := range words {
		list = slices.DeleteFunc(list, func(k Key) bool { return !k.fits(w) })
	}
	return list
}

func (k Key) fits(word string) bool {
	r, low := k.row(), strings.ToLower(word)
	if strings.Contains(strings.ToLower(r.code), low) || strings.Contains(r.group.String(), low) || strings.EqualFold(r.xkb, word) {
		return true
	}
	n, err := strconv.ParseInt(low, 0, 32)
	return err == nil && slices.Contains([]int{r.hid, r.evdev, r.scan, r.vk, r.mac}, int(n))
}
