package host

import (
	"fmt"
	"io/fs"
	"math/bits"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Attached is a device with keys that is attached to the machine.
type Attached struct {
	Name string
	// ID is its identity as a mapping spells it; Identified says whether it has one.
	ID         machine.BoardID
	Identified bool
	Keyboard   bool
	Why        string   // what it is, and by what that is known
	Events     []string // the names of its event devices, below /dev/input
	group      string
	parts      []part
}

// part is one of the event devices of a device.
type part struct {
	keys    []int // the kernel's codes
	moves   bool  // it has axes that are moved
	letters bool
}

// devices is where the kernel lists input devices. (The kernel's drivers/input/input.c, input_devices_seq_show.)
const devices = "proc/bus/input/devices"

// Boards finds the devices with keys that are attached, keyboards first. The parts of one device are one. Root is the
// machine's file system.
func Boards(root fs.FS) ([]Attached, error) {
	text, err := fs.ReadFile(root, devices)
	if err != nil {
		return nil, err
	}
	var list []Attached
	for paragraph := range strings.SplitSeq(string(text), "\n\n") {
		d, ok := device(paragraph)
		if !ok {
			continue
		}
		at := slices.IndexFunc(list, func(o Attached) bool { return o.group == d.group })
		if at < 0 {
			list = append(list, d)
			continue
		}
		list[at].Events, list[at].parts = append(list[at].Events, d.Events...), append(list[at].parts, d.parts...)
		if d.parts[0].letters { // the part that is the keyboard names it
			list[at].Name = d.Name
		}
	}
	for i := range list {
		list[i].judge()
	}
	slices.SortStableFunc(list, func(a, b Attached) int {
		return map[bool]int{true: 0, false: 1}[a.Keyboard] - map[bool]int{true: 0, false: 1}[b.Keyboard]
	})
	return list, nil
}

var (
	identity = mechanism.Pattern(`(?m)^I: Bus=([0-9a-f]{4}) Vendor=([0-9a-f]{4}) Product=([0-9a-f]{4})`)
	named    = mechanism.Pattern(`(?m)^N: Name="(.*)"$`)
	physical = mechanism.Pattern(`(?m)^P: Phys=(.*)$`)
	unique   = mechanism.Pattern(`(?m)^U: Uniq=(.*)$`)
	event    = mechanism.Pattern(`\bevent\d+\b`)
	bitmap   = mechanism.Pattern(`(?m)^B: (KEY|REL|ABS)=([0-9a-f ]+)$`)
)

// device reads one paragraph of the kernel's list, if it is a device with keys.
func device(paragraph string) (d Attached, ok bool) {
	id := identity().FindStringSubmatch(paragraph)
	if id == nil {
		return d, false
	}
	field := func(r *regexp.Regexp) string {
		if m := r.FindStringSubmatch(paragraph); m != nil {
			return m[1]
		}
		return ""
	}
	var p part
	for _, b := range bitmap().FindAllStringSubmatch(paragraph, -1) {
		set := codes(b[2])
		if b[1] == "KEY" {
			p.keys = set
			continue
		}
		p.moves = p.moves || len(set) > 1 && (b[1] == "REL" || slices.Contains(set, 0) && slices.Contains(set, 1))
	}
	if len(p.keys) == 0 {
		return d, false
	}
	p.letters = hasLetters(p.keys)
	d = Attached{Name: field(named()), Events: event().FindAllString(paragraph, -1), parts: []part{p}}
	where, _, _ := strings.Cut(field(physical()), "/input")
	d.group = strings.Join([]string{id[1], id[2], id[3], where, field(unique())}, " ")
	d.ID, d.Identified = boardID(id[1], id[2], id[3])
	return d, true
}

// The kernel's numbers of buses. (The kernel's linux/input.h.)
const (
	busUSB, busBluetooth = "0003", "0005"
	busPC, busI2C        = "0011", "0018"
)

func boardID(bus, vendor, product string) (machine.BoardID, bool) {
	switch bus {
	case busUSB, busBluetooth:
		kind := map[string]machine.Bus{busUSB: machine.USB, busBluetooth: machine.Bluetooth}[bus]
		id, ok := machine.ParseBoardID(fmt.Sprintf("%s:%s:%s", kind, vendor, product))
		return id, ok
	case busPC, busI2C:
		return machine.BoardID{Bus: machine.BuiltIn}, true
	}
	return machine.BoardID{}, false
}

// codes are the bits of a map as the kernel prints it: words of its own size, the highest first.
func codes(text string) (list []int) {
	words := strings.Fields(text)
	size := 64
	if len(words) > 12 { // the codes of keys end at 767, in words of half the size there are more
		size = 32
	}
	for i, w := range slices.Backward(words) {
		n, err := strconv.ParseUint(w, 16, 64)
		if err != nil {
			return nil
		}
		for n != 0 {
			b := bits.TrailingZeros64(n)
			list = append(list, (len(words)-1-i)*size+b)
			n &^= 1 << b
		}
	}
	return list
}

// hasLetters says whether a device has what udev takes for a keyboard: Escape, the digits and the letters up to S.
// (systemd's udev-builtin-input_id.c.)
func hasLetters(set []int) bool {
	for c := 1; c < 32; c++ {
		if !slices.Contains(set, c) {
			return false
		}
	}
	return true
}

// The first and the last codes of buttons. (The kernel's linux/input-event-codes.h.)
const (
	firstMouseButton, lastMouseButton = 0x110, 0x117
	firstPadButton, lastPadButton     = 0x120, 0x14F
)

// judge says what a device is, by its parts.
func (d *Attached) judge() {
	var letters, mouse, pad bool
	var few []string
	for _, p := range d.parts {
		letters = letters || p.letters
		for _, c := range p.keys {
			switch {
			case c >= firstMouseButton && c <= lastMouseButton:
				mouse = mouse || p.moves
			case c >= firstPadButton && c <= lastPadButton:
				pad = true
			case !p.letters:
				if k, ok := keys.ByEvdev(c); ok && len(few) < 4 {
					few = append(few, k.String())
				}
			}
		}
	}
	switch d.Keyboard = letters; {
	case letters && mouse:
		d.Why = "a keyboard and a mouse in one: a receiver, or a mouse that has all keys"
	case letters:
		d.Why = "a keyboard: it has letters and digits"
	case mouse:
		d.Why = "a mouse or a pad that moves the pointer"
	case pad:
		d.Why = "buttons of a game pad or a pen"
	case len(few) == 0:
		d.Why = "keys that a mapping has no names for"
	default:
		d.Why = "some keys only, such as " + strings.Join(few, ", ")
	}
}

// Match is the board of a mapping that a device is: by its numbers, or by being built in, or not.
func (d Attached) Match(boards []*machine.Board) *machine.Board {
	if !d.Keyboard || !d.Identified {
		return nil
	}
	wanted := []machine.BoardID{d.ID}
	if d.ID.Bus != machine.BuiltIn {
		wanted = append(wanted, machine.BoardID{Bus: machine.AnyExternal})
	}
	for _, id := range wanted {
		for _, b := range boards {
			if slices.Contains(b.IDs, id) {
				return b
			}
		}
	}
	return nil
}

// BoardName is a name for a board, by what the device calls itself.
func BoardName(device string) string {
	words := strings.FieldsFunc(strings.ToLower(device), func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9')
	})
	for len(words) > 0 && words[0][0] <= '9' { // a name begins with a letter
		words = words[1:]
	}
	if len(words) == 0 {
		return "board"
	}
	return strings.Join(words[:min(3, len(words))], "-")
}

// OwnBoards are boards of a mapping for the keyboards that are attached, but for those that are built in.
func OwnBoards(list []Attached) (boards []*machine.Board) {
	for _, d := range list {
		if !d.Keyboard || !d.Identified || d.ID.Bus == machine.BuiltIn || d.Match(boards) != nil {
			continue
		}
		name := BoardName(d.Name)
		taken := func(n string) bool {
			return slices.ContainsFunc(boards, func(b *machine.Board) bool { return b.Name == n })
		}
		for i := 2; taken(name); i++ {
			name = fmt.Sprintf("%s-%d", BoardName(d.Name), i)
		}
		boards = append(boards, &machine.Board{Name: name, IDs: []machine.BoardID{d.ID}, Legends: "pc"})
	}
	return boards
}
