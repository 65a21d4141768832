package land

// DropPlans drops what only landing and writing need, once all is written: other ways, and the plans of those taken. Of
// thousands of presses that is a third of what is kept.
func (b *Landed) DropPlans() {
	for i := range b.Landings {
		l := &b.Landings[i]
		l.search, l.Offer.Plan = nil, nil
		if l.wished != nil {
			l.wished.Plan = nil
		}
	}
}
