// Package check finds out all that can be known of a mapping before it is used: it
// compiles it for machines, proves what was written, and looks for what a user would
// regret.
package check

import (
	"cmp"
	"errors"
	"slices"

	"leitstand/core/audit"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/parallel"
	"leitstand/core/proof"
	"leitstand/core/station"
)

// Warm makes ready what the check of machines needs, of those that are named, or of all if none is. It may run while
// the rules of their mapping are still read.
func Warm(machines []*machine.Machine, names []string) {
	for _, m := range machines {
		if len(names) > 0 && !slices.Contains(names, m.Name) {
			continue
		}
		in := intent.NewMachine(&mapping.Mapping{}, m)
		for _, l := range in.Layouts {
			l.Warm()
		}
		desktop.Stock(in)
		if (xkb.Mechanism{}).Serves(in) {
			keymap.Warm()
			keymap.Build(in.Layouts, nil, nil)
		}
	}
}

// Report is what was found.
type Report struct {
	Builds   []*compile.Build // in the order of the mapping's machines
	Findings diag.List        // merged over machines and sorted
	Proof    proof.Total
}

// Here is the machine that the check runs on.
type Here struct {
	Machine *machine.Machine          // for a mapping without machines
	Name    string                    // the host's, by which a mapping may name it
	System  machine.System            // what runs: a computer may start another system by the same name
	Has     func(program string) bool // whether it has a program
}

// is says whether a machine of the mapping is this one.
func (h Here) is(m *machine.Machine) bool {
	return m == h.Machine || m.Is(h.Name) && m.System == h.System
}

// Mapping checks a mapping for the named machines, or for all of its machines if
// none is named; one without machines is for here. The error says that a name is
// unknown, or that what was written cannot be read back.
func Mapping(mp *mapping.Mapping, here Here, names []string) (Report, error) {
	machines, err := compile.Pick(mp, here.Machine, names)
	if err != nil {
		return Report{}, err
	}
	// Machines have nothing to do with each other. Those that take the longest go first,
	// lest one of them is left over for the end.
	found := make([]checked, len(machines))
	order := make([]int, len(machines))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(work(machines[b]), work(machines[a])) })
	parallel.Each(len(machines), func(i int) {
		m, f := machines[order[i]], &found[order[i]]
		if fault := compile.Guard(mp, m, func(mp *mapping.Mapping) { *f = checkMachine(mp, m, here) }); fault != nil {
			*f = checked{compiled: fault}
		}
	})

	var r Report
	var errs []error
	var compiled, regrets diag.List
	for _, f := range found {
		errs = append(errs, f.err)
		if f.build != nil {
			r.Builds = append(r.Builds, f.build)
		}
		compiled = append(compiled, f.compiled...)
		regrets = append(regrets, f.regrets...)
		if f.proof != nil {
			r.Proof.Add(f.proof)
			compiled = append(compiled, f.proof.Diagnostics(mp)...)
		}
	}
	r.Findings = compile.OneEach(slices.Concat(compiled, regrets, audit.Whole(mp)).Merge())
	r.Findings.Rank()
	return r, errors.Join(errs...)
}

// Read checks what could be read of a mapping in which reading has found errors, so that
// all that is wrong is told at once: errors, and what is not done, where that cannot be due
// to what is unread.
func Read(mp *mapping.Mapping, found diag.List, here Here, names []string) (Report, error) {
	if !found.HasErrors() {
		r, err := Mapping(mp, here, names)
		r.Findings = slices.Concat(found, r.Findings)
		return r, err
	}
	r := Report{Findings: found}
	if mp.Unread.Definitions {
		return r, nil
	}
	if _, err := compile.Pick(mp, here.Machine, names); err != nil {
		return r, err
	}
	rest, err := Mapping(mp, here, names)
	if err != nil { // what an invalid mapping writes may not be readable, and the errors say why
		return r, nil
	}
	told := map[[2]any]bool{}
	for _, d := range found {
		told[[2]any{d.Range.File, d.Range.Start.Line}] = true
	}
	hyper := slices.Contains(mp.Unread.Kinds, mapping.KindHyper)
	for _, d := range rest.Findings {
		chord := (d.Code == "unavailable" || d.Code == "needs-agent") && !hyper
		if (d.Severity == diag.Error || chord) && !told[[2]any{d.Range.File, d.Range.Start.Line}] {
			r.Findings = append(r.Findings, d)
		}
	}
	r.Findings.Rank()
	return r, nil
}

// checked is the work on one machine.
type checked struct {
	build             *compile.Build
	proof             *proof.Result // nil where nothing was written
	compiled, regrets diag.List
	err               error
}

// work is how much there is to do for a machine, beside others: every state of a keyboard
// is compared for each layout.
func work(m *machine.Machine) int {
	if m.System == machine.Linux {
		return 1 + len(m.Layouts)
	}
	return 0
}

func checkMachine(mp *mapping.Mapping, m *machine.Machine, here Here) checked {
	var f checked
	if f.build, f.compiled, f.err = compile.Machine(mp, m); f.err != nil {
		return f
	}
	var s *station.Station
	if f.compiled.HasErrors() { // and nothing was written
		s = station.Unwritten(mp, f.build)
	} else {
		if s, f.err = station.Of(mp, f.build); f.err != nil {
			return f
		}
		f.proof = proof.Machine(s)
	}
	f.regrets = audit.Machine(mp, s)
	if here.is(m) {
		f.regrets = append(f.regrets, audit.Programs(mp, f.build, here.Has)...)
	}
	return f
}
