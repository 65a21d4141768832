// Package hwdb writes and reads a file of udev's hardware database, which has the
// kernel's keyboard drivers give another key for a scan code: per board, in every
// session, on the text console and on the log-in screen.
//
// systemd-hwdb compiles the files of /etc/udev/hwdb.d, and udev sets a board's codes
// when it appears; both need an administrator. A board of USB or Bluetooth is known
// by its ids and sends HID usages, one behind the PC's own keyboard controller sends
// scan codes of set 1. One key becomes one key: no modifier of its own, no chord, no
// layer. Taking the file away does not give a key back until its board is plugged in
// again. Of two entries for one board the later one counts.
//
// Sources: hwdb(7) and systemd's 60-keyboard.hwdb, whose head is the format's
// documentation; the kernel's hid-input and atkbd drivers.
package hwdb

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the driver stage of Linux.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "hwdb", Stage: mechanism.Kernel, Evidence: mechanism.Tested,
		Basis: "keys pressed on a kernel with udev, on a board of its own and on another",
		When:  mechanism.AtOnce, Takes: "at once when its steps are done", Everyone: true,
	}
}

// Serves says whether the machine's user may write there.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.Linux }

const file = "hwdb/90-leitstand.hwdb"

// Take says how well a binding lands.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Level != behaviour.Position || !mechanism.Plain(b) ||
		b.Effect.Kind != behaviour.Becomes && b.Effect.Kind != behaviour.Nothing {
		return mechanism.Offer{}
	}
	switch {
	case b.Chord.Key.Section() == keys.Mouse:
		return mechanism.Offer{Why: reason.NoKeysOfMouse.Of()}
	case b.Effect.Kind == behaviour.Becomes && b.Effect.Key.Section() == keys.Mouse:
		return mechanism.Offer{Why: reason.NoButtonsHere.Of()}
	}
	if !m.Admin {
		return mechanism.Offer{Why: reason.NoAdministrator.Of("udev's hardware database")}
	}
	board := boardOf(m, b.Board)
	controller := len(matches(board)) > 0 &&
		slices.ContainsFunc(matches(board), func(m match) bool { return m.controller })
	hid := slices.ContainsFunc(matches(board), func(m match) bool { return !m.controller })
	if _, ok := b.Chord.Key.HID(); hid && !ok {
		return mechanism.Offer{Why: reason.NoUsage.Of(b.Chord.Key)}
	}
	if _, ok := b.Chord.Key.Scancode(); controller && !hid && !ok {
		return mechanism.Offer{Why: reason.NoScanCode.Of(b.Chord.Key)}
	}
	to := plan{b.Chord.Key, "reserved"}
	if b.Effect.Kind == behaviour.Becomes {
		name, ok := b.Effect.Key.EvdevName()
		code, _ := b.Effect.Key.Evdev()
		if !ok {
			return mechanism.Offer{Why: reason.NoKernelKey.Of(b.Effect.Key)}
		}
		if code > 247 && m.Session == "x11" {
			return mechanism.Offer{Why: reason.BeyondX11.Of(name, code)}
		}
		to.gives = name
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: to}
}

// plan is a key, and the name of what it gives.
type plan struct {
	key   keys.Key
	gives string
}

func boardOf(m *mechanism.Machine, name string) *machine.Board {
	for _, b := range m.Boards {
		if b.Name == name {
			return b
		}
	}
	return nil
}

// match is a pattern of device names, and whether the device sends scan codes of
// set 1 rather than HID usages.
type match struct {
	pattern    string
	controller bool
}

// external are the boards of the buses that have HID usages; internal those
// behind the keyboard controller.
var (
	external = []match{{"evdev:input:b0003*", false}, {"evdev:input:b0005*", false}}
	internal = match{"evdev:atkbd:*", true}
)

