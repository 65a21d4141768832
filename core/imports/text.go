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

// rules are the blocks of one scope, by kind; those of one board stand in a block.
func rules(list []statement) []mapping.Item {
	var out []mapping.Item
	type group struct {
		board string
		kind  mapping.Kind
	}
	same, boards := map[group][]statement{}, map[string]bool{}
	for _, st := range list {
		g := group{st.board, st.kind}
		same[g], boards[st.board] = append(same[g], st), true
	}
	for _, board := range slices.Sorted(maps.Keys(boards)) {
		var own []mapping.Item
		for _, kind := range kinds {
			own = append(own, together(kind, same[group{board, kind}])...)
		}
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

// together are the blocks of rules of one kind: those that say one thing as a table, keys that do
// nothing in one.
func together(kind mapping.Kind, list []statement) []mapping.Item {
	var out, tables []mapping.Item
	var off []string
	rows, names := map[string]mapping.Table{}, []string{}
	for _, st := range list {
		if name, value, ok := st.row(); ok {
			if rows[name] == nil {
				names = append(names, name)
			}
			rows[name] = append(rows[name], mapping.Attr{Name: st.keys[0], Value: value})
		}
	}
	for _, st := range list {
		name, _, ok := st.row()
		switch {
		case kind == mapping.KindDisable && len(st.items) == 0:
			off = append(off, st.keys[0])
		case !ok || len(rows[name]) < 2:
			out = append(out, st.block())
		}
	}
	for _, name := range names {
		if len(rows[name]) > 1 {
			tables = append(tables, mapping.Attr{Name: name, Value: rows[name]})
		}
	}
	if len(tables) > 0 {
		out = append(out, mapping.Block{Type: string(kind), Items: tables})
	}
	if len(off) > 0 {
		out = append(out, mapping.Block{Type: string(mapping.KindDisable), Labels: off})
	}
	return out
}

// row is the one thing that a rule says, where it says no more, as a row of a table.
func (st statement) row() (name string, v mapping.Value, ok bool) {
	if st.keys[0] == "" || len(st.items) != 1 {
		return "", nil, false
	}
	a, ok := st.items[0].(mapping.Attr)
	return a.Name, a.Value, ok && slices.Contains([]string{"to", "app", "run", "open", "does", "text"}, a.Name)
}
