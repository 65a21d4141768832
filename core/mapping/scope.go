package mapping

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/machine"
)

// Scope says where a rule holds: where every clause of it does. No clause at all is
// everywhere. Nested on blocks make one clause each.
type Scope []*Clause

// Clause is the names of one on block or attribute, or of one except. The names of one kind
// are alternatives, and kinds intersect: "linux" "chart-table" is that board on Linux. Of
// an except, each name is taken out by itself.
type Clause struct {
	Except bool
	Names  []string // as they are written
	// The names by their kinds: systems and machines, Linux desktops and sessions, boards.
	Places, Desktops, Boards []string
}

// sort parts the names by their kinds.
func (c *Clause) sort(m *Mapping) {
	for _, n := range c.Names {
		_, own := m.machines[n]
		_, board := m.boards[n]
		switch {
		case slices.Contains(machine.Systems, n) || own:
			c.Places = append(c.Places, n)
		case isDesktop(n):
			c.Desktops = append(c.Desktops, n)
		case board:
			c.Boards = append(c.Boards, n)
		}
	}
}

// isDesktop says whether a name is that of a Linux desktop or session that a scope can name.
func isDesktop(name string) bool {
	_, desktop := machine.FindDesktop(name)
	return desktop || slices.Contains(machine.Sessions, name)
}

func (c *Clause) kinds() [][]string {
	return slices.DeleteFunc([][]string{c.Places, c.Desktops, c.Boards}, func(l []string) bool { return len(l) == 0 })
}

// String is the clause as listings show it: "macos, chart-table" for both, "macos or
// windows" for either.
func (c *Clause) String() string {
	if c.Except {
		return "not " + strings.Join(c.Names, ", not ")
	}
	var parts []string
	for _, k := range c.kinds() {
		parts = append(parts, strings.Join(k, " or "))
	}
	return strings.Join(parts, ", ")
}

// String is the scope as listings show it, nothing for everywhere.
func (s Scope) String() string {
	parts := make([]string, len(s))
	for i, c := range s {
		parts[i] = c.String()
	}
	return strings.Join(parts, ", ")
}

// Where is the scope in words, "on linux, not on shed", nothing for everywhere.
func (s Scope) Where() string {
	var on, not []string
	for _, c := range s {
		if c.Except {
			not = append(not, "not on "+strings.Join(c.Names, ", "))
		} else {
			on = append(on, c.String())
		}
	}
	if len(on) > 0 {
		on = []string{"on " + strings.Join(on, ", ")}
	}
	return strings.Join(append(on, not...), ", ")
}

// Key is the same for scopes that say the same by other words.
func (s Scope) Key() string {
	var parts []string
	for _, c := range s {
		if c.Except {
			for _, n := range c.Names {
				parts = append(parts, "!"+n)
			}
			continue
		}
		for _, k := range c.kinds() {
			parts = append(parts, strings.Join(slices.Sorted(slices.Values(k)), "|"))
		}
	}
	slices.Sort(parts)
	return strings.Join(slices.Compact(parts), "&")
}

// Mixed are the names of a clause that has some of several kinds, "" if there is none.
func (s Scope) Mixed() string {
	for _, c := range s {
		if !c.Except && len(c.kinds()) > 1 {
			return strings.Join(c.Names, " and ")
		}
	}
	return ""
}

// Reach is the part of a machine that a rule is for.
type Reach struct {
	Every   bool     // all boards, those that the mapping does not name included
	Boards  []string // else these
	Without []string // boards of the machine that every board does not include
	// Why says in words why the rule is for no part of the machine, "" if it is for some.
	Why string
}

// Applies says for which part of a machine of the mapping the scope holds.
func (s Scope) Applies(mp *Mapping, m *Machine) Reach {
	r := Reach{Every: true}
	for _, c := range s {
		switch {
		case c.Except:
			for _, n := range c.Names {
				if goesBy(m, n) {
					return Reach{Why: "it leaves out " + n}
				}
			}
			for _, b := range m.Boards {
				if mp.among(b, c.Boards) && !slices.Contains(r.Without, b) {
					r.Without = append(r.Without, b)
				}
			}
			continue
		case len(c.Places) > 0 && !slices.Contains(c.Places, string(m.System)) && !slices.Contains(c.Places, m.Name):
			return Reach{Why: "it is for " + strings.Join(c.Places, ", ")}
		case len(c.Desktops) > 0 && !slices.ContainsFunc(c.Desktops, func(d string) bool { return runs(m, d) }):
			return Reach{Why: "it is for " + strings.Join(c.Desktops, ", ") + sessionless(m, c.Desktops)}
		case len(c.Boards) == 0:
			continue
		}
		var here []string
		for _, b := range m.Boards {
			if mp.among(b, c.Boards) && (r.Every || slices.Contains(r.Boards, b)) {
				here = append(here, b)
			}
		}
		if len(here) == 0 {
			return Reach{
				Why: fmt.Sprintf(
					"it is for the board %s, which the machine does not have", strings.Join(c.Boards, " or "),
				),
			}
		}
		r.Boards, r.Every = here, false
	}
	if !r.Every {
		r.Boards = slices.DeleteFunc(r.Boards, func(b string) bool { return slices.Contains(r.Without, b) })
		if r.Without = nil; len(r.Boards) == 0 {
			return Reach{Why: "it leaves out the machine's boards that it is for"}
		}
	}
	return r
}

// runs says whether a machine has a desktop or session.
func runs(m *Machine, name string) bool {
	return m.System == Linux && (m.Desktop == name || m.Session == name)
}

// sessionless explains why a machine that may have a session is not counted as having it.
func sessionless(m *Machine, names []string) string {
	if m.System == Linux && m.Session == "" &&
		slices.ContainsFunc(
			names,
			func(n string) bool { return machine.HasSession(m.Desktop, n) && slices.Contains(machine.Sessions, n) },
		) {
		return ", and the machine does not say its session"
	}
	return ""
}

