package install

import (
	"fmt"
	"slices"
	"strings"
)

// LeaveEveryone leaves what an administrator does out of a plan, for which there is a script. It stays known what is
// there until that is done: what such places had, and may have still.
func (p *Plan) LeaveEveryone(was Installed) {
	own, everyone := p.Split()
	p.Steps = own
	left := map[string]bool{} // mechanisms with a place that is not taken back
	for _, s := range everyone {
		for _, w := range s.Writes {
			at := slices.IndexFunc(was.Held, func(h Held) bool { return h.Place == w.Place })
			if at < 0 {
				continue
			}
			next := slices.IndexFunc(p.Next.Held, func(h Held) bool { return h.Place == w.Place })
			if next >= 0 {
				former := was.Held[at].After
				p.Next.Held[next].Former = &former
				continue
			}
			leaving := was.Held[at]
			leaving.Leaving = true
			p.Next.Held, left[s.By] = append(p.Next.Held, leaving), true
		}
	}
	for _, i := range was.Items {
		if left[i.By] && i.Change.Note().Everyone {
			p.Next.Items = append(p.Next.Items, i)
		}
	}
}

// RightsError is for what cannot be installed whole without an administrator.
type RightsError struct {
	Machine string
	Places  []string // that are an administrator's
}

// mostPlaces is how many places an error names.
const mostPlaces = 5

// Error names the places and says how to go on.
func (e *RightsError) Error() string {
	named := strings.Join(e.Places[:min(len(e.Places), mostPlaces)], "\n  ")
	if more := len(e.Places) - mostPlaces; more > 0 {
		named += fmt.Sprintf("\n  and %d more", more)
	}
	return fmt.Sprintf("nothing was written, since these places need an administrator:\n  %s\n"+
		"Run this command in a terminal, where it asks for one; or let --admin-script FILE write what an administrator runs; or "+
		"say rights = \"user\" for machine %s in the mapping, which then takes other ways where there are some", named, e.Machine)
}

// NeedsRights is a *RightsError where something of a plan is an administrator's, and nil otherwise.
func (p *Plan) NeedsRights() error {
	_, everyone := p.Split()
	e := &RightsError{Machine: p.Next.Machine}
	for _, s := range everyone {
		for _, w := range s.Writes {
			if !strings.HasPrefix(w.Path, recordFolder+"/") { // which has what the others had
				e.Places = append(e.Places, w.Place.String())
			}
		}
	}
	if e.Places == nil {
		return nil
	}
	return e
}

// Split parts what a user does from what an administrator does.
func (p *Plan) Split() (own, everyone []Step) {
	for _, s := range p.Steps {
		if s.Everyone {
			everyone = append(everyone, s)
		} else {
			own = append(own, s)
		}
	}
	return own, everyone
}
