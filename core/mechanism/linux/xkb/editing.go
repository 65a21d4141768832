package xkb

import (
	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// conventional are the chords by which most programs do what they all can do. They are
// spelled by a character.
var conventional = map[string]struct {
	mods keys.Mods
	char rune
}{
	"copy": {
		keys.Ctrl,
		'c',
	}, "cut": {keys.Ctrl, 'x'}, "paste": {keys.Ctrl, 'v'}, "undo": {keys.Ctrl, 'z'}, "redo": {keys.Ctrl | keys.Shift, 'z'},
	"select-all": {keys.Ctrl, 'a'}, "find": {keys.Ctrl, 'f'}, "save": {keys.Ctrl, 's'},
}

// asChord is an action of programs as the chord by which most of them do it.
func asChord(m *mechanism.Machine, b mechanism.Binding) (mechanism.Binding, bool) {
	c, ok := conventional[b.Effect.Action]
	if !ok || b.Effect.Kind != behaviour.Acts {
		return b, false
	}
	at, ok := m.Latin().Find(c.char)
	b.Effect = behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: c.mods | at.Mods, Key: at.Key}}
	return b, ok
}

// takeEditing says how well an action of programs lands as a chord.
func takeEditing(m *mechanism.Machine, b mechanism.Binding) mechanism.Offer {
	answer := take(m, b)
	if answer.Verdict == mechanism.Exact {
		answer = mechanism.Offer{Verdict: mechanism.Limited, Does: &b.Effect, Why: reason.EditingChord.Of()}
	}
	return answer
}
