// Package behaviour says what a press does. It is the common ground on which
// what a mapping means and what native files say are held against each other,
// so it knows neither.
package behaviour

import (
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
	Level Level
	End   Ending     // what ends the abbreviation
	Case  Letters    // how its case counts
	Chord keys.Chord // of a position only the key, of a setting nothing
	Request
	Provenance
	Board  string       // "" for every board
	Layer  string       // the layer in which the press means this, "" outside all
	Then   []keys.Chord // the further strokes of a sequence
	Word   string       // the abbreviation of Typing
	Option Option       // of Setting
	Apps   []string     // only in these programs
	Effect Effect
}

// Request is how a mapping wants a press to be done, beside what it does.
type Request struct {
	Everyone bool // for all users of the machine
	Override bool // the chord is taken from whoever has it now
	Confirm  bool // of an action: after a question only
}

// Provenance is what is known of a press that was found in files. Never meant, only found.
type Provenance struct {
	// Kept is what a file says only to keep what the desktop does anyhow, or what it
	// says of several keys that it cannot tell apart.
	Kept bool
	// Alike is of a kept binding that is for several keys, of which the file means one, the first of
	// them; None for all others.
	Alike keys.Key
	// Contested is a press that the desktop uses for something else as well.
	Contested bool
}

// AnyOf is the provenance of a press that a file cannot tell from the others of a list.
func AnyOf(list []keys.Chord) Provenance {
	if len(list) < 2 {
		return Provenance{}
	}
	return Provenance{Kept: true, Alike: list[0].Key}
}

