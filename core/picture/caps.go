package picture

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/keys"
)

// Moving says which caps of a board go where, so that what is printed is what the keys do.
type Moving struct {
	Board *Board // as its caps lie now
	Moves []Move
	Stay  []Stay
	// Wordless are the keys that do what no cap of any board says: a text, a program, a layer, nothing.
	Wordless []keys.Key
	After    *Board // with the caps moved
}

// Move is a cap that goes from one key to another.
type Move struct {
	Legend   string
	From, To keys.Key
	// Slope says that the two lie in different rows, whose caps have the same slope on flat boards only.
	Slope bool
	// Left says that the cap lies there for want of a better place: the key does something that no cap says.
	Left bool
}

// Stay is a key whose cap lies about it, and is left.
type Stay struct {
	Key     keys.Key
	Printed string
	Now     string // what it should say
	Why     string
}

// wish is a key that does what another cap says.
type wish struct {
	cap    Cap
	legend string
}

// Caps finds which caps to move. A cap may go where one as wide lies, whose place is given up as well; of several that say
// the same, the one on the same side of the space bar, in the same row and nearest is taken.
func Caps(b *Board) *Moving {
	m := &Moving{Board: b}
	space, pieces := 0, map[keys.Key]int{} // the middle of the space bar
	for _, c := range b.Caps {
		if pieces[c.Key]++; c.Key.String() == "Space" {
			space = c.From + c.Width/2
		}
	}
	var wishes []wish
	var spare []Cap // which are wrong where they are
	seen := map[keys.Key]bool{}
	for _, c := range b.Caps {
		if c.Note == 0 || seen[c.Key] || b.Notes[c.Note-1].Kind == Lost { // which does what its cap says
			continue
		}
		seen[c.Key] = true
		switch legend, has := b.legendFor(b.Notes[c.Note-1]); {
		case has && legend == c.Printed:
		case !has:
			m.Wordless = append(m.Wordless, c.Key)
			if pieces[c.Key] == 1 {
				spare = append(spare, c)
			}
		case pieces[c.Key] > 1:
			m.Stay = append(m.Stay, Stay{c.Key, c.Printed, cmp.Or(legend, "Space"), "its cap has a shape of its own"})
		default:
			spare, wishes = append(spare, c), append(wishes, wish{c, legend})
		}
	}
	given, taken := map[keys.Key]Move{}, map[keys.Key]bool{}
	for _, w := range wishes {
		var best *Cap
		for i, o := range spare {
			if _, gone := given[o.Key]; gone || o.Printed != w.legend || !o.fits(w.cap) {
				continue
			}
			if best == nil || nearer(w.cap, o, *best, space) {
				best = &spare[i]
			}
		}
		if best == nil {
			m.Stay = append(m.Stay, Stay{w.cap.Key, w.cap.Printed, cmp.Or(w.legend, "Space"), b.whyStays(w, spare)})
			continue
		}
		move := Move{Legend: w.legend, From: best.Key, To: w.cap.Key, Slope: best.Row != w.cap.Row}
		given[best.Key], taken[w.cap.Key] = move, true
		m.Moves = append(m.Moves, move)
	}
	for _, c := range spare { // a cap that nobody wants lies where one has gone from
		if _, gone := given[c.Key]; gone || !taken[c.Key] {
			continue
		}
		at := c.Key
		for { // against the moves, to the key that has no cap
			from := slices.IndexFunc(m.Moves, func(mv Move) bool { return mv.To == at })
			if from < 0 {
				break
			}
			at = m.Moves[from].From
		}
		open := b.cap(at)
		m.Moves = append(m.Moves, Move{Legend: c.Printed, From: c.Key, To: at, Slope: c.Row != open.Row, Left: true})
	}
	m.After = m.moved()
	return m
}

// fits says whether a cap can lie where another does.
func (c Cap) fits(at Cap) bool { return c.Width == at.Width && c.Rows == at.Rows && c.Half == at.Half }

// cap is that of a key.
func (b *Board) cap(k keys.Key) Cap {
	return b.Caps[slices.IndexFunc(b.Caps, func(c Cap) bool { return c.Key == k })]
}

// legendFor is what a cap should say for a key that does this; has is false where caps have no word for it.
func (b *Board) legendFor(n Note) (legend string, has bool) {
	switch {
	case n.Kind == Key && n.Acts != keys.None:
		return b.words.printed(n.Acts), true
	case n.Kind == Modifier:
		return n.Short, true
	}
	return "", false
}

