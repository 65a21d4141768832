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
	0x04: "KeyA KeyB KeyC KeyD KeyE KeyF KeyG KeyH KeyI KeyJ KeyK KeyL KeyM KeyN KeyO KeyP KeyQ KeyR KeyS KeyT " +
		"KeyU KeyV KeyW KeyX KeyY KeyZ " +
		"Digit1 Digit2 Digit3 Digit4 Digit5 Digit6 Digit7 Digit8 Digit9 Digit0 Enter Escape Backspace Tab Space " +
		"Minus Equal BracketLeft BracketRight Backslash",
	0x33: "Semicolon Quote Backquote Comma Period Slash CapsLock F1 F2 F3 F4 F5 F6 F7 F8 F9 F10 F11 F12 " +
		"PrintScreen ScrollLock Pause Insert Home PageUp " +
		"Delete End PageDown ArrowRight ArrowLeft ArrowDown ArrowUp NumLock NumpadDivide NumpadMultiply " +
		"NumpadSubtract NumpadAdd NumpadEnter Numpad1 Numpad2 Numpad3 " +
		"Numpad4 Numpad5 Numpad6 Numpad7 Numpad8 Numpad9 Numpad0 NumpadDecimal IntlBackslash ContextMenu Power " +
		"NumpadEqual F13 F14 F15 F16 F17 F18 F19 F20 F21 F22 F23 F24 " +
		"Open Help Props Select - Again Undo Cut Copy Paste Find AudioVolumeMute AudioVolumeUp AudioVolumeDown",
	0x85: "NumpadComma - IntlRo KanaMode IntlYen Convert NonConvert - - - - Lang1 Lang2 Lang3 Lang4 Lang5",
	0xB6: "NumpadParenLeft NumpadParenRight - - - NumpadBackspace",
	0xD0: "NumpadMemoryStore NumpadMemoryRecall NumpadMemoryClear NumpadMemoryAdd NumpadMemorySubtract - - - " +
		"NumpadClear NumpadClearEntry",
	0xE0: "ControlLeft ShiftLeft AltLeft MetaLeft ControlRight ShiftRight AltRight MetaRight",
}

// virtual is Windows' virtual-key codes of keys that follow each other, under the US layout.
var virtual = map[int]string{
	0x08: "Backspace Tab", 0x0D: "Enter", 0x13: "Pause CapsLock", 0x1B: "Escape", 0x20: "Space PageUp PageDown End " +
		"Home ArrowLeft ArrowUp ArrowRight ArrowDown",
	0x2C: "PrintScreen Insert Delete", 0x30: "Digit0 Digit1 Digit2 Digit3 Digit4 Digit5 Digit6 Digit7 Digit8 Digit9",
	0x41: "KeyA KeyB KeyC KeyD KeyE KeyF KeyG KeyH KeyI KeyJ KeyK KeyL KeyM KeyN KeyO KeyP KeyQ KeyR KeyS KeyT " +
		"KeyU KeyV KeyW KeyX KeyY KeyZ MetaLeft MetaRight ContextMenu",
	0x60: "Numpad0 Numpad1 Numpad2 Numpad3 Numpad4 Numpad5 Numpad6 Numpad7 Numpad8 Numpad9 NumpadMultiply NumpadAdd", 0x6D: "NumpadSubtract NumpadDecimal NumpadDivide " +
		"F1 F2 F3 F4 F5 F6 F7 F8 F9 F10 F11 F12 F13 F14 F15 F16 F17 F18 F19 F20 F21 F22 F23 F24",
	0x90: "NumLock ScrollLock", 0xA0: "ShiftLeft ShiftRight ControlLeft ControlRight AltLeft AltRight", 0xAD: "AudioVolumeMute AudioVolumeDown AudioVolumeUp MediaTrackNext MediaTrackPrevious MediaStop MediaPlayPause",
	0xBA: "Semicolon Equal Comma Minus Period Slash Backquote", 0xDB: "BracketLeft Backslash BracketRight Quote", 0xE2: "IntlBackslash", 0x04: "MouseMiddle MouseBack MouseForward",
}

// cocoa is macOS' virtual keycodes of keys that follow each other; - is a keycode without
// a key of ours, or whose key is another's on other boards.
var cocoa = map[int]string{
	0x00: "KeyA KeyS KeyD KeyF KeyH KeyG KeyZ KeyX KeyC KeyV - KeyB KeyQ KeyW KeyE KeyR KeyY KeyT Digit1 Digit2 " +
		"Digit3 Digit4 Digit6 Digit5 Equal Digit9 Digit7 Minus Digit8 Digit0 " +
		"BracketRight KeyO KeyU BracketLeft KeyI KeyP Enter KeyL KeyJ Quote KeyK Semicolon Backslash Comma Slash " +
		"KeyN KeyM Period Tab Space Backquote Backspace - Escape MetaRight MetaLeft " +
		"ShiftLeft CapsLock AltLeft ControlLeft ShiftRight AltRight ControlRight Fn F17 NumpadDecimal - " +
		"NumpadMultiply - NumpadAdd - - - - - NumpadDivide NumpadEnter - NumpadSubtract F18 F19 " +
		"NumpadEqual Numpad0 Numpad1 Numpad2 Numpad3 Numpad4 Numpad5 Numpad6 Numpad7 F20 Numpad8 Numpad9 IntlYen " +
		"IntlRo NumpadComma F5 F6 F7 F3 F8 F9 - F11 - F13 F16 F14 - F10 - F12 - F15 " +
		"- Home PageUp Delete F4 End F2 PageDown F1 ArrowLeft ArrowRight ArrowDown ArrowUp",
}

// The table has the numbers that Windows and macOS give their keys.
func TestVirtualKeys(t *testing.T) {
	check := func(first int, codes string, number func(keys.Key) (int, bool)) {
		for i, code := range strings.Fields(codes) {
			k, ok := keys.ByCode(code)
			if code == "-" || !assert.True(t, ok, code) {
				continue
			}
			if n, has := number(k); assert.True(t, has, code) {
				assert.Equal(t, first+i, n, "%s: %#x", code, n)
			}
		}
	}
	for first, codes := range virtual {
		check(first, codes, keys.Key.VK)
	}
	for first, codes := range cocoa {
		check(first, codes, keys.Key.Mac)
	}
	// The page of buttons counts them from the left one.
	for i, code := range []string{"MouseMiddle", "MouseBack", "MouseForward", "Mouse6", "Mouse7", "Mouse8"} {
		k := keys.Buttons()[i]
		usage, ok := k.HID()
		assert.True(t, ok && usage == 0x090003+i, code)
		assert.Equal(t, code, k.String())
	}
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
