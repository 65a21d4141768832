package proof

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// meantLayout is a layout of the system's with what landed in a layout of ours on top.
type meantLayout struct {
	*keys.Layout
	m     *intent.Machine
	on    map[keys.Key][]placed // positions and chords, by key
	words []placed              // abbreviations
	caps  bool                  // CapsLock is a layer
	// third leads to the third character: Option on a Mac, AltGr on Windows.
	third keys.Mods
}

// placed is a landing with its place.
type placed struct {
	behaviour.Place
	*land.Landing
}

// at is what landed at a place of a key.
func (t meantLayout) at(place behaviour.Place) (*land.Landing, bool) {
	for _, l := range t.on[place.Chord.Key] {
		if l.Place == place {
			return l.Landing, true
		}
	}
	return nil, false
}

// Type presses a key as the mapping means it.
func (t meantLayout) Type(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	if len(t.on[k]) == 0 && s.Waits == "" {
		return t.bare(s, k, held)
	}
	at := keys.Chord{Key: k}
	if l, ok := t.at(behaviour.Place{Chord: at}); ok && (l.Binding.Effect.Kind == behaviour.Modifier ||
		l.Binding.Effect.Kind == behaviour.Layers && l.Binding.Effect.How == behaviour.While) {
		return "", s // with whatever else is held
	}
	before, waits := s, s.Waits
	if s.Waits = ""; strings.HasPrefix(waits, composing) {
		return t.compose(before, s, strings.TrimPrefix(waits, composing), k, held)
	} else if waits != "" {
		layer := waits
		if l, ok := t.at(behaviour.Place{Layer: layer, Chord: at}); ok && !held.Has(t.third) && !t.inHeldLayer(s, at) {
			return t.does(l, before, s, held)
		}
	}
	layer := ""
	if of, ok := t.m.LayerOf(intent.OptionState); ok && held.Has(keys.Alt) {
		layer = of.Layer
	} else if of, ok := t.m.LayerOf(intent.BitState); ok && s.Layer {
		layer = of.Layer
	} else if of, ok := t.m.LayerOf(intent.CapsState); ok && held == 0 && s.CapsLock {
		layer = of.Layer
	}
	if l, ok := t.at(behaviour.Place{Layer: layer, Chord: at}); ok && layer != "" {
		return t.does(l, before, s, held&^keys.Alt)
	}
	for _, mods := range []keys.Mods{held, held&^keys.Alt | keys.AltGr} { // a Mac has the two alike
		if l, ok := t.at(behaviour.Place{Level: behaviour.Hotkey, Chord: keys.Chord{Key: k, Mods: mods}}); ok &&
			!s.Layer &&
			(mods == held || held.Has(keys.Alt)) {
			return t.does(l, before, s, 0)
		}
	}
	if l, ok := t.at(behaviour.Place{Chord: at}); ok && !held.Has(t.third) && !s.Layer {
		return t.does(l, before, s, held)
	}
	text, next := t.bare(s, k, held)
	if text == "" && next.Accents == "" { // a key that types nothing ends nothing
		next.Waits = waits
	}
	return text, next
}

// composing is the state behind a Compose key, before what has been typed since; no layer has such a name.
const composing = "compose: "

// compose types a key behind the Compose key and what has been typed since: an abbreviation gives its text, what
// begins one waits, and all else types its own.
func (t meantLayout) compose(
	before, s keys.TypeState, typed string, k keys.Key, held keys.Mods,
) (string, keys.TypeState) {
	own, next := t.Type(s, k, held)
	if own == "" && next.Waits+next.Accents == "" {
		accent := s
		accent.Accents = "´"
		if _, after := t.Type(accent, k, held); after.Accents == "" { // a key that is off ends what waits, on a Mac
			return "", s
		}
		return "", before
	}
	if len([]rune(own)) != 1 {
		return own, next
	}
	typed += own
	for _, l := range t.words {
		if l.Word == typed {
			return t.Finish(s, l.Written().Effect.Text)
		} else if strings.HasPrefix(l.Word, typed) {
			s.Waits = composing + typed
			return "", s
		}
	}
	return own, next
}

// hasChord says whether a key types something else with Shift or AltGr.
func (t meantLayout) hasChord(k keys.Key) bool {
	return slices.ContainsFunc(t.on[k], func(l placed) bool { return l.Level == behaviour.Hotkey })
}

// inHeldLayer says whether a key has a meaning in the layer whose key is held.
func (t meantLayout) inHeldLayer(s keys.TypeState, at keys.Chord) bool {
	of, _ := t.m.LayerOf(intent.BitState)
	_, ok := t.at(behaviour.Place{Layer: of.Layer, Chord: at})
	return s.Layer && ok
}

// bare is what the system's own layout types. Where CapsLock is a layer, there are no capitals by it.
func (t meantLayout) bare(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	caps := s.CapsLock
	s.Layer = false
	s.CapsLock = caps && !(t.caps && held == 0)
	text, next := t.Layout.Type(s, k, held)
	next.CapsLock = caps
	return text, next
}

