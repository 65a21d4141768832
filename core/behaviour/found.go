package behaviour

import "slices"

// Found gathers what a file says of presses, each press once.
type Found struct {
	list  []Binding
	words []string // of each, where another one of its press does something else
}

// Grow makes room for so many bindings more: they are large.
func (f *Found) Grow(n int) {
	f.list, f.words = slices.Grow(f.list, n), slices.Grow(f.words, n)
}

// Add adds a binding. Of two for one press, one that is not Kept counts; where two
// that count differ, the press does one or the other, and words say so.
func (f *Found) Add(b Binding, words string) {
	f.list, f.words = append(f.list, b), append(f.words, words)
}

// List is what was added, in the order of Sort.
func (f *Found) List() []Binding {
	if f.eachOnce() {
		return slices.Clip(f.list)
	}
	once := make([]Binding, 0, len(f.list))
	for _, i := range Indices(len(f.list), func(i int) *Binding { return &f.list[i] }) {
		b, last := &f.list[i], len(once)-1
		switch {
		case last < 0 || Order(&once[last], b) != 0:
			once = append(once, *b)
		case once[last].Kept && !b.Kept:
			once[last] = *b
		case b.Kept || once[last].Effect.Equal(b.Effect):
		default:
			once[last].Effect = Effect{Kind: Other, Words: f.words[i]}
		}
	}
	return once
}

// eachOnce says whether the list is sorted, and has each press once.
func (f *Found) eachOnce() bool {
	for i := 1; i < len(f.list); i++ {
		if Order(&f.list[i-1], &f.list[i]) >= 0 {
			return false
		}
	}
	return true
}
