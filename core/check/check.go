// Package check finds out all that can be known of a mapping before it is used: it
// compiles it for machines, proves what was written, and looks for what a user would
// regret.
package check

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"leitstand/core/audit"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/proof"
	"leitstand/core/target"
	"leitstand/core/target/xkb/keymap"
)

// Warm makes ready what every check needs; it may run beside the loading of the
// mapping.
func Warm() {
	keys.Warm()
	keymap.Warm()
	desktop.Warm()
}

// Report is what was found.
type Report struct {
	Builds   []*compile.Build // in the order of the mapping's machines
	Findings diag.List        // merged over machines and sorted
	Proof    proof.Total
}

// Here is the machine that the check runs on.
type Here struct {
	Machine *mapping.Machine          // for a mapping without machines
	Name    string                    // the host's, by which a mapping may name it
	Has     func(program string) bool // whether it has a program
}

// is says whether a machine of the mapping is this one.
func (h Here) is(m *mapping.Machine) bool { return m == h.Machine || strings.EqualFold(m.Name, h.Name) }

// Mapping checks a mapping for the named machines, or for all of its machines if
// none is named; one without machines is for here. The error says that a name is
// unknown, or that what was written cannot be read back.
func Mapping(mp *mapping.Mapping, here Here, names []string) (Report, error) {
	machines, err := compile.Pick(mp, here.Machine, names)
	if err != nil {
		return Report{}, err
	}
	// Machines have nothing to do with each other, nor has a machine's proof with the
	// look for regrets.
	found := make([]checked, len(machines))
	var wait sync.WaitGroup
	for i, m := range machines {
		wait.Go(func() {
			f := &found[i]
			if f.build, f.compiled, f.err = compile.Machine(mp, m); f.err != nil {
				return
			}
			wait.Go(func() {
				f.regrets = audit.Machine(mp, f.build)
				if here.is(m) {
					f.regrets = append(f.regrets, audit.Programs(mp, f.build, here.Has)...)
				}
			})
			if f.compiled.HasErrors() {
				return // nothing was written
			}
			if f.proof, f.err = proof.Machine(f.build, target.Folder(f.build.Files)); f.err != nil {
				f.err = fmt.Errorf("machine %s: what was written cannot be read back: %w", m.Name, f.err)
			}
		})
	}
	wait.Wait()

	var r Report
	var errs []error
	var compiled, regrets diag.List
	for _, f := range found {
		errs = append(errs, f.err)
		r.Builds = append(r.Builds, f.build)
		compiled = append(compiled, f.compiled...)
		regrets = append(regrets, f.regrets...)
		if f.proof != nil {
			r.Proof.Add(f.proof)
			compiled = append(compiled, f.proof.Diagnostics(mp)...)
		}
	}
	r.Findings = slices.Concat(compiled, regrets, audit.Whole(mp)).Merge()
	r.Findings.Sort()
	return r, errors.Join(errs...)
}

// checked is the work on one machine.
type checked struct {
	build             *compile.Build
	proof             *proof.Result // nil where nothing was written
	compiled, regrets diag.List
	err               error
}
