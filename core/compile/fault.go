package compile

import (
	"fmt"
	"sort"

	"leitstand/core/diag"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// Guard does work on a mapping for a machine. Where the work breaks off, which is a fault
// of the program, the diagnostic says so and names the rule that it takes: the last of
// the shortest beginning of the mapping on which it breaks off, too.
func Guard(mp *mapping.Mapping, m *machine.Machine, work func(*mapping.Mapping)) (fault diag.List) {
	breaks := func(n int) (why any) {
		defer func() { why = recover() }()
		part := *mp
		part.Rules = mp.Rules[:n]
		work(&part)
		return nil
	}
	why := breaks(len(mp.Rules))
	if why == nil {
		return nil
	}
	d := diag.Diagnostic{Code: "fault", Machines: []string{m.Name}, Range: m.Range,
		Summary: fmt.Sprintf("a fault of the program broke its work off (%v)", why),
		Advice:  "scope the rule away from this machine until the fault is mended; the mapping is not to blame"}
	if n := sort.Search(len(mp.Rules), func(n int) bool { return breaks(n) != nil }); n > 0 {
		r := mp.Rules[n-1]
		d.Range = r.Head().Range
		d.Summary = fmt.Sprintf("%s: %s", mapping.Title(r), d.Summary)
	}
	d.Line = mp.SourceLine(d.Range)
	return diag.List{d}
}
