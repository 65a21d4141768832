package picture

import (
	"cmp"
	"slices"

	"leitstand/core/keys"
)

// Difference is a key that does one thing on one board and another on another.
type Difference struct {
	Key         keys.Key
	Left, Right string
}

// Compared are two boards beside each other.
type Compared struct {
	Left, Right *Board
	Differences []Difference
}

// Compare compares what the keys of two boards do, and what is printed on them.
func Compare(left, right *Board) *Compared {
	c := &Compared{Left: left, Right: right}
	a, b := left.does(), right.does()
	for _, k := range keys.All() {
		x, inLeft := a[k]
		y, inRight := b[k]
		if x == y && inLeft == inRight || left.note(k).same(right.note(k)) {
			continue
		}
		c.Differences = append(c.Differences, Difference{k, cmp.Or(x, "is not there"), cmp.Or(y, "is not there")})
	}
	return c
}

// same says whether two keys are made the same, whatever two desktops make of that.
func (n Note) same(o Note) bool {
	return n.Number > 0 && o.Number > 0 && n.Kind == o.Kind && n.Acts == o.Acts && n.Acts != keys.None
}

// note is that of a key, the zero value for none.
func (b *Board) note(k keys.Key) Note {
	for _, c := range b.Caps {
		if c.Key == k && c.Note > 0 {
			return b.Notes[c.Note-1]
		}
	}
	for _, e := range b.Elsewhere {
		if e.Key == k {
			return b.Notes[e.Note-1]
		}
	}
	return Note{}
}

// does is what each key of a board does, in words.
func (b *Board) does() map[keys.Key]string {
	does := map[keys.Key]string{}
	for _, c := range b.Caps {
		switch {
		case c.Broken:
			does[c.Key] = "is broken"
		case c.Note > 0:
			does[c.Key] = b.Notes[c.Note-1].Does
		case b.Hold != "":
			does[c.Key] = "nothing is on it"
		case c.Dead:
			does[c.Key] = "is a dead " + c.Printed
		default:
			does[c.Key] = "is " + cmp.Or(c.Printed, c.Key.String())
		}
	}
	for _, e := range b.Elsewhere {
		does[e.Key] = b.Notes[e.Note-1].Does
	}
	return does
}

// From says of boards which mapping they are by.
func From(boards []*Board, name string) {
	for _, b := range boards {
		b.From = name
	}
}

// Pairs are the boards of two lists that are to be compared: of one name, on one machine where two mappings are compared,
// or the first of each of two machines without a board in common. Alone are those that have none to be compared with.
func Pairs(left, right []*Board) (list []*Compared, alone []*Board) {
	paired := map[*Board]bool{}
	pair := func(a, b *Board) {
		list = append(list, Compare(a, b))
		paired[a], paired[b] = true, true
	}
	for _, a := range left {
		for _, b := range right {
			if a.Name == b.Name && a.Layer == b.Layer && (a.From == b.From || a.Machine == b.Machine) {
				pair(a, b)
			}
		}
	}
	if len(list) == 0 && len(left) > 0 && len(right) > 0 && left[0].From == right[0].From {
		pair(left[0], right[0])
	}
	for _, b := range slices.Concat(left, right) {
		if !paired[b] {
			alone = append(alone, b)
		}
	}
	return list, alone
}
