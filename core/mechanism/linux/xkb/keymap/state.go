package keymap

import (
	"leitstand/core/keys"
)

// State is a keyboard in use: which keys are held, what is locked, which group
// is on.
type State struct {
	k       *Keymap
	held    map[string]held
	base    [8]int // how many held keys set each modifier
	locked  Mask
	latched Mask // on for the next key only
	group   int  // locked group, from 0
	shift   int  // groups added by held keys
	next    int  // groups added for the next key only
}

// held is a key that is down, and what letting it go undoes.
type held struct {
	set    Mask
	unlock Mask
	clear  Mask
	latch  Mask
	group  int
	next   int
}

// NewState is a keyboard with nothing held and nothing locked.
func (k *Keymap) NewState() *State { return &State{k: k, held: map[string]held{}} }

// Mods are the modifiers that are on.
func (s *State) Mods() Mask {
	m := s.locked | s.latched
	for i, n := range s.base {
		if n > 0 {
			m |= 1 << i
		}
	}
	return m
}

// Group is the effective group, from 0: what lies beyond the keymap's groups wraps.
// A key with fewer groups wraps it once more.
func (s *State) Group() int {
	n := max(1, s.k.groups)
	return ((s.group+s.shift+s.next)%n + n) % n
}

// Given is what a press of a key gives in a state.
type Given struct {
	Keysym  string // "NoSymbol" if nothing
	Left    Mask   // the modifiers that choosing the keysym did not use up
	Repeats bool
}

// level finds the level of a key with modifiers on and a group, from 0, in use, and
// the modifiers used up; nil if the key has none there. A key with fewer groups wraps
// the group.
func (k *Keymap) level(key *Key, on Mask, group int) (*Level, Mask) {
	n := len(key.Groups)
	if n == 0 {
		return nil, 0
	}
	all := max(1, k.groups)
	g := &key.Groups[(group%all+all)%all%n]
	t := g.typ
	if t == nil {
		return nil, 0
	}
	level, used := 0, t.mask
	for i := range t.entries {
		e := &t.entries[i]
		if !e.dead && e.mask == on&t.mask {
			level, used = e.level, t.mask&^e.preserved
			break
		}
	}
	if level >= len(g.Levels) {
		return nil, used
	}
	return &g.Levels[level], used
}

// given is what a press of the key gives on a level.
func given(key *Key, level *Level, on, used Mask) Given {
	g := Given{Keysym: "NoSymbol", Left: on &^ used, Repeats: key.Repeats}
	if level == nil || len(level.Syms) != 1 {
		return g
	}
	g.Keysym = level.Syms[0]
	if on&Lock != 0 && used&Lock == 0 {
		g.Keysym = keys.Capital(g.Keysym)
	}
	return g
}

// Get says what a press of the key would give now.
func (s *State) Get(key *Key) Given {
	level, used := s.k.level(key, s.Mods(), s.Group())
	return given(key, level, s.Mods(), used)
}

// Press puts a key down and does what it does to the state.
func (s *State) Press(key *Key) {
	if _, down := s.held[key.Name]; down {
		return
	}
	// A key pressed in between keeps a modifier from unlocking when it is let go.
	for name, h := range s.held {
		h.clear, h.latch, h.next = 0, 0, 0
		s.held[name] = h
	}
	level, _ := s.k.level(key, s.Mods(), s.Group())
	h := held{}
	if level != nil {
		switch a := level.does(); a.kind {
		case setMods:
			h.set = a.mask
			if a.clearLocks {
				h.clear = a.mask
			}
		case lockMods:
			h.set, h.unlock = a.mask, s.locked&a.mask
			s.locked |= a.mask
		case latchMods:
			h.set, h.latch = a.mask, a.mask
		case setGroup, latchGroup:
			if h.group = a.group; !a.relative {
				h.group = a.group - 1 - s.group
			}
			s.shift += h.group
			if a.kind == latchGroup {
				h.next = h.group
			}
		case lockGroup:
			if a.relative {
				s.group += a.group
			} else {
				s.group = a.group - 1
			}
		}
	}
	if level == nil || level.does().kind == noAction || level.does().kind == redirectKey {
		s.latched, s.next = 0, 0
	}
	for i := range s.base {
		if h.set&(1<<i) != 0 {
			s.base[i]++
		}
	}
	s.held[key.Name] = h
}

// Release lets a key go.
func (s *State) Release(key *Key) {
	h, down := s.held[key.Name]
	if !down {
		return
	}
	delete(s.held, key.Name)
	for i := range s.base {
		if h.set&(1<<i) != 0 {
			s.base[i]--
		}
	}
	s.locked &^= h.unlock | h.clear
	s.latched |= h.latch
	s.next += h.next
	s.shift -= h.group
}
