package report

import (
	"path"
	"path/filepath"

	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Compilation is what compile says.
type Compilation struct {
	Version  int               `json:"version"` // of the schema
	Machines []CompiledMachine `json:"machines"`
	Rules    []CompiledRule    `json:"rules"`
}

// CompiledMachine is one machine of a compilation.
type CompiledMachine struct {
	Machine string           `json:"machine"`
	Folder  string           `json:"folder,omitempty"` // none in a dry run
	Files   []CompiledFile   `json:"files"`
	Targets []UsedMechanism  `json:"targets"`
	Changes []CompiledChange `json:"changes"`
}

// CompiledChange is a change of a machine, with who makes it and the rules that it serves.
type CompiledChange struct {
	By    string   `json:"by"`
	Takes string   `json:"takes"` // when it takes effect
	Rules []string `json:"rules"` // by their names
	change.Described
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
}

// Compiled is what came of a mapping, for some of its rules only if they are given.
func Compiled(mp *mapping.Mapping, builds []*compile.Build, out string, of []mapping.Rule) Compilation {
	r := Compilation{Version: Version, Machines: []CompiledMachine{}, Rules: []CompiledRule{}}
	for _, b := range builds {
		m := CompiledMachine{b.Machine.Name, "", []CompiledFile{}, []UsedMechanism{}, []CompiledChange{}}
		if out != "" {
			m.Folder = path.Join(filepath.ToSlash(out), b.Machine.Name)
		}
		for _, c := range b.Planned(of) {
			planned := CompiledChange{c.By.Name, c.By.Takes, []string{}, change.Describe(c.Change)}
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
	for _, row := range compile.Table(mp, builds) {
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
				rule.Verdicts[builds[i].Machine.Name] = CompiledCell{c.Verdict, c.Presses, c.Short, c.Why, c.StandIn}
			}
		}
		r.Rules = append(r.Rules, rule)
	}
	return r
}
