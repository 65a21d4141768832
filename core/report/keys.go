package report

import "leitstand/core/keys"

// Keys is what keys says.
type Keys struct {
	Version int   `json:"version"`
	Keys    []Key `json:"keys"`
}

// Key is a key with the number or name each system has for it, null where
// a system has none.
type Key struct {
	Code     string  `json:"code"`
	Section  string  `json:"section"` // of the board
	HID      *int    `json:"hid"`
	Evdev    *int    `json:"evdev"`
	XKB      *string `json:"xkb"`
	Scancode *int    `json:"scancode"`
	VK       *int    `json:"vk"`
	Mac      *int    `json:"mac"`
}

// KeysOf is a list of keys.
func KeysOf(list []keys.Key) Keys {
	opt := func(v int, ok bool) *int {
		if !ok {
			return nil
		}
		return &v
	}
	out := Keys{Version, make([]Key, 0, len(list))}
	for _, k := range list {
		j := Key{
			Code:     k.String(),
			Section:  k.Section().String(),
			HID:      opt(k.HID()),
			Evdev:    opt(k.Evdev()),
			Scancode: opt(k.Scancode()),
			VK:       opt(k.VK()),
			Mac:      opt(k.Mac()),
		}
		if x, ok := k.XKB(); ok {
			j.XKB = &x
		}
		out.Keys = append(out.Keys, j)
	}
	return out
}
