package compile

import "slices"

// Registry is the list of mechanisms, for tests.
func Registry() []Mechanism { return registry }

// Register adds a mechanism to the list.
func Register(t Mechanism) { registry = append(slices.Clone(registry), t) }

// SetRegistry puts the list back.
func SetRegistry(list []Mechanism) { registry = list }

// PutBack puts each way that was struck back in its place, says how many there are, and names those
// that nothing strikes.
func (b *Build) PutBack() (n int, wasted []string) {
	for i := range b.Landings {
		for _, o := range b.Landings[i].barred {
			if o.free {
				continue
			}
			n++
			was := b.Landings[i]
			l := &b.Landings[i]
			l.Entry, l.Mechanism, l.Offer = o.entry, o.target, o.offer
			if !slices.ContainsFunc(constraints, func(find func(*Build) []strike) bool { return len(find(b)) > 0 }) {
				wasted = append(wasted, l.Binding.String()+": "+o.why.String())
			}
			b.Landings[i] = was
		}
	}
	return n, wasted
}
