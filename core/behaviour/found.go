package behaviour

// Found gathers what a file says of presses, each press once.
type Found struct {
	list []Binding
	at   map[Place]int
}

// Add adds a binding. Of two for one press, one that is not Kept counts; where two
// that count differ, the press does one or the other, and words say so.
func (f *Found) Add(b Binding, words string) {
	place := b.Place()
	i, known := f.at[place]
	switch {
	case !known:
		if f.at == nil {
			f.at = map[Place]int{}
		}
		f.at[place] = len(f.list)
		f.list = append(f.list, b)
	case f.list[i].Kept && !b.Kept:
		f.list[i] = b
	case b.Kept || f.list[i].Effect.Equal(b.Effect):
	default:
		f.list[i].Effect = Effect{Kind: Other, Words: words}
	}
}

// List is what was added, in the order of Sort.
func (f *Found) List() []Binding {
	Sort(f.list)
	f.at = nil
	return f.list
}
