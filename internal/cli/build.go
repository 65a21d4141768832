package cli

import (
	"runtime"

	"leitstand/core/check"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/host"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

// build loads a mapping and compiles it in memory, for all machines if none are
// named. With errors in the mapping itself there are no builds.
func (a *app) build(path string, machines []string) (*mapping.Mapping, []*compile.Build, diag.List, error) {
	mp, diags, err := a.load(path)
	if err != nil || diags.HasErrors() {
		return mp, nil, diags, err
	}
	builds, more, err := compile.All(mp, here(), machines)
	return mp, builds, compile.OneEach(append(diags, more...)), err
}

// checked loads the mapping of -f and finds out all that can be known of it.
func (a *app) checked(machines []string) (*mapping.Mapping, check.Report, error) {
	mp, diags, err := a.loadBeside(a.file(), func(list []*machine.Machine) { check.Warm(list, machines) })
	if err != nil {
		return mp, check.Report{}, err
	}
	at := thisHost()
	if len(mp.Machines) == 0 {
		at.Machine = here()
	}
	report, err := check.Read(mp, diags, at, machines)
	return mp, report, err
}

// thisHost is the machine that the program runs on, as a check wants it.
func thisHost() check.Here {
	return check.Here{Name: hostname(), System: host.System(runtime.GOOS), Has: has}
}

// buildSound builds the mapping of -f for a command that needs it without errors: with
// errors they alone are printed, and the command ends.
func (a *app) buildSound(machines []string) (*mapping.Mapping, []*compile.Build, error) {
	mp, builds, diags, err := a.build(a.file(), machines)
	if err == nil && diags.HasErrors() {
		a.complain(diags.Errors())
		err = exit{exitErrors}
	}
	return mp, builds, err
}

// stations are the machines of the mapping of -f, as buildSound builds them.
func (a *app) stations(machines []string) (*mapping.Mapping, []*station.Station, error) {
	mp, builds, err := a.buildSound(machines)
	if err != nil {
		return mp, nil, err
	}
	list, err := station.All(mp, builds)
	return mp, list, err
}
