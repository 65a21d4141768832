// Package proof holds what a machine's written files do, read back, against what
// the mapping says, press by press: every key in every state of the modifiers and
// every layout group. It is translation validation, as compilers do it: the
// writer is not trusted, its output is checked each time.
//
// What the mapping says of a layout is worked out from the bare layout: a key that
// acts as another must do in every state what that other key does there. What the
// files say is the bare layout with the files on top. A key whose definition is the
// same on both sides does the same in every state, and is compared as a whole.
package proof

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/station"
)

// Result is the proof of one machine.
type Result struct {
	Machine   string
	Presses   int // presses compared, each in one state
	Announced int // presses of rules that differ as a verdict says
	Defects   []Defect
}

// Defect is a press that does something else than the mapping says, and no verdict
// announces it: the shortest of its kind.
type Defect struct {
	Press     string
	Want, Got string
	Rule      mapping.Rule // nil if the mapping says nothing of the press
	Range     diag.Range
	// Alike is another press of the mapping that the mechanism cannot tell from this
	// one; "" if that is not the reason.
	Alike string
}

// Total is the proof of all machines in figures.
type Total struct {
	Presses     int // compared
	Announced   int // that differ as a verdict says
	Unexplained int
}

// Add counts one machine in.
func (t *Total) Add(r *Result) {
	t.Presses += r.Presses
	t.Announced += r.Announced
	t.Unexplained += len(r.Defects)
}

// Machine proves one machine by what its files say.
func Machine(s *station.Station) *Result {
	b, got := s.Build(), s.Read()
	p := &prover{build: b, Result: Result{Machine: b.Machine.Name}}
	p.bindings(got.Bindings)
	if got.Layout != nil {
		own := got.Layout.Boards()
		p.layout(got.Layout.Keymap(""), p.every(own))
		for _, board := range own {
			first := len(p.Defects)
			p.layout(got.Layout.Keymap(board), p.on(board))
			for i := range p.Defects[first:] {
				p.Defects[first+i].Press += " on " + board
			}
		}
	}
	for i, t := range got.Typists {
		p.typing(p.build.Machine.Layouts[i], t, i)
	}
	slices.SortStableFunc(p.Defects, func(a, b Defect) int { return len(a.Press) - len(b.Press) })
	return &p.Result
}

type prover struct {
	Result
	build *compile.Build
	reach keymap.Mask // the modifiers that any key turns on, as meant or as written
}

// groups is how many layout groups there are: one for each layout, and as many more
// for each layer.
func (p *prover) groups() int {
	return max(1, len(p.build.Machine.Layouts)) * (1 + len(p.build.Machine.GroupLayers()))
}

