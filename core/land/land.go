// Package land finds a place for each press of an intent. The mechanisms are asked for it from the
// lowest stage up, and each press lands in exactly one of them: the one with the best offer, the lower
// one where two are equal, so that all of them go together.
package land

import (
	"cmp"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
	"leitstand/core/parallel"
	"leitstand/core/reason"
)

// Landing is where a press of the mapping ended up.
type Landing struct {
	*intent.Entry
	Mechanism registry.Mechanism // nil where no mechanism takes it
	Offer     mechanism.Offer
	// Kept says that the system has the press for itself.
	Kept bool
	// wished is the answer for what the rule asks for first, where something else stands
	// in for it; nil for nothing.
	wished *mechanism.Offer
	*search
}

// search is how a place is found, until all of them go together.
type search struct {
	further []way // not as good as where the press is, the best first
	barred  []barred
	tries   int // how often it was put back
}

// Facts is what the mechanism says of itself where the press landed in it: in the user's own
// place, or in that for all users. It says when the press takes effect.
func (l *Landing) Facts() mechanism.Facts {
	f := l.Place()
	if l.Offer.When != 0 {
		f.When, f.Takes = l.Offer.When, l.Offer.When.Takes()
	}
	return f
}

// Place is what the mechanism says of itself, whatever the press is.
func (l *Landing) Place() mechanism.Facts {
	if g, ok := l.Mechanism.(general); ok && l.Offer.ForAll {
		return g.FactsForAll()
	}
	return l.Mechanism.Facts()
}

// Verdict is how well what the rule asks for lands: never better for what stands in for it.
func (l *Landing) Verdict() mechanism.Verdict {
	if l.Wish != nil {
		return min(l.wished.Verdict, l.Offer.Verdict)
	}
	return l.Offer.Verdict
}

// Why are the reasons why the verdict is not better, none for a plain exact.
func (l *Landing) Why() reason.List {
	if l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent {
		return l.wished.Why
	}
	return l.Offer.Why
}

// asking is a mechanism of a desktop that may ask before it does something.
type asking interface {
	Asks(m *mechanism.Machine, action string) bool
}

// general is a mechanism that has a place for all users beside the user's own.
type general interface {
	FactsForAll() mechanism.Facts
}

// Landed is an intent, and where its presses are.
type Landed struct {
	*intent.Intent
	Landings []Landing // in the order of Entries
}

// StandIn is what is there in place of what the rule asks for: the press of a fallback, or
// what the key does.
func (l *Landing) StandIn() string {
	if l.Binding.Level == behaviour.Hotkey {
		return l.Binding.Press()
	}
	return l.Binding.String()
}

// Written is what the landing's file should say.
func (l *Landing) Written() behaviour.Binding {
	b := l.Binding
	if l.Offer.Does != nil {
		b.Effect = *l.Offer.Does
	}
	return b
}

// Resolve works out what a mapping means on a machine, and where its presses land. What a rule asks for
// first may be there by itself and not beside the other rules: then what the rule names instead is
// taken, as if no mechanism had it.
func Resolve(mp *mapping.Mapping, m *machine.Machine) (*Landed, diag.List) {
	for c := (&carrier{granted: map[wish]bool{}, refused: refusals{}}); ; {
		in, diags := intent.Resolve(mp, m, c)
		b := landed(in, c.refused)
		if !c.refuse(b.Landings) {
			return b, diags
		}
	}
}

// ReadBack says whether files carry a press, which can be read back. What the system does by itself is in
// none.
func (l *Landing) ReadBack() bool {
	_, file := l.Mechanism.(registry.Reader)
	return file && !l.ByItself()
}

// ByItself says whether the system does it by itself.
func (l *Landing) ByItself() bool { return l.Mechanism != nil && l.Mechanism.Facts().Itself }

// way is one way in which a press can land.
type way struct {
	entry *intent.Entry
	into  registry.Mechanism
	offer mechanism.Offer
	worth mechanism.Verdict
}

// Of finds a place for each press of an intent: of the ways in which the mechanisms can have it the
// best that goes together with where the others are, the lower stage where two are equal.
func Of(in *intent.Intent) *Landed { return landed(in, nil) }

func landed(in *intent.Intent, refused refusals) *Landed {
	mechanisms := registry.Serving(in.Machine)
	useSpareKeys(in, mechanisms)
	b := &Landed{Intent: in, Landings: make([]Landing, len(in.Entries))}
	searches := make([]search, len(in.Entries))
	parallel.Each(len(in.Entries), func(i int) {
		l := &b.Landings[i]
		*l = Landing{Entry: in.Entries[i], search: &searches[i]}
		l.land(in, mechanisms, refused)
	})
	b.fitTogether()
	b.decideLayoutForAll()
	for i := range b.Landings {
		l := &b.Landings[i]
		if less := l.Lack().Less; len(less) > 0 {
			l.Offer.Verdict, l.Offer.Why = min(l.Offer.Verdict, mechanism.Limited), l.Offer.Why.And(less...)
		}
		if l.Binding.Everyone && l.Mechanism != nil && !l.Facts().Everyone &&
			!(l.at(mechanism.Layout) && in.Machine.LayoutForAll) {
			l.Offer.Verdict = min(l.Offer.Verdict, mechanism.Limited)
			l.Offer.Why = l.Offer.Why.And(reason.OnlyThisUser.Of()...)
		}
	}
	return b
}

