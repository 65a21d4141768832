package land

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// strike says that a press cannot land as it does, and why.
type strike struct {
	at   int // the landing
	why  reason.List
	by   int  // the landing that stands in the way, -1 for none
	kept bool // the system has the press for itself
}

// barred is a way that a press cannot land in.
type barred struct {
	way
	strike
	other way  // what stood in the way, as it landed then
	free  bool // it was free again, and tried
	final bool // it was tried before
}

// constraints say what does not go together. Each looks at where everything is and strikes what cannot
// stay.
var constraints = []func(*Landed) []strike{
	keysOfUnheldLayers,
	chordsOfOptionLayer,
	chordsAlikeOnMac,
	keysThatTypeAlike,
	keysChangedTwice,
	modifiersChangedBefore,
	caughtBoards,
	chordsOfMovedKeys,
	chordsWithoutHyper,
	chordsOfSystem,
	wordsWithoutCompose,
	wordsOfLostCharacters,
	wordsThatBeginAlike,
	wordsBeyondRoom,
	placesForAll,
	furtherChords,
}

// fitTogether takes the best of the ways of each press that go together: what a constraint strikes goes
// its next way, until nothing is struck. A way that something was in is tried once more when that has
// gone elsewhere itself.
func (b *Landed) fitTogether() {
	for again := true; again; {
		again = false
		for _, find := range constraints {
			struck := find(b)
			others := make([]way, len(struck)) // as they land before any of these is struck
			for i, s := range struck {
				if s.by >= 0 {
					others[i] = b.Landings[s.by].way()
				}
			}
			for i, s := range struck {
				again = true
				b.bar(s, others[i])
			}
		}
		again = again || b.tryAgain() || b.putBack()
	}
}

// putBack puts a press back on a way that it was struck from twice, where what was in the way has gone
// elsewhere after all, and nothing strikes it there.
func (b *Landed) putBack() bool {
	for i := range b.Landings {
		l := &b.Landings[i]
		for n := range l.barred {
			o := &l.barred[n]
			if o.free || !o.final || o.by < 0 || o.other.is(b.Landings[o.by].way()) {
				continue
			}
			was := *l
			l.Entry, l.Mechanism, l.Offer, l.Kept = o.entry, o.into, o.offer, false
			if slices.ContainsFunc(constraints, func(find func(*Landed) []strike) bool { return len(find(b)) > 0 }) {
				*l = was
				continue
			}
			o.free = true
			if was.Mechanism != nil {
				l.further = append([]way{was.way()}, l.further...)
			}
			return true
		}
	}
	return false
}

// bar has a press go its next way; other is how that landed which stands in the way.
func (b *Landed) bar(s strike, other way) {
	l := &b.Landings[s.at]
	if l.Mechanism == nil {
		return // two constraints struck it
	}
	out := barred{way: l.way(), strike: s, other: other}
	if out.by == s.at {
		out.by = -1 // it is in its own way, wherever the others are
	}
	for _, o := range l.barred {
		out.final = out.final || o.free && o.is(out.way)
	}
	l.barred = append(l.barred, out)
	if len(l.further) > 0 {
		l.take()
		return
	}
	l.Mechanism, l.Offer, l.Kept = nil, mechanism.Offer{}, s.kept
	for _, o := range l.barred {
		if !o.free {
			l.Offer.Why = l.Offer.Why.And(o.why...)
		}
	}
}

// is says whether two ways lead to the same place.
func (w way) is(o way) bool { return w.into == o.into && w.entry == o.entry }

// way is how a press landed.
func (l *Landing) way() way { return way{entry: l.Entry, into: l.Mechanism, offer: l.Offer} }

// goneFrom says whether a press has left a way for good.
func (l *Landing) goneFrom(w way) bool {
	return slices.ContainsFunc(l.barred, func(o barred) bool { return !o.free && (o.final || o.by < 0) && o.is(w) })
}

// mostTries is how often a press is put back, so that there is an end whatever the rules.
const mostTries = 8

// tryAgain puts a press back on a way that is free again; once, and again when what was in the way
// has gone for good. One at a time, since a press put back may be in the way of another.
func (b *Landed) tryAgain() bool {
	for i := range b.Landings {
		l := &b.Landings[i]
		for n := range l.barred {
			o := &l.barred[n]
			if o.free || o.by < 0 || o.other.is(b.Landings[o.by].way()) ||
				o.final && !b.Landings[o.by].goneFrom(o.other) {
				continue
			}
			if l.tries++; l.tries > mostTries {
				continue
			}
			o.free = true
			if l.Mechanism != nil {
				l.further = append([]way{l.way()}, l.further...)
			}
			l.Entry, l.Mechanism, l.Offer, l.Kept = o.entry, o.into, o.offer, false
			return true
		}
	}
	return false
}

