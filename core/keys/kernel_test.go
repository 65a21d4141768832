package keys_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/keys"
	"leitstand/internal/realtest"
)

// otherwise are the event codes of keys that are not the table's.
var otherwise = map[string]map[string]int{
	// The emulator's board sends other usages for these: RightMeta, F13, F24.
	realtest.USBBoard: {"NumpadComma": 126, "NumpadEqual": 183, "F13": 194},
	// The kernel has one event code for the key's usage, which is the table's, and another
	// for its scan code.
	realtest.PCBoard: {"LaunchApp1": 157, "MediaSelect": 226},
}

// A kernel makes of a key's scan code, and of the HID usage that a board on a USB port
// sends for it, the event code of the table.
func TestPressedOnKernel(t *testing.T) {
	t.Parallel()
	k := realtest.Boot(t, nil)
	for _, board := range []string{realtest.USBBoard, realtest.PCBoard} {
		if board == realtest.PCBoard {
			k.Unplug()
		}
		pressed := 0
		for _, key := range keys.All() {
			scan, ok := key.Scancode()
			code, known := key.Evdev()
			got := realtest.Reaction{}
			if ok && known {
				got = k.Chord(scan)
			}
			if len(got.Pressed) == 0 {
				continue // the emulator's board lacks it
			}
			pressed++
			if other, ok := otherwise[board][key.String()]; ok {
				code = other
			}
			assert.Equal(t, []int{code}, got.Pressed, "%s on %s", key, board)
			assert.Equal(t, board, got.Board)
		}
		assert.Greater(t, pressed, 100, board)
	}
}
