package intent

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// claim is an entry with the part of the machine for which its rule speaks.
type claim struct {
	entry *Entry
	reach mapping.Reach
	own   bool // the rule has an entry for this board only, beside that for all
}

func (c claim) on(board string) bool {
	return c.reach.Every && !slices.Contains(c.reach.Without, board) || slices.Contains(c.reach.Boards, board)
}

// leavesOut says whether a rule for every board leaves out this one.
func (c claim) leavesOut(board string) bool { return c.reach.Every && !c.on(board) }

// caught says whether a rule for some boards, that leaves out this one, would reach it all the
// same: one of those is any that is plugged in.
func (r *resolver) caught(c claim, b *machine.Board) bool {
	if c.reach.Every || c.on(b.Name) || c.entry.Binding.Level != behaviour.Position || !b.External() {
		return false
	}
	return slices.ContainsFunc(c.reach.Boards, func(name string) bool {
		other, _ := r.mp.Board(name)
		return slices.Contains(other.IDs, machine.BoardID{Bus: machine.AnyExternal})
	})
}

// decideRivals decides which rule has each press. A press is looked up by its keys, so
// that the work grows with the rules and not with their square.
func (r *resolver) decideRivals(claims []claim) {
	meeting := gatherRivals(claims)
	r.met = map[[2]int]bool{}
	r.draws = draws{group: map[int]int{}}
	r.Entries = make([]*Entry, 0, len(claims))
	for i, c := range claims {
		if r.draws.count >= mostDraws {
			break // the mapping is in error, and nobody reads more
		}
		rivals := meeting.of(i)
		all := c.reach.Every && r.wins(claims, rivals, i, "")
		if all {
			r.Entries = append(r.Entries, c.entry)
		}
		for _, b := range r.Machine.Boards {
			switch {
			case all && c.leavesOut(b.Name), r.caught(c, b):
				if r.untouched(claims, rivals, i, b.Name) {
					r.Entries = append(r.Entries, c.entry.on(b.Name).keeps())
				}
				continue
			case !c.on(b.Name) || c.reach.Every && !contested(claims, rivals, i, b.Name):
				continue
			}
			if r.wins(claims, rivals, i, b.Name) && (!c.reach.Every || !all && leftOut(claims, rivals, b.Name)) {
				r.Entries = append(r.Entries, c.entry.on(b.Name))
			}
		}
	}
}

// mostDraws is how many conflicts of rules are reported of a machine.
const mostDraws = 200

// draws are the claims of which it is reported that no rule decides between them, in groups: of many for one press, each
// is reported once, against the first.
type draws struct {
	group map[int]int // what a claim is in the group of; itself where it is not there
	count int

	of     int   // the claim whose rivals were looked at last
	scoped []int // those of them that hold somewhere only
}

// first is the claim that stands for a claim's group.
func (d *draws) first(i int) int {
	for {
		of, ok := d.group[i]
		if !ok || of == i {
			return i
		}
		i = of
	}
}

// same reports whether two claims are in one group.
func (d *draws) same(i, j int) bool { return d.count > 0 && d.first(i) == d.first(j) }

// join puts two claims into one group.
func (d *draws) join(i, j int) {
	a, b := d.first(i), d.first(j)
	d.group[max(a, b)] = min(a, b)
	d.count++
}

// contested says whether a rule for some boards only, or for all but some, meets claim i on
// a board.
func contested(claims []claim, rivals []int, i int, board string) bool {
	return slices.ContainsFunc(
		rivals, func(j int) bool { return j != i && !claims[j].reach.Every && claims[j].on(board) },
	) ||
		leftOut(claims, rivals, board)
}

// leftOut says whether one of the rules leaves out a board, so that others have it there.
func leftOut(claims []claim, rivals []int, board string) bool {
	return slices.ContainsFunc(rivals, func(j int) bool { return claims[j].leavesOut(board) })
}

