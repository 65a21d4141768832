package keys_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
)

// usages is the order of the keyboard page of the HID Usage Tables (page 0x07), by ranges
// of usages that follow each other; - is a usage without a key of ours.
var usages = map[int]string{
	0x04: "KeyA KeyB KeyC KeyD KeyE KeyF KeyG KeyH KeyI KeyJ KeyK KeyL KeyM KeyN KeyO KeyP KeyQ KeyR KeyS KeyT KeyU KeyV KeyW KeyX KeyY KeyZ " +
		"Digit1 Digit2 Digit3 Digit4 Digit5 Digit6 Digit7 Digit8 Digit9 Digit0 Enter Escape Backspace Tab Space Minus Equal BracketLeft BracketRight Backslash",
	0x33: "Semicolon Quote Backquote Comma Period Slash CapsLock F1 F2 F3 F4 F5 F6 F7 F8 F9 F10 F11 F12 PrintScreen ScrollLock Pause Insert Home PageUp " +
		"Delete End PageDown ArrowRight ArrowLeft ArrowDown ArrowUp NumLock NumpadDivide NumpadMultiply NumpadSubtract NumpadAdd NumpadEnter Numpad1 Numpad2 Numpad3 " +
		"Numpad4 Numpad5 Numpad6 Numpad7 Numpad8 Numpad9 Numpad0 NumpadDecimal IntlBackslash ContextMenu Power NumpadEqual F13 F14 F15 F16 F17 F18 F19 F20 F21 F22 F23 F24 " +
		"Open Help Props Select - Again Undo Cut Copy Paste Find AudioVolumeMute AudioVolumeUp AudioVolumeDown",
	0x85: "NumpadComma - IntlRo KanaMode IntlYen Convert NonConvert - - - - Lang1 Lang2 Lang3 Lang4 Lang5",
	0xB6: "NumpadParenLeft NumpadParenRight - - - NumpadBackspace",
	0xD0: "NumpadMemoryStore NumpadMemoryRecall NumpadMemoryClear NumpadMemoryAdd NumpadMemorySubtract - - - NumpadClear NumpadClearEntry",
	0xE0: "ControlLeft ShiftLeft AltLeft MetaLeft ControlRight ShiftRight AltRight MetaRight",
}

// The table has the usage of the standard for each key of a keyboard's page.
func TestUsages(t *testing.T) {
	seen := map[string]bool{}
	for first, codes := range usages {
		for i, code := range strings.Fields(codes) {
			if code == "-" {
				continue
			}
			k, ok := keys.ByCode(code)
			if !ok {
				continue // none of ours
			}
			seen[k.String()] = true
			usage, ok := k.HID()
			require.True(t, ok, code)
			if usage>>16 == 0x07 { // the consumer page has some of them, too
				assert.Equal(t, 0x070000+first+i, usage, "%s %#x", code, usage)
			}
		}
	}
	for _, k := range keys.All() {
		if usage, ok := k.HID(); ok && usage>>16 == 0x07 {
			assert.True(t, seen[k.String()], "%s %#x stands in no range", k, usage)
		}
	}
	assert.Greater(t, len(seen), 120)
}
