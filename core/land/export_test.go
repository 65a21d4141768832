package land

import "slices"

// PutBack puts each way that was struck back in its place, says how many there are, and names those
// that nothing strikes.
func (b *Landed) PutBack() (n int, wasted []string) {
	for i := range b.Landings {
		for _, o := range b.Landings[i].barred {
			if o.free {
				continue
			}
			n++
			was := b.Landings[i]
			l := &b.Landings[i]
			l.Entry, l.Mechanism, l.Offer = o.entry, o.into, o.offer
			if !slices.ContainsFunc(constraints, func(find func(*Landed) []strike) bool { return len(find(b)) > 0 }) {
				wasted = append(wasted, l.Binding.String()+": "+o.why.String())
			}
			b.Landings[i] = was
		}
	}
	return n, wasted
}