// untouched says whether a board that claim i leaves out must be said to keep its key: no
// other rule says there what the key is. In a layer, which such a board cannot switch on,
// nothing needs saying.
func (r *resolver) untouched(claims []claim, rivals []int, i int, board string) bool {
	b := &claims[i].entry.Binding
	return b.Layer == "" &&
		!slices.ContainsFunc(
			rivals, func(j int) bool { return claims[j].on(board) && overlap(b, &claims[j].entry.Binding) },
		)
}

// keeps has an entry say that its key stays what it is.
func (e *Entry) keeps() *Entry {
	e.Binding.Effect, e.Wish, e.Lost = as(e.Binding.Chord.Key), nil, false
	e.Change(func(l *Lack) { l.Missing, l.Less = nil, nil })
	return e
}

// wins says whether claim i has its press on a board ("" for those no rule
// singles out), and reports a draw.
func (r *resolver) wins(claims []claim, rivals []int, i int, board string) bool {
	c := claims[i]
	won := true
	for _, j := range rivals {
		r.Compared++
		o := claims[j]
		if j == i || !o.on(board) || board == "" && !o.reach.Every || !overlap(&c.entry.Binding, &o.entry.Binding) {
			continue
		}
		mine, other := c.entry.Rule.Head(), o.entry.Rule.Head()
		if c.entry.Rule == o.entry.Rule && c.own != o.own {
			won = won && c.own
			continue
		}
		in, out := mine.Scope.Within(other.Scope, r.mp), other.Scope.Within(mine.Scope, r.mp)
		switch {
		case in && !out:
			if !r.met[[2]int{i, j}] {
				r.Beaten = append(r.Beaten, Beaten{o.entry.Rule, c.entry.Rule, claimed(c.entry.Binding)})
			}
			r.met[[2]int{i, j}] = true
		case out && !in:
			won = false
		default:
			won = false
			if i > j || r.met[[2]int{i, j}] || r.draws.same(i, j) {
				continue // reported at the other of the two, on another board, or against a third rule
			}
			if r.draws.count >= mostDraws {
				return false
			}
			if r.decided(claims, rivals, i, j, board) {
				continue
			}
			r.met[[2]int{i, j}] = true
			r.draws.join(i, j)
			at, related := o.entry.Range, c.entry.Range
			summary, advice := r.meeting(c.entry, o.entry, in)
			r.add(
				diag.Error, at, "two-rules", summary, advice,
				diag.Related{Range: related, Words: "the other: " + mapping.Title(c.entry.Rule)},
			)
		}
	}
	return won
}

// decided says whether a third rule, narrower than claims i and j, has on a board all
// that the two have in common.
func (r *resolver) decided(claims []claim, rivals []int, i, j int, board string) bool {
	a, b := claims[i].entry, claims[j].entry
	if r.draws.of != i || r.draws.scoped == nil { // a rule that holds everywhere is narrower than none
		r.draws.of, r.draws.scoped = i, []int{}
		for _, k := range rivals {
			if len(claims[k].entry.Rule.Head().Scope) > 0 {
				r.draws.scoped = append(r.draws.scoped, k)
			}
		}
	}
	return slices.ContainsFunc(r.draws.scoped, func(k int) bool {
		r.Compared++
		c := claims[k]
		if k == i || k == j || !c.on(board) || board == "" && !c.reach.Every ||
			!coversBoth(&c.entry.Binding, &a.Binding, &b.Binding) {
			return false
		}
		mine := c.entry.Rule.Head().Scope
		return r.narrower(mine, a.Rule.Head().Scope) && r.narrower(mine, b.Rule.Head().Scope)
	})
}

// narrower says whether a scope is part of another, and not the other way about.
func (r *resolver) narrower(s, o mapping.Scope) bool {
	return s.Within(o, r.mp) && !o.Within(s, r.mp)
}

