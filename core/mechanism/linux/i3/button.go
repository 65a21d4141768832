package i3

import (
	"fmt"

	"leitstand/core/keys"
)

// xButtons are the X server's numbers of mouse buttons; numbers 4 to 7 are the wheels.
var xButtons = map[string]string{
	"MouseMiddle": "button2", "MouseBack": "button8", "MouseForward": "button9", "Mouse6": "button10",
	"Mouse7": "button11", "Mouse8": "button12",
}

// wordOver is what a binding needs that is to hold over the whole of a window, and not
// its title only.
const wordOver = "--whole-window "

// button names a button of a mouse. sway counts nine and knows the others by the
// kernel's names.
func (t Mechanism) button(k keys.Key) string {
	if name := xButtons[k.String()]; !t.Sway || len(name) == len("button0") {
		return name
	}
	code, _ := k.Evdev()
	return map[int]string{0x115: "BTN_FORWARD", 0x116: "BTN_BACK", 0x117: "BTN_TASK"}[code]
}

// buttonNamed reads a name of a button.
func buttonNamed(name string) (keys.Key, error) {
	codes := map[string]int{
		"button2": 0x112, "button8": 0x113, "button9": 0x114, "button10": 0x115, "button11": 0x116, "button12": 0x117,
		"BTN_FORWARD": 0x115, "BTN_BACK": 0x116, "BTN_TASK": 0x117,
	}
	if code, ok := codes[name]; ok {
		if k, ok := keys.ByEvdev(code); ok {
			return k, nil
		}
	}
	return keys.None, fmt.Errorf("%q is no button of a mouse that we know", name)
}
