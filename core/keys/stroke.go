package keys

import (
	"bytes"
	"strings"
)

// Board is a keyboard under a layout: what programs get of each press, in each state. A layout of the system, a layout
// file of macOS and a layout library of Windows are boards; the proof walks two of them side by side.
type Board interface {
	// Press presses a key with modifiers held. The stroke is what programs get at once, and the state what the next
	// press finds.
	Press(s TypeState, k Key, held Mods) (Stroke, TypeState)
}

// Stroke is what programs get of a press.
type Stroke struct {
	// Text is what is typed, with the control characters of keys such as Enter.
	Text string
	// VK is what Windows calls the key to programs: its virtual key with its flags, Unassigned for one that no program
	// knows, and 0 for none. On a Mac it is 0, since a layout does not change keycodes.
	VK uint16
}

// Unassigned stands for any virtual key that no program knows.
const Unassigned = 0xFFFF

// Press presses a key under a layout of macOS or Windows.
func (l *Layout) Press(s TypeState, k Key, held Mods) (Stroke, TypeState) {
	if l.third == Alt {
		return l.pressOnMac(s, k, held)
	}
	return l.pressOnWindows(s, k, held)
}

// pressOnMac presses a key on a Mac: with Command, a key has its plain character, and with Control its control character.
func (l *Layout) pressOnMac(s TypeState, k Key, held Mods) (Stroke, TypeState) {
	_, has := k.Mac()
	chord := held&(Meta|Ctrl) != 0
	var text string
	switch r := MacOutput(k); {
	case !has:
		return Stroke{}, s
	case r != 0:
		text = string(r)
	case k.Section() == Numpad && l.keypad[k] != "":
		level := 0
		if held&Shift != 0 && !chord {
			level++
		}
		if held&l.thirdMods() != 0 && !chord {
			level += 2
		}
		text = string([]rune(l.keypad[k])[level])
	case chord:
		text, _ = l.Type(TypeState{}, k, 0)
		if held.Has(Ctrl) && len(text) == 1 && (isBasicLetter(text[0]) || strings.Contains(`[\]`, text)) {
			text = string(rune(text[0] & 0x1F))
		}
	default:
		text, s = l.Type(s, k, held)
		return Stroke{Text: text}, s
	}
	if text == "" {
		return Stroke{}, s
	}
	text, s = l.Finish(s, text)
	return Stroke{Text: text}, s
}

func isBasicLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

// pressOnWindows presses a key on Windows: with Ctrl, letters by their virtual keys and some signs have control characters.
func (l *Layout) pressOnWindows(s TypeState, k Key, held Mods) (Stroke, TypeState) {
	vk, ok := l.FlaggedVK(k)
	if code, sent := SentTogether(k, held); sent {
		return together[code], s
	}
	if !ok {
		return Stroke{}, s
	}
	digit := vk&NumpadVK != 0 && s.NumLock && held&Shift == 0
	if digit {
		code, _ := k.VK()
		vk = uint16(code)
	}
	stroke := Stroke{VK: seenVK(vk)}
	if held.Has(Alt) {
		return stroke, s
	}
	ctrl := held.Has(Ctrl)
	var text string
	switch pair, fixed := windowsControls[byte(vk)]; {
	case fixed && ctrl:
		text = string(pair[1])
	case held&l.thirdMods() != 0 && (fixed || k.Section() == Numpad): // which have no characters with AltGr
	case fixed:
		text = string(pair[0])
	case ctrl && vk >= 'A' && vk <= 'Z':
		text = string(rune(vk - 'A' + 1))
	case ctrl && l.control[k] != 0:
		text = string(l.control[k])
	case ctrl:
	case digit && byte(vk) == decimalVK:
		sign, _ := l.Decimal()
		text = string(sign)
	case k.Section() == Numpad:
		if sign := l.WindowsKeypad(k, digit); sign != 0 {
			text = string(sign)
		}
	default:
		stroke.Text, s = l.Type(s, k, held)
		return stroke, s
	}
	if text == "" {
		return stroke, s
	}
	stroke.Text, s = l.Finish(s, text)
	return stroke, s
}

// SentTogether is the scan code that a board sends for a key with a modifier, where that is another one: those of Ctrl and
// Pause, and of Alt and PrintScreen. (kbd.h: X46, T54)
func SentTogether(k Key, held Mods) (code int, ok bool) {
	switch {
	case k.String() == "Pause" && held.Has(Ctrl):
		return 0xE046, true
	case k.String() == "PrintScreen" && held.Has(Alt):
		return 0x54, true
	}
	return 0, false
}

