// Package compare says what differs: between two mappings, rule by rule, and
// between a mapping and a folder compiled before, press by press.
package compare

import (
	"cmp"
	"path"
	"slices"
	"strings"

	"leitstand/core/diag"
	"leitstand/core/mapping"
)

// Kind says in which way something differs.
type Kind string

// The kinds of differences.
const (
	Added   Kind = "added"
	Removed Kind = "removed"
	Changed Kind = "changed"
	Moved   Kind = "moved" // says the same for another scope
)

// Difference is one thing that differs between two mappings.
type Difference struct {
	Kind    Kind       `json:"kind"`
	Subject string     `json:"subject"` // "remap CapsLock", "machine office"
	Before  []string   `json:"before,omitempty"`
	After   []string   `json:"after,omitempty"`
	From    string     `json:"from,omitempty"` // scope before, for a moved rule
	To      string     `json:"to,omitempty"`   // scope after
	Scope   string     `json:"scope,omitempty"`
	Where   string     `json:"-"` // the scope in words
	Range   diag.Range `json:"-"`
	Place   string     `json:"place"` // file:line:column, in the second mapping unless removed
}

// item is a rule or a definition, as comparing needs it.
type item struct {
	subject string
	scope   mapping.Scope
	details []string
	rng     diag.Range
}

func items(m *mapping.Mapping) []item {
	var list []item
	for _, x := range m.Machines {
		list = append(list, item{"machine " + x.Name, nil, x.Details(), x.Range})
	}
	for _, x := range m.Boards {
		list = append(list, item{"board " + x.Name, nil, x.Details(), x.Range})
	}
	for _, x := range m.Apps {
		list = append(list, item{"app " + x.Name + ofFile(x.File), nil, x.Details(), x.Range})
	}
	for _, x := range m.Modifiers {
		list = append(list, item{"modifier " + x.Name + ofFile(x.File), nil, x.Details(), x.Range})
	}
	for _, r := range m.Rules {
		// The keys of one disable are rules of their own: taking one out of the
		// list is one rule removed.
		if d, ok := r.(*mapping.Disable); ok {
			for _, p := range d.Presses {
				list = append(list, item{"disable " + p.String(), d.Scope, mapping.Details(r), p.Range})
			}
			continue
		}
		list = append(list, item{mapping.Subject(r), r.Head().Scope, mapping.Details(r), r.Head().Range})
	}
	return list
}

// Mappings lists what differs, in the order of the second mapping, what was
// removed last.
func Mappings(before, after *mapping.Mapping) []Difference {
	pairs, rest := related(items(before), items(after))
	var list []Difference
	for _, p := range pairs {
		if d, differs := p.difference(); differs {
			list = append(list, d)
		}
	}
	var gone []Difference
	for _, x := range rest {
		gone = append(gone, Difference{
			Kind:    Removed,
			Subject: x.subject,
			Range:   x.rng,
			Scope:   x.scope.String(),
			Where:   x.scope.Where(),
			Before:  x.details,
		})
	}
	slices.SortFunc(gone, func(a, b Difference) int {
		return cmp.Or(strings.Compare(a.Range.File, b.Range.File), cmp.Compare(a.Range.Start.Byte, b.Range.Start.Byte))
	})
	list = append(list, gone...)
	for i := range list {
		list[i].Place = list[i].Range.String()
	}
	return list
}

// pair is a rule, and the one before that it came of; nil for none.
type pair struct{ old, new *item }

// related finds for each rule the one before that it came of, and the rules that have none after.
func related(before, now []item) (pairs []pair, rest []item) {
	old := map[string][]item{}
	for _, x := range before {
		old[x.subject] = append(old[x.subject], x)
	}
	pairs = make([]pair, len(now))
	for i := range now {
		pairs[i].new = &now[i]
	}
	// The closest relation first: what is the same, then what only moved, then
	// what says something else in its place, then any rule on the same subject.
	for _, alike := range []func(a, b *item) bool{
		func(a, b *item) bool { return sameScope(a, b) && slices.Equal(a.details, b.details) },
		func(a, b *item) bool { return slices.Equal(a.details, b.details) },
		sameScope,
		func(a, b *item) bool { return true },
	} {
		for i := range pairs {
			p := &pairs[i]
			if p.old != nil {
				continue
			}
			rest := old[p.new.subject]
			if j := slices.IndexFunc(rest, func(o item) bool { return alike(&o, p.new) }); j >= 0 {
				found := rest[j]
				p.old = &found
				old[p.new.subject] = slices.Delete(slices.Clone(rest), j, j+1)
			}
		}
	}
	for _, list := range old {
		rest = append(rest, list...)
	}
	return pairs, rest
}

// difference is what has become of a rule, and whether anything has.
func (p pair) difference() (Difference, bool) {
	d := Difference{
		Subject: p.new.subject,
		Range:   p.new.rng,
		Scope:   p.new.scope.String(),
		Where:   p.new.scope.Where(),
		After:   p.new.details,
	}
	switch {
	case p.old == nil:
		d.Kind = Added
	case slices.Equal(p.old.details, p.new.details) && sameScope(p.old, p.new):
		return d, false
	case slices.Equal(p.old.details, p.new.details):
		d.Kind, d.From, d.To = Moved, p.old.scope.String(), p.new.scope.String()
	default:
		d.Kind = Changed
		d.Before, d.After = only(p.old.details, p.new.details), only(p.new.details, p.old.details)
		if !sameScope(p.old, p.new) {
			d.From, d.To = p.old.scope.String(), p.new.scope.String()
		}
	}
	return d, true
}

func sameScope(a, b *item) bool { return a.scope.Key() == b.scope.Key() }

// only lists what a says and b does not.
func only(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(s string) bool { return slices.Contains(b, s) })
}

// ofFile names the group's file that a name is private to.
func ofFile(file string) string {
	if file == "" {
		return ""
	}
	return " of " + path.Base(file)
}
