package mechanism

import (
	"fmt"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/reason"
)

// Offer is what a mechanism says when it is asked for a press: how well it would land, and all that
// writing it needs, so that what is taken is what is written.
type Offer struct {
	Verdict Verdict
	ForAll  bool        // it is for all users of the machine
	Why     reason.List // the differences, or the reasons; none for a plain exact
	// Frees: the system itself stops acting on the chord, also where it acts before what else is set up.
	Frees bool
	// When it takes effect, where that is later than the rest of the mechanism; 0 otherwise.
	When When
	// Does is what the press does instead, where the difference is one of effect
	// and can be named: a value that was rounded. Nil otherwise.
	Does *behaviour.Effect
	// Plan is what the mechanism has worked out for its files: a value of its own kind, which only
	// it looks into. Nil where it takes nothing.
	Plan any
	// Else is what the mechanism offers where other rules stand in the way of this; nil for
	// nothing.
	Else *Offer
}

// Taken is a press that landed in a mechanism, as the mechanism offered it.
type Taken struct {
	*Binding
	*Offer
}

// EachOnce are bindings of several files that say the same, each place once, sorted.
func EachOnce(lists ...[]Binding) []Binding {
	var all []Binding
	seen := map[behaviour.Place]bool{}
	for _, list := range lists {
		for _, b := range list {
			if at := b.Place(); !seen[at] {
				seen[at] = true
				all = append(all, b)
			}
		}
	}
	behaviour.Sort(all)
	return all
}

// Presses are the names of presses, as changes name what they serve.
func Presses(list []Taken) []string {
	names := make([]string, len(list))
	for i, b := range list {
		names[i] = b.Press()
	}
	return names
}

// Mechanism is what offers to carry presses, and writes those that landed in it.
type Mechanism interface {
	Take(m *Machine, b Binding) Offer
	// Write is given the presses in the order of behaviour.Sort.
	Write(m *Machine, list []Taken) (Output, error)
}

// Taking asks a mechanism for bindings: those that it takes, with its offers and sorted, and the others.
func Taking(t Mechanism, m *Machine, list []Binding) (taken, left []Taken) {
	for i := range list {
		o := t.Take(m, list[i])
		if one := (Taken{&list[i], &o}); o.Verdict >= Manual {
			taken = append(taken, one)
		} else {
			left = append(left, one)
		}
	}
	slices.SortStableFunc(taken, func(a, b Taken) int { return behaviour.Order(a.Binding, b.Binding) })
	return taken, left
}

// Write has a mechanism take bindings, and write them. The error names the first that it does not
// take.
func Write(t Mechanism, m *Machine, list []Binding) (Output, error) {
	taken, left := Taking(t, m, list)
	if len(left) > 0 {
		return Output{}, fmt.Errorf("%s is not taken: %s", left[0].Press(), left[0].Why)
	}
	return t.Write(m, taken)
}

// Repeat answers for a mechanism that holds how fast keys repeat, all keys alike; plan is what it
// writes.
func Repeat(b Binding, plan any) Offer {
	switch {
	case b.Option.Kind == behaviour.RepeatDelay || b.Option.Kind == behaviour.RepeatRate:
		return Offer{Verdict: Exact, Plan: plan}
	case b.Option.Kind == behaviour.RepeatOf:
		return Offer{Why: reason.AllKeysRepeat.Of()}
	}
	return Offer{}
}