// furtherChords are further chords of an action that has one only: on a desktop, or where the one that
// it has by itself would move.
func furtherChords(b *Landed) (list []strike) {
	type of struct{ does, apps string }
	has := map[of]int{}
	note := func(i int) (first int, taken bool) {
		l := &b.Landings[i]
		id := of{l.Written().Effect.String(), strings.Join(l.Binding.Apps, "\x00")}
		if first, taken = has[id]; !taken {
			has[id] = i
		}
		return first, taken
	}
	for i := range b.Landings {
		if l := &b.Landings[i]; l.ByItself() && l.Binding.Effect.Kind == behaviour.Acts {
			note(i)
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		one, ok := l.Mechanism.(interface{ Single(action string) bool })
		e := l.Written().Effect
		if !ok ||
			!(e.Kind == behaviour.Acts && one.Single(e.Action) || e.Kind == behaviour.Chooses || e.Kind == behaviour.Other) {
			continue
		}
		if first, taken := note(i); taken {
			what := e.Action
			if what == "" {
				what = e.String()
			}
			why := reason.OneChordTaken.Of(what, b.Landings[first].Binding.Press())
			list = append(list, strike{at: i, why: why, by: first})
		}
	}
	return list
}

// decideLayoutForAll finds out whether the layout is for every user of the machine.
func (b *Landed) decideLayoutForAll() {
	some := false
	for i := range b.Landings {
		if l := &b.Landings[i]; l.at(mechanism.Layout) {
			if some = true; !l.Binding.Everyone {
				return
			}
		}
	}
	b.Machine.LayoutForAll = some && b.Machine.Admin
}

// chordsWithoutHyper are chords with Hyper where no key is Hyper after all, as they are set off
// and as they are given: the modifier is there where a key holds it.
func chordsWithoutHyper(b *Landed) (list []strike) {
	held := map[string]bool{} // by board
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Mechanism != nil && l.Binding.Effect.Kind == behaviour.Modifier &&
			l.Binding.Effect.Mods.Has(keys.Hyper) {
			held[l.Binding.Board] = true
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Mechanism == nil || held[""] || held[l.Binding.Board] ||
			l.Binding.Level == behaviour.Hotkey && len(held) > 0 && l.Binding.Effect.Kind != behaviour.Sends &&
				!l.at(mechanism.Layout) {
			continue
		}
		if (l.Binding.Chord.Mods | l.Written().Effect.Chord.Mods).Has(keys.Hyper) {
			list = append(list, strike{at: i, why: reason.NoHyperKey.Of(), by: -1})
		}
	}
	return list
}

// chordsOfSystem are chords that the system acts on before what they landed in can.
func chordsOfSystem(b *Landed) (list []strike) {
	var uses desktop.Table
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Mechanism == nil || l.Binding.Level != behaviour.Hotkey || l.Binding.Chord.Key == keys.None ||
			l.ByItself() || l.Offer.Frees ||
			l.at(mechanism.Layout) ||
			l.at(mechanism.Kernel) {
			continue
		}
		if uses == nil {
			uses = desktop.NewTable(b.Machine)
		}
		if u, ok := uses.Of(l.Binding.Chord); ok && u.Fixed {
			why := reason.SystemKeeps.Of(b.Machine.System.Title(), l.Binding.Chord, u.Words)
			list = append(list, strike{at: i, why: why, by: -1, kept: true})
		}
	}
	return list
}

// at says whether something landed at a stage.
func (l *Landing) at(stage mechanism.Stage) bool {
	return l.Mechanism != nil && l.Mechanism.Facts().Stage == stage
}