// land asks the mechanisms for an entry: for its press, for the place of a key that has no modifiers, and
// for the wish that it stands in for.
func (l *Landing) land(in *intent.Intent, mechanisms []registry.Mechanism, refused refusals) {
	e, lack := l.Entry, l.Lack()
	switch {
	case len(lack.Missing) > 0:
		l.Offer.Why = lack.Missing
	case len(lack.Apart) > 0: // as hard as the same for that board only
		one := e.Binding
		one.Board = lack.Apart[0]
		if ways, not := ask(in, mechanisms, e, one); len(ways) == 0 {
			l.Offer = not
		} else {
			l.Offer.Why = reason.BoardWithoutChord.Of()
		}
	default:
		l.further, l.Offer = ask(in, mechanisms, e, e.Binding)
		if placed := inItsPlace(in, mechanisms, e); placed != nil {
			l.further = append(l.further, placed...)
			slices.SortStableFunc(l.further, func(a, b way) int { return -cmp.Compare(a.worth, b.worth) })
		}
		l.take()
	}
	switch {
	case e.Wish == nil:
	case len(lack.Unspelled) > 0:
		l.wished = &mechanism.Offer{Why: lack.Unspelled}
	case len(refused[wishOf(*e.Wish)]) > 0:
		l.wished = &mechanism.Offer{Why: refused[wishOf(*e.Wish)]}
	default:
		wished := answer(in, mechanisms, e, *e.Wish)
		l.wished = &wished
	}
	if l.Mechanism == nil && e.Wish == nil {
		for _, t := range lack.Tried {
			l.Offer.Why = l.Offer.Why.And(reason.FallbackToo.Of(t.Press(), answer(in, mechanisms, e, t).Why)...)
		}
	}
}

// take lands a press in the best way that is left, if there is one.
func (l *Landing) take() {
	if len(l.further) > 0 {
		w := l.further[0]
		l.Entry, l.Mechanism, l.Offer, l.further = w.entry, w.into, w.offer, l.further[1:]
	}
}

// answer is the best offer for a press, or why there is none.
func answer(in *intent.Intent, mechanisms []registry.Mechanism, e *intent.Entry, b behaviour.Binding) mechanism.Offer {
	ways, not := ask(in, mechanisms, e, b)
	if len(ways) > 0 {
		return ways[0].offer
	}
	return not
}

// ask asks the mechanisms for a press that the mapping means.
func ask(
	in *intent.Intent, mechanisms []registry.Mechanism, e *intent.Entry, b behaviour.Binding,
) ([]way, mechanism.Offer) {
	switch {
	case !b.Chord.Mods.Has(keys.Hyper) || in.HasHyper:
		ways, not := offers(mechanisms, in.Machine, b)
		if len(ways) == 0 {
			switch why := stockReasons(in.Machine, b); {
			case in.Machine.Hyper == machine.GlobeHyper && b.Chord.Mods.Has(in.HyperMods):
				not = mechanism.Offer{
					Verdict: mechanism.NeedsAgent,
					Why: reason.OnlyProcess.Of("see Globe, which is Hyper here").
						And(reason.MacGlobeHyper.Of()...),
				}
			case why.Has(reason.DoneSince):
				not.Why = why
			default:
				not.Why = why.And(not.Why...)
			}
		}
		assumed := len(in.Machine.Assumed) > 0 && b.Level == behaviour.Hotkey && b.Chord.Key != keys.None &&
			b.Chord.Key.Section() == keys.Writing
		for i := range ways {
			w := &ways[i]
			w.entry = e
			if assumed {
				w.offer.Verdict = min(w.offer.Verdict, mechanism.Limited)
				w.offer.Why = w.offer.Why.And(reason.LayoutAssumed.Of(in.Machine.Assumed[0])...)
			}
		}
		return ways, not
	case !in.WantsHyper:
		return nil, mechanism.Offer{Why: reason.NoHyperKey.Of()}
	case personal(in.Machine.Machine):
		return nil, mechanism.Offer{Why: reason.NoHyper.Of(in.Machine.System.Title())}
	}
	return nil, mechanism.Offer{Verdict: mechanism.NeedsAgent, Why: reason.OnlyProcess.Of("make a key Hyper here")}
}

