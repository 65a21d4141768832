package sample

import (
	"leitstand/core/keys"
	"strings"
)

// Typed is what strokes type, one after the other, each a key by its code or with modifiers before it.
func Typed(t keys.Typist, strokes string) (text string) {
	state := keys.TypeState{}
	for stroke := range strings.FieldsSeq(strokes) {
		var held keys.Mods
		parts := strings.Split(stroke, "+")
		for _, name := range parts[:len(parts)-1] {
			mod, _ := keys.ModByName(name)
			held |= mod
		}
		var typed string
		typed, state = t.Type(state, Key(parts[len(parts)-1]), held)
		text += typed
	}
	return text
}

// TypesAlike says where two layouts type otherwise: a key with modifiers and one behind it; "" for nowhere.
func TypesAlike(a, b keys.Typist, third string, but func(k keys.Key, held keys.Mods) bool) string {
	mod, _ := keys.ModByName(third)
	for _, k := range keys.All() {
		for _, held := range []keys.Mods{0, keys.Shift, mod, mod | keys.Shift} {
			for _, second := range []string{"KeyA", "KeyU", "KeyT", "Space", "Digit1", "BracketLeft"} {
				stroke := keys.Chord{Mods: held, Key: k}.String() + " " + second
				if k.Section() == keys.Writing && !but(k, held) && Typed(a, stroke) != Typed(b, stroke) {
					return stroke
				}
			}
		}
	}
	return ""
}