// bindings compares what the files bind, mechanism by mechanism.
func (p *prover) bindings(got []behaviour.Binding) {
	want := p.build.Written()
	p.Presses += places(got, want)
	for _, c := range behaviour.CompareEach(got, want) {
		if c.Place.Level == behaviour.Position && likeKeys(p.build.Machine, c) &&
			((xkb.Mechanism{}).Serves(p.build.Machine) || p.build.Machine.System == machine.MacOS ||
				p.build.Machine.SameAltGr(*c.Before, *c.After)) {
			continue // the layout, or the system, has the two keys alike
		}
		if c.Place.Board != "" && c.Before != nil && c.After == nil && p.onEveryBoard(c.Place, *c.Before) {
			continue // which the keymap of a board of its own says once more
		}
		if c.Before == nil && c.Place.Board != "" && c.Place.Layer == "" {
			every := c.Place
			every.Board = ""
			bases := append(p.widely(c.Place), p.outside(every))
			if !slices.ContainsFunc(bases, func(base behaviour.Effect) bool {
				return !base.Equal(*c.After) && !likeKeys(p.build.Machine, behaviour.Change{Before: &base, After: c.After})
			}) {
				continue // the board does what every board does, and every external one
			}
		}
		if own := (behaviour.Effect{Kind: behaviour.Becomes, Key: c.Place.Chord.Key}); c.Before == nil &&
			c.Place == (behaviour.Place{Chord: c.Place.Chord}) &&
			likeKeys(p.build.Machine, behaviour.Change{Before: &own, After: c.After}) {
			continue // the other key is alike, so that nothing is to be written
		}
		if base := p.outside(c.Place); c.Place.Layer != "" && c.Before == nil && c.After != nil &&
			(base.Equal(*c.After) || likeKeys(p.build.Machine, behaviour.Change{Before: &base, After: c.After})) {
			continue // in the layer it is to do what it does anyhow
		}
		d := Defect{Press: c.Press, Want: "nothing of its own", Got: "nothing of its own"}
		if c.After != nil {
			d.Want = c.After.String()
		}
		if c.Before != nil {
			d.Got = c.Before.String()
		}
		p.blame(&d, c.Place)
		d.Alike = p.alike(c)
		p.Defects = append(p.Defects, d)
	}
	contested := map[behaviour.Place]bool{}
	for _, b := range got {
		if b.Contested {
			contested[b.Place()] = true
		}
	}
	for _, l := range p.build.Landings {
		if !l.ReadBack() {
			continue
		}
		if l.Offer.Verdict == mechanism.Limited {
			p.Announced++
		}
		// Where a rule takes the press from whoever has it, nobody else may have it.
		if len(contested) > 0 && contested[l.Binding.Place()] &&
			(l.Binding.Override || l.Binding.Effect.Kind == behaviour.Nothing || l.Offer.Verdict == mechanism.Exact) {
			d := Defect{
				Press: l.Binding.Press(),
				Want:  l.Binding.Effect.String(),
				Got:   "that, or what the desktop uses it for as well",
			}
			p.blame(&d, l.Binding.Place())
			p.Defects = append(p.Defects, d)
		}
	}
}

// places counts the presses of which either side says something.
func places(got []behaviour.Binding, want []*behaviour.Binding) int {
	of := make(map[behaviour.Place]bool, len(want))
	for i := range got {
		of[got[i].Place()] = true
	}
	for _, b := range want {
		of[b.Place()] = true
	}
	return len(of)
}

// alike finds the press that has got what a press should have done instead of its own:
// both landed in one mechanism, which announces that it takes two keys for one.
func (p *prover) alike(c behaviour.Change) string {
	if c.Before == nil || c.After == nil {
		return ""
	}
	at := slices.IndexFunc(p.build.Landings, func(l land.Landing) bool {
		return l.Mechanism != nil && l.Offer.Verdict == mechanism.Limited && l.Binding.Place() == c.Place
	})
	for _, l := range p.build.Landings {
		if at >= 0 && l.Mechanism == p.build.Landings[at].Mechanism && l.Binding.Place() != c.Place &&
			l.Binding.Effect.Equal(*c.Before) {
			return l.Binding.Press()
		}
	}
	return ""
}

// onEveryBoard says whether a press is to do this on every board.
func (p *prover) onEveryBoard(at behaviour.Place, e behaviour.Effect) bool {
	at.Board = ""
	return slices.ContainsFunc(p.build.Landings, func(l land.Landing) bool {
		return l.Mechanism != nil && l.Binding.Place() == at && l.Written().Effect.Equal(e)
	})
}

// widely lists the effects that landed for a press on any external board.
func (p *prover) widely(at behaviour.Place) (list []behaviour.Effect) {
	for _, l := range p.build.Landings {
		there := l.Binding.Place()
		there.Board = at.Board
		if l.Mechanism != nil && there == at && slices.ContainsFunc(p.build.Machine.Boards, func(b *machine.Board) bool {
			return b.Name == l.Binding.Board && b.Name != at.Board &&
				slices.Contains(b.IDs, machine.BoardID{Bus: machine.AnyExternal})
		}) {
			list = append(list, l.Written().Effect)
		}
	}
	return list
}

// outside is what the key of a press does out of all layers.
func (p *prover) outside(at behaviour.Place) behaviour.Effect {
	at.Layer = ""
	for _, l := range p.build.Landings {
		if l.Mechanism != nil && l.Binding.Place() == at {
			return l.Binding.Effect
		}
	}
	return behaviour.Effect{Kind: behaviour.Becomes, Key: at.Chord.Key}
}