// together is what programs get of those: VK_CANCEL with its control character, and VK_SNAPSHOT.
var together = map[int]Stroke{0xE046: {Text: "\x03", VK: 0x103}, 0x54: {VK: 0x02C}}

// seenVK is a virtual key as programs see it.
func seenVK(vk uint16) uint16 {
	if isUnassigned(byte(vk)) {
		return Unassigned
	}
	return vk
}

// macOutputs are the characters by which a Mac's layouts name keys that type no text.
// (Apple, Technical Note TN2056; the system's own layouts)
var macOutputs = map[string]rune{
	"Home": 0x01, "NumpadEnter": 0x03, "End": 0x04, "Insert": 0x05, "Help": 0x05, "Backspace": 0x08, "Tab": 0x09,
	"PageUp": 0x0B, "PageDown": 0x0C, "Enter": 0x0D, "NumLock": 0x1B, "Escape": 0x1B, "ArrowLeft": 0x1C,
	"ArrowRight": 0x1D, "ArrowUp": 0x1E, "ArrowDown": 0x1F, "Delete": 0x7F,
}

// macFunction is the character of every function key.
const macFunction = 0x10

// MacOutput is the character by which every layout of macOS names a key that types no text; 0 for a key that it has
// none for.
func MacOutput(k Key) rune {
	if r, ok := macOutputs[k.String()]; ok {
		return r
	}
	if _, has := k.Mac(); has && k.Section() == Function && k.String() != "Fn" {
		return macFunction
	}
	return 0
}

// WindowsKeypad is what a key of the numeric keypad but the decimal one types under a layout of Windows, with NumLock
// on or off; 0 for nothing.
func (l *Layout) WindowsKeypad(k Key, numLock bool) rune {
	if own := []rune(l.keypad[k]); len(own) > 0 {
		return own[0]
	}
	vk, ok := k.VK()
	digit := vk < 0x6A
	if !ok || k.Section() != Numpad || vk < 0x60 || vk > 0x6F || vk == decimalVK || digit && !numLock {
		return 0
	}
	return numpad[vk-0x60]
}

// Flags of the virtual keys in a layout's table of scan codes. (kbd.h: KBDEXT, KBDSPECIAL, KBDNUMPAD, KBDMULTIVK)
const (
	extendedVK = 0x100
	specialVK  = 0x200
	NumpadVK   = 0x400
	multiVK    = 0x800
)

// withoutNumLock are the virtual keys of the numeric keypad's keys while NumLock is off, by those while it is on: Insert,
// End, Down, PageDown, Left, Clear, Right, Home, Up, PageUp, and Delete for the decimal sign. (kbd.h: T47 to T53)
var withoutNumLock = map[int]uint16{
	0x60: 0x2D, 0x61: 0x23, 0x62: 0x28, 0x63: 0x22, 0x64: 0x25, 0x65: 0x0C, 0x66: 0x27, 0x67: 0x24, 0x68: 0x26,
	0x69: 0x21, decimalVK: 0x2E,
}

// japanese are keys that have virtual keys under Japanese and Korean layouts only.
var japanese = map[string]bool{
	"Convert": true, "NonConvert": true, "KanaMode": true, "Lang1": true, "Lang2": true,
}

// SystemVK is the virtual key that every layout of Windows gives a key outside of the writing area, with its flags; not
// ok where a key has none, or a layout decides.
func SystemVK(k Key) (vk uint16, ok bool) {
	if k.String() == "Pause" {
		return 0x13, true
	}
	code, coded := k.Scancode()
	number, ok := k.VK()
	if !coded || !ok || japanese[k.String()] || k.Section() == Writing || k.String() == "NumpadComma" {
		return 0, false
	}
	vk = uint16(number)
	if other, moves := withoutNumLock[number]; moves && k.Section() == Numpad {
		vk = other | NumpadVK | specialVK
	}
	if code&0xFF00 == 0xE000 || k.String() == "ShiftRight" || k.String() == "NumLock" {
		vk |= extendedVK
	}
	switch k.String() { // which are other virtual keys with Ctrl
	case "NumLock", "NumpadMultiply", "ScrollLock":
		vk |= multiVK
	}
	return vk, true
}

