// Package hotkeys writes and reads the shortcuts that macOS has for what it does by itself: the overview,
// spaces, pictures of the screen, input sources.
//
// The preferences com.apple.symbolichotkeys hold them in a dictionary, by numbers that the system's
// panel gives them: whether a shortcut is on, and its character, its virtual keycode and its
// modifiers, of which the keycode counts. Each has one chord: one that is moved leaves its old chord to
// programs, as does one that is switched off. Arrows, function keys and the like have the modifier Fn
// in the mask, whether or not it is held. Spaces have a second number for the slow motion with Shift.
//
// The window server reads them at log-in, or when the system's activateSettings tells it to.
//
// A shortcut here starts no program, and knows neither a single side of a modifier nor a board.
//
// Sources: Apple, "Mac keyboard shortcuts"; the manual page defaults(1); HIToolbox Events.h for keycodes
// and masks. The numbers have no public documentation: they are those that the panel writes.
package hotkeys

import (
	"io/fs"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/profile"
	"leitstand/core/reason"
)

// Mechanism is the shortcuts of macOS's own.
type Mechanism struct{}

// Facts describes the mechanism.
func (Mechanism) Facts() mechanism.Facts {
	return mechanism.Facts{
		Name: "hotkeys", Stage: mechanism.Desktop, Evidence: mechanism.Documented,
		Basis: "what the system's panel writes, by public reports; the property list read by a parser of its own, " +
			"the steps run against stand-ins",
		When: mechanism.AtOnce, Takes: "at once when the system is told, or at the next log-in",
	}
}

// FactsForAll describes the mechanism as a profile.
func (t Mechanism) FactsForAll() mechanism.Facts {
	f := t.Facts()
	f.Takes, f.Everyone = "when the profile is installed, and everybody has logged out and in", true
	return f
}

// places are the user's own preferences, and a profile.
var places = profile.Preferences{Folder: "hotkeys", Own: own{}}

// own is the preferences of a user.
type own struct{}

// OnePlace says that a profile leaves nothing to the user's own preferences.
func (Mechanism) OnePlace() {}

// Take says how well a binding lands, for everyone in a profile.
func (Mechanism) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	return places.Take(m, b)
}

// Write makes the preferences, or the profile.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	return places.Write(m, list)
}

// Read reads the preferences of a machine's folder, or its profile.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	return places.Read(m, fsys)
}

// Serves says whether the machine is a Mac.
func (Mechanism) Serves(m *mechanism.Machine) bool { return m.System == machine.MacOS }

// Single says that each of its actions has one chord.
func (Mechanism) Single(string) bool { return true }

// Asks says that what ends the session is done after a question.
func (Mechanism) Asks(*mechanism.Machine, string) bool { return true }

// plan is what a press needs: numbers with their chords, and those that are switched off.
type plan struct {
	on  []numbered
	off []string // keys of the preferences
}

// numbered is a shortcut with a chord.
type numbered struct {
	key   string // of the preferences
	chord keys.Chord
}

// Take says how well a binding lands among the system's shortcuts.
func (own) Take(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if !mechanism.Plain(b) || b.Level != behaviour.Hotkey {
		return mechanism.Offer{}
	}
	switch b.Effect.Kind {
	case behaviour.Acts:
		return move(m, b)
	case behaviour.Nothing:
		return switchOff(m, b)
	default: // programs, chords and texts are for others
		return mechanism.Offer{}
	}
}

// can are the modifiers of a shortcut.
const can = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta | keys.Fn

// move offers a chord for an action.
func move(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	var p plan
	var why reason.List
	for _, u := range desktop.Numbered(m) {
		switch slow, isSlow := strings.CutSuffix(u.Name, " slowly"); {
		case u.Name == b.Effect.Action:
			p.on = append(p.on, numbered{u.Key, b.Chord})
			if u.Chord.Key != keys.None && !u.Chord.Overlaps(b.Chord) {
				why = why.And(reason.MacMoved.Of(u.Chord)...)
			}
			if u.But != "" && u.Chord.Mods != 0 {
				why = why.And(reason.StockBut.Of(u.But)...)
			}
			if strings.HasPrefix(u.Name, "workspace-") {
				why = why.And(reason.MacSpaces.Of()...)
			}
		case isSlow && slow == b.Effect.Action && !b.Chord.Mods.Has(keys.Shift):
			p.on = append(p.on, numbered{u.Key, keys.Chord{Mods: b.Chord.Mods | keys.Shift, Key: b.Chord.Key}})
		}
	}
	if p.on == nil {
		return mechanism.Offer{}
	}
	if o := expressible(b.Chord); o != nil {
		return mechanism.Offer{Why: o}
	}
	p.off = others(m, b)
	return offer(p, why.And(alike(m, b.Chord.Key)...))
}

// expressible says why a chord is none for a shortcut, nil if it is one.
func expressible(c keys.Chord) reason.List {
	if _, ok := c.Key.Mac(); !ok {
		return reason.MacNoKeycode.Of(c.Key)
	}
	if left := c.Mods &^ can; left != 0 {
		return reason.MacChordModifiers.Of(strings.Join(left.Names(), ", "))
	}
	types := c.Key.Section() == keys.Writing || c.Key.Section() == keys.Functional
	switch {
	case c.Mods.Has(keys.Fn) && c.Key.MacFn():
		return reason.MacFnKey.Of(c.Key)
	case c.Mods&^keys.Shift == 0 && types:
		return reason.MacWantsModifier.Of(c)
	}
	return nil
}

// alike names another key that is the same to macOS.
func alike(m *mechanism.Machine, k keys.Key) reason.List {
	for _, o := range keys.All() {
		if o != k && m.SameMacKey(o, k) {
			return reason.MacSameKey.Of(o, k)
		}
	}
	return nil
}

// others are the keys of what else the system does on a chord.
func others(m *mechanism.Machine, b mechanism.Binding) (off []string) {
	for _, u := range desktop.Numbered(m) {
		if u.Chord.Key != keys.None && u.Chord.Overlaps(b.Chord) && u.Name != b.Effect.Action {
			off = append(off, u.Key)
		}
	}
	return off
}

// switchOff offers to switch off what the system does on a chord.
func switchOff(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	if off := others(m, b); off != nil {
		if why := expressible(b.Chord); why != nil {
			return mechanism.Offer{Why: why}
		}
		return offer(plan{off: off}, reason.ChordFreed.Of())
	}
	return mechanism.Offer{}
}

func offer(p plan, why reason.List) mechanism.Offer {
	o := mechanism.Offer{Verdict: mechanism.Exact, Why: why, Plan: p}
	if len(why) > 0 {
		o.Verdict = mechanism.Limited
	}
	return o
}