// likeKeys says whether a press differs only by which of two keys it acts as that the machine has
// alike.
func likeKeys(m *intent.Machine, c behaviour.Change) bool {
	return c.Before != nil && c.After != nil && m.Alike(*c.Before, *c.After)
}

// blame finds the rule that speaks of a press.
func (p *prover) blame(d *Defect, at behaviour.Place) {
	for _, l := range p.build.Landings {
		if l.Binding.Place() == at {
			d.Rule, d.Range = l.Rule, l.Range
		}
	}
}

// written is what landed, by what the files should say of it.
func (p *prover) written() []land.Landing {
	list := slices.Clone(p.build.Landings)
	for i, l := range list {
		if l.Offer.Does != nil {
			e := *l.Entry
			e.Binding = l.Written()
			list[i].Entry = &e
		}
	}
	return list
}

// every is what landed for every board, and what drivers do for boards that have no
// layout of their own.
func (p *prover) every(own []string) []land.Landing {
	return slices.DeleteFunc(p.written(), func(l land.Landing) bool {
		board := l.Binding.Board
		return board != "" && (l.Mechanism == nil || l.Facts().Stage != mechanism.Kernel || slices.Contains(own, board))
	})
}

// on is what landed for a board: its own, and every board's where it has no other.
func (p *prover) on(board string) []land.Landing {
	own := map[behaviour.Place]bool{}
	for _, l := range p.build.Landings {
		if at := l.Binding.Place(); at.Board == board && l.Mechanism != nil && l.Facts().Stage == mechanism.Layout {
			at.Board = ""
			own[at] = true
		}
	}
	return slices.DeleteFunc(p.written(), func(l land.Landing) bool {
		return l.Binding.Board != board && (l.Binding.Board != "" || own[l.Binding.Place()])
	})
}

// words is an outcome in words.
func words(o keymap.Outcome) string {
	s := "gives " + o.Keysym
	if left := o.Left.Names(); len(left) > 0 {
		s += " with " + strings.Join(left, "+")
	}
	for _, part := range []struct {
		what string
		mask keymap.Mask
	}{{"holds", o.Sets}, {"locks", o.Locks}, {"latches", o.Latch}} {
		if part.mask != 0 {
			s += ", " + part.what + " " + strings.Join(part.mask.Names(), "+")
		}
	}
	if o.Action != "" {
		s += fmt.Sprintf(", %s %+d", o.Action, o.Group)
	}
	if o.To != "" {
		s += fmt.Sprintf(
			", as the key <%s> with %s on and %s off", o.To, strings.Join(o.Adds.Names(), "+"),
			strings.Join(o.Clears.Names(), "+"),
		)
	}
	if !o.Repeats {
		s += ", does not repeat"
	}
	return s
}

// Diagnostics tells the defects as errors.
func (r *Result) Diagnostics(mp *mapping.Mapping) diag.List {
	var list diag.List
	for _, d := range r.Defects {
		said := "the files of the machine"
		if d.Rule != nil {
			said = mapping.Title(d.Rule)
		}
		if d.Alike != "" {
			list = append(list, diag.Diagnostic{
				Code: "told-apart", Range: d.Range, Line: mp.SourceLine(d.Range), Machines: []string{r.Machine},
				Summary: fmt.Sprintf(
					"%s cannot be told from %s there: the keys type the same, and both chords are spelled alike",
					d.Press, d.Alike,
				),
				Advice: "use another chord for one of them, or scope one away from this machine",
			})
			continue
		}
		list = append(list, diag.Diagnostic{
			Code: "not-proved", Range: d.Range, Line: mp.SourceLine(d.Range), Machines: []string{r.Machine},
			Summary: fmt.Sprintf(
				"%s: pressing %s should do: %s; the written files do: %s", said, d.Press, d.Want, d.Got,
			),
			Advice: "this is a fault of the program, not of the mapping; until it is mended, scope the rule away " +
				"from this machine",
		})
	}
	return list
}
