package keys_test

import (
	"bufio"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
)

// numbers reads the first two hexadecimal numbers of each line of a table.
func numbers(t *testing.T, name string) map[int]int {
	t.Helper()
	file, err := os.Open("testdata/" + name)
	require.NoError(t, err)
	defer file.Close()
	found := map[int]int{}
	for lines := bufio.NewScanner(file); lines.Scan(); {
		if strings.HasPrefix(lines.Text(), "#") {
			continue
		}
		var at, is int
		_, err := fmt.Sscanf(lines.Text(), "%X %X", &at, &is)
		require.NoError(t, err, lines.Text())
		found[at] = is
	}
	return found
}

// The table of keys says of scan codes what the header of Windows says.
func TestVirtualKeysOfWindows(t *testing.T) {
	list := numbers(t, "windows-scan-codes.txt")
	seen := map[int]bool{0x54: true, 0xE046: true} // which are sent for two keys together
	for _, k := range keys.All() {
		vk, ok := keys.SystemVK(k)
		code, coded := k.Scancode()
		if !ok || !coded {
			continue
		}
		seen[code] = true
		assert.Equal(t, fmt.Sprintf("%03X", list[code]), fmt.Sprintf("%03X", vk), k)
	}
	for code, vk := range list {
		assert.True(t, seen[code], "no key has the scan code %02X of the virtual key %03X", code, vk)
	}
}

// Keys that type no text have the characters that Apple lists, and no other key has one.
func TestCharactersOfMac(t *testing.T) {
	list := numbers(t, "mac-characters.txt")
	for _, k := range keys.All() {
		if code, ok := k.Mac(); ok {
			assert.Equal(t, rune(list[code]), keys.MacOutput(k), k)
		} else {
			assert.Zero(t, keys.MacOutput(k), k)
		}
	}
}

// What programs get of keys that are no letters, with modifiers and locks.
func TestPress(t *testing.T) {
	numLock := keys.TypeState{NumLock: true}
	for _, c := range []struct {
		system, layout string
		state          keys.TypeState
		stroke         string
		text           string
		vk             uint16
	}{
		{"macos", "de", keys.TypeState{}, "NumpadDecimal", ",", 0}, {"macos", "de", keys.TypeState{}, "Alt+NumpadDecimal", ".", 0},
		{"macos", "us", keys.TypeState{}, "NumpadDecimal", ".", 0}, {"macos", "us", keys.TypeState{}, "NumpadSubtract", "-", 0},
		{"macos", "us", keys.TypeState{}, "Shift+Numpad7", "7", 0}, {"macos", "us", keys.TypeState{}, "Meta+KeyA", "a", 0},
		{"macos", "us", keys.TypeState{}, "Ctrl+KeyA", "\x01", 0}, {"macos", "us", keys.TypeState{}, "Ctrl+BracketLeft", "\x1b", 0},
		{"macos", "fr", keys.TypeState{}, "Meta+KeyQ", "a", 0}, {"macos", "us", keys.TypeState{}, "Enter", "\r", 0},
		{"macos", "us", keys.TypeState{Accents: "´"}, "Numpad1", "´1", 0}, {"macos", "us", keys.TypeState{}, "ShiftLeft", "", 0},
		{"windows", "de", numLock, "NumpadDecimal", ",", 0x6E}, {"windows", "us", numLock, "NumpadDecimal", ".", 0x6E},
		{"windows", "de", keys.TypeState{}, "NumpadDecimal", "", 0x62E}, {"windows", "de", numLock, "Numpad7", "7", 0x67},
		{"windows", "de", numLock, "Shift+Numpad7", "", 0x624}, {"windows", "de", keys.TypeState{}, "NumpadDivide", "/", 0x16F},
		{"windows", "br", keys.TypeState{}, "NumpadComma", ".", 0xC2}, {"windows", "us", keys.TypeState{}, "NumpadComma", "", 0},
		{"windows", "de", keys.TypeState{}, "Ctrl+BracketLeft", "\x1b", 0xBA},
		{"windows", "de", keys.TypeState{}, "Ctrl+BracketRight", "\x1d", 0xBB},
		{"windows", "de", keys.TypeState{}, "Ctrl+Backslash", "\x1c", 0xBF}, {"windows", "us", keys.TypeState{}, "Ctrl+Backslash", "\x1c", 0xDC},
		{"windows", "de", keys.TypeState{}, "Ctrl+KeyY", "\x1a", 'Z'}, {"windows", "de", keys.TypeState{}, "Ctrl+Backspace", "\x7f", 0x08},
		{"windows", "de", keys.TypeState{}, "Ctrl+Pause", "\x03", 0x103}, {"windows", "de", keys.TypeState{}, "Pause", "", 0x13},
		{"windows", "de", keys.TypeState{}, "Alt+PrintScreen", "", 0x2C}, {"windows", "de", keys.TypeState{}, "PrintScreen", "", 0x12C},
		{"windows", "us(intl)", keys.TypeState{Accents: "´"}, "Enter", "'\r", 0x0D}, {"windows", "de", keys.TypeState{}, "F7", "", 0x76},
	} {
		l, _, ok := keys.FindLayoutOn(c.system, c.layout)
		require.True(t, ok)
		var held keys.Mods
		parts := strings.Split(c.stroke, "+")
		for _, name := range parts[:len(parts)-1] {
			mod, _ := keys.ModByName(name)
			held |= mod
		}
		k, ok := keys.ByCode(parts[len(parts)-1])
		require.True(t, ok)
		got, _ := l.Press(c.state, k, held)
		assert.Equal(t, keys.Stroke{Text: c.text, VK: c.vk}, got, "%s %s %s", c.system, c.layout, c.stroke)
	}
}
