// Package hidutil writes and reads a macOS launch agent that maps keys in the
// HID event system with hidutil(1).
//
// launchd starts the agent at log-in; it hands a UserKeyMapping, a list of HID
// usages, to the event system, which applies it to all boards or to those that
// match. Setting a list replaces the one before, so one agent sets all of them in
// order: first that of every board, then for each board of the mapping its whole
// list. A board's own list is lost when it is unplugged; the agent therefore runs
// again every minute if there is one.
//
// One key becomes one key: there is no Hyper here, no chord, no layer. It does not
// hold on the log-in screen before a user has logged in. Since macOS 13 the system
// announces a new background item, which the user can switch off in Settings,
// General, Login Items.
//
// Sources: Apple Technical Note TN2450 "Remapping Keys in macOS 10.12 Sierra";
// the manual pages hidutil(1) and launchd.plist(5); USB-IF HID Usage Tables;
// IOHIDFamily's AppleHIDUsageTables.h for the Fn key.
package hidutil

import (
	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the event-system stage of macOS.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "hidutil", Stage: mechanism.Kernel, Evidence: mechanism.Modelled,
		Basis: "public documentation; property list and JSON read by parsers of their own",
		Takes: "at log-in, or at once when the agent is loaded by hand",
	}
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// Take says how well a binding lands in the HID mapping.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) {
		return mechanism.Offer{}
	}
	if b.Level != behaviour.Position {
		return mechanism.Offer{}
	}
	if b.Chord.Key.Section() == keys.Mouse || b.Effect.Kind == behaviour.Becomes && b.Effect.Key.Section() == keys.Mouse {
		return mechanism.Offer{Why: reason.MacNoButtons.Of()}
	}
	src, ok := b.Chord.Key.HID()
	if !ok {
		return mechanism.Offer{Why: reason.NoUsage.Of(b.Chord.Key)}
	}
	plan := pair{Src: usage(src), Dst: nothing}
	switch b.Effect.Kind {
	case behaviour.Modifier:
		return mechanism.Offer{Verdict: mechanism.Resident, Why: reason.MacNoHyper.Of()}
	case behaviour.Becomes:
		dst, ok := b.Effect.Key.HID()
		if !ok {
			return mechanism.Offer{Why: reason.NoUsage.Of(b.Effect.Key)}
		}
		plan.Dst = usage(dst)
	case behaviour.Nothing:
	default:
		return mechanism.Offer{}
	}
	if b.Board != "" {
		for _, board := range m.Boards {
			if board.Name == b.Board && !builtInOnly(board) {
				return mechanism.Offer{Verdict: mechanism.Near, Why: reason.MacPluggedLater.Of(), Plan: plan}
			}
		}
	}
	return mechanism.Offer{Verdict: mechanism.Exact, Plan: plan}
}

func builtInOnly(b *machine.Board) bool {
	return len(b.IDs) == 1 && b.IDs[0].Bus == machine.BuiltIn
}
