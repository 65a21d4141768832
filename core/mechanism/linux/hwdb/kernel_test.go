package hwdb_test

import (
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/hwdb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// The steps are taken as they stand, and a kernel's drivers give what is meant, on a board with entries of its own and on the
// other, when the keys are pressed.
func TestPressedOnKernel(t *testing.T) {
	realtest.Pressed(t, "hwdb", "udev", "keys of a board and of all, as the driver gives them")
	m := machine(true)
	m.Boards = []*mapping.Board{
		{Name: "chart-table", IDs: []mapping.BoardID{{Bus: mapping.USB, Vendor: 0x627, Product: 1}}},
	}
	list := []mechanism.Binding{
		sample.Becomes(
			"CapsLock", "Escape",
		), sample.Becomes("MetaLeft", "AltLeft"), sample.Becomes("AltLeft", "MetaLeft"), sample.Becomes("ContextMenu", "F13"),
		sample.Becomes(
			"ScrollLock", "MediaPlayPause",
		), sample.Becomes("NumpadEnter", "KeyZ"), sample.Becomes("IntlBackslash", "ShiftLeft"), sample.Nothing("Insert"),
		sample.On(
			"chart-table", sample.Becomes("CapsLock", "ControlLeft"),
		), sample.On("chart-table", sample.Becomes("KeyA", "ArrowLeft")), sample.On("chart-table", sample.Nothing("F1")),
	}
	for _, b := range list {
		require.Equal(t, mechanism.Exact, hwdb.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	out, err := mechanism.Write(hwdb.Mechanism{}, m, list)
	require.NoError(t, err)
	k := realtest.Boot(t, map[string][]byte{out.Files()[0].Path: out.Files()[0].Data}, out.Steps()[0].Lines...)
	k.Pressed("hwdb", "keys of a board and of all, as the driver gives them")
	kept := realtest.Specimen{Component: "Linux", Version: k.Version(), Files: []string{"90-leitstand.hwdb"}}
	for _, c := range []struct {
		board  string
		device string
		more   map[string]string // what differs there
	}{
		{"chart-table", realtest.USBBoard, map[string]string{"CapsLock": "ControlLeft", "KeyA": "ArrowLeft", "F1": ""}},
		{"a PC's own", realtest.PCBoard, nil},
	} {
		if c.device == realtest.PCBoard {
			k.Unplug()
		}
		acts := map[string]string{
			"CapsLock": "Escape", "MetaLeft": "AltLeft", "AltLeft": "MetaLeft", "ContextMenu": "F13",
			"ScrollLock": "MediaPlayPause", "NumpadEnter": "KeyZ",
			"IntlBackslash": "ShiftLeft", "Insert": "", "KeyA": "KeyA", "F1": "F1", "MetaRight": "MetaRight",
			"Numpad0": "Numpad0", "Enter": "Enter",
		}
		for _, from := range slices.Sorted(maps.Keys(acts)) {
			to := acts[from]
			if other, ok := c.more[from]; ok {
				to = other
			}
			var want []int
			if to != "" {
				want = []int{sample.Evdev(sample.Key(to))}
			}
			got := k.Chord(sample.Scancode(sample.Key(from)))
			kept.Presses = append(
				kept.Presses, realtest.SpecimenPress{Keys: []string{from}, Board: c.device, Codes: got.Pressed},
			)
			assert.Equal(t, want, got.Pressed, "%s on %s", from, c.board)
			if want != nil {
				assert.Equal(t, c.device, got.Board, from)
			}
		}
	}
	kept.Keep(t, "hwdb", "", map[string][]byte{"90-leitstand.hwdb": out.Files()[0].Data})
}
