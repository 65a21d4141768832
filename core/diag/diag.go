// Package diag holds what the program has to tell its user about a mapping, as
// values: how grave it is, what is wrong, where, and what to do. Only the
// command line turns them into text.
package diag

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/reason"
)

// Severity says how grave a diagnostic is.
type Severity uint8

// The severities, the gravest first.
const (
	Error   Severity = iota // the mapping cannot be used as it stands
	Warning                 // it can, but does not do all it says
	Note                    // worth knowing
)

// String is the severity in a word.
func (s Severity) String() string { return [...]string{"error", "warning", "note"}[s] }

// Pos is a place in a file. Line and Column count from 1, Column in Unicode
// characters; Byte counts from 0. A mapping has a great many of them, so they are small: no text is as long as 2 GB.
type Pos struct{ Line, Column, Byte int32 }

// At is a place.
func At(line, column, offset int) Pos { return Pos{int32(line), int32(column), int32(offset)} }

// Range is a stretch of a file, End exclusive. A Range without a Line speaks of
// the file as a whole, one without a File of no place at all.
type Range struct {
	File       string
	Start, End Pos
}

// String is the place as editors and compilers write it: file:line:column.
func (r Range) String() string {
	switch {
	case r.Start.Line > 0:
		return fmt.Sprintf("%s:%d:%d", r.File, r.Start.Line, r.Start.Column)
	default:
		return r.File
	}
}

// Related points at another place that a diagnostic is about.
type Related struct {
	Range Range
	Words string
}

// Diagnostic is one thing to tell.
type Diagnostic struct {
	Severity Severity
	Code     string // names the finding, for allow and for machines: "unknown-key"
	Summary  string // what is wrong, in one sentence without its stop
	Advice   string // what to do, "" if there is nothing to do
	Range    Range  // where
	Line     string // the source line at Range, for showing it
	Related  []Related
	Machines []string // the machines it shows on, empty if it does not depend on one
	// Rule is the header of the rule, and Press and Why the parts of the summary, of
	// diagnostics that are told once for a rule of many presses.
	Rule  Range
	Press string
	Why   reason.List
}

// Merge joins diagnostics that differ in their machines only, keeping the order
// of the first of each.
func (l List) Merge() List {
	var merged List
	at := map[string]int{}
	for _, d := range l {
		id := fmt.Sprint(d.Severity, d.Code, d.Range, d.Summary, d.Advice)
		if i, ok := at[id]; ok {
			for _, m := range d.Machines {
				if !slices.Contains(merged[i].Machines, m) {
					merged[i].Machines = append(slices.Clone(merged[i].Machines), m)
				}
			}
			continue
		}
		at[id] = len(merged)
		merged = append(merged, d)
	}
	return merged
}

// Gather makes one diagnostic of those with a Rule and a code that they share: which presses
// it is about, and each reason with its machines.
func (l List) Gather(words func(code string, presses []string, reasons string) string) List {
	type group struct {
		rule Range
		code string
	}
	members := map[group]List{}
	for _, d := range l {
		if d.Rule.Start.Line > 0 {
			id := group{d.Rule, d.Code}
			members[id] = append(members[id], d)
		}
	}
	var list List
	for _, d := range l {
		id := group{d.Rule, d.Code}
		all, ok := members[id]
		switch {
		case d.Rule.Start.Line == 0 || ok && len(all) == 1:
			list = append(list, d)
			continue
		case !ok:
			continue // told with the first
		}
		delete(members, id)
		list = append(list, all.together(words))
	}
	return list
}

func (l List) together(words func(code string, presses []string, reasons string) string) Diagnostic {
	d := l[0]
	var presses, machines []string
	var reasons reason.List
	on := map[reason.Reason][]string{}
	for _, m := range l {
		if !slices.Contains(presses, m.Press) {
			presses = append(presses, m.Press)
		}
		reasons = reasons.And(m.Why...)
		for _, name := range m.Machines {
			for _, why := range m.Why {
				if !slices.Contains(on[why], name) {
					on[why] = append(on[why], name)
				}
			}
			if !slices.Contains(machines, name) {
				machines = append(machines, name)
			}
		}
	}
	told := reasons.Strings()
	for i, why := range reasons {
		if len(reasons) > 1 && len(on[why]) < len(machines) {
			told[i] = fmt.Sprintf("%s (%s)", why, strings.Join(on[why], ", "))
		}
	}
	d.Machines = machines
	d.Summary = words(d.Code, presses, strings.Join(told, "; "))
	return d
}

// List is several diagnostics.
type List []Diagnostic

// HasErrors says whether one of them is an error.
func (l List) HasErrors() bool {
	return slices.ContainsFunc(l, func(d Diagnostic) bool { return d.Severity == Error })
}

// Count says how many have the severity.
func (l List) Count(s Severity) int {
	n := 0
	for _, d := range l {
		if d.Severity == s {
			n++
		}
	}
	return n
}

// Short says whether the mapping does less than it says, strictly taken: a warning, or a
// fallback in use.
func (l List) Short() bool {
	return slices.ContainsFunc(l, func(d Diagnostic) bool { return d.Severity == Warning || d.Code == "fallback" })
}

// Errors are those that keep the mapping from being used.
func (l List) Errors() List {
	return slices.DeleteFunc(slices.Clone(l), func(d Diagnostic) bool { return d.Severity != Error })
}

// Without leaves out those of one severity.
func (l List) Without(s Severity) List {
	return slices.DeleteFunc(slices.Clone(l), func(d Diagnostic) bool { return d.Severity == s })
}

// Rank puts what does harm before what is only not done, and notes last; in each part, what
// stands first in the mapping comes first.
func (l List) Rank() {
	l.Sort()
	rank := func(d Diagnostic) int {
		switch {
		case d.Severity == Error:
			return 0
		case d.Severity == Note:
			return 3
		case d.Code == "unavailable" || d.Code == "needs-agent":
			return 2
		}
		return 1
	}
	slices.SortStableFunc(l, func(a, b Diagnostic) int { return cmp.Compare(rank(a), rank(b)) })
}

// Sort puts them in the order of their places, so that the output does not
// depend on the order in which they were found.
func (l List) Sort() {
	slices.SortStableFunc(l, func(a, b Diagnostic) int {
		return cmp.Or(
			cmp.Compare(a.Range.File, b.Range.File), cmp.Compare(a.Range.Start.Byte, b.Range.Start.Byte),
			cmp.Compare(a.Severity, b.Severity), cmp.Compare(a.Summary, b.Summary),
		)
	})
}
