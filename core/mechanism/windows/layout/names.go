package layout

import (
	"regexp"
	"strings"

	"leitstand/core/keys"
)

// called are keys that programs call otherwise than the words of their codes.
var called = map[string]string{
	"ControlLeft": "Ctrl", "ControlRight": "Right Ctrl", "ShiftLeft": "Shift", "ShiftRight": "Right Shift",
	"AltLeft": "Alt", "AltRight": "Right Alt", "MetaLeft": "Left Windows", "MetaRight": "Right Windows",
	"ContextMenu": "Application", "Escape": "Esc", "ArrowLeft": "Left", "ArrowRight": "Right", "ArrowUp": "Up",
	"ArrowDown": "Down", "NumpadAdd": "Num +", "NumpadSubtract": "Num -", "NumpadMultiply": "Num *",
	"NumpadDivide": "Num /", "NumpadDecimal": "Num .", "NumpadComma": "Num ,",
}

var word = regexp.MustCompile(`([a-z])([A-Z0-9])`)

// namesOf are what programs call the keys that do not type, in English, by their scan codes and those behind E0: a key
// that types is called by what it types.
func namesOf() (names, e0 map[byte]string) {
	names, e0 = map[byte]string{0x45: "Pause"}, map[byte]string{0x45: "Num Lock", 0x46: "Break"}
	for _, k := range keys.All() {
		code, ok := k.Scancode()
		if !ok || k.Section() == keys.Writing && k.String() != "Space" || k.String() == "NumLock" {
			continue
		}
		name := called[k.String()]
		if name == "" {
			name = strings.Replace(word.ReplaceAllString(k.String(), "$1 $2"), "Numpad", "Num", 1)
		}
		if code&0xFF00 == 0xE000 {
			e0[byte(code)] = name
		} else {
			names[byte(code)] = name
		}
	}
	return names, e0
}
