// Package hidutil writes and reads a job of launchd that maps keys, and says how they repeat, in the
// HID event system of macOS with hidutil(1).
//
// The job hands a UserKeyMapping, a list of HID usages, to the event system, which applies it to all
// boards or to those that match. Setting a list replaces the one before, so one job sets all of them in
// order. A list for all boards is given to those that are plugged in later, too; one for boards that
// match is lost with them. So a machine with one external board has that board's list for all, and what
// is meant for every board for those that say whether they are external; only with several external
// boards the job runs every minute.
//
// An administrator has a daemon, which holds for all users and in the log-in window; else it is an
// agent of the user, whom macOS refuses the mapping from 14.2 on, as is reported.
//
// One key becomes one key, or does something of the system that has a usage of its own: there is no
// Hyper here, and no chord. A layer that is the state of the Option keys is switched by one of them. It does not hold before the disk is unlocked at start. Since macOS 13
// the system announces a new background item, which the user can switch off in Settings, General,
// Login Items.
//
// Sources: Apple Technical Note TN2450 "Remapping Keys in macOS 10.12 Sierra"; the manual pages
// hidutil(1) and launchd.plist(5); USB-IF HID Usage Tables; IOHIDFamily's AppleHIDUsageTables.h for
// usages of Apple's own, and its IOHIDPrivateKeys for how keys repeat.
package hidutil

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Mechanism is the event-system stage of macOS.
type Mechanism struct{}

// Facts describes the mechanism, as the user's own job.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "hidutil", Stage: mechanism.Kernel, Evidence: mechanism.Documented,
		Basis: "public documentation; property list and JSON read by parsers of their own, the steps run against " +
			"stand-ins",
		When: mechanism.LogIn, Takes: "at log-in, or at once when the agent is loaded by hand",
	}
}

// FactsForAll describes the mechanism as a job of the system.
func (t Mechanism) FactsForAll() mechanism.Facts {
	f := t.Facts()
	f.Takes, f.Everyone = "when the machine starts, or at once when the daemon is loaded by hand", true
	return f
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// plan is what a press or a setting needs: a pair of usages, none where the key is that one anyhow, or a
// property.
type plan struct {
	pair     *pair
	property string
	value    int // nanoseconds
	// preference is the name of the system's own, and ticks its value.
	preference string
	ticks      int
}

// The properties of how keys repeat.
const (
	initialRepeat = "HIDInitialKeyRepeat"
	keyRepeat     = "HIDKeyRepeat"
)

// usages are those by which a key has the system do something; the keys that have one of their own do
// it as such a key.
var usages = map[string]uint64{
	"overview": 0xFF01_0000_0010, "show-desktop": 0xFF01_0000_0011, "launcher": 0xFF01_0000_0001,
	"brightness-up": 0xFF01_0000_0020, "brightness-down": 0xFF01_0000_0021,
}

// Take says how well a binding lands in the HID mapping.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	o := take(m, b)
	if o.Verdict < mechanism.Limited {
		return o
	}
	o.ForAll = m.Admin
	if o.Plan.(plan).pair != nil && !m.Admin && (m.Version == "" || desktop.CompareVersions(m.Version, "14.2") >= 0) {
		o.Verdict, o.Why = mechanism.Limited, o.Why.And(reason.MacPlainUser.Of()...)
	}
	return o
}

