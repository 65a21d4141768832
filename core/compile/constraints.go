package compile

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/reason"
	"leitstand/core/target"
)

// fitTogether sees to it that what lands in different places goes together.
func (b *Build) fitTogether(mechanisms []Target) {
	b.dropKeysOfUnheldLayers()
	b.changeKeysOnce(mechanisms)
	b.dropKeysOfUnheldLayers() // of keys that the layout has got from a driver
	b.dropWhatCatchesBoards()
	b.dropChordsOfMovedKeys()
	b.dropChordsWithoutHyper()
	b.dropWhatSystemKeeps()
	b.dropWordsWithoutCompose()
	b.dropWordsThatBeginAlike()
	b.dropFurtherChords()
	b.decideLayoutForAll()
}

// dropFurtherChords drops further chords of an action where the desktop has one only.
func (b *Build) dropFurtherChords() {
	type at struct {
		target Target
		action string
	}
	has := map[at]*Landing{}
	for i := range b.Landings {
		l := &b.Landings[i]
		one, ok := l.Target.(interface{ Single(action string) bool })
		if !ok || l.Binding.Effect.Kind != behaviour.Acts || !one.Single(l.Binding.Effect.Action) {
			continue
		}
		id := at{l.Target, l.Binding.Effect.Action}
		if first := has[id]; first != nil {
			l.drop(reason.OneChordTaken.Of(l.Binding.Effect.Action, first.Binding.Press()))
			continue
		}
		has[id] = l
	}
}

// decideLayoutForAll finds out whether the layout is for every user of the machine.
func (b *Build) decideLayoutForAll() {
	some := false
	for i := range b.Landings {
		if l := &b.Landings[i]; l.at(target.Layout) {
			if some = true; !l.Binding.Everyone {
				return
			}
		}
	}
	b.Machine.LayoutForAll = some && b.Machine.Admin
}

// dropChordsWithoutHyper drops chords with Hyper where no key is Hyper after all, as they are set off
// and as they are given: the modifier is there where a key holds it.
func (b *Build) dropChordsWithoutHyper() {
	held := map[string]bool{} // by board
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Target != nil && l.Binding.Effect.Kind == behaviour.Modifier && l.Binding.Effect.Mods.Has(keys.Hyper) {
			held[l.Binding.Board] = true
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Target == nil || held[""] || held[l.Binding.Board] || l.Binding.Level == behaviour.Hotkey && len(held) > 0 && l.Binding.Effect.Kind != behaviour.Sends && !l.at(target.Layout) {
			continue
		}
		if (l.Binding.Chord.Mods | l.Written().Effect.Chord.Mods).Has(keys.Hyper) {
			l.drop(reason.NoHyperKey.Of())
		}
	}
}

// dropWhatSystemKeeps drops chords that the system acts on before what they landed in can.
func (b *Build) dropWhatSystemKeeps() {
	var uses desktop.Table
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Target == nil || l.Binding.Level != behaviour.Hotkey || l.Binding.Chord.Key == keys.None || isStock(l.Target) || l.at(target.Layout) || l.at(target.Kernel) {
			continue
		}
		if uses == nil {
			uses = desktop.NewTable(b.Machine)
		}
		if u, ok := uses.Of(l.Binding.Chord); ok && u.Fixed {
			l.drop(reason.SystemKeeps.Of(b.Machine.System.Title(), l.Binding.Chord, u.Words))
			l.Kept = true
		}
	}
}

// isStock says whether a mechanism is the system itself.
func isStock(t Target) bool { return t != nil && t.Facts().Itself }

// dropWordsWithoutCompose drops abbreviations behind a Compose key where no key is one after all.
func (b *Build) dropWordsWithoutCompose() {
	if slices.ContainsFunc(b.Machine.Options, func(name string) bool { return strings.HasPrefix(name, "compose:") }) ||
		slices.ContainsFunc(b.Landings, func(l Landing) bool { return l.Target != nil && l.Binding.Effect.Kind == behaviour.Composes }) {
		return
	}
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Target != nil && l.Binding.Level == behaviour.Typing {
			l.drop(reason.NoComposeKey.Of())
		}
	}
}

