package compile

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/diag"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/parallel"
	"leitstand/core/reason"
)

// All compiles a mapping for the named machines, or for all of its machines if
// none is named. A mapping without machines is for here. The diagnostics are
// merged and sorted.
func All(mp *mapping.Mapping, here *machine.Machine, names []string) ([]*Build, diag.List, error) {
	machines, err := Pick(mp, here, names)
	if err != nil {
		return nil, nil, err
	}
	// Machines have nothing to do with each other, so they are compiled side by
	// side; their order in the results is the mapping's.
	builds := make([]*Build, len(machines))
	found := make([]diag.List, len(machines))
	errs := make([]error, len(machines))
	parallel.Each(len(machines), func(i int) {
		m := machines[i]
		fault := Guard(mp, m, func(mp *mapping.Mapping) { builds[i], found[i], errs[i] = Machine(mp, m) })
		if fault != nil {
			builds[i], found[i], errs[i] = nil, fault, nil
		}
	})
	if err := errors.Join(errs...); err != nil {
		return nil, nil, err
	}
	diags := slices.Concat(found...).Merge()
	diags.Sort()
	return slices.DeleteFunc(builds, func(b *Build) bool { return b == nil }), diags, nil
}

// Pick finds the named machines of a mapping, or all of them if none is named. A
// mapping without machines is for here.
func Pick(mp *mapping.Mapping, here *machine.Machine, names []string) ([]*machine.Machine, error) {
	known := mp.Machines
	if len(known) == 0 {
		known = []*machine.Machine{here}
	}
	if len(names) == 0 {
		return known, nil
	}
	var list []*machine.Machine
	var have []string
	for _, m := range known {
		have = append(have, m.Name)
		if slices.Contains(names, m.Name) {
			list = append(list, m)
		}
	}
	for _, n := range names {
		if !slices.Contains(have, n) {
			return nil, &UnknownMachineError{n, diag.Nearest(n, have), have}
		}
	}
	return list, nil
}

// UnknownMachineError says that a machine asked for is not in the mapping.
type UnknownMachineError struct {
	Name    string
	Nearest string // "" if none is near
	Known   []string
}

func (e *UnknownMachineError) Error() string {
	if e.Nearest != "" {
		return fmt.Sprintf("the mapping has no machine %q; did you mean %q?", e.Name, e.Nearest)
	}
	return fmt.Sprintf("the mapping has no machine %q; it has %s", e.Name, strings.Join(e.Known, ", "))
}

// Cell is how one rule lands on one machine.
type Cell struct {
	InScope bool
	Verdict mechanism.Verdict // of what the rule asks for: the worst of its presses
	Presses int               // how many the rule has here
	Short   int               // of a rule of several, how many are not done
	Why     reason.List       // the differences, each once
	StandIn []StandIn         // what is there in place of what the rule asks for
	Allowed bool              // not done, and the rule allows that
	When    mechanism.When    // all of it that is there has taken effect; 0 for nothing
	each    []difference
}

// StandIn is a press that is there in place of what a rule asks for.
type StandIn struct {
	Wanted  string            `json:"wanted"`
	Press   string            `json:"press"`
	Verdict mechanism.Verdict `json:"verdict"`
}

// difference is why presses of a rule are not exact.
type difference struct {
	answer  mechanism.Offer
	presses []string
}

// Row is one rule and how it lands on each machine.
type Row struct {
	Rule  mapping.Rule
	Cells []Cell
}

// Table is every enabled rule of the mapping against the compiled machines. A
// rule's verdict is the worst of its presses.
func Table(mp *mapping.Mapping, builds []*Build) []Row {
	type at struct {
		rule    mapping.Rule
		machine int
	}
	cells := map[at]*Cell{}
	for i, b := range builds {
		for j := range b.Landings {
			l := &b.Landings[j]
			c := cells[at{l.Rule, i}]
			if c == nil {
				c = &Cell{InScope: true, Verdict: mechanism.Exact}
				cells[at{l.Rule, i}] = c
			}
			c.add(l, b.Machine.Machine)
		}
	}
	var rows []Row
	for _, r := range mp.Rules {
		if !r.Head().Enabled {
			continue
		}
		row := Row{Rule: r, Cells: make([]Cell, len(builds))}
		for i := range builds {
			if c := cells[at{r, i}]; c != nil {
				row.Cells[i] = *c
			}
		}
		rows = append(rows, row)
	}
	return rows
}

// add counts a press of the rule in.
func (c *Cell) add(l *land.Landing, m *machine.Machine) {
	verdict := l.Verdict()
	c.Presses++
	if l.Mechanism != nil {
		c.When = max(c.When, l.Facts().When)
	}
	if verdict <= mechanism.NeedsAgent {
		c.Short++
	}
	c.Verdict = min(c.Verdict, verdict)
	c.Allowed = c.Verdict <= mechanism.NeedsAgent && (mapping.Allows(l.Rule, m, c.Verdict.String()) ||
		len(l.Lack().Unspelled) > 0 &&
			(mapping.Allows(l.Rule, m, "no-such-character") || mapping.Allows(l.Rule, m, "hidden-modifier")))
	if l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent {
		c.StandIn = append(c.StandIn, StandIn{l.Instead(), l.StandIn(), l.Offer.Verdict})
	}
	c.differs(mechanism.Offer{Verdict: verdict, Why: l.Why()}, l.Binding.Press())
	if l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent && l.Offer.Verdict < mechanism.Exact {
		c.differs(l.Offer, l.Binding.Press())
	}
}

