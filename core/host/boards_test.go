package host_test

import (
	"io/fs"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/host"
	"leitstand/core/machine"
)

// attached is what a kernel lists of a laptop with a board, a mouse that has keys, a receiver, a game pad and buttons
// of its own, as it spells them.
const attached = `I: Bus=0019 Vendor=0000 Product=0001 Version=0000
N: Name="Power Button"
P: Phys=PNP0C0C/button/input0
S: Sysfs=/devices/LNXSYSTM:00/LNXPWRBN:00/input/input0
U: Uniq=
H: Handlers=kbd event0
B: PROP=0
B: EV=3
B: KEY=10000000000000 0

I: Bus=0011 Vendor=0001 Product=0001 Version=ab41
N: Name="AT Translated Set 2 keyboard"
P: Phys=isa0060/serio0/input0
U: Uniq=
H: Handlers=sysrq kbd leds event1
B: EV=120013
B: KEY=402000000 3803078f800d001 feffffdfffefffff fffffffffffffffe
B: MSC=10
B: LED=7

I: Bus=0003 Vendor=1209 Product=c0de Version=0111
N: Name="Tide Chart Table Consumer Control"
P: Phys=usb-0000:00:14.0-1/input1
U: Uniq=
H: Handlers=kbd event3
B: EV=1f
B: KEY=3f000301ff 0 0 483ffff17aff32d bfd4444600000000 1 130ff38b17d000 677bfad9415fed 9ed68000004400 10000002
B: REL=1040
B: ABS=100000000
B: MSC=10

I: Bus=0003 Vendor=1209 Product=c0de Version=0111
N: Name="Tide Chart Table"
P: Phys=usb-0000:00:14.0-1/input0
U: Uniq=
H: Handlers=sysrq kbd leds event2
B: EV=120013
B: KEY=1000000000007 ff9f207ac14057ff febeffdfffefffff fffffffffffffffe

I: Bus=0005 Vendor=1209 Product=0002 Version=0011
N: Name="Gauge Mouse"
P: Phys=00:11:22:33:44:55
U: Uniq=66:77:88:99:aa:bb
H: Handlers=mouse0 event4
B: EV=17
B: KEY=ff0000 0 0 0 0
B: REL=1943

I: Bus=0003 Vendor=1209 Product=0003 Version=0011
N: Name="Tide Receiver"
P: Phys=usb-2/input0
U: Uniq=
H: Handlers=sysrq kbd event5
B: EV=120013
B: KEY=1000000000007 ff9f207ac14057ff febeffdfffefffff fffffffffffffffe

I: Bus=0003 Vendor=1209 Product=0003 Version=0011
N: Name="Tide Receiver Mouse"
P: Phys=usb-2/input1
U: Uniq=
H: Handlers=mouse1 event6
B: EV=17
B: KEY=ff0000 0 0 0 0
B: REL=1943

I: Bus=0003 Vendor=1209 Product=0004 Version=0011
N: Name="Boat Wheel"
P: Phys=usb-3/input0
U: Uniq=
H: Handlers=js0 event7
B: EV=b
B: KEY=7fdb000000000000 0 0 0 0
B: ABS=3

I: Bus=0000 Vendor=0000 Product=0000 Version=0000
N: Name="A lid"
P: Phys=
U: Uniq=
H: Handlers=event8
B: EV=21
B: SW=1
`

func TestBoards(t *testing.T) {
	list, err := host.Boards(fstest.MapFS{"proc/bus/input/devices": {Data: []byte(attached)}})
	require.NoError(t, err)
	var got [][4]string
	for _, d := range list {
		id := ""
		if d.Identified {
			id = d.ID.String()
		}
		board := ""
		if b := d.Match([]*machine.Board{
			{Name: "any", IDs: []machine.BoardID{{Bus: machine.AnyExternal}}},
			{Name: "chart-table", IDs: []machine.BoardID{{Bus: machine.USB, Vendor: 0x1209, Product: 0xC0DE}}},
		}); b != nil {
			board = b.Name
		}
		got = append(got, [4]string{d.Name, id, d.Why, board})
	}
	assert.Equal(t, [][4]string{
		{"AT Translated Set 2 keyboard", "built-in", "a keyboard: it has letters and digits", ""},
		{"Tide Chart Table", "usb:1209:c0de", "a keyboard: it has letters and digits", "chart-table"},
		{
			"Tide Receiver",
			"usb:1209:0003",
			"a keyboard and a mouse in one: a receiver, or a mouse that has all keys",
			"any",
		},
		{"Power Button", "", "some keys only, such as Power", ""},
		{"Gauge Mouse", "bluetooth:1209:0002", "a mouse or a pad that moves the pointer", ""},
		{"Boat Wheel", "usb:1209:0004", "buttons of a game pad or a pen", ""},
	}, got)
	assert.Equal(t, []string{"event3", "event2"}, list[1].Events)

	_, err = host.Boards(fstest.MapFS{})
	assert.ErrorIs(t, err, fs.ErrNotExist)
}

// Whatever a kernel lists is read without harm.
func FuzzBoards(f *testing.F) {
	f.Add(attached)
	f.Fuzz(func(_ *testing.T, text string) {
		_, _ = host.Boards(fstest.MapFS{"proc/bus/input/devices": {Data: []byte(text)}})
	})
}

// A mapping gets a board for each keyboard that has an identity of its own and can be detached, once.
func TestOwnBoards(t *testing.T) {
	id := func(text string) machine.BoardID {
		id, ok := machine.ParseBoardID(text)
		require.True(t, ok, text)
		return id
	}
	board := func(text string) host.Attached {
		return host.Attached{Name: "Tide Chart Table", ID: id(text), Identified: true, Keyboard: true}
	}
	mouse, nameless, own := board("usb:1209:0002"), board("usb:1209:0003"), board("usb:1209:0004")
	mouse.Keyboard, nameless.Identified, own.ID.Bus = false, false, machine.BuiltIn
	var got []string
	for _, b := range host.OwnBoards([]host.Attached{
		board("usb:1209:0001"), mouse, nameless, own, board("usb:1209:0001"), board("usb:1209:0005"),
	}) {
		got = append(got, b.Name+" "+b.IDs[0].String())
	}
	assert.Equal(t, []string{"tide-chart-table usb:1209:0001", "tide-chart-table-2 usb:1209:0005"}, got)
}
