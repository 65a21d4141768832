package mapping

import (
	"slices"
	"strings"
)

// Scope says where a rule holds: every clause must, and a clause holds where
// one of its names does. No clause at all is everywhere. Nested on blocks make
// one clause each.
type Scope []Clause

// Clause is the names of one on block: systems, machines and boards.
type Clause []string

// String is the scope as listings show it: "macos, chart-table", nothing for
// everywhere.
func (s Scope) String() string {
	parts := make([]string, len(s))
	for i, c := range s {
		parts[i] = strings.Join(c, " or ")
	}
	return strings.Join(parts, ", ")
}

// Key is the same for scopes that are spelled by the same clauses in any order.
func (s Scope) Key() string {
	parts := make([]string, len(s))
	for i, c := range s {
		names := slices.Sorted(slices.Values(c))
		parts[i] = strings.Join(names, "|")
	}
	slices.Sort(parts)
	return strings.Join(slices.Compact(parts), "&")
}

// Applies says whether the scope holds on a machine of the mapping, and if only for some
// of its boards, for which.
func (s Scope) Applies(mp *Mapping, m *Machine) (boards []string, every, ok bool) {
	every = true
	for _, c := range s {
		if slices.Contains(c, string(m.System)) || slices.Contains(c, m.Name) {
			continue
		}
		var here []string
		for _, b := range m.Boards {
			if mp.among(b, c) && (every || slices.Contains(boards, b)) {
				here = append(here, b)
			}
		}
		if len(here) == 0 {
			return nil, false, false
		}
		boards, every = here, false
	}
	return boards, every, true
}

// Holds says whether a rule is meant for the machine or for a board of it: by its
// scope and, for native settings, by the system or desktop they are for.
func Holds(mp *Mapping, r Rule, m *Machine) bool {
	_, _, ok := r.Head().Scope.Applies(mp, m)
	n, native := r.(*Native)
	return ok && (!native || n.For.Value == string(m.System) || m.System == Linux && n.For.Value == m.Desktop)
}

// Within says whether s is provably part of o: wherever s holds, o does, by the
// names alone.
func (s Scope) Within(o Scope, mp *Mapping) bool {
	for _, outer := range o {
		if !slices.ContainsFunc(s, func(inner Clause) bool { return inner.within(outer, mp) }) {
			return false
		}
	}
	return true
}

func (c Clause) within(o Clause, mp *Mapping) bool {
	for _, name := range c {
		if slices.Contains(o, name) {
			continue
		}
		m, ok := mp.Machine(name)
		if !(ok && slices.Contains(o, string(m.System))) && !mp.among(name, o) {
			return false
		}
	}
	return true
}

// among says whether a board is one of those that a clause names: an external board is one
// of "any external", too.
func (mp *Mapping) among(board string, c Clause) bool {
	if slices.Contains(c, board) {
		return true
	}
	b, ok := mp.Board(board)
	return ok && b.External() && slices.ContainsFunc(c, func(name string) bool {
		all, ok := mp.Board(name)
		return ok && slices.Contains(all.IDs, BoardID{Bus: AnyExternal})
	})
}

// External says whether all identities of a board are those of one that is plugged in or
// connected by radio.
func (b *Board) External() bool {
	return len(b.IDs) > 0 && !slices.ContainsFunc(b.IDs, func(id BoardID) bool { return id.Bus != USB && id.Bus != Bluetooth })
}
