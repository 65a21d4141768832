package compare

import (
	"slices"

	"leitstand/core/behaviour"
)

// Change is a press that does something else, on the machines where it changes alike.
type Change struct {
	Press, Was, Is string
	Since          Origin // where it comes from, "" where that is not known
	Machines       []string
}

// Together lists the presses that differ, each change once for all machines that share it.
func Together(list []MachineDifference) []Change {
	var changes []Change
	for _, d := range list {
		for _, c := range d.Presses {
			n := Change{Press: c.Press, Was: state(c.Place, c.Before), Is: state(c.Place, c.After), Since: d.Since[c.Place]}
			at := slices.IndexFunc(
				changes,
				func(o Change) bool { return o.Press == n.Press && o.Was == n.Was && o.Is == n.Is && o.Since == n.Since },
			)
			if at < 0 {
				at = len(changes)
				changes = append(changes, n)
			}
			changes[at].Machines = append(changes[at].Machines, d.Machine)
		}
	}
	return changes
}

// state is what a press does, in words that stand alone.
func state(at behaviour.Place, e *behaviour.Effect) string {
	switch {
	case e == nil && at.Level == behaviour.Position:
		return "itself"
	case e == nil && at.Level == behaviour.Setting:
		return "the system's"
	case e == nil:
		return "unassigned"
	case e.Kind == behaviour.Nothing:
		return "off"
	case e.Kind == behaviour.Becomes:
		return e.Key.String()
	case e.Kind == behaviour.Sets:
		return e.Value.String()
	default:
		return e.String()
	}
}
