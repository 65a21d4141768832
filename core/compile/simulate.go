package compile

import (
	"slices"

	"leitstand/core/change"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// Simulated is what the machine has when all is done, beside what others have there: the
// changes are carried out on a machine in memory, and what it has then is given as the files
// of its folder.
func (b *Build) Simulated() (mechanism.Folder, error) { return b.SimulatedWith(b.Changes()) }

// Changes are those of the machine's mechanisms, in their order.
func (b *Build) Changes() []change.Change {
	var list []change.Change
	for _, p := range b.parts {
		list = append(list, p.out.Changes...)
	}
	return list
}

// SimulatedWith is Simulated with other changes carried out in the place of the machine's.
func (b *Build) SimulatedWith(carried []change.Change) (mechanism.Folder, error) {
	var files []mechanism.File
	list := b.Changes()
	m := used(list)
	if _, err := change.Carry(carried, m); err != nil {
		return nil, err
	}
	has, err := change.View(list, m)
	for _, f := range has {
		files = append(files, mechanism.File(f))
	}
	return files, err
}

// used is a machine that is in use: it has what every machine has, and others have lines and
// items where changes are made.
func used(list []change.Change) *change.Simulated {
	m := change.NewSimulated()
	for _, c := range list {
		switch c := c.(type) {
		case change.Line:
			m.Files[c.Path] = []byte("# of the user's own")
		case change.Block:
			m.Files[c.Path] = []byte(c.First)
		case change.Setting:
			switch {
			case c.Default != nil:
				m.Values[c.Store+":"+c.Key] = c.Default
			case c.Assumed:
				m.Values[c.Store+":"+c.Key] = c.To
			case c.To == nil: // what is taken away was there
				m.Values[c.Store+":"+c.Key] = change.Text("of the user's own")
			}
		case change.Member:
			m.Values[c.Store+":"+c.Key] = change.Texts{"of the user's own"}
			if c.Between != "" {
				m.Values[c.Store+":"+c.Key] = change.Text("of the user's own")
			}
		default: // our own files are not there, and nobody has been told
		}
	}
	return m
}

// Change is a change of a machine with who makes it, and the rules that it serves.
type Change struct {
	change.Change
	By    mechanism.Facts
	Rules []mapping.Rule
}

// Planned are the machine's changes in their order, of all rules, or of some.
func (b *Build) Planned(of []mapping.Rule) []Change {
	rules := map[string][]mapping.Rule{} // by press
	for i := range b.Landings {
		l := &b.Landings[i]
		if press := l.Binding.Press(); !slices.Contains(rules[press], l.Rule) {
			rules[press] = append(rules[press], l.Rule)
		}
	}
	var list []Change
	for _, p := range b.parts {
		for _, c := range p.out.Changes {
			planned := Change{Change: c, By: p.facts}
			served := map[mapping.Rule]bool{}
			for _, press := range c.Note().Serves {
				for _, r := range rules[press] {
					if !served[r] {
						served[r] = true
						planned.Rules = append(planned.Rules, r)
					}
				}
			}
			if of == nil ||
				slices.ContainsFunc(planned.Rules, func(r mapping.Rule) bool { return slices.Contains(of, r) }) {
				list = append(list, planned)
			}
		}
	}
	return list
}