// does is what a landing has a key type, in a state, and before what waits was told apart.
func (t meantLayout) does(l *land.Landing, before, s keys.TypeState, held keys.Mods) (string, keys.TypeState) {
	e := l.Written().Effect
	if own := l.Binding.Effect; own.Kind == behaviour.Becomes && e.Kind == behaviour.Types {
		e = own // which types something else under each of the machine's layouts
	}
	switch e.Kind {
	case behaviour.Becomes:
		text, next := t.bare(s, e.Key, held)
		if text == "" && next.Accents == "" && t.m.System == machine.Windows {
			return "", before
		}
		return text, next
	case behaviour.Composes:
		text, next := t.Finish(s, "")
		next.Waits = composing
		return text, next
	case behaviour.Layers:
		text, next := t.Finish(s, "")
		next.Waits = e.Layer
		return text, next
	default:
		if e.Kind == behaviour.Nothing && t.m.System == machine.Windows {
			return "", before // what waits goes on waiting
		}
		return t.Finish(s, e.Text)
	}
}

// typing compares what the keys of a layout of our own type, in every state of Shift, Option and CapsLock and
// behind every dead key, with the system's layout and the mapping on top.
func (p *prover) typing(base *keys.Layout, got keys.Typist, group int) {
	want := meantLayout{Layout: base, m: p.build.Machine, on: map[keys.Key][]placed{}, third: keys.Alt}
	if p.build.Machine.System == machine.Windows {
		want.third = keys.AltGr
	}
	for i := range p.build.Landings {
		l := &p.build.Landings[i]
		if l.ReadBack() && l.Facts().Stage == mechanism.Layout {
			on := placed{l.Binding.Place(), l}
			if on.Level == behaviour.Typing {
				want.words = append(want.words, on)
			}
			want.on[on.Chord.Key] = append(want.on[on.Chord.Key], on)
			want.caps = want.caps || l.Binding.Effect.Kind == behaviour.Layers && l.Binding.Effect.How == behaviour.Toggle
		}
	}
	type pair struct {
		want, got keys.TypeState
		after     string
	}
	pairs, seen := []pair{{}}, map[pair]bool{}
	pressed, states := typingKeys(p.build.Machine), want.states()
	for len(pairs) > 0 {
		now := pairs[0]
		pairs = pairs[1:]
		for _, k := range pressed {
			for _, held := range states {
				for _, caps := range []bool{false, true} {
					w, g := now.want, now.got
					held := held
					if w.Layer = held.Has(keys.Fn); w.Layer { // stands for the layer's own modifier
						held &^= keys.Fn
					}
					layered := w.Layer
					g.Layer = layered
					if w.CapsLock, g.CapsLock = caps, caps; caps &&
						(w.Layer || now.want.Waits != "" && !strings.HasPrefix(now.want.Waits, composing)) &&
						p.build.Machine.System == machine.Windows {
						continue // a layer there has no CapsLock of its own
					}
					if caps && want.hasChord(k) && p.build.Machine.System == machine.Windows {
						continue // CapsLock exchanges what a key types with Shift, or leaves it: that is said
					}
					meant, w := want.Type(w, k, held)
					typed, g := got.Type(g, k, held)
					p.Presses++
					if two := now.want.Waits != "" && w.Accents != "" || now.want.Accents != "" && w.Waits != ""; two &&
						p.build.Machine.System == machine.Windows {
						continue // two dead keys, of which one is a layer's: that they do not go together is said
					}
					press := func() string {
						text := now.after + keys.Chord{Mods: held, Key: k}.String()
						if caps {
							return text + " with CapsLock on"
						} else if layered {
							return text + " with the layer's key"
						}
						return text
					}
					if waits := w.Accents + w.Waits; meant != typed || (waits == "") != (g.Waits == "") {
						p.typingDefect(want, k, held, press(), group, meant+waits, typed+g.Waits)
						continue
					}
					if g.Waits == "" {
						continue
					}
					w.CapsLock, g.CapsLock, w.Layer, g.Layer = false, false, false, false
					if next := (pair{w, g, ""}); !seen[next] {
						seen[next] = true
						next.after = press() + ", "
						pairs = append(pairs, next)
					}
				}
			}
		}
	}
}

// states are the modifiers that are held, of which Fn stands for that of a held layer.
func (t meantLayout) states() []keys.Mods {
	list := []keys.Mods{0, keys.Shift, t.third, t.third | keys.Shift}
	if _, ok := t.m.LayerOf(intent.BitState); ok {
		list = append(list, keys.Fn, keys.Fn|keys.Shift)
	}
	return list
}

// typingKeys are the keys that a layout is compared by.
func typingKeys(m *intent.Machine) []keys.Key {
	return slices.DeleteFunc(keys.All(), func(k keys.Key) bool {
		return k.Section() != keys.Writing && k.String() != "Space" &&
			(k.Section() != keys.Function || k.String() == "Escape" || m.System != machine.Windows)
	})
}

// typingDefect notes that a key types something else; the shortest press of each key is told.
func (p *prover) typingDefect(
	want meantLayout,
	k keys.Key,
	held keys.Mods,
	press string,
	group int,
	meant, typed string,
) {
	if n := p.build.Machine.Layouts; len(n) > 1 {
		press += " in layout " + n[group].Name
	}
	if slices.ContainsFunc(p.Defects, func(d Defect) bool { return strings.Contains(d.Press, k.String()) }) {
		return
	}
	d := Defect{Press: press, Want: fmt.Sprintf("types %q", meant), Got: fmt.Sprintf("types %q", typed)}
	for _, l := range want.on[k] {
		d.Rule, d.Range = l.Rule, l.Range
	}
	p.Defects = append(p.Defects, d)
}
