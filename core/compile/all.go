package compile

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/target"
)

// All compiles a mapping for the named machines, or for all of its machines if
// none is named. A mapping without machines is for here. The diagnostics are
// merged and sorted.
func All(mp *mapping.Mapping, here *mapping.Machine, names []string) ([]*Build, diag.List, error) {
	machines, err := Pick(mp, here, names)
	if err != nil {
		return nil, nil, err
	}
	// Machines have nothing to do with each other, so they are compiled side by
	// side; their order in the results is the mapping's.
	builds := make([]*Build, len(machines))
	found := make([]diag.List, len(machines))
	errs := make([]error, len(machines))
	var wait sync.WaitGroup
	for i, m := range machines {
		wait.Go(func() {
			fault := Guard(mp, m, func(mp *mapping.Mapping) { builds[i], found[i], errs[i] = Machine(mp, m) })
			if fault != nil {
				builds[i], found[i], errs[i] = nil, fault, nil
			}
		})
	}
	wait.Wait()
	if err := errors.Join(errs...); err != nil {
		return nil, nil, err
	}
	diags := slices.Concat(found...).Merge()
	diags.Sort()
	return slices.DeleteFunc(builds, func(b *Build) bool { return b == nil }), diags, nil
}

// Pick finds the named machines of a mapping, or all of them if none is named. A
// mapping without machines is for here.
func Pick(mp *mapping.Mapping, here *mapping.Machine, names []string) ([]*mapping.Machine, error) {
	known := mp.Machines
	if len(known) == 0 {
		known = []*mapping.Machine{here}
	}
	if len(names) == 0 {
		return known, nil
	}
	var list []*mapping.Machine
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
	return fmt.Sprintf("the mapping has no machine %q; it has %v", e.Name, e.Known)
}

// Cell is how one rule lands on one machine.
type Cell struct {
	InScope bool
	Verdict target.Verdict
	Part    bool            // some of the rule's presses are done, and some are not
	Words   []string        // the differences, each once
	each    []target.Answer // the differences, each with its own verdict
	seen    bool            // some press of the rule was looked at
	Instead []string        // what a fallback replaced
	Allowed bool            // not done, and the rule allows that
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
		for _, l := range b.Landings {
			c := cells[at{l.Rule, i}]
			if c == nil {
				c = &Cell{InScope: true, Verdict: target.Exact}
				cells[at{l.Rule, i}] = c
			}
			if c.seen && (c.Verdict <= target.Resident) != (l.Answer.Verdict <= target.Resident) {
				c.Part = true
			}
			c.seen = true
			c.Verdict = min(c.Verdict, l.Answer.Verdict)
			c.Allowed = c.Verdict <= target.Resident && slices.Contains(l.Rule.Head().Allow, "not-done")
			if w := l.Answer.Words; w != "" && !slices.Contains(c.Words, w) {
				c.Words = append(c.Words, w)
				c.each = append(c.each, target.Answer{Verdict: l.Answer.Verdict, Words: w})
			}
			if l.Instead != "" {
				c.Instead = append(c.Instead, instead(l))
			}
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

// instead says what a fallback does in place of what the rule names first.
func instead(l Landing) string {
	if l.Binding.Level == behaviour.Hotkey {
		return l.Binding.Press() + " instead of " + l.Instead
	}
	return l.Binding.String() + " instead of " + l.Instead
}

// Fallback is a fallback that was used, and on which machines.
type Fallback struct {
	Words    string
	Machines []string
}

// Fallbacks gathers the fallbacks of a table.
func Fallbacks(rows []Row, builds []*Build) []Fallback {
	var list []Fallback
	index := map[string]int{}
	for _, r := range rows {
		for i, c := range r.Cells {
			for _, w := range c.Instead {
				at, ok := index[w]
				if !ok {
					at = len(list)
					index[w] = at
					list = append(list, Fallback{Words: w})
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
type Tally [target.Exact + 1]int

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

// NotDone counts the cells of a table that nothing does, or only a running
// process could.
func NotDone(rows []Row) int {
	n := 0
	for _, r := range rows {
		for _, c := range r.Cells {
			if c.InScope && c.Verdict <= target.Resident {
				n++
			}
		}
	}
	return n
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
			named[target.Verdict(v).String()] = n
		}
	}
	return named
}

// Gap is one difference between the mapping and what machines can do, with the
// rules and machines that share it.
type Gap struct {
	Verdict  target.Verdict
	Words    string
	Rules    []mapping.Rule
	Machines []string
	Allowed  bool // by all of its rules
}

// Gaps gathers the differences of a table, the worst verdict first.
func Gaps(rows []Row, builds []*Build) []Gap {
	var gaps []Gap
	index := map[string]int{}
	for _, r := range rows {
		for i, c := range r.Cells {
			if !c.InScope {
				continue
			}
			for _, answer := range c.each {
				allowed := c.Allowed && answer.Verdict <= target.Resident
				id := fmt.Sprint(answer.Verdict, allowed, answer.Words)
				at, ok := index[id]
				if !ok {
					at = len(gaps)
					index[id] = at
					gaps = append(gaps, Gap{Verdict: answer.Verdict, Words: answer.Words, Allowed: allowed})
				}
				g := &gaps[at]
				if !slices.Contains(g.Rules, r.Rule) {
					g.Rules = append(g.Rules, r.Rule)
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
