package report

import (
	"fmt"
	"path"
	"path/filepath"

	"leitstand/core/change"
	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Compilation is what compile says.
type Compilation struct {
	Version  int               `json:"version"` // of the schema
	Machines []CompiledMachine `json:"machines"`
	Rules    []CompiledRule    `json:"rules"`
	// What rules do not do as they ask, gathered over rules and machines, the worst first.
	Gaps      []Gap      `json:"gaps"`
	Fallbacks []Fallback `json:"fallbacks"`
	compile.Shortfall
	// What the folder had before and the mapping wants no longer.
	Gone []Gone `json:"gone,omitempty"`

	Folder   string `json:"-"` // the machines' own are in
	Narrowed bool   `json:"-"` // to what some rules need
	Of       int    `json:"-"` // how many rules the mapping has
	Warnings int    `json:"-"` // that the mapping has
}

// Gap is a difference between the mapping and what machines can do.
type Gap struct {
	Verdict  mechanism.Verdict `json:"verdict"`
	Why      reason.List       `json:"why"`
	Rules    []string          `json:"rules"`
	Presses  []string          `json:"presses,omitempty"` // of rules with several, those that differ
	Machines []string          `json:"machines"`
	Allowed  bool              `json:"allowed"` // by all of its rules
}

// Fallback is what stands in for what a rule asks for.
type Fallback struct {
	Wished mechanism.Verdict `json:"wished"` // of what is asked for
	compile.StandIn
	Machines []string `json:"machines"`
}

// Gone is a press that a machine's folder had.
type Gone struct {
	Machine string `json:"machine"`
	Press   string `json:"press"`
	Did     string `json:"did"`
}

// CompiledMachine is one machine of a compilation.
type CompiledMachine struct {
	Machine  string           `json:"machine"`
	System   machine.System   `json:"system"`
	Folder   string           `json:"folder,omitempty"` // none in a dry run
	Verdicts map[string]int   `json:"verdicts"`         // how many rules have each, of those that occur
	Files    []CompiledFile   `json:"files"`
	Targets  []UsedMechanism  `json:"targets"`
	Changes  []CompiledChange `json:"changes"`
}

// CompiledChange is a change of a machine, with who makes it and the rules that it serves.
type CompiledChange struct {
	By    string   `json:"by"`
	Takes string   `json:"takes"` // when it takes effect
	Rules []string `json:"rules"` // by their names
	change.Described

	Where string `json:"-"` // the place, and what happens there, in a few words
	What  string `json:"-"`
}

// CompiledFile is one file of a machine's folder.
type CompiledFile struct {
	Path string `json:"path"`
	Goes string `json:"goes,omitempty"`
}

// UsedMechanism is a mechanism that took something.
type UsedMechanism struct {
	Name     string `json:"name"`
	Stage    string `json:"stage"`
	Evidence string `json:"evidence"`
	Basis    string `json:"basis"`
}

// CompiledRule is one rule, and how it lands on each machine.
type CompiledRule struct {
	Rule     string                  `json:"rule"`
	Name     string                  `json:"name"`
	Group    string                  `json:"group,omitempty"`
	Place    string                  `json:"place"`
	Why      string                  `json:"why,omitempty"`
	Verdicts map[string]CompiledCell `json:"verdicts"` // by machine
}

// CompiledCell is how one rule lands on one machine.
type CompiledCell struct {
	Verdict mechanism.Verdict `json:"verdict"` // the worst of its presses
	Presses int               `json:"presses"`
	Short   int               `json:"notDone,omitempty"` // of those
	Why     reason.List       `json:"why,omitempty"`
	Instead []compile.StandIn `json:"instead,omitempty"`
	Allowed bool              `json:"allowed,omitempty"` // it is not done, and the rule allows that
	When    string            `json:"when,omitempty"`    // all of it that is there has taken effect
}

// String is the verdict as tables show it: of a rule with some presses that are not done,
// how many.
func (c CompiledCell) String() string {
	if c.Short > 0 && c.Short < c.Presses {
		return fmt.Sprintf("%s %d/%d", c.Verdict, c.Short, c.Presses)
	}
	return c.Verdict.String()
}

// Compiled is what was written of a mapping, and what a former compile had written that is wanted no longer.
func Compiled(mp *mapping.Mapping, found check.Report, out string, gone []compile.Gone) Compilation {
	r := compilation(mp, found.Builds, out, nil)
	r.Warnings = found.Findings.Count(diag.Warning)
	for _, g := range gone {
		r.Gone = append(r.Gone, Gone(g))
	}
	return r
}

// Planned is what would be written: of all rules, or of some.
func Planned(mp *mapping.Mapping, builds []*compile.Build, of []mapping.Rule) Compilation {
	return compilation(mp, builds, "", of)
}

func compilation(mp *mapping.Mapping, builds []*compile.Build, out string, of []mapping.Rule) Compilation {
	r := Compilation{
		Version:   Version,
		Machines:  []CompiledMachine{},
		Rules:     []CompiledRule{},
		Gaps:      []Gap{},
		Fallbacks: []Fallback{},
		Folder:    out,
		Narrowed:  of != nil,
	}
	for _, b := range builds {
		m := CompiledMachine{
			Machine: b.Machine.Name, System: b.Machine.System, Verdicts: map[string]int{},
			Files: []CompiledFile{}, Targets: []UsedMechanism{}, Changes: []CompiledChange{},
		}
		if out != "" {
			m.Folder = path.Join(filepath.ToSlash(out), b.Machine.Name)
		}
		for _, c := range b.Planned(of) {
			planned := CompiledChange{
				By:        c.By.Name,
				Takes:     c.By.Takes,
				Rules:     []string{},
				Described: change.Describe(c.Change),
			}
			planned.Where, planned.What = change.Brief(c.Change)
			for _, r := range c.Rules {
				planned.Rules = append(planned.Rules, mapping.Subject(r))
			}
			m.Changes = append(m.Changes, planned)
		}
		for _, f := range b.Folder() {
			m.Files = append(m.Files, CompiledFile{f.Path, f.Goes})
		}
		for _, f := range b.Used {
			m.Targets = append(m.Targets, UsedMechanism{f.Name, f.Stage.String(), f.Evidence.String(), f.Basis})
		}
		r.Machines = append(r.Machines, m)
	}
	if mp == nil {
		return r
	}
	rows := compile.Table(mp, builds)
	r.Of = len(mp.Rules)
	r.Shortfall = compile.Shortage(rows)
	for i := range builds {
		r.Machines[i].Verdicts = compile.Count(rows, i).ByName()
	}
	for _, g := range compile.Gaps(rows, builds) {
		gap := Gap{g.Verdict, g.Why, []string{}, g.Presses, g.Machines, g.Allowed}
		for _, rule := range g.Rules {
			gap.Rules = append(gap.Rules, mapping.Title(rule))
		}
		r.Gaps = append(r.Gaps, gap)
	}
	for _, f := range compile.Fallbacks(rows, builds) {
		r.Fallbacks = append(r.Fallbacks, Fallback(f))
	}
	for _, row := range rows {
		h := row.Rule.Head()
		rule := CompiledRule{
			mapping.Title(row.Rule),
			mapping.Subject(row.Rule),
			h.Group,
			h.Range.String(),
			h.Why,
			map[string]CompiledCell{},
		}
		for i, c := range row.Cells {
			if c.InScope {
				rule.Verdicts[builds[i].Machine.Name] = CompiledCell{
					c.Verdict, c.Presses, c.Short, c.Why, c.StandIn, c.Allowed, c.When.String(),
				}
			}
		}
		r.Rules = append(r.Rules, rule)
	}
	return r
}