// coversBoth says whether every press that can be both a and b is c, too.
func coversBoth(c, a, b *behaviour.Binding) bool {
	if !overlap(c, a) || !overlap(c, b) || len(c.Then) > min(len(a.Then), len(b.Then)) {
		return false
	}
	all := append([]keys.Chord{c.Chord}, c.Then...)
	for i, chord := range all {
		x, y := a.Chord, b.Chord
		if i > 0 {
			x, y = a.Then[i-1], b.Then[i-1]
		}
		if !chord.Covers(x) && !chord.Covers(y) {
			return false
		}
	}
	covers := func(apps []string) bool {
		return !slices.ContainsFunc(apps, func(s string) bool { return !slices.Contains(c.Apps, s) })
	}
	return len(c.Apps) == 0 || covers(a.Apps) || covers(b.Apps)
}

// claimed names the press of a binding, whatever the board.
func claimed(b behaviour.Binding) string {
	b.Board = ""
	return b.Press()
}

// bucket is where bindings that could meet are found: the same level and layer,
// the same first key or word, or the same setting.
type bucket struct {
	level  behaviour.Level
	layer  string
	key    keys.Key
	word   string
	option behaviour.Option
}

func bucketOf(b *behaviour.Binding) bucket {
	return bucket{b.Level, b.Layer, b.Chord.Key, strings.ToLower(b.Word), b.Option}
}

// branch is the claims whose strokes have the same keys, and where the next key leads.
type branch struct {
	from   *branch // the branch of the strokes without the last; nil for those of one stroke
	next   []further
	claims []int
	beyond []int // the claims of all branches that it leads to
}

// further is where a key leads.
type further struct {
	key keys.Key
	to  *branch
}

// after is the branch that a key leads to.
func (b *branch) after(k keys.Key) *branch {
	for _, n := range b.next {
		if n.key == k {
			return n.to
		}
	}
	next := &branch{from: b}
	b.next = append(b.next, further{k, next})
	return next
}

// rivals finds the claims that one could meet: a sequence meets those that have its keys,
// that it begins with, and that begin with it.
type rivals []*branch // of each claim

func gatherRivals(claims []claim) rivals {
	first := map[bucket]*branch{}
	list := make(rivals, len(claims))
	for i, c := range claims {
		b := &c.entry.Binding
		in := bucketOf(b)
		at := first[in]
		if at == nil {
			at = &branch{}
			first[in] = at
		}
		for _, then := range b.Then {
			at.beyond = append(at.beyond, i)
			at = at.after(then.Key)
		}
		at.claims = append(at.claims, i)
		list[i] = at
	}
	return list
}

// of lists the claims that one could meet, itself among them, in their order.
func (r rivals) of(claim int) []int {
	list := r[claim].claims
	if more := r[claim].beyond; len(more) > 0 {
		list = slices.Concat(list, more)
	}
	for at := r[claim].from; at != nil; at = at.from {
		if len(at.claims) > 0 {
			list = slices.Concat(list, at.claims)
		}
	}
	if len(list) > len(r[claim].claims) {
		slices.Sort(list)
	}
	return list
}

// overlap says whether one press can be both bindings. A sequence meets what it
// begins with; a rule for some programs lies over one for all.
func overlap(a, b *behaviour.Binding) bool {
	if (len(a.Apps) == 0) != (len(b.Apps) == 0) {
		return false
	}
	if len(a.Apps) > 0 && !slices.ContainsFunc(a.Apps, func(s string) bool { return slices.Contains(b.Apps, s) }) {
		return false
	}
	if a.Level == behaviour.Typing && a.Case == behaviour.InThisCase && b.Case == behaviour.InThisCase &&
		a.Word != b.Word {
		return false
	}
	if !a.Chord.Overlaps(b.Chord) {
		return false
	}
	for i := range min(len(a.Then), len(b.Then)) {
		if !a.Then[i].Overlaps(b.Then[i]) {
			return false
		}
	}
	return true
}
