package mechanism

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"

	"leitstand/core/desktop"
)

// The record of what the tests have pressed, which they write themselves. A line is a
// mechanism, a component, its version, and what did what was meant, parted by tabs.
//
//go:embed pressed.tsv
var pressedText string

// Press is what was pressed on a component, of a version, and did what a mechanism's files say.
type Press struct{ Mechanism, Component, Version, Did string }

// Record is what was pressed, sorted. It is shared; nobody may change it.
var Record = sync.OnceValue(func() []Press { return ReadRecord(pressedText) })

// ReadRecord reads lines of a record; others it leaves.
func ReadRecord(text string) []Press {
	var list []Press
	for line := range strings.Lines(text) {
		if f := strings.Split(strings.TrimSuffix(line, "\n"), "\t"); len(f) == 4 {
			list = append(list, Press{f[0], f[1], f[2], f[3]})
		}
	}
	slices.SortFunc(list, func(a, b Press) int {
		for _, c := range []int{strings.Compare(a.Mechanism, b.Mechanism), strings.Compare(a.Component, b.Component), desktop.CompareVersions(a.Version, b.Version)} {
			if c != 0 {
				return c
			}
		}
		return strings.Compare(a.Did, b.Did)
	})
	return slices.Compact(list)
}

// Weigh holds what a mechanism says of its evidence against a record: pressed is what was
// pressed in the version of the desktop that the mechanism writes for, if it is for one
// ("" if not).
func (f Facts) Weigh(record []Press, version string) Facts {
	if f.Evidence != Tested {
		return f
	}
	var on []string
	for _, p := range record {
		if p.Mechanism != f.Name {
			continue
		}
		if version == "" || desktop.CompareVersions(p.Version, version) == 0 {
			return f
		}
		if last := len(on) - 1; last >= 0 && strings.HasPrefix(on[last], p.Component+" ") {
			if !strings.HasSuffix(on[last], " "+p.Version) {
				on[last] += " and " + p.Version
			}
			continue
		}
		on = append(on, p.Component+" "+p.Version)
	}
	f.Evidence = Documented
	if len(on) == 0 {
		f.Basis = "by documentation only"
		return f
	}
	f.Basis = fmt.Sprintf("pressed on %s, not on %s: %s", strings.Join(on, ", "), version, f.Basis)
	return f
}
