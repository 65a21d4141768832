package keys

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"unicode"
)

// keysymData holds every keysym of the X headers by name, characterData the own
// keysym of every character that has one, by the character's number. Both are
// sorted and searched as they are: a run asks for few of the thousands.
//
//go:embed data/keysyms.txt
var keysymData string

//go:embed data/characters.txt
var characterData string

// find returns what a sorted text says after a name and a blank, on the line that
// begins with them.
func find(sorted, name string) (rest string, ok bool) {
	for sorted != "" {
		start := strings.LastIndexByte(sorted[:len(sorted)/2], '\n') + 1
		line, after, _ := strings.Cut(sorted[start:], "\n")
		key, rest, _ := strings.Cut(line, " ")
		switch c := strings.Compare(name, key); {
		case c == 0:
			return rest, true
		case c < 0:
			sorted = sorted[:start]
		default:
			sorted = after
		}
	}
	return "", false
}

// keysym is a keysym of the headers: its number, and the character that it types,
// 0 for none.
func keysym(name string) (value uint32, char rune, ok bool) {
	rest, ok := find(keysymData, name)
	number, typed, _ := strings.Cut(rest, " ")
	v, _ := strconv.ParseUint(number, 16, 32)
	r, _ := strconv.ParseUint(typed, 16, 21)
	return uint32(v), rune(r), ok
}

// unicodeKeysym reads the form U20AC, which X gives to characters without a
// keysym of their own.
func unicodeKeysym(name string) (rune, bool) {
	if len(name) < 5 || name[0] != 'U' {
		return 0, false
	}
	v, err := strconv.ParseUint(name[1:], 16, 21)
	return rune(v), err == nil
}

// KeysymRune is the character that an X keysym types.
func KeysymRune(name string) (rune, bool) {
	if r, ok := unicodeKeysym(name); ok {
		return r, true
	}
	// Latin letters and digits are their own names: the usual case by far.
	if len(name) == 1 {
		return rune(name[0]), true
	}
	_, char, ok := keysym(name)
	return char, ok && char != 0
}

// KeysymValue is the number of an X keysym, as the X protocol defines it.
func KeysymValue(name string) (uint32, bool) {
	if value, _, ok := keysym(name); ok {
		return value, true
	}
	if r, ok := unicodeKeysym(name); ok {
		return 0x01000000 | uint32(r), true
	}
	return 0, false
}

// deadKeys are the dead keys whose accent a chord may name by its own
// character.
var deadKeys = map[string]rune{
	"dead_circumflex": '^', "dead_acute": '´', "dead_grave": '`', "dead_tilde": '~',
	"dead_diaeresis": '¨', "dead_cedilla": '¸', "dead_abovering": '°', "dead_caron": 'ˇ',
	"dead_breve": '˘', "dead_ogonek": '˛', "dead_macron": '¯', "dead_doubleacute": '˝',
}

func deadRune(name string) (rune, bool) { r, ok := deadKeys[name]; return r, ok }

// realModifiers is after the interpretations of xkeyboard-config's compat
// section. ISO_Level3_Shift is not here: it works through a virtual modifier,
// whatever real one its key is in.
var realModifiers = map[string]string{
	"Shift_L": "Shift", "Shift_R": "Shift", "Control_L": "Control", "Control_R": "Control",
	"Alt_L": "Mod1", "Alt_R": "Mod1", "Super_L": "Mod4", "Super_R": "Mod4",
	"Hyper_L": "Mod3", "Caps_Lock": "Lock", "Num_Lock": "Mod2",
}

// RealModifier is the X modifier whose map a key with this keysym must be in to
// act as what its keysym says, "" for a keysym that needs none.
func RealModifier(keysym string) string { return realModifiers[keysym] }

// modifierKeysyms are the modifiers that programs and desktops see of a key by its keysym, with
// their sides. Meta_L is not here: which real modifier it is in depends on the key.
var modifierKeysyms = map[string]Mods{
	"Shift_L": ShiftLeft, "Shift_R": ShiftRight, "Control_L": CtrlLeft, "Control_R": CtrlRight,
	"Alt_L": AltLeft, "Alt_R": AltRight, "Super_L": MetaLeft, "Super_R": MetaRight,
	"Hyper_L": Hyper, "ISO_Level3_Shift": AltGr,
}

// Modifier is the modifier that a key is by its first keysym, with its side; 0 for none.
func (s Symbols) Modifier() Mods { return modifierKeysyms[s.Level[0]] }

// RealModifier is that of a key that gives these keysyms: of the first level that has one.
func (s Symbols) RealModifier() string {
	for _, sym := range s.Level {
		if mod := realModifiers[sym]; mod != "" {
			return mod
		}
	}
	return ""
}

// KeysymName is the usual name of a keysym that may be given as a number, or as
// the number of a character that has a keysym of its own.
func KeysymName(name string) string {
	if hex, ok := strings.CutPrefix(name, "0x"); ok {
		if v, err := strconv.ParseUint(hex, 16, 32); err == nil && v>>24 == 1 {
			return RuneKeysym(rune(v & 0xFFFFFF))
		}
		return name
	}
	if r, ok := unicodeKeysym(name); ok && r < 0x100 {
		return RuneKeysym(r)
	}
	return name
}

// Capital is the keysym of the capital letter, for a small one, and else the
// keysym itself. It goes by X's own pairs, which lack those that Unicode has added
// since, and those of ς and ı, whose capitals are other letters'.
func Capital(sym string) string {
	r, ok := KeysymRune(sym)
	up := unicode.ToUpper(r)
	switch {
	case r == 'ß':
		up = 'ẞ'
	case !ok || up == r || sym == "function" || strings.ContainsRune("ςıͻͼͽϗ", r):
		return sym
	}
	if _, numbered := unicodeKeysym(sym); numbered && up > 0xFF {
		return fmt.Sprintf("U%04X", up)
	}
	return RuneKeysym(up)
}

// RuneKeysym is the keysym that types a character: its own, or that of its number.
func RuneKeysym(r rune) string {
	if r >= '0' && r <= '9' || r|0x20 >= 'a' && r|0x20 <= 'z' {
		return string(r)
	}
	if name, ok := find(characterData, fmt.Sprintf("%06x", r)); ok {
		return name
	}
	return fmt.Sprintf("U%04X", r)
}