// nearer says whether a cap is a better one for a place than another.
func nearer(to, a, b Cap, space int) bool {
	rank := func(c Cap) []int {
		side := func(of Cap) bool { return of.From < space }
		far := []int{0, 0, max(c.From-to.From, to.From-c.From)}
		if side(c) != side(to) {
			far[0] = 1
		}
		if c.Row != to.Row || c.Block != to.Block {
			far[1] = 1
		}
		return far
	}
	return slices.Compare(rank(a), rank(b)) < 0
}

// whyStays says why a key does not get the cap that it should have.
func (b *Board) whyStays(w wish, spare []Cap) string {
	word := cmp.Or(w.legend, "nothing")
	says := func(c Cap) bool { return c.Printed == w.legend && c.Key != w.cap.Key }
	switch {
	case !slices.ContainsFunc(b.Caps, says):
		return fmt.Sprintf("no cap of this board says %s", word)
	case !slices.ContainsFunc(spare, says):
		return fmt.Sprintf("the cap that says %s is right where it is", word)
	case !slices.ContainsFunc(spare, func(c Cap) bool { return says(c) && c.fits(w.cap) }):
		return fmt.Sprintf("the cap that says %s has another size", word)
	default:
		return fmt.Sprintf("the cap that says %s goes elsewhere", word)
	}
}

// moved is the board with its caps where they go. What is right then has no note, and what is not keeps its own.
func (m *Moving) moved() *Board {
	after := *m.Board
	after.Caps = slices.Clone(m.Board.Caps)
	legends := map[keys.Key]Cap{}
	for _, c := range m.Board.Caps {
		legends[c.Key] = c
	}
	for i, c := range after.Caps {
		at := slices.IndexFunc(m.Moves, func(mv Move) bool { return mv.To == c.Key })
		if at < 0 {
			continue
		}
		from := legends[m.Moves[at].From]
		after.Caps[i].Printed, after.Caps[i].Shifted, after.Caps[i].Dead = from.Printed, from.Shifted, from.Dead
		if !m.Moves[at].Left {
			after.Caps[i].Note = 0
		}
	}
	return &after
}

// Conclusion is what it comes to, in a sentence.
func (m *Moving) Conclusion() string {
	switch {
	case len(m.Moves) > 0:
		return "caps to move"
	case len(m.Stay) > 0:
		return "no cap has a better place"
	case len(m.Wordless) > 0:
		return "every cap says what its key does, but for those that no cap could"
	}
	return "every cap says what its key does"
}

// Beyond says which keys do what no cap says; "" for none.
func (m *Moving) Beyond() string {
	if len(m.Wordless) == 0 {
		return ""
	}
	var names []string
	for _, k := range m.Wordless {
		names = append(names, k.String())
	}
	return "No cap has a word for what these do: " + strings.Join(names, ", ")
}

// Step are caps that are moved together.
type Step []Move

// Swap says whether two caps change places.
func (s Step) Swap() bool {
	return len(s) == 2 && s[0].From == s[1].To && s[1].From == s[0].To && !s[0].Left && !s[1].Left
}

// String is the step in a sentence.
func (s Step) String() string {
	slope := func(m Move) string {
		if m.Slope {
			return " (another row: only where all caps have one slope)"
		}
		return ""
	}
	if s.Swap() {
		return fmt.Sprintf("let %s (%s) and %s (%s) change places%s", s[0].Legend, s[0].From, s[1].Legend, s[1].From,
			slope(s[0]))
	}
	var parts []string
	for _, m := range s {
		part := fmt.Sprintf("%s (%s) onto %s%s", m.Legend, m.From, m.To, slope(m))
		if m.Left {
			part += ", for want of a better place"
		}
		parts = append(parts, part)
	}
	return "put " + strings.Join(parts, "; ")
}

// String is what is to be known of the key in a sentence.
func (s Stay) String() string {
	return fmt.Sprintf("%s (%s) is %s now, but %s", cmp.Or(s.Printed, "The bar"), s.Key, s.Now, s.Why)
}

// Steps are the moves, those together whose caps take each other's places.
func (m *Moving) Steps() (list []Step) {
	done := map[keys.Key]bool{}
	for _, first := range m.Moves {
		if done[first.To] {
			continue
		}
		var ring Step
		for at := first; !done[at.To]; {
			done[at.To] = true
			ring = append(ring, at)
			next := slices.IndexFunc(m.Moves, func(mv Move) bool { return mv.To == at.From })
			if next < 0 {
				break
			}
			at = m.Moves[next]
		}
		list = append(list, ring)
	}
	return list
}