// offers are the ways in which mechanisms can have a press, the best first, and why there are no
// better ones.
func offers(list []registry.Mechanism, m *intent.Machine, b behaviour.Binding) (ways []way, not mechanism.Offer) {
	switch {
	case b.Board == "" || b.Level != behaviour.Setting:
	case m.Desktop == "sway" && m.Session == "wayland":
		return nil, mechanism.Offer{Why: reason.SwayBoards.Of()}
	default:
		return nil, mechanism.Offer{Why: reason.AllBoardsAlike.Of()}
	}
	for _, t := range list {
		if b.Level == behaviour.Typing && b.Board != "" {
			break // what makes a text of an abbreviation does not see boards
		}
		o := t.Take(m, b)
		if asks, ok := t.(asking); b.Confirm && o.Verdict > mechanism.NeedsAgent &&
			!(ok && asks.Asks(m, b.Effect.Action)) {
			o = mechanism.Offer{Why: reason.NoQuestionAsked.Of(t.Facts().Name)}
		}
		switch {
		case o.Verdict > mechanism.NeedsAgent:
			for one := &o; one != nil; one = one.Else {
				ways = append(ways, way{into: t, offer: *one, worth: worth(t, *one, b)})
			}
		case o.Verdict > not.Verdict:
			not = o
		case not.Verdict == mechanism.Unavailable:
			not.Why = not.Why.And(o.Why...) // each has a reason of its own
		}
	}
	if len(ways) > 1 {
		slices.SortStableFunc(ways, func(a, b way) int { return -cmp.Compare(a.worth, b.worth) })
	}
	if len(ways) > 0 {
		return ways, not
	}
	if why := keptBySystem(m, b); why != nil {
		not.Why = why.And(not.Why...)
	} else if beyond := beyondFiles(m.Machine, b); len(not.Why) == 0 {
		not = beyond
	} else if !slices.ContainsFunc(not.Why, func(r reason.Reason) bool { return r.Kind != reason.System }) {
		// What only a running process can do is said to be that, whatever each of the mechanisms lacks.
		not.Verdict = max(not.Verdict, beyond.Verdict)
	}
	return nil, not
}

// worth is a verdict as it counts beside others: what is for one user only is no better than what is
// nearly for all.
func worth(t registry.Mechanism, o mechanism.Offer, b behaviour.Binding) mechanism.Verdict {
	if b.Everyone && o.Verdict == mechanism.Exact && !o.ForAll && !t.Facts().Everyone {
		return mechanism.Limited
	}
	return o.Verdict
}

// inItsPlace are the ways of a key without modifiers as a place on the board.
func inItsPlace(in *intent.Intent, mechanisms []registry.Mechanism, e *intent.Entry) []way {
	if !aloneInItsPlace(in, e.Binding) {
		return nil
	}
	at := *e
	at.Binding.Level = behaviour.Position
	k := keyOfAction(in, e)
	if k != keys.None {
		at.Binding.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: k}
	}
	ways, _ := offers(mechanisms, in.Machine, at.Binding)
	for i := range ways {
		w := &ways[i]
		w.entry = &at
		if k != keys.None {
			w.offer.Verdict = min(w.offer.Verdict, mechanism.Limited)
			w.worth = min(w.worth, mechanism.Limited)
			w.offer.Why = w.offer.Why.And(reason.KeyActsForIt.Of(e.Binding.Chord.Key, k)...)
		}
	}
	return ways
}

// aloneInItsPlace says whether a chord is one key that is to give or do something, and
// whose place no rule gives another meaning.
func aloneInItsPlace(in *intent.Intent, b behaviour.Binding) bool {
	c := b.Chord
	gives := b.Effect.Kind == behaviour.Acts || b.Effect.Kind == behaviour.Sends ||
		b.Effect.Kind == behaviour.Becomes ||
		b.Effect.Kind == behaviour.Types && in.Machine.System != machine.Linux // by a layout of our own
	return gives && b.Level == behaviour.Hotkey && c.Mods == 0 && len(b.Then) == 0 && len(b.Apps) == 0 &&
		!slices.ContainsFunc(in.Entries, func(e *intent.Entry) bool {
			o := &e.Binding
			return o.Level == behaviour.Position && (o.Chord.Key == c.Key || o.Effect.Key == c.Key)
		})
}

// keyOfAction is a key by which the system does an action, so that another key does it that acts
// as that one; None for none, and for a key of which other rules need a chord.
func keyOfAction(in *intent.Intent, e *intent.Entry) keys.Key {
	needed := slices.ContainsFunc(in.Entries, func(o *intent.Entry) bool {
		return o.Binding.Level == behaviour.Hotkey && o.Binding.Chord.Key == e.Binding.Chord.Key &&
			o.Binding.Chord.Mods != 0
	})
	if in.Machine.System != machine.Linux && e.Binding.Effect.Kind == behaviour.Acts && !needed {
		for _, u := range desktop.Stock(in.Machine) {
			if u.Name == e.Binding.Effect.Action && u.Chord.Mods == 0 && u.Chord.Key.Section() == keys.Media {
				return u.Chord.Key
			}
		}
	}
	return keys.None
}

// personal says whether a machine's system lets no program see the keyboard.
func personal(m *machine.Machine) bool {
	return m.System == machine.IPadOS || m.System == machine.ChromeOS
}