// Press is the binding's press in words: "CapsLock", "KeyT on chart-table".
func (b *Binding) Press() string {
	s := make([]byte, 0, 64)
	add := func(words ...string) {
		for _, w := range words {
			s = append(s, w...)
		}
	}
	switch {
	case b.Level == Typing:
		add("\"", b.Word, "\" typed", map[Ending]string{AtBlank: " and a blank", AtSign: " and any other character"}[b.End],
			map[Letters]string{InAnyCase: ", in any case", CarriedOver: ", its case carried over"}[b.Case])
	case b.Level == Setting:
		add(b.Option.String())
	case b.Word != "": // a chord of which no key is known
		add(b.Word)
	default:
		s = b.Chord.Append(s)
		if b.Level == Hotkey && b.Chord.Key == keys.None {
			add(" alone (held, it stays ", b.Chord.String(), ")")
		}
		s = appendStrokes(s, b.Then)
	}
	if b.Layer != "" {
		add(" in layer ", b.Layer)
	}
	if b.Board != "" {
		add(" on ", b.Board)
	}
	if len(b.Apps) > 0 {
		add(" in ", strings.Join(b.Apps, ", "))
	}
	return string(s)
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
func (b *Binding) Place() Place {
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

// Order is by level, board, layer and press.
func Order(a, b *Binding) int {
	switch { // what most differ by comes first, and nothing is compared in vain
	case a.Level != b.Level:
		return cmp.Compare(a.Level, b.Level)
	case a.Board != b.Board:
		return cmp.Compare(a.Board, b.Board)
	case a.Layer != b.Layer:
		return cmp.Compare(a.Layer, b.Layer)
	}
	if c := orderOfStrokes(a.Chord, b.Chord); c != 0 {
		return c
	}
	if c := slices.CompareFunc(a.Then, b.Then, orderOfStrokes); c != 0 {
		return c
	}
	switch {
	case a.Word != b.Word:
		return cmp.Compare(a.Word, b.Word)
	case a.Option != b.Option:
		return cmp.Or(
			cmp.Compare(a.Option.Kind, b.Option.Kind), cmp.Compare(a.Option.Key, b.Option.Key),
			cmp.Compare(a.Option.For, b.Option.For), cmp.Compare(a.Option.Name, b.Option.Name),
		)
	}
	return slices.Compare(a.Apps, b.Apps)
}

func orderOfStrokes(a, b keys.Chord) int {
	if a.Key != b.Key {
		return cmp.Compare(a.Key, b.Key)
	}
	return cmp.Compare(a.Mods, b.Mods)
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

// Indices are those of bindings in their order, where there are n and at finds one.
func Indices(n int, at func(int) *Binding) []int {
	places, order := make([]placed, n), make([]int, n)
	for i := range places {
		places[i] = placed{at(i), i}
	}
	slices.SortFunc(places, placed.compare) // which is faster than a stable sort
	for i, p := range places {
		order[i] = p.from
	}
	return order
}

// Sort orders bindings by level, board, layer and press.
func Sort(list []Binding) {
	if isSorted(list) {
		return
	}
	// Bindings are large: each is moved once.
	order := Indices(len(list), func(i int) *Binding { return &list[i] })
	for i, from := range order {
		if from == i {
			continue
		}
		// A cycle: what belongs here comes from where something else belongs.
		first, at := list[i], i
		for order[at] != i {
			list[at] = list[order[at]]
			at, order[at] = order[at], at
		}
		list[at], order[at] = first, at
	}
}

// placed is a binding, and where it was.
type placed struct {
	*Binding
	from int
}

func (p placed) compare(o placed) int {
	if c := Order(p.Binding, o.Binding); c != 0 {
		return c
	}
	return cmp.Compare(p.from, o.from)
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
	left := make([]Binding, 0, len(list))
	for _, b := range plain(pointers(list)) {
		left = append(left, *b)
	}
	return left
}

// pointers are those to bindings, which are large.
func pointers(list []Binding) []*Binding {
	to := make([]*Binding, len(list))
	for i := range list {
		to[i] = &list[i]
	}
	return to
}

// plain drops what Plain does, of a list that is the caller's.
func plain(list []*Binding) []*Binding {
	special := func(b *Binding) bool { return b.Board != "" || itself(b) }
	if slices.ContainsFunc(list, special) {
		every := map[Place]*Effect{}
		meant := map[Place]bool{} // on any board
		dead := map[string]bool{} // layers in which keys do nothing by themselves
		for _, b := range list {
			at := b.Place()
			if b.Board == "" {
				every[at] = &b.Effect
			}
			if !itself(b) {
				at.Board = ""
				meant[at] = true
			}
			dead[b.Effect.Layer] = dead[b.Effect.Layer] || b.Effect.Dead
		}
		list = slices.DeleteFunc(list, func(b *Binding) bool {
			at := b.Place()
			at.Board = ""
			if e, ok := every[at]; b.Board != "" && ok {
				return e.Equal(b.Effect)
			}
			at.Layer = ""
			return itself(b) && (!meant[at] || b.Board == "" && b.Layer == "") && !dead[b.Layer]
		})
	}
	if !slices.IsSortedFunc(list, Order) {
		slices.SortStableFunc(list, Order)
	}
	return list
}

// itself says whether a key is said to act as what it is.
func itself(b *Binding) bool {
	return b.Level == Position && b.Effect.Kind == Becomes && b.Effect.Key == b.Chord.Key
}

// counting drops what is only kept where another binding of the press counts, of a sorted list.
func counting(list []*Binding) []*Binding {
	if !slices.ContainsFunc(list, func(b *Binding) bool { return b.Kept }) {
		return list
	}
	left := make([]*Binding, 0, len(list))
	for len(list) > 0 {
		n := 1
		for n < len(list) && Order(list[0], list[n]) == 0 {
			n++
		}
		counts := n > 1 && slices.ContainsFunc(list[:n], func(b *Binding) bool { return !b.Kept })
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
func Compare(before, after []Binding) []Change { return CompareEach(before, pointers(after)) }

// CompareEach is Compare with bindings that stand where they are.
func CompareEach(was []Binding, is []*Binding) []Change {
	before, after := counting(plain(pointers(was))), counting(plain(slices.Clone(is)))
	var changes []Change
	for len(before) > 0 || len(after) > 0 {
		at := 0
		switch {
		case len(before) == 0:
			at = 1
		case len(after) == 0:
			at = -1
		default:
			at = Order(before[0], after[0])
		}
		switch {
		case at < 0:
			if b := before[0]; !b.Kept {
				changes = append(changes, Change{b.Press(), b.Place(), &b.Effect, nil})
			}
			before = before[1:]
		case at > 0:
			if b := after[0]; !b.Kept {
				changes = append(changes, Change{b.Press(), b.Place(), nil, &b.Effect})
			}
			after = after[1:]
		default:
			// Where a press is bound twice, the later binding counts before, and each after.
			for len(before) > 1 && Order(before[0], before[1]) == 0 {
				before = before[1:]
			}
			was := before[0]
			for len(after) > 0 && Order(was, after[0]) == 0 {
				if b := after[0]; !was.Effect.Equal(b.Effect) && !(was.Kept && b.Kept) {
					changes = append(changes, Change{b.Press(), b.Place(), &was.Effect, &b.Effect})
				}
				after = after[1:]
			}
			before = before[1:]
		}
	}
	return changes
}
