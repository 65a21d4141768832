package imports

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// Text is the mapping, laid out evenly, and all that it does not hold. A rule that all
// machines share stands for all of them, one that some share in a block of theirs.
func (g Gathered) Text() (text []byte, left []mechanism.Left, err error) {
	left = slices.Clone(g.Left)
	names := &apps{}
	var shared []share
	at := map[string]int{}
	for i, s := range g.Sources {
		list, rest := s.statements(names)
		for _, l := range rest {
			l.File = s.Machine.Name
			left = append(left, l)
		}
		for _, st := range list {
			n, known := at[st.id()]
			if !known {
				n, shared = len(shared), append(shared, share{statement: st})
				at[st.id()] = n
			}
			if !slices.Contains(shared[n].machines, i) {
				shared[n].machines = append(shared[n].machines, i)
			}
		}
	}
	shared = apart(shared)
	out := g.head()
	out = append(out, names.blocks()...)
	// What most machines share comes first.
	slices.SortStableFunc(shared, func(a, b share) int { return cmp.Compare(len(b.machines), len(a.machines)) })
	for len(shared) > 0 {
		scope := g.scope(shared[0].machines)
		var together []statement
		var rest []share
		for _, sh := range shared {
			if slices.Equal(g.scope(sh.machines), scope) {
				together = append(together, sh.statement)
			} else {
				rest = append(rest, sh)
			}
		}
		shared = rest
		out = append(out, mapping.Blank{})
		if len(scope) == 0 {
			out = append(out, rules(together)...)
		} else {
			out = append(out, mapping.Block{Type: "on", Labels: scope, Items: rules(together)})
		}
	}
	if len(left) > 0 {
		out = append(out, mapping.Blank{}, mapping.Comment("Not taken over:"))
		for _, l := range left {
			out = append(out, mapping.Comment("- "+comment(l)))
		}
	}
	text, err = mapping.Print(out)
	return text, left, err
}

// head is where the mapping comes from, its machines and their boards.
func (g Gathered) head() []mapping.Item {
	var out []mapping.Item
	switch len(g.Files) {
	case 0:
	case 1:
		out = append(out, mapping.Comment("Taken over from "+g.Files[0]))
	default:
		out = append(out, mapping.Comment("Taken over from:"))
		for _, f := range g.Files {
			out = append(out, mapping.Comment("- "+f))
		}
	}
	out = append(out, mapping.Attr{Name: "version", Value: mapping.Int(1)})
	for _, s := range g.Sources {
		out = append(out, mapping.Blank{}, g.machineBlock(s.Machine))
	}
	boards := map[string]bool{}
	for _, s := range g.Sources {
		for _, b := range s.Machine.Boards {
			if boards[b.Name] {
				continue
			}
			boards[b.Name] = true
			ids := make(mapping.Strs, len(b.IDs))
			for i, id := range b.IDs {
				ids[i] = id.String()
			}
			out = append(out, mapping.Blank{}, mapping.Block{Type: "board", Labels: []string{b.Name},
				Items: []mapping.Item{mapping.Attr{Name: "ids", Value: ids}}})
		}
	}
	return out
}

// share is a rule and the machines that have it.
type share struct {
	statement
	machines []int
}

// apart parts a rule of one board by what its machines' rules for every board say of the
// same key: of two rules that meet, the scope of one must be part of the other's.
func apart(list []share) []share {
	var out []share
	for _, sh := range list {
		if sh.board == "" {
			out = append(out, sh)
			continue
		}
		parts := map[string][]int{}
		var order []string
		for _, m := range sh.machines {
			id := ""
			for i, o := range list {
				if o.board == "" && slices.Contains(o.machines, m) &&
					slices.ContainsFunc(
						o.positions(), func(k string) bool { return slices.Contains(sh.positions(), k) },
					) {
					id += fmt.Sprint(i, " ")
				}
			}
			if parts[id] == nil {
				order = append(order, id)
			}
			parts[id] = append(parts[id], m)
		}
		for _, id := range order {
			out = append(out, share{sh.statement, parts[id]})
		}
	}
	return out
}

// comment is what is left, and why.
func comment(l mechanism.Left) string {
	place := l.File
	if l.Line > 0 {
		place += fmt.Sprintf(":%d", l.Line)
	}
	if place != "" {
		place += ": "
	}
	return place + l.Text + ": " + l.Why
}

