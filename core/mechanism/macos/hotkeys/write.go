package hotkeys

import (
	"unicode"

	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// The masks of modifiers in a shortcut, and what stands for no character. (HIToolbox Events.h)
var masks = []struct {
	mod  keys.Mods
	mask int
}{
	{keys.Shift, 1 << 17}, {keys.Ctrl, 1 << 18}, {keys.Alt, 1 << 19}, {keys.Meta, 1 << 20}, {keys.Fn, fnMask},
}

const (
	fnMask      = 1 << 23
	noCharacter = 0xFFFF
)

// entry is a shortcut as the preferences have it.
type entry struct {
	Enabled bool   `plist:"enabled"`
	Value   *value `plist:"value,omitempty"`
}

type value struct {
	Type       string `plist:"type"`
	Parameters []int  `plist:"parameters"` // character, virtual keycode, modifiers
}

// Write gives shortcuts their chords.
func (own) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	set, serves := map[string]entry{}, map[string][]string{}
	for _, b := range list { // first what is switched off: a shortcut that moves is on again
		for _, key := range b.Plan.(plan).off {
			set[key] = entry{}
			serves[key] = append(serves[key], b.Press())
		}
	}
	for _, b := range list {
		for _, n := range b.Plan.(plan).on {
			set[n.key] = entry{true, &value{"standard", parameters(m, n.chord)}}
			serves[n.key] = append(serves[n.key], b.Press())
		}
	}
	var changes []change.Change
	for _, u := range desktop.Numbered(m) {
		if e, ok := set[u.Key]; ok {
			about := said
			about.Serves = serves[u.Key]
			changes = append(changes, change.Setting{
				About: about, Store: change.Defaults, Key: u.Key, To: change.PropertyList(e),
			})
		}
	}
	return mechanism.Changed(append(changes, tell(mechanism.Presses(list)))), nil
}

const compiled = "hotkeys/com.apple.symbolichotkeys.plist"

var said = change.About{
	In:     compiled,
	Says:   "Set the system's own shortcuts. What they were is saved for the way back.",
	Unsays: "Have these shortcuts as they were.",
}

// tell has the system look at its shortcuts again.
func tell(serves []string) change.Change {
	words := []string{
		"/System/Library/PrivateFrameworks/SystemAdministration.framework/Resources/activateSettings",
		"-u",
	}
	return change.Call{About: change.About{
		Serves: serves,
		Says:   "Tell the system of it; if a shortcut does not hold then, log out and in again.",
		Unsays: "Tell the system of it; if a shortcut is not as it was then, log out and in again.",
	}, Do: words, Undo: words}
}

// parameters are those of a chord.
func parameters(m *mechanism.Machine, c keys.Chord) []int {
	code, _ := m.Layouts[0].MacCode(c.Key)
	character, mask := noCharacter, 0
	for _, x := range masks {
		if c.Mods.Has(x.mod) {
			mask |= x.mask
		}
	}
	if c.Key.MacFn() {
		mask |= fnMask
	}
	if typed := m.Layouts[0].Characters(c.Key); len(typed) > 0 && typed[0] < noCharacter {
		character = int(unicode.ToLower(typed[0]))
	}
	return []int{character, code, mask}
}
