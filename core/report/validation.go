package report

import (
	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Validation is what validate says.
type Validation struct {
	Version int `json:"version"`
	Rules   int `json:"rules"` // of the mapping
	compile.Shortfall
	Findings []Finding `json:"findings"`
	Machines []Machine `json:"machines"`
	Proof    Proof     `json:"proof"`
}

// Proof is what the proof compared.
type Proof struct {
	Presses     int `json:"presses"`
	Announced   int `json:"announced"`
	Unexplained int `json:"unexplained"`
}

// Machine is one machine, and what its presses do.
type Machine struct {
	Machine  string         `json:"machine"`
	System   string         `json:"system"`
	Title    string         `json:"title"` // the system and its desktop in words
	Rules    int            `json:"rules"`
	Verdicts map[string]int `json:"verdicts"`
	Presses  []Press        `json:"presses"`
	Beaten   []Beaten       `json:"beaten,omitempty"` // rules that narrower ones overrule
	Absent   []Absent       `json:"absent,omitempty"` // rules that do not hold here
}

// Beaten is a press that a rule of narrower scope has.
type Beaten struct {
	Press  string `json:"press"`
	Winner Said   `json:"winner"`
	Loser  Said   `json:"loser"`
}

// Absent are rules that do not hold on a machine, and why.
type Absent struct {
	Why   string `json:"why"`
	Rules []Said `json:"rules"`
}

// Said is a rule and where it stands.
type Said struct {
	Rule  string `json:"rule"`
	Place string `json:"place"`
	Short string `json:"-"` // the place in a few words
}

func said(mp *mapping.Mapping, r mapping.Rule) Said {
	at := r.Head().Range
	return Said{mapping.Title(r), at.String(), mp.Place(at)}
}

// Press is one line of the resolved mapping.
type Press struct {
	Press     string            `json:"press"`
	Does      string            `json:"does"`
	Instead   string            `json:"instead,omitempty"`
	Mechanism string            `json:"target,omitempty"`
	Verdict   mechanism.Verdict `json:"verdict"`
	When      string            `json:"when,omitempty"`  // it takes effect, in a word or two
	Takes     string            `json:"takes,omitempty"` // the same as a sentence
	Why       reason.List       `json:"why,omitempty"`
	Rule      string            `json:"rule"`
	Place     string            `json:"place"`
	Where     string            `json:"where,omitempty"` // the scope of the rule in words
	Short     string            `json:"-"`               // the place in a few words
}

// Validated is what was found of a mapping, with what each press does.
func Validated(mp *mapping.Mapping, found check.Report) Validation {
	r := Summarized(mp, found)
	for i, b := range found.Builds {
		r.Machines[i].resolve(mp, b)
	}
	return r
}

// Summarized is what was found of a mapping, without its presses: of thousands of rules, these are most of it.
func Summarized(mp *mapping.Mapping, found check.Report) Validation {
	rows := compile.Table(mp, found.Builds)
	r := Validation{
		Version:   Version,
		Rules:     len(mp.Rules),
		Shortfall: compile.Shortage(rows),
		Findings:  Findings(found.Findings),
		Machines:  []Machine{},
		Proof:     Proof(found.Proof),
	}
	for i, b := range found.Builds {
		t := compile.Count(rows, i)
		r.Machines = append(r.Machines, Machine{
			Machine:  b.Machine.Name,
			System:   string(b.Machine.System),
			Title:    b.Machine.Place(),
			Rules:    t.Rules(),
			Verdicts: t.ByName(),
			Presses:  []Press{},
		})
	}
	return r
}

// resolve adds what each press of the machine does, and which rules have none there.
func (m *Machine) resolve(mp *mapping.Mapping, b *compile.Build) {
	for _, l := range b.Landings {
		p := Press{
			Press:   l.Binding.Press(),
			Does:    l.Binding.Effect.String(),
			Instead: l.Instead(),
			Verdict: l.Verdict(),
			Why:     l.Why(),
			Rule:    mapping.Title(l.Rule),
			Place:   l.Range.String(),
			Where:   l.Rule.Head().Scope.Where(),
			Short:   mp.Place(l.Range),
		}
		if l.Mechanism != nil {
			f := l.Facts()
			p.Mechanism, p.When, p.Takes = f.Name, f.When.String(), f.Takes
		}
		m.Presses = append(m.Presses, p)
	}
	for _, o := range b.Beaten {
		m.Beaten = append(m.Beaten, Beaten{o.Press, said(mp, o.Winner), said(mp, o.Loser)})
	}
	for _, x := range mapping.AbsentFrom(mp, b.Machine.Machine) {
		absent := Absent{Why: x.Why}
		for _, r := range x.Rules {
			absent.Rules = append(absent.Rules, said(mp, r))
		}
		m.Absent = append(m.Absent, absent)
	}
}