// machineBlock says what a machine is; the version of its desktop unless it is what is taken where
// none is said.
func (g Gathered) machineBlock(m *intent.Machine) mapping.Block {
	st := statement{kind: "machine", keys: [2]string{m.Name}}
	st.say("system", mapping.Str(m.System))
	if m.System == machine.Linux {
		assumed := *m.Machine
		assumed.DesktopVersion = ""
		st.unless("desktop", m.Desktop, "none")
		st.unless("desktop_version", m.DesktopVersion, desktop.Version(&intent.Machine{Machine: &assumed}))
		st.unless("session", m.Session, "")
	}
	st.say("layouts", mapping.Strs(m.Machine.Layouts))
	if len(m.Options) > 0 {
		st.say("options", mapping.Strs(m.Options))
	}
	if len(m.Boards) > 0 {
		st.say("boards", mapping.Strs(m.Machine.Boards))
	}
	if !m.Admin {
		st.say("rights", mapping.Str("user"))
	}
	if m.LayoutLibrary {
		st.say("layout_library", mapping.Bool(true))
	}
	if m.KeyboardFilter {
		st.say("keyboard_filter", mapping.Bool(true))
	}
	if own := libraries(m.Machine); len(own) > 0 {
		var of mapping.Short
		for _, l := range own {
			of = append(of, mapping.Attr{Name: l.Name, Value: mapping.Str(g.libraryName(m.Machine, l))})
		}
		st.say("system_layouts", of)
	}
	return st.block()
}

// scope is the labels of the block for some of the machines, none for all.
func (g Gathered) scope(machines []int) []string {
	if len(machines) == len(g.Sources) {
		return nil
	}
	var names []string
	for _, system := range machine.Systems {
		of := func(i int) bool { return string(g.Sources[i].Machine.System) == system }
		all := true
		for i := range g.Sources {
			all = all && (!of(i) || slices.Contains(machines, i))
		}
		if all && slices.ContainsFunc(machines, of) {
			names = append(names, system)
			continue
		}
		for _, i := range machines {
			if of(i) {
				names = append(names, g.Sources[i].Machine.Name)
			}
		}
	}
	return names
}

// rules are the table and the blocks of one scope, by kind; those of one board stand in a block.
func rules(list []statement) []mapping.Item {
	var out []mapping.Item
	of := map[string][]statement{}
	for _, st := range list {
		of[st.board] = append(of[st.board], st)
	}
	for _, board := range slices.Sorted(maps.Keys(of)) {
		own := together(of[board])
		if len(out) > 0 {
			out = append(out, mapping.Blank{})
		}
		if board != "" {
			own = []mapping.Item{mapping.Block{Type: "on", Labels: []string{board}, Items: own}}
		}
		out = append(out, own...)
	}
	return out
}

// together are rules by kind; those that can be rows are in one table, at the place of the first.
func together(list []statement) []mapping.Item {
	var table mapping.Table
	var out []mapping.Item
	seen, at := map[string]bool{}, 0
	for _, kind := range kinds {
		for _, st := range list {
			if st.kind != kind {
				continue
			}
			if row, ok := st.row(); ok && !seen[row.Name] {
				if len(table) == 0 {
					at = len(out)
				}
				seen[row.Name], table = true, append(table, row)
			} else {
				out = append(out, st.block())
			}
		}
	}
	switch len(table) {
	case 0:
	case 1: // a line of its own
		out = slices.Insert(out, at, mapping.Item(mapping.Attr{Name: "keys", Value: mapping.Short(table)}))
	default:
		out = slices.Insert(out, at, mapping.Item(mapping.Attr{Name: "keys", Value: table}))
	}
	return out
}

// row is the rule as a row of a table, if it can be one.
func (st statement) row() (mapping.Attr, bool) {
	row := mapping.Attr{Name: st.keys[0]}
	switch st.kind {
	case mapping.KindDisable:
		if len(st.items) == 0 {
			row.Value = mapping.Str("off")
			return row, true
		}
		row.Value = mapping.Short{{Name: "to", Value: mapping.Str("off")}}
	case mapping.KindRemap, mapping.KindLaunch, mapping.KindAction, mapping.KindMenu, mapping.KindSnippet:
	default:
		return row, false
	}
	in, _ := row.Value.(mapping.Short)
	for _, item := range st.items {
		a, ok := item.(mapping.Attr)
		if !ok {
			return row, false
		}
		in = append(in, a)
	}
	row.Value = in
	if len(in) == 1 && in[0].Name == "to" {
		row.Value = in[0].Value
	}
	return row, true
}
