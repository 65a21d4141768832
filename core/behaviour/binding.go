// Package behaviour says what a press does. It is the common ground on which
// what a mapping means and what native files say are held against each other,
// so it knows neither.
package behaviour

import (
	"bytes"
	"cmp"
	"slices"
	"strings"

	"leitstand/core/keys"
)

// Level says of what a binding speaks.
type Level uint8

const (
	// Position is a place on the board, before anything else has looked at it.
	Position Level = iota
	// Hotkey is a chord as the system sees it after the positions are mapped.
	Hotkey
	// Typing is what has been typed: an abbreviation.
	Typing
	// Setting is no press at all, but a setting of the keyboard or the system.
	Setting
)

// Binding is one press and its effect. A binding for one board takes precedence
// over one for every board.
type Binding struct {
	Level  Level
	Board  string       // "" for every board
	Layer  string       // the layer in which the press means this, "" outside all
	Chord  keys.Chord   // of a position only the key, of a setting nothing
	Then   []keys.Chord // the further strokes of a sequence
	Word   string       // the abbreviation of Typing
	Option Option       // of Setting
	End    string       // what ends the abbreviation: space, any or none
	Case   string       // how its case counts: exact, any or follow
	Apps   []string     // only in these programs
	Request
	Provenance
	Effect Effect
}

// Request is how a mapping wants a press to be done, beside what it does.
type Request struct {
	Everyone bool // for all users of the machine
	Takes    bool // the chord is taken from whoever has it now
	Confirm  bool // of an action: after a question only
}

// Provenance is what is known of a press that was found in files. Never meant, only found.
type Provenance struct {
	// Kept is what a file says only to keep what the desktop does anyhow, or what it
	// says of several keys that it cannot tell apart.
	Kept bool
	// Alike says of a kept binding that it is for several keys, of which the file means one.
	Alike bool
	// Contested is a press that the desktop uses for something else as well.
	Contested bool
}

// Press is the binding's press in words: "CapsLock", "KeyT on chart-table".
func (b Binding) Press() string {
	var s strings.Builder
	switch {
	case b.Level == Typing:
		s.WriteString(
			"\"" + b.Word + "\" typed" + map[string]string{"space": " and a blank", "any": " and any other character"}[b.End],
		)
		s.WriteString(map[string]string{"any": ", in any case", "follow": ", its case carried over"}[b.Case])
	case b.Level == Setting:
		s.WriteString(b.Option.String())
	case b.Word != "": // a chord of which no key is known
		s.WriteString(b.Word)
	default:
		s.WriteString(b.Chord.String())
		if b.Level == Hotkey && b.Chord.Key == keys.None {
			s.WriteString(" alone (held, it stays " + b.Chord.String() + ")")
		}
		for _, c := range b.Then {
			s.WriteString(", " + c.String())
		}
	}
	if b.Layer != "" {
		s.WriteString(" in layer " + b.Layer)
	}
	if b.Board != "" {
		s.WriteString(" on " + b.Board)
	}
	if len(b.Apps) > 0 {
		s.WriteString(" in " + strings.Join(b.Apps, ", "))
	}
	return s.String()
}

// String is the whole binding in words.
func (b Binding) String() string { return b.Press() + " " + b.Effect.String() }

// Place identifies the press, whatever it does.
type Place struct {
	Level        Level
	Board, Layer string
	Chord        keys.Chord
	Then, Word   string
	Option       Option
	Apps         string
}

// Place returns the binding's press.
func (b Binding) Place() Place {
	p := Place{
		Level:  b.Level,
		Board:  b.Board,
		Layer:  b.Layer,
		Chord:  b.Chord,
		Word:   b.Word,
		Option: b.Option,
		Apps:   strings.Join(b.Apps, "\x00"),
	}
	if len(b.Then) > 0 {
		p.Then = string(appendStrokes(make([]byte, 0, 64), b.Then))
	}
	return p
}

// appendStrokes spells the further strokes of a sequence.
func appendStrokes(text []byte, then []keys.Chord) []byte {
	for _, c := range then {
		text = c.Append(append(text, ", "...))
	}
	return text
}

func (p Place) compare(o Place) int {
	return cmp.Or(
		cmp.Compare(p.Level, o.Level), cmp.Compare(p.Board, o.Board), cmp.Compare(p.Layer, o.Layer),
		cmp.Compare(p.Chord.Key, o.Chord.Key), cmp.Compare(p.Chord.Mods, o.Chord.Mods), cmp.Compare(p.Then, o.Then),
		cmp.Compare(p.Word, o.Word), cmp.Compare(p.Option.Kind, o.Option.Kind),
		cmp.Compare(p.Option.Key, o.Option.Key), cmp.Compare(p.Option.For, o.Option.For),
		cmp.Compare(p.Option.Name, o.Option.Name), cmp.Compare(p.Apps, o.Apps),
	)
}

// Order is by level, board, layer and press.
func Order(a, b *Binding) int {
	first := cmp.Or(cmp.Compare(a.Level, b.Level), cmp.Compare(a.Board, b.Board), cmp.Compare(a.Layer, b.Layer),
		cmp.Compare(a.Chord.Key, b.Chord.Key), cmp.Compare(a.Chord.Mods, b.Chord.Mods))
	if first != 0 {
		return first
	}
	if !slices.Equal(a.Then, b.Then) {
		var one, two [128]byte
		if then := bytes.Compare(appendStrokes(one[:0], a.Then), appendStrokes(two[:0], b.Then)); then != 0 {
			return then
		}
	}
	switch { // as places compare, without making them where that is not needed
	case a.Word != b.Word:
		return cmp.Compare(a.Word, b.Word)
	case a.Option == b.Option && slices.Equal(a.Apps, b.Apps):
		return 0
	}
	return a.Place().compare(b.Place())
}