// dropWordsThatBeginAlike drops abbreviations that begin with another one, where they are
// sequences of keys: the shorter one is done before the longer one is.
func (b *Build) dropWordsThatBeginAlike() {
	words := map[string]bool{}
	for i := range b.Landings {
		if l := &b.Landings[i]; l.Target != nil && l.Binding.Level == behaviour.Typing {
			words[l.Binding.Word] = true
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Target == nil || l.Binding.Level != behaviour.Typing {
			continue
		}
		for n := range l.Binding.Word {
			if w := l.Binding.Word[:n]; words[w] {
				l.drop(reason.WordBegins.Of(l.Binding.Word, w))
				break
			}
		}
	}
}

// at says whether something landed at a stage.
func (l *Landing) at(stage target.Stage) bool {
	return l.Target != nil && l.Target.Facts().Stage == stage
}

// drop has nothing do the press after all.
func (l *Landing) drop(why reason.List) {
	l.Target, l.Answer = nil, target.Answer{Why: why}
}

// dropKeysOfUnheldLayers drops the keys of a layer that nothing switches on, and those that are
// modifiers outside of it.
func (b *Build) dropKeysOfUnheldLayers() {
	modifiers, switched := map[keys.Key]bool{}, map[string]bool{}
	for i := range b.Landings {
		l := &b.Landings[i]
		e := l.Binding.Effect
		if l.Target != nil && e.Kind == behaviour.Layers {
			switched[e.Layer] = true
		}
		if l.at(target.Layout) && l.Binding.Layer == "" && (e.Kind == behaviour.Modifier || e.Key != keys.None && b.Machine.IsModifier(e.Key)) {
			modifiers[l.Binding.Chord.Key] = true
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		switch {
		case l.Target == nil || l.Binding.Layer == "":
		case !switched[l.Binding.Layer]:
			l.drop(reason.LayerNeverOn.Of(l.Binding.Layer))
		case l.at(target.Layout) && modifiers[l.Binding.Chord.Key]:
			l.drop(reason.ModifierInLayers.Of())
		}
	}
}

// changeKeysOnce sees to it that a key is changed once only: what a driver makes of a key goes
// through the layout as the key that it has become. Where the layout gives that key
// another meaning, the driver must not take the press, and the next mechanism is asked.
func (b *Build) changeKeysOnce(mechanisms []Target) {
	above := slices.DeleteFunc(slices.Clone(mechanisms), func(t Target) bool { return t.Facts().Stage == target.Kernel })
	for again := true; again; {
		again = false
		layout, inLayer, ofBoard := map[keys.Key]string{}, map[keys.Key]bool{}, map[keys.Key]string{}
		for i := range b.Landings {
			if l := &b.Landings[i]; l.at(target.Layout) && l.Binding.Level == behaviour.Position {
				layout[l.Binding.Chord.Key] = l.Binding.Effect.String()
				inLayer[l.Binding.Chord.Key] = inLayer[l.Binding.Chord.Key] || l.Binding.Layer != ""
				if l.Binding.Board != "" {
					ofBoard[l.Binding.Chord.Key] = l.Binding.Board
				}
			}
		}
		for i := range b.Landings {
			l := &b.Landings[i]
			meaning, moved := layout[l.Binding.Effect.Key]
			key := l.Binding.Effect.Key
			if inLayer[l.Binding.Chord.Key] { // the layout must see the key itself
				meaning, moved, key = "has a meaning in a layer", true, l.Binding.Chord.Key
			}
			if board := ofBoard[l.Binding.Chord.Key]; board != "" && l.Binding.Board == "" { // which must see the key itself
				meaning, moved, key = "has a meaning of its own on "+board, true, l.Binding.Chord.Key
			}
			if !l.at(target.Kernel) || l.Binding.Effect.Kind != behaviour.Becomes && l.Binding.Effect.Kind != behaviour.Nothing || !moved {
				continue
			}
			l.Target, l.Answer = best(above, b.Machine, l.Binding)
			if l.Target == nil {
				l.Answer.Why = reason.ChangedAgain.Of(key, meaning)
			}
			again = true
		}
	}
}

// dropWhatCatchesBoards drops what a driver does for any external board where one of those has a meaning of
// its own for the key, and cannot have it: it would have the other meaning.
func (b *Build) dropWhatCatchesBoards() {
	external := func(name string) (any, one bool) {
		i := slices.IndexFunc(b.Machine.Boards, func(o *machine.Board) bool { return o.Name == name })
		if i < 0 {
			return false, false
		}
		any = slices.Contains(b.Machine.Boards[i].IDs, machine.BoardID{Bus: machine.AnyExternal})
		return any, !any && b.Machine.Boards[i].External()
	}
	lost := map[keys.Key]string{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if _, one := external(l.Binding.Board); one && l.Target == nil && l.Binding.Level == behaviour.Position && l.Binding.Layer == "" {
			lost[l.Binding.Chord.Key] = l.Binding.Board
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if any, _ := external(l.Binding.Board); any && l.at(target.Kernel) && lost[l.Binding.Chord.Key] != "" {
			l.drop(reason.CaughtByOther.Of(lost[l.Binding.Chord.Key]))
		}
	}
}

// dropChordsOfMovedKeys drops what a layout cannot have the X server press in place of a
// press: the keys of a chord must be what the layouts make them, and so must the other
// key.
func (b *Build) dropChordsOfMovedKeys() {
	// The layer in which the layout gives a key a meaning, "" where it does outside; and
	// the keys that others become.
	meanings, become := map[keys.Key]string{}, map[keys.Key]bool{}
	for i := range b.Landings {
		l := &b.Landings[i]
		if !l.at(target.Layout) || l.Binding.Level != behaviour.Position {
			continue
		}
		k := l.Binding.Chord.Key
		if _, have := meanings[k]; !have || l.Binding.Layer == "" {
			meanings[k] = l.Binding.Layer
		}
		become[l.Binding.Effect.Key] = l.Binding.Effect.Key != keys.None
	}
	free := func(list ...keys.Key) bool {
		return !slices.ContainsFunc(list, func(k keys.Key) bool { _, meant := meanings[k]; return meant || become[k] })
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if !l.at(target.Layout) {
			continue
		}
		k, e := l.Binding.Chord.Key, l.Written().Effect
		switch {
		case l.Binding.Level == behaviour.Hotkey && !free(k, e.Key, e.Chord.Key):
			l.drop(reason.KeysNotFree.Of())
		case l.Binding.Layer == "" && e.Kind != behaviour.Sends:
		case e.Kind == behaviour.Becomes && l.Answer.Verdict == target.Exact:
			if _, meant := meanings[e.Key]; meant {
				l.Answer = target.Answer{Verdict: target.Near, Why: reason.KeycodesDiffer.Of()}
			}
		case e.Kind == behaviour.Sends:
			to := e.Chord.Key
			layer, meant := meanings[to]
			if meant && (to != k || layer == "" || l.Binding.Layer == "") {
				l.drop(moved(to, layer))
			}
		}
	}
}

// moved is why a key makes no chord: the layout has another meaning for it, in a layer ("" for
// outside of all).
func moved(k keys.Key, layer string) reason.List {
	if layer == "" {
		return reason.KeyOfChordMoved.Of(k)
	}
	return reason.KeyOfChordMovedInLayer.Of(k, layer)
}
