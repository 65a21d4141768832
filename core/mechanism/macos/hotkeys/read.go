package hotkeys

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"howett.net/plist"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// Read reads the shortcuts of a machine's folder.
func (own) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	text, err := fs.ReadFile(fsys, compiled)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := read(m, text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", compiled, err)
	}
	return list, nil
}

// shortcut is one of the preferences, by its number.
type shortcut struct {
	number string
	on     bool
	mods   keys.Mods
	keys   []keys.Key // those with its code, none for a code that no key of ours has
	alone  keys.Mods  // the modifier that it is by itself, 0 for a chord
}

// has says whether a shortcut is on and has a chord.
func (s shortcut) has(c keys.Chord) bool {
	return s.on && s.mods == c.Mods && slices.Contains(s.keys, c.Key)
}

// read says what the shortcuts do. What is switched off leaves its chord to programs, but where
// another has it.
func read(m *mechanism.Machine, text []byte) ([]mechanism.Binding, error) {
	all, err := shortcuts(m, text)
	if err != nil {
		return nil, err
	}
	var list []mechanism.Binding
	for _, s := range all {
		if s.alone != 0 {
			continue // which nothing of ours writes
		}
		i := slices.IndexFunc(
			desktop.Numbered(m),
			func(u desktop.Use) bool { return u.Key == desktop.NumberedKeys+s.number },
		)
		if i < 0 {
			continue // whatever it does, we do not know of it
		}
		u := desktop.Numbered(m)[i]
		list = append(list, s.does(u, twin(m, u, all), all)...)
	}
	behaviour.Sort(list)
	return list, nil
}

// does is what a shortcut does: of keys with one code, the file means one. A chord that was left is
// nobody's if no other shortcut has it.
func (s shortcut) does(u desktop.Use, slow *shortcut, all []shortcut) (list []mechanism.Binding) {
	b := mechanism.Binding{Level: behaviour.Hotkey, Chord: u.Chord, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
	if u.Chord.Key != keys.None && !slices.ContainsFunc(all, func(o shortcut) bool { return o.has(u.Chord) }) {
		b.Kept = s.on // it has moved
		list = append(list, b)
	}
	if !s.on {
		return list
	}
	b.Kept = false
	if b.Effect = (behaviour.Effect{Kind: behaviour.Acts, Action: u.Name}); !isAction(u.Name) {
		b.Kept = strings.HasSuffix(u.Name, " slowly")
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: u.Words}
	}
	if slow != nil && !s.mods.Has(keys.Shift) &&
		!(slow.on && slow.mods == s.mods|keys.Shift && slices.Equal(slow.keys, s.keys)) {
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: u.Words + ", but slowly by another chord"}
	}
	for _, k := range s.keys {
		b.Chord = keys.Chord{Mods: s.mods, Key: k}
		if len(s.keys) > 1 {
			b.Kept, b.Alike = true, s.keys[0]
		}
		list = append(list, b)
	}
	return list
}

// twin is the shortcut that does the same slowly, as it has been set; nil where there is no such.
func twin(m *mechanism.Machine, u desktop.Use, all []shortcut) *shortcut {
	for _, o := range desktop.Numbered(m) {
		if o.Name != u.Name+" slowly" {
			continue
		}
		for i := range all {
			if desktop.NumberedKeys+all[i].number == o.Key {
				return &all[i]
			}
		}
		return &shortcut{}
	}
	return nil
}

func isAction(name string) bool {
	_, ok := action.Find(name)
	return ok
}

// shortcuts are those of a property list, by their numbers.
func shortcuts(m *mechanism.Machine, text []byte) ([]shortcut, error) {
	var domain struct {
		Keys map[string]struct {
			Enabled any `plist:"enabled"`
			Value   struct {
				Type       string   `plist:"type"`
				Parameters []uint64 `plist:"parameters"`
			} `plist:"value"`
		} `plist:"AppleSymbolicHotKeys"`
	}
	if _, err := plist.Unmarshal(text, &domain); err != nil {
		return nil, err
	}
	var list []shortcut
	for number, k := range domain.Keys {
		if _, err := strconv.Atoi(number); err != nil {
			return nil, fmt.Errorf("%q is no number of a shortcut", number)
		}
		s := shortcut{number: number, on: isTrue(k.Enabled)}
		if of := k.Value.Parameters; s.on && k.Value.Type == "modifier" && len(of) > 0 {
			s.alone = modsOf(of[0])
			list = append(list, s)
			continue
		}
		if s.on && len(k.Value.Parameters) != 3 {
			continue // the chord that it has at first
		}
		if s.on {
			s.keys, s.mods = chordOf(m, k.Value.Parameters[1], k.Value.Parameters[2])
		}
		list = append(list, s)
	}
	slices.SortFunc(list, func(a, b shortcut) int { return strings.Compare(a.number, b.number) })
	return list, nil
}

// isTrue reads a truth value, which older systems spell as a number.
func isTrue(v any) bool { return v == true || v == uint64(1) || v == int64(1) || v == "1" }

// chordOf is the keys of a keycode, and the modifiers of a mask; Fn is none of a key that has it by
// itself.
func chordOf(m *mechanism.Machine, code, mask uint64) (those []keys.Key, mods keys.Mods) {
	for _, k := range keys.All() {
		if n, has := m.Layouts[0].MacCode(k); has && uint64(n) == code {
			those = append(those, k)
		}
	}
	mods = modsOf(mask)
	if len(those) > 0 && those[0].MacFn() {
		mods &^= keys.Fn
	}
	return those, mods
}

// modsOf are the modifiers of a mask, by either side.
func modsOf(mask uint64) (mods keys.Mods) {
	for bit, mod := range map[int]keys.Mods{17: keys.Shift, 18: keys.Ctrl, 19: keys.Alt, 20: keys.Meta, 23: keys.Fn} {
		if mask&(1<<bit) != 0 {
			mods |= mod
		}
	}
	return mods
}