func take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if b.Level == behaviour.Setting {
		return repeat(b)
	}
	if !mechanism.Plain(b) || b.Level != behaviour.Position {
		return mechanism.Offer{}
	}
	if b.Chord.Key.Section() == keys.Mouse ||
		b.Effect.Kind == behaviour.Becomes && b.Effect.Key.Section() == keys.Mouse {
		return mechanism.Offer{Why: reason.MacNoButtons.Of()}
	}
	src, ok := b.Chord.Key.HID()
	if !ok {
		return mechanism.Offer{Why: reason.NoUsage.Of(b.Chord.Key)}
	}
	p := &pair{Src: usage(src), Dst: nothing}
	var why reason.List
	var does *behaviour.Effect
	switch b.Effect.Kind {
	case behaviour.Modifier:
		if b.Effect.Mods != keys.Fn || m.Hyper != machine.GlobeHyper {
			return mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.MacNoHyper.Of()}
		}
		globe, _ := keys.ByCode("Fn")
		dst, _ := globe.HID()
		p.Dst, why = usage(dst), reason.MacGlobeHyper.Of()
		does = &behaviour.Effect{Kind: behaviour.Becomes, Key: globe}
	case behaviour.Becomes:
		dst, ok := b.Effect.Key.HID()
		if !ok {
			return mechanism.Offer{Why: reason.NoUsage.Of(b.Effect.Key)}
		}
		if p.Dst = usage(dst); m.SameMacKey(b.Chord.Key, b.Effect.Key) {
			p = nil // which is that key to macOS
		}
	case behaviour.Acts:
		dst, ok := usages[b.Effect.Action]
		if !ok {
			return mechanism.Offer{}
		}
		if p.Dst = dst; b.Effect.Action == "launcher" {
			why = reason.StockBut.Of("it opens a search, in which programs are found")
		}
	case behaviour.Layers:
		if on, state := m.LayerState(b.Effect.Layer); state != intent.OptionState || on.Key != b.Chord.Key ||
			isOption(on.Key) {
			return mechanism.Offer{}
		}
		p.Dst, why = option, reason.MacLayerIsOption.Of()
	case behaviour.Nothing:
	default:
		return mechanism.Offer{}
	}
	if p != nil && b.Board != "" {
		why = why.And(onBoard(m, b.Board)...)
	}
	o := mechanism.Offer{Verdict: mechanism.Exact, Why: why, Plan: plan{pair: p}, Does: does}
	if len(why) > 0 {
		o.Verdict = mechanism.Limited
	}
	return o
}

// option is the usage of the right Option key.
const option = 0x7000000E6

// isOption says whether a key is an Option key.
func isOption(k keys.Key) bool { return k.String() == "AltLeft" || k.String() == "AltRight" }

// onBoard says what differs for a board that is not the only one.
func onBoard(m *mechanism.Machine, name string) reason.List {
	board := boardNamed(m, name)
	one := onlyExternal(m)
	switch {
	case board == nil || !canBeOutside(board):
		return nil
	case one == nil:
		return reason.MacPluggedLater.Of()
	case !anyExternal(one):
		return reason.MacOthersToo.Of()
	}
	return nil
}

// onlyExternal is the machine's external board where it has one only, nil else.
func onlyExternal(m *mechanism.Machine) (one *machine.Board) {
	for _, b := range m.Boards {
		if canBeOutside(b) {
			if one != nil || slices.Contains(b.IDs, machine.BoardID{Bus: machine.BuiltIn}) {
				return nil
			}
			one = b
		}
	}
	return one
}

// canBeOutside says whether a board has an identity other than that of the built-in one.
func canBeOutside(b *machine.Board) bool {
	return slices.ContainsFunc(b.IDs, func(id machine.BoardID) bool { return id.Bus != machine.BuiltIn })
}

func anyExternal(b *machine.Board) bool {
	return slices.Contains(b.IDs, machine.BoardID{Bus: machine.AnyExternal})
}

func boardNamed(m *mechanism.Machine, name string) *machine.Board {
	if i := slices.IndexFunc(m.Boards, func(b *machine.Board) bool { return b.Name == name }); i >= 0 {
		return m.Boards[i]
	}
	return nil
}

// tick is the step, in nanoseconds, of the system's own preferences of how keys repeat.
const tick = 15_000_000

// repeat answers for how keys repeat: in nanoseconds here, and in ticks in the preferences, which the
// system may take at log-in.
func repeat(b mechanism.Binding) mechanism.Offer {
	var p plan
	switch b.Option.Kind {
	case behaviour.RepeatDelay:
		p = plan{property: initialRepeat, value: b.Effect.Delay() * 1_000_000, preference: "InitialKeyRepeat"}
	case behaviour.RepeatRate:
		p = plan{property: keyRepeat, value: 1_000_000_000 / b.Effect.Rate(), preference: "KeyRepeat"}
	default:
		return mechanism.Repeat(b, nil)
	}
	p.ticks = max(1, (p.value+tick/2)/tick)
	o := mechanism.Repeat(b, p)
	if p.ticks*tick != p.value {
		o.Verdict, o.Why = mechanism.Limited, reason.MacRepeatTicks.Of(p.ticks*tick/1_000_000)
	}
	return o
}