// keysOfUnheldLayers are the keys of a layer that nothing switches on, and those that are
// modifiers outside of it.
func keysOfUnheldLayers(b *Landed) (list []strike) {
	modifiers, switched := map[keys.Key]int{}, map[string]bool{}
	for i := range b.Landings {
		l := &b.Landings[i]
		e := l.Binding.Effect
		if l.Mechanism != nil && e.Kind == behaviour.Layers {
			switched[e.Layer] = true
		}
		if l.at(mechanism.Layout) && l.Binding.Layer == "" &&
			(e.Kind == behaviour.Modifier || e.Key != keys.None && b.Machine.IsModifier(e.Key)) {
			modifiers[l.Binding.Chord.Key] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		switch {
		case l.Mechanism == nil || l.Binding.Layer == "":
		case !switched[l.Binding.Layer]:
			list = append(list, strike{at: i, why: reason.LayerNeverOn.Of(l.Binding.Layer), by: -1})
		case l.at(mechanism.Layout) && modifiers[l.Binding.Chord.Key] > 0:
			list = append(
				list, strike{at: i, why: reason.ModifierInLayers.Of(), by: modifiers[l.Binding.Chord.Key] - 1},
			)
		}
	}
	return list
}

// keysChangedTwice are keys that a driver changes and the layout again: what a driver makes of a key
// goes through the layout as the key that it has become. Where the layout gives that key another
// meaning, the driver must not take the press.
func keysChangedTwice(b *Landed) (list []strike) {
	meanings, inLayer, ofBoard := map[keys.Key]int{}, map[keys.Key]int{}, map[keys.Key]int{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Binding.Level != behaviour.Position || !l.at(mechanism.Layout) && !l.inOptionLayer(b) {
			continue
		}
		k := l.Binding.Chord.Key
		if meanings[k] = i + 1; l.Binding.Layer != "" {
			inLayer[k] = i + 1
		}
		if l.Binding.Board != "" {
			ofBoard[k] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		e := l.Binding.Effect
		if !l.at(mechanism.Kernel) || e.Kind != behaviour.Becomes && e.Kind != behaviour.Nothing {
			continue
		}
		key, by, meaning := e.Key, meanings[e.Key], ""
		if by > 0 {
			meaning = b.Landings[by-1].Binding.Effect.String()
		}
		if at := inLayer[l.Binding.Chord.Key]; at > 0 { // the layout must see the key itself
			key, by, meaning = l.Binding.Chord.Key, at, "has a meaning in a layer"
		}
		if at := ofBoard[l.Binding.Chord.Key]; at > 0 && l.Binding.Board == "" { // which must see the key itself
			key, by, meaning = l.Binding.Chord.Key, at, "has a meaning of its own on "+b.Landings[at-1].Binding.Board
		}
		switch {
		case by > 0 && key == e.Key && b.Machine.System == machine.MacOS && b.Landings[by-1].Binding.Layer != "":
			// The key becomes that one in the layer, too.
		case by > 0 && b.Machine.System == machine.MacOS: // where it has no other place
			list = append(list, strike{at: by - 1, why: reason.ChangedBefore.Of(l.Binding.Chord.Key, e), by: i})
		case by > 0:
			list = append(list, strike{at: i, why: reason.ChangedAgain.Of(key, meaning), by: by - 1})
		}
	}
	return list
}

// caughtBoards are what a driver does for any external board where one of those has a meaning of
// its own for the key, and cannot have it: it would have the other meaning.
func caughtBoards(b *Landed) (list []strike) {
	external := func(name string) (any, one bool) {
		i := slices.IndexFunc(b.Machine.Boards, func(o *machine.Board) bool { return o.Name == name })
		if i < 0 {
			return false, false
		}
		any = slices.Contains(b.Machine.Boards[i].IDs, machine.BoardID{Bus: machine.AnyExternal})
		return any, !any && b.Machine.Boards[i].External()
	}
	lost := map[keys.Key]int{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if _, one := external(l.Binding.Board); one && l.Mechanism == nil && l.Binding.Level == behaviour.Position &&
			l.Binding.Layer == "" {
			lost[l.Binding.Chord.Key] = i + 1
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		by := lost[l.Binding.Chord.Key]
		if any, _ := external(l.Binding.Board); any && l.at(mechanism.Kernel) && by > 0 {
			why := reason.CaughtByOther.Of(b.Landings[by-1].Binding.Board)
			list = append(list, strike{at: i, why: why, by: by - 1})
		}
	}
	return list
}

// chordsOfMovedKeys are what a layout cannot have the X server press in place of a
// press: the keys of a chord must be what the layouts make them, and so must the other
// key.
func chordsOfMovedKeys(b *Landed) (list []strike) {
	if b.Machine.System != machine.Linux { // whose layouts have each state of a key apart
		return nil
	}
	// The landing that gives a key a meaning in the layout, outside of layers where there is one;
	// and that in which another key becomes it.
	meanings, become := map[keys.Key]int{}, map[keys.Key]int{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if !l.at(mechanism.Layout) || l.Binding.Level != behaviour.Position {
			continue
		}
		if k := l.Binding.Chord.Key; meanings[k] == 0 || l.Binding.Layer == "" {
			meanings[k] = i + 1
		}
		if to := l.Binding.Effect.Key; to != keys.None {
			become[to] = i + 1
		}
	}
	in := func(list ...keys.Key) int {
		for _, k := range list {
			if by := max(meanings[k], become[k]); by > 0 {
				return by
			}
		}
		return 0
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if !l.at(mechanism.Layout) {
			continue
		}
		k, e := l.Binding.Chord.Key, l.Written().Effect
		switch by := in(k, e.Key, e.Chord.Key); {
		case l.Binding.Level == behaviour.Hotkey && by > 0:
			list = append(list, strike{at: i, why: reason.KeysNotFree.Of(), by: by - 1})
		case l.Binding.Layer == "" && e.Kind != behaviour.Sends:
		case e.Kind == behaviour.Becomes && l.Offer.Else != nil && meanings[e.Key] > 0:
			list = append(list, strike{at: i, why: reason.KeysNotFree.Of(), by: meanings[e.Key] - 1})
		case e.Kind == behaviour.Sends && meanings[e.Chord.Key] > 0:
			by := meanings[e.Chord.Key]
			layer := b.Landings[by-1].Binding.Layer
			if e.Chord.Key != k || layer == "" || l.Binding.Layer == "" {
				list = append(list, strike{at: i, why: moved(e.Chord.Key, layer), by: by - 1})
			}
		}
	}
	return list
}

// moved is why a key makes no chord: the layout has another meaning for it, in a layer ("" for
// outside of all).
func moved(k keys.Key, layer string) reason.List {
	if layer == "" {
		return reason.KeyOfChordMoved.Of(k)
	}
	return reason.KeyOfChordMovedInLayer.Of(k, layer)
}
