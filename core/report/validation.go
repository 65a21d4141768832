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
	Version  int       `json:"version"`
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
	Rules    int            `json:"rules"`
	Verdicts map[string]int `json:"verdicts"`
	Presses  []Press        `json:"presses"`
}

// Press is one line of the resolved mapping.
type Press struct {
	Press     string            `json:"press"`
	Does      string            `json:"does"`
	Instead   string            `json:"instead,omitempty"`
	Mechanism string            `json:"target,omitempty"`
	Verdict   mechanism.Verdict `json:"verdict"`
	Why       reason.List       `json:"why,omitempty"`
	Rule      string            `json:"rule"`
	Place     string            `json:"place"`
}

// Validated is what was found of a mapping.
func Validated(mp *mapping.Mapping, found check.Report) Validation {
	r := Validation{
		Version:  Version,
		Findings: Findings(found.Findings),
		Machines: []Machine{},
		Proof:    Proof(found.Proof),
	}
	rows := compile.Table(mp, found.Builds)
	for i, b := range found.Builds {
		t := compile.Count(rows, i)
		m := Machine{b.Machine.Name, string(b.Machine.System), t.Rules(), t.ByName(), []Press{}}
		for _, l := range b.Landings {
			p := Press{
				l.Binding.Press(),
				l.Binding.Effect.String(),
				l.Instead(),
				"",
				l.Verdict(),
				l.Why(),
				mapping.Title(l.Rule),
				l.Range.String(),
			}
			if l.Mechanism != nil {
				p.Mechanism = l.Facts().Name
			}
			m.Presses = append(m.Presses, p)
		}
		r.Machines = append(r.Machines, m)
	}
	return r
}