// Reaches says for which part of a machine a rule is meant: by its scope and, for native
// settings, by the system or desktop they are for.
func Reaches(mp *Mapping, r Rule, m *Machine) Reach {
	if n, ok := r.(*Native); ok && n.For.Value != string(m.System) && !runs(m, n.For.Value) {
		return Reach{Why: "its settings are for " + n.For.Value}
	}
	return r.Head().Scope.Applies(mp, m)
}

// Holds says whether a rule is meant for the machine or for a board of it.
func Holds(mp *Mapping, r Rule, m *Machine) bool { return Reaches(mp, r, m).Why == "" }

// Absent is rules that do not hold on a machine, for one reason.
type Absent struct {
	Why   string
	Rules []Rule
}

// AbsentFrom lists the rules that do not hold on a machine, by the reason why.
func AbsentFrom(mp *Mapping, m *Machine) []Absent {
	var list []Absent
	for _, r := range mp.Rules {
		why := Reaches(mp, r, m).Why
		switch h := r.Head(); {
		case !h.Enabled && h.Group != "":
			why = fmt.Sprintf("the group %q is switched off", h.Group)
		case !h.Enabled:
			why = "it is switched off"
		case why == "":
			continue
		}
		i := slices.IndexFunc(list, func(a Absent) bool { return a.Why == why })
		if i < 0 {
			i = len(list)
			list = append(list, Absent{Why: why})
		}
		list[i].Rules = append(list[i].Rules, r)
	}
	return list
}

// Within says whether s is provably part of o: wherever s holds, o does, by the
// names alone.
func (s Scope) Within(o Scope, mp *Mapping) bool {
	some := func(holds func(*Clause) bool) bool { return slices.ContainsFunc(s, holds) }
	for _, outer := range o {
		if outer.Except {
			for _, n := range outer.Names {
				if !some(func(c *Clause) bool { return c.avoids(n, mp) }) {
					return false
				}
			}
			continue
		}
		ok := (len(outer.Places) == 0 || some(func(c *Clause) bool { return c.places(outer.Places, mp) })) &&
			(len(outer.Desktops) == 0 || some(func(c *Clause) bool { return c.desktops(outer.Desktops, mp) })) &&
			(len(outer.Boards) == 0 || some(func(c *Clause) bool {
				return !c.Except && each(c.Boards, func(b string) bool { return mp.among(b, outer.Boards) })
			}))
		if !ok {
			return false
		}
	}
	return true
}

// each says whether there are names, and all of them are as asked.
func each(names []string, is func(string) bool) bool {
	return len(names) > 0 && !slices.ContainsFunc(names, func(n string) bool { return !is(n) })
}

// places says whether all that the clause is for is one of these systems and machines.
func (c *Clause) places(of []string, mp *Mapping) bool {
	if c.Except {
		return false
	}
	return len(c.Desktops) > 0 && slices.Contains(of, string(Linux)) || each(c.Places, func(n string) bool {
		m, ok := mp.Machine(n)
		return slices.Contains(of, n) || ok && slices.Contains(of, string(m.System))
	})
}

// desktops says whether all that the clause is for has one of these desktops or sessions.
func (c *Clause) desktops(of []string, mp *Mapping) bool {
	if c.Except {
		return false
	}
	return each(c.Desktops, func(n string) bool { return slices.Contains(of, n) }) ||
		each(c.Places, func(n string) bool {
			m, ok := mp.Machine(n)
			return ok && slices.ContainsFunc(of, func(d string) bool { return runs(m, d) })
		})
}

// avoids says whether nothing that the clause is for goes by a name.
func (c *Clause) avoids(name string, mp *Mapping) bool {
	apart := func(n string) bool { return mp.apart(n, name) }
	if c.Except {
		return slices.ContainsFunc(c.Names, func(n string) bool {
			m, own := mp.Machine(name)
			return n == name || own && goesBy(m, n) || mp.among(name, []string{n})
		})
	}
	if _, board := mp.Board(name); board {
		return each(
			c.Boards, func(b string) bool { return !mp.among(b, []string{name}) && !mp.among(name, []string{b}) },
		)
	}
	return each(c.Places, apart) || each(c.Desktops, apart)
}

// goesBy says whether a name of a system, machine, desktop or session is one of the machine.
func goesBy(m *Machine, name string) bool {
	return name == m.Name || name == string(m.System) || runs(m, name)
}

// apart says whether no machine goes by both of two names that are no board's.
func (mp *Mapping) apart(a, b string) bool {
	if m, ok := mp.Machine(a); ok {
		return !goesBy(m, b)
	}
	if m, ok := mp.Machine(b); ok {
		return !goesBy(m, a)
	}
	if slices.Contains(machine.Systems, a) || slices.Contains(machine.Systems, b) {
		return a != b && !(isDesktop(a) && b == string(Linux)) && !(isDesktop(b) && a == string(Linux))
	}
	if slices.Contains(machine.Sessions, a) != slices.Contains(machine.Sessions, b) {
		if slices.Contains(machine.Sessions, a) {
			a, b = b, a
		}
		return !machine.HasSession(a, b)
	}
	return a != b
}

// among says whether a board is one of those that are named: an external board is one of
// "any external", too.
func (mp *Mapping) among(board string, names []string) bool {
	if slices.Contains(names, board) {
		return true
	}
	b, ok := mp.Board(board)
	return ok && b.External() && slices.ContainsFunc(names, func(name string) bool {
		all, ok := mp.Board(name)
		return ok && slices.Contains(all.IDs, BoardID{Bus: AnyExternal})
	})
}