// isSorted says whether bindings are in their order.
func isSorted(list []Binding) bool {
	for i := 1; i < len(list); i++ {
		if Order(&list[i-1], &list[i]) > 0 {
			return false
		}
	}
	return true
}

// Indices are those of bindings in the order of their places, where there are n and at finds one.
func Indices(n int, at func(int) *Binding) []int {
	places, order := make([]placed, n), make([]int, n)
	for i := range places {
		places[i] = placed{at(i).Place(), i}
	}
	slices.SortFunc(places, placed.compare)
	for i, p := range places {
		order[i] = p.from
	}
	return order
}

// Sort orders bindings by level, board, layer and press. Bindings are large, so their
// places are sorted, and each binding is moved once.
func Sort(list []Binding) {
	if isSorted(list) {
		return
	}
	places := make([]placed, len(list))
	for i := range list {
		places[i] = placed{list[i].Place(), i}
	}
	slices.SortFunc(places, placed.compare)
	for i := range places {
		if places[i].from == i {
			continue
		}
		// A cycle: what belongs here comes from where something else belongs.
		first, at := list[i], i
		for places[at].from != i {
			list[at] = list[places[at].from]
			at, places[at].from = places[at].from, at
		}
		list[at], places[at].from = first, at
	}
}

// placed is the place of a binding, and where it was.
type placed struct {
	Place
	from int
}

func (p placed) compare(o placed) int {
	return cmp.Or(p.Place.compare(o.Place), cmp.Compare(p.from, o.from))
}

// Change is one press that does different things in two behaviours. Before or
// After is nil where the press has no binding there.
type Change struct {
	Press         string
	Place         Place
	Before, After *Effect
}

// Plain drops what a board says only to repeat what every board does and what a key is
// said to do that it does anyhow, and sorts the rest.
func Plain(list []Binding) []Binding {
	special := func(b Binding) bool { return b.Board != "" || itself(b) }
	if slices.ContainsFunc(list, special) {
		every := map[Place]Effect{}
		meant := map[Place]bool{} // on any board
		dead := map[string]bool{} // layers in which keys do nothing by themselves
		for _, b := range list {
			if b.Board == "" {
				every[b.Place()] = b.Effect
			}
			if at := b.Place(); !itself(b) {
				at.Board = ""
				meant[at] = true
			}
			dead[b.Effect.Layer] = dead[b.Effect.Layer] || b.Effect.Dead
		}
		list = slices.DeleteFunc(slices.Clone(list), func(b Binding) bool {
			at := b.Place()
			at.Board = ""
			if e, ok := every[at]; b.Board != "" && ok {
				return e.Equal(b.Effect)
			}
			at.Layer = ""
			return itself(b) && (!meant[at] || b.Board == "" && b.Layer == "") && !dead[b.Layer]
		})
	}
	if !isSorted(list) {
		list = slices.Clone(list)
		Sort(list)
	}
	return list
}

// itself says whether a key is said to act as what it is.
func itself(b Binding) bool {
	return b.Level == Position && b.Effect.Kind == Becomes && b.Effect.Key == b.Chord.Key
}

// anyKept says whether one of bindings is kept.
func anyKept(list []Binding) bool {
	for i := range list { // bindings are large
		if list[i].Kept {
			return true
		}
	}
	return false
}

// counting drops what is only kept where another binding of the press counts, of a sorted list.
func counting(list []Binding) []Binding {
	if !anyKept(list) {
		return list
	}
	left := make([]Binding, 0, len(list))
	for len(list) > 0 {
		n := 1
		for n < len(list) && Order(&list[0], &list[n]) == 0 {
			n++
		}
		counts := n > 1 && slices.ContainsFunc(list[:n], func(b Binding) bool { return !b.Kept })
		for _, b := range list[:n] {
			if !counts || !b.Kept {
				left = append(left, b)
			}
		}
		list = list[n:]
	}
	return left
}

// Compare lists the presses whose effects differ, in the order of Sort. What is
// Kept on one side only, or on both, is no difference.
func Compare(before, after []Binding) []Change {
	before, after = counting(Plain(before)), counting(Plain(after))
	var changes []Change
	for len(before) > 0 || len(after) > 0 {
		at := 0
		switch {
		case len(before) == 0:
			at = 1
		case len(after) == 0:
			at = -1
		default:
			at = Order(&before[0], &after[0])
		}
		switch {
		case at < 0:
			if b := &before[0]; !b.Kept {
				changes = append(changes, Change{b.Press(), b.Place(), &b.Effect, nil})
			}
			before = before[1:]
		case at > 0:
			if b := &after[0]; !b.Kept {
				changes = append(changes, Change{b.Press(), b.Place(), nil, &b.Effect})
			}
			after = after[1:]
		default:
			// Where a press is bound twice, the later binding counts before, and each after.
			for len(before) > 1 && Order(&before[0], &before[1]) == 0 {
				before = before[1:]
			}
			was := &before[0]
			for len(after) > 0 && Order(was, &after[0]) == 0 {
				if b := &after[0]; !was.Effect.Equal(b.Effect) && !(was.Kept && b.Kept) {
					changes = append(changes, Change{b.Press(), b.Place(), &was.Effect, &b.Effect})
				}
				after = after[1:]
			}
			before = before[1:]
		}
	}
	return changes
}