// FlaggedVK is the virtual key of a key under a layout of Windows, with its flags.
func (l *Layout) FlaggedVK(k Key) (vk uint16, ok bool) {
	if vk, ok = SystemVK(k); ok {
		return vk, true
	}
	if _, coded := k.Scancode(); !coded || k.Section() != Writing && l.virtual[k] == "" {
		return 0, false
	}
	code, ok := l.VirtualCode(k)
	return uint16(code), ok
}

// windowsControls are the characters of keys that type no text, alone and with Ctrl, by their virtual keys.
// (kbd.h's samples: VK_BACK, VK_TAB, VK_RETURN, VK_ESCAPE)
var windowsControls = map[byte][2]rune{
	0x08: {'\b', 0x7F}, 0x09: {'\t', '\t'}, 0x0D: {'\r', '\n'}, 0x1B: {0x1B, 0x1B},
}

// WindowsControls are the characters of a virtual key that types no text, alone and with Ctrl; not ok for another one.
func WindowsControls(vk byte) (alone, withCtrl rune, ok bool) {
	pair, ok := windowsControls[vk]
	return pair[0], pair[1], ok
}

// unassigned are virtual keys that are assigned to nothing. (winuser.h)
var unassigned = []byte{
	0x98, 0x99, 0x9A, 0x9B, 0x9C, 0x9D, 0x9E, 0x9F, 0x3A, 0x3B, 0x3C, 0x3D, 0x3E, 0x3F, 0x40, 0x0E, 0x0F, 0x0A, 0x0B, 0x5E,
	0xB8, 0xB9, 0xE0, 0x07,
}

// UnassignedVK is the virtual key number at, from 0, of those that are assigned to nothing, which programs do not know.
func UnassignedVK(at int) byte { return unassigned[at%len(unassigned)] }

func isUnassigned(vk byte) bool { return bytes.IndexByte(unassigned, vk) >= 0 }

// windowsFact is what the list of layouts does not say of one of Windows. How certain each is stands in
// docs/platforms.md.
type windowsFact struct {
	decimal rune // what the decimal key of the keypad types; 0 where that is not on record
	// digits: CapsLock exchanges the two characters of the keys of the digits' row.
	digits bool
	// control are the keys with U+001B, U+001C and U+001D by Ctrl, where those are not the keys of [, \ and ].
	control [3]string
}

var windowsFacts = map[string]windowsFact{
	"us": {decimal: '.'}, "us(intl)": {decimal: '.'}, "gb": {decimal: '.'}, "ch": {decimal: '.'}, "be": {decimal: '.'},
	"de": {decimal: ',', digits: true, control: [3]string{"BracketLeft", "Backslash", "BracketRight"}},
	"fr": {decimal: '.', digits: true},
	"dk": {decimal: ','}, "se": {decimal: ','}, "no": {decimal: ','}, "cz": {decimal: ','}, "hu": {decimal: ','},
	"ru": {decimal: ','}, "es": {decimal: ','}, "it": {decimal: ','}, "pt": {decimal: ','}, "br": {decimal: ','},
}

// isDigit says whether a key is one of the digits' row.
func isDigit(k Key) bool { return strings.HasPrefix(k.String(), "Digit") }

// addWindowsFacts gives a layout of Windows what the list of what keys type does not say.
func (l *Layout) addWindowsFacts() {
	facts := windowsFacts[l.Name]
	l.decimal, l.control = facts.decimal, map[Key]rune{}
	for _, k := range All() {
		own := &l.keys[k]
		if facts.digits && isDigit(k) && own.has {
			own.Type = "ALPHABETIC"
			if len(own.Level) > 2 {
				own.Type = "FOUR_LEVEL_SEMIALPHABETIC"
			}
		}
		if facts.control == [3]string{} && (k.Section() == Writing) && own.typed != "" {
			if at := strings.IndexRune(`[\]`, []rune(own.typed)[0]); at >= 0 {
				l.control[k] = rune(0x1B + at)
			}
		}
	}
	for at, code := range facts.control {
		if k, ok := ByCode(code); ok {
			l.control[k] = rune(0x1B + at)
		}
	}
}

// Decimal is the decimal sign that the numeric keypad types under a layout of Windows; a full stop, and not known, where
// that is not on record.
func (l *Layout) Decimal() (sign rune, known bool) {
	if l.decimal == 0 {
		return '.', false
	}
	return l.decimal, true
}