// matches are the patterns of a board, of every board if it is nil.
func matches(b *machine.Board) []match {
	if b == nil {
		return append(slices.Clone(external), match{"evdev:input:b0018*", false}, internal)
	}
	var list []match
	for _, id := range b.IDs {
		switch id.Bus {
		case machine.BuiltIn:
			list = append(list, match{"evdev:input:b0018*", false}, internal)
		case machine.AnyExternal:
			list = append(list, external...)
		default:
			bus := map[machine.Bus]string{machine.USB: "0003", machine.Bluetooth: "0005"}[id.Bus]
			list = append(list, match{fmt.Sprintf("evdev:input:b%sv%04Xp%04X*", bus, id.Vendor, id.Product), false})
		}
	}
	return list
}

// code is the scan code of a key as the database spells it, "" if the device has
// none for it.
func code(k keys.Key, controller bool) string {
	if !controller {
		if usage, ok := k.HID(); ok {
			return fmt.Sprintf("%x", usage)
		}
		return ""
	}
	scan, ok := k.Scancode()
	switch {
	case !ok:
		return ""
	case scan >= 0xE000: // the driver marks the prefix by the highest bit
		return fmt.Sprintf("%x", scan&0x7F|0x80)
	}
	return fmt.Sprintf("%x", scan)
}

// entries are those of one board in the kinds of devices that it may be, "" where it is none of them; gives names what
// a key is to give.
func entries(m *mechanism.Machine, name string, own []plan, gives func(plan) string) string {
	var text strings.Builder
	for _, controller := range []bool{false, true} {
		var patterns, entries strings.Builder
		for _, p := range matches(boardOf(m, name)) {
			if p.controller == controller {
				patterns.WriteString(p.pattern + "\n")
			}
		}
		for _, p := range own {
			if c := code(p.key, controller); c != "" {
				fmt.Fprintf(&entries, " KEYBOARD_KEY_%s=%s\n", c, gives(p))
			}
		}
		if patterns.Len() > 0 && entries.Len() > 0 { // a pattern without entries is an error
			text.WriteString(patterns.String() + entries.String() + "\n")
		}
	}
	return text.String()
}

// Write makes the file of entries.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var text, former strings.Builder
	text.WriteString(
		"# The keyboard mapping, for udev's hardware database. Of two entries for one board\n# the later one counts.\n",
	)
	boards := []string{""}
	for _, b := range m.Boards {
		boards = append(boards, b.Name)
	}
	for _, name := range boards {
		var own []plan
		for _, b := range list {
			if b.Board == name {
				own = append(own, b.Plan.(plan))
			}
		}
		if len(own) == 0 {
			continue
		}
		head := "every board"
		if name != "" {
			head = "board " + name
		}
		fmt.Fprintf(&text, "\n# %s\n%s", head, entries(m, name, own, func(p plan) string { return p.gives }))
		former.WriteString(entries(m, name, own, formerly))
	}
	about := change.About{Serves: mechanism.Presses(list), In: file, Everyone: true,
		Says: "As an administrator, put the file in place, compile the database, and have udev set the keys of " +
			"the boards that are plugged in.",
		Unsays: "Delete the file, and compile the database again.",
	}
	again := about
	again.Says, again.Unsays = "", "Have udev set the keys as they were, since a driver keeps what it was told."
	changes := []change.Change{
		change.File{
			About: about,
			Path:  "/etc/udev/hwdb.d/90-leitstand.hwdb",
			Data:  []byte(strings.TrimRight(text.String(), "\n") + "\n"),
		},
		change.NewCall(about, "hwdb-compile"),
	}
	// udev looks for a new database only every three seconds by itself, and of version 257 one
	// reload in eight or so has left it with the old one.
	wait := about
	wait.Everyone = false // it needs no rights
	return mechanism.Changed(append(
		changes,
		change.NewCall(about, "udev-reload"),
		change.NewCall(wait, "udev-wait"),
		change.NewCall(about, "udev-trigger"),
		change.NewCall(again, "hwdb-reset", former.String()),
	)), nil
}

// formerly is what a key gives by itself.
func formerly(p plan) string {
	if name, ok := p.key.EvdevName(); ok {
		return name
	}
	return "unknown" // as the kernel has a usage that it has no key for
}
