package imports

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
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
	at := map[statement]int{}
	for i, s := range g.Sources {
		list, rest := s.statements(names)
		for _, l := range rest {
			l.File = s.Machine.Name
			left = append(left, l)
		}
		for _, st := range list {
			n, known := at[st]
			if !known {
				n, shared = len(shared), append(shared, share{statement: st})
				at[st] = n
			}
			if !slices.Contains(shared[n].machines, i) {
				shared[n].machines = append(shared[n].machines, i)
			}
		}
	}
	shared = apart(shared)
	var w strings.Builder
	switch len(g.Files) {
	case 0:
	case 1:
		w.WriteString("# Taken over from " + line(g.Files[0]))
	default:
		w.WriteString("# Taken over from:\n")
		for _, f := range g.Files {
			w.WriteString("# - " + line(f))
		}
	}
	w.WriteString("version = 1\n")
	for _, s := range g.Sources {
		w.WriteString("\n" + machineBlock(s.Machine))
	}
	boards := map[string]bool{}
	for _, s := range g.Sources {
		for _, b := range s.Machine.Boards {
			if boards[b.Name] {
				continue
			}
			boards[b.Name] = true
			ids := make([]string, len(b.IDs))
			for i, id := range b.IDs {
				ids[i] = id.String()
			}
			fmt.Fprintf(&w, "\nboard %s { ids = %s }\n", quote(b.Name), texts(ids))
		}
	}
	w.WriteString(names.blocks())
	// What most machines share comes first.
	slices.SortStableFunc(shared, func(a, b share) int { return cmp.Compare(len(b.machines), len(a.machines)) })
	for len(shared) > 0 {
		scope := g.scope(shared[0].machines)
		var together []statement
		var rest []share
		for _, sh := range shared {
			if g.scope(sh.machines) == scope {
				together = append(together, sh.statement)
			} else {
				rest = append(rest, sh)
			}
		}
		shared = rest
		if scope == "" {
			w.WriteString("\n" + rules(together))
		} else {
			fmt.Fprintf(&w, "\non %s {\n%s}\n", scope, rules(together))
		}
	}
	if len(left) > 0 {
		w.WriteString("\n# Not taken over:\n")
		for _, l := range left {
			w.WriteString("# - " + line(comment(l)))
		}
	}
	text, err = mapping.Format([]byte(w.String()))
	return text, left, err
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
				if o.board == "" && slices.Contains(o.machines, m) && slices.ContainsFunc(o.positions(), func(k string) bool { return slices.Contains(sh.positions(), k) }) {
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

// line is a text as the rest of a line of comment.
func line(text string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7F {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(text, "?")) + "\n"
}

// version says the version of a machine's desktop, unless it is what is taken where none is
// said.
func version(m *intent.Machine) string {
	assumed := *m.Machine
	assumed.DesktopVersion = ""
	return unless("desktop_version", m.DesktopVersion, desktop.Version(&intent.Machine{Machine: &assumed}))
}

func machineBlock(m *intent.Machine) string {
	var w strings.Builder
	fmt.Fprintf(&w, "machine %s {\n%s", quote(m.Name), attr("system", quote(string(m.System))))
	if m.System == machine.Linux {
		w.WriteString(unless("desktop", m.Desktop, "none") + version(m) + unless("session", m.Session, ""))
	}
	w.WriteString(attr("layouts", texts(m.Machine.Layouts)))
	if len(m.Options) > 0 {
		w.WriteString(attr("options", texts(m.Options)))
	}
	if len(m.Boards) > 0 {
		w.WriteString(attr("boards", texts(m.Machine.Boards)))
	}
	if !m.Admin {
		w.WriteString(attr("rights", quote("user")))
	}
	return w.String() + "}\n"
}

// scope is the labels of the block for some of the machines, "" for all.
func (g Gathered) scope(machines []int) string {
	if len(machines) == len(g.Sources) {
		return ""
	}
	var names []string
	for _, system := range machine.Systems {
		of := func(i int) bool { return string(g.Sources[i].Machine.System) == system }
		all := true
		for i := range g.Sources {
			all = all && (!of(i) || slices.Contains(machines, i))
		}
		if all && slices.ContainsFunc(machines, of) {
			names = append(names, quote(system))
			continue
		}
		for _, i := range machines {
			if of(i) {
				names = append(names, quote(g.Sources[i].Machine.Name))
			}
		}
	}
	return strings.Join(names, " ")
}

// rules writes rules of one scope, by kind; those of one board stand in a block.
func rules(list []statement) string {
	var w strings.Builder
	var boards []string
	for _, st := range list {
		if !slices.Contains(boards, st.board) {
			boards = append(boards, st.board)
		}
	}
	slices.Sort(boards)
	for _, board := range boards {
		if w.Len() > 0 {
			w.WriteString("\n")
		}
		if board != "" {
			fmt.Fprintf(&w, "on %s {\n", quote(board))
		}
		for _, kind := range kinds {
			var same []statement
			for _, st := range list {
				if st.board == board && st.kind == kind {
					same = append(same, st)
				}
			}
			w.WriteString(written(kind, same))
		}
		if board != "" {
			w.WriteString("}\n")
		}
	}
	return w.String()
}

// written writes rules of one kind: those that say one thing as a table, keys that do
// nothing together.
func written(kind mapping.Kind, list []statement) string {
	var w, tables strings.Builder
	var off []string
	rows, names := map[string][]string{}, []string{}
	for _, st := range list {
		if name, _, ok := st.row(); ok {
			if rows[name] == nil {
				names = append(names, name)
			}
			rows[name] = append(rows[name], st.keys[0])
		}
	}
	for _, st := range list {
		name, _, ok := st.row()
		switch {
		case kind == mapping.KindDisable && st.attrs == "":
			off = append(off, quote(st.keys[0]))
		case !ok || len(rows[name]) < 2:
			w.WriteString(block(st))
		}
	}
	for _, name := range names {
		if len(rows[name]) < 2 {
			continue
		}
		fmt.Fprintf(&tables, "%s = {\n", name)
		for _, st := range list {
			if n, value, ok := st.row(); ok && n == name {
				tables.WriteString(attr(rowKey(st.keys[0]), value))
			}
		}
		tables.WriteString("}\n")
	}
	if tables.Len() > 0 {
		fmt.Fprintf(&w, "%s {\n%s}\n", kind, &tables)
	}
	if len(off) > 0 {
		fmt.Fprintf(&w, "disable %s {}\n", strings.Join(off, " "))
	}
	return w.String()
}

// row is the one thing that a rule says, where it says no more, as a row of a table.
func (st statement) row() (name, value string, ok bool) {
	attrs := st.attrs
	if st.gives != "" {
		attrs = attr("to", st.gives) + attrs
	}
	if st.keys[0] == "" || strings.Count(attrs, "\n") != 1 {
		return "", "", false
	}
	name, value, _ = strings.Cut(strings.TrimSuffix(attrs, "\n"), " = ")
	return name, value, slices.Contains([]string{"to", "app", "run", "open", "does", "text"}, name)
}

// rowKey spells the press of a row: a key needs no quotes.
func rowKey(press string) string {
	if _, ok := keys.ByCode(press); ok {
		return press
	}
	return quote(press)
}

// block writes a rule by itself.
func block(st statement) string {
	head := string(st.kind)
	for _, k := range st.keys {
		if k != "" {
			head += " " + quote(k)
		}
	}
	attrs := st.attrs
	if st.gives != "" {
		attrs = attr("to", st.gives) + attrs
	}
	switch strings.Count(attrs, "\n") {
	case 0:
		return head + " {}\n"
	case 1:
		return fmt.Sprintf("%s { %s }\n", head, strings.TrimSuffix(attrs, "\n"))
	}
	return head + " {\n" + attrs + "}\n"
}
