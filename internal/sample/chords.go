package sample

import "leitstand/core/keys"

// held are the keys that tests hold for a modifier: CapsLock is their Hyper.
var held = map[keys.Mods]string{
	keys.Ctrl: "ControlLeft", keys.Alt: "AltLeft", keys.Shift: "ShiftLeft", keys.Meta: "MetaLeft",
	keys.Hyper: "CapsLock",
}

// Evdevs are the input event codes of the keys to hold and press for a chord.
func Evdevs(c keys.Chord) []int { return each(c, Evdev) }

// Scancodes are the scan codes, of set 1, of the keys to hold and press for a chord.
func Scancodes(c keys.Chord) []int { return each(c, Scancode) }

// Scancode is the scan code, of set 1, of a key that has one.
func Scancode(k keys.Key) int {
	code, ok := k.Scancode()
	if !ok {
		panic("no scan code: " + k.String())
	}
	return code
}

// Held are the keys of a chord in the order in which they are pressed, by their codes.
func Held(c keys.Chord) []string {
	var names []string
	each(c, func(k keys.Key) int { names = append(names, k.String()); return 0 })
	return names
}

// Chord is the chord of keys that are held one after the other, as Held has them.
func Chord(codes []string) keys.Chord {
	var c keys.Chord
	for _, code := range codes[:len(codes)-1] {
		for mod, name := range held {
			if name == code {
				c.Mods |= mod
			}
		}
	}
	c.Key = Key(codes[len(codes)-1])
	return c
}

func each(c keys.Chord, code func(keys.Key) int) []int {
	var list []int
	for i := range 16 {
		if k, ok := held[c.Mods&(1<<i)]; ok {
			list = append(list, code(Key(k)))
		}
	}
	return append(list, code(c.Key))
}
