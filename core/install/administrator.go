package install

import "slices"

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
