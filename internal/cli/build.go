package cli

import (
	"leitstand/core/audit"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/proof"
)

// build loads a mapping and compiles it in memory, for all machines if none are
// named. With errors in the mapping itself there are no builds.
func build(path string, machines []string) (*mapping.Mapping, []*compile.Build, diag.List, error) {
	mp, diags, err := load(path)
	if err != nil || diags.HasErrors() {
		return mp, nil, diags, err
	}
	builds, more, err := compile.All(mp, here(), machines)
	return mp, builds, append(diags, more...), err
}

// checked builds the mapping of -f, and adds what the proof and the audit find.
func (a *app) checked(machines []string) (*mapping.Mapping, []*compile.Build, diag.List, proof.Total, error) {
	mp, builds, diags, err := build(a.file, machines)
	if err != nil {
		return nil, nil, nil, proof.Total{}, err
	}
	looked := make(chan diag.List, 1)
	go func() { looked <- audit.Mapping(mp, builds) }() // beside the proof, which it does not need
	proofs, faults, err := proof.All(mp, builds)
	diags = append(append(diags, faults...), <-looked...)
	return mp, builds, diags, proofs, err
}

// sound builds the mapping of -f for a command that needs it without errors: with
// errors they are printed, and the command ends.
func (a *app) sound(machines []string) (*mapping.Mapping, []*compile.Build, error) {
	mp, builds, diags, err := build(a.file, machines)
	if err == nil && diags.HasErrors() {
		a.findings(a.stderr, diags)
		err = exit{exitErrors}
	}
	return mp, builds, err
}