func (c *Cell) differs(a mechanism.Offer, press string) {
	if len(a.Why) == 0 {
		return
	}
	c.Why = c.Why.And(a.Why...)
	i := slices.IndexFunc(
		c.each, func(d difference) bool { return d.answer.Verdict == a.Verdict && slices.Equal(d.answer.Why, a.Why) },
	)
	if i < 0 {
		i = len(c.each)
		c.each = append(c.each, difference{answer: a})
	}
	c.each[i].presses = append(c.each[i].presses, press)
}

// Fallback is what stands in for what a rule asks for, and on which machines.
type Fallback struct {
	Wished mechanism.Verdict // of what the rule asks for
	StandIn
	Machines []string
}

// Fallbacks gathers the fallbacks of a table.
func Fallbacks(rows []Row, builds []*Build) []Fallback {
	var list []Fallback
	for _, r := range rows {
		for i, c := range r.Cells {
			for _, f := range c.StandIn {
				at := slices.IndexFunc(list, func(o Fallback) bool { return o.StandIn == f && o.Wished == c.Verdict })
				if at < 0 {
					at = len(list)
					list = append(list, Fallback{Wished: c.Verdict, StandIn: f})
				}
				if name := builds[i].Machine.Name; !slices.Contains(list[at].Machines, name) {
					list[at].Machines = append(list[at].Machines, name)
				}
			}
		}
	}
	return list
}

// Tally counts rules by verdict.
type Tally [mechanism.Exact + 1]int

// Count tallies a machine's column of a table.
func Count(rows []Row, machine int) Tally {
	var t Tally
	for _, r := range rows {
		if c := r.Cells[machine]; c.InScope {
			t[c.Verdict]++
		}
	}
	return t
}

// Shortfall counts the rules that nothing does on a machine, or only a background process could: each rule on each machine.
type Shortfall struct {
	NotDone  int `json:"notDone"`
	Fallback int `json:"withFallback"` // of those, rules whose fallback is used
	Allowed  int `json:"allowed"`      // of the others, those that the mapping allows
}

// Shortage counts what is not done in a table.
func Shortage(rows []Row) (s Shortfall) {
	for _, r := range rows {
		for _, c := range r.Cells {
			switch {
			case !c.InScope || c.Verdict > mechanism.NeedsAgent:
				continue
			case len(c.StandIn) > 0:
				s.Fallback++
			case c.Allowed:
				s.Allowed++
			}
			s.NotDone++
		}
	}
	return s
}

// Rules is how many rules speak of the machine.
func (t Tally) Rules() int {
	n := 0
	for _, c := range t {
		n += c
	}
	return n
}

// ByName is the tally with the verdicts' names, those that occur.
func (t Tally) ByName() map[string]int {
	named := map[string]int{}
	for v, n := range t {
		if n > 0 {
			named[mechanism.Verdict(v).String()] = n
		}
	}
	return named
}

// Gap is one difference between the mapping and what machines can do, with the
// rules and machines that share it.
type Gap struct {
	Verdict  mechanism.Verdict
	Why      reason.List
	Rules    []mapping.Rule
	Presses  []string // of a rule with several, those that differ; nil for all of them
	Machines []string
	Allowed  bool // by all of its rules
}

// Gaps gathers the differences of a table, the worst verdict first.
func Gaps(rows []Row, builds []*Build) []Gap {
	var gaps []Gap
	type first struct { // of what gaps have in common
		verdict mechanism.Verdict
		allowed bool
		reason  reason.Reason
	}
	index := map[first][]int{}
	for _, r := range rows {
		for i, c := range r.Cells {
			for _, d := range c.each {
				allowed := c.Allowed && d.answer.Verdict <= mechanism.NeedsAgent
				var presses []string
				if len(d.presses) < c.Presses {
					presses = d.presses
				}
				id := first{d.answer.Verdict, allowed, d.answer.Why[0]}
				at := slices.IndexFunc(index[id], func(i int) bool { return slices.Equal(gaps[i].Why, d.answer.Why) })
				if at < 0 {
					at = len(index[id])
					index[id] = append(index[id], len(gaps))
					gaps = append(gaps, Gap{Verdict: d.answer.Verdict, Why: d.answer.Why, Allowed: allowed})
				}
				g := &gaps[index[id][at]]
				if !slices.Contains(g.Rules, r.Rule) {
					g.Rules = append(g.Rules, r.Rule)
				}
				for _, p := range presses {
					if !slices.Contains(g.Presses, p) {
						g.Presses = append(g.Presses, p)
					}
				}
				if name := builds[i].Machine.Name; !slices.Contains(g.Machines, name) {
					g.Machines = append(g.Machines, name)
				}
			}
		}
	}
	// What is allowed comes last: nobody has to do anything about it.
	slices.SortStableFunc(gaps, func(a, b Gap) int {
		if a.Allowed != b.Allowed {
			return map[bool]int{true: 1, false: -1}[a.Allowed]
		}
		return cmp.Compare(a.Verdict, b.Verdict)
	})
	return gaps
}
