package proof

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mechanism"
)

// meantLayout is a layout of the system's with what landed in a layout of ours on top.
type meantLayout struct {
	*keys.Layout
	m    *intent.Machine
	on   map[behaviour.Place]land.Landing // positions and chords, by place
	caps bool                             // CapsLock is a layer
}

// Type presses a key as the mapping means it.
func (t meantLayout) Type(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	at := keys.Chord{Key: k}
	waits := s.Waits
	if s.Waits = ""; waits != "" {
		layer := waits
		if l, ok := t.on[behaviour.Place{Layer: layer, Chord: at}]; ok && !held.Has(keys.Alt) {
			return t.does(l, s, held)
		}
	}
	layer := ""
	if of, ok := t.m.LayerOf(intent.OptionState); ok && held.Has(keys.Alt) {
		layer = of.Layer
	} else if of, ok := t.m.LayerOf(intent.CapsState); ok && held == 0 && s.CapsLock {
		layer = of.Layer
	}
	if l, ok := t.on[behaviour.Place{Layer: layer, Chord: at}]; ok && layer != "" {
		return t.does(l, s, held&^keys.Alt)
	}
	if l, ok := t.on[behaviour.Place{Level: behaviour.Hotkey, Chord: keys.Chord{Key: k, Mods: held}}]; ok {
		return t.does(l, s, 0)
	}
	if l, ok := t.on[behaviour.Place{Chord: at}]; ok && !held.Has(keys.Alt) {
		return t.does(l, s, held)
	}
	text, next := t.bare(s, k, held)
	if text == "" && next.Accents == "" { // a key that types nothing ends nothing
		next.Waits = waits
	}
	return text, next
}

// bare is what the system's own layout types. Where CapsLock is a layer, there are no capitals by it.
func (t meantLayout) bare(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	caps := s.CapsLock
	s.CapsLock = caps && !(t.caps && held == 0)
	text, next := t.Layout.Type(s, k, held)
	next.CapsLock = caps
	return text, next
}

// does is what a landing has a key type.
func (t meantLayout) does(l land.Landing, s keys.TypeState, held keys.Mods) (string, keys.TypeState) {
	switch e := l.Written().Effect; e.Kind {
	case behaviour.Becomes:
		return t.bare(s, e.Key, held)
	case behaviour.Layers:
		text, next := t.Finish(s, "")
		next.Waits = e.Layer
		return text, next
	default:
		return t.Finish(s, e.Text)
	}
}

// typing compares what the keys of a layout of our own type, in every state of Shift, Option and CapsLock and
// behind every dead key, with the system's layout and the mapping on top.
func (p *prover) typing(base *keys.Layout, got keys.Typist, group int) {
	want := meantLayout{Layout: base, m: p.build.Machine, on: map[behaviour.Place]land.Landing{}}
	for _, l := range p.build.Landings {
		if l.ReadBack() && l.Facts().Stage == mechanism.Layout {
			want.on[l.Binding.Place()] = l
			want.caps = want.caps || l.Binding.Effect.Kind == behaviour.Layers && l.Binding.Effect.How == "toggle"
		}
	}
	type pair struct {
		want, got keys.TypeState
		after     string
	}
	pairs, seen := []pair{{}}, map[pair]bool{}
	for len(pairs) > 0 {
		now := pairs[0]
		pairs = pairs[1:]
		for _, k := range typingKeys() {
			for _, held := range []keys.Mods{0, keys.Shift, keys.Alt, keys.Alt | keys.Shift} {
				for _, caps := range []bool{false, true} {
					w, g := now.want, now.got
					w.CapsLock, g.CapsLock = caps, caps
					meant, w := want.Type(w, k, held)
					typed, g := got.Type(g, k, held)
					p.Presses++
					press := now.after + keys.Chord{Mods: held, Key: k}.String()
					if caps {
						press += " with CapsLock on"
					}
					if waits := w.Accents + w.Waits; meant != typed || (waits == "") != (g.Waits == "") {
						p.typingDefect(want, k, held, press, group, meant+waits, typed+g.Waits)
						continue
					}
					w.CapsLock, g.CapsLock = false, false
					if next := (pair{w, g, ""}); !seen[next] && g.Waits != "" {
						seen[next] = true
						next.after = press + ", "
						pairs = append(pairs, next)
					}
				}
			}
		}
	}
}

// typingKeys are the keys that a layout is compared by.
func typingKeys() []keys.Key {
	return slices.DeleteFunc(keys.All(), func(k keys.Key) bool {
		_, has := k.Mac()
		return !has || k.Section() != keys.Writing && k.String() != "Space"
	})
}

// typingDefect notes that a key types something else; the shortest press of each key is told.
func (p *prover) typingDefect(want meantLayout, k keys.Key, held keys.Mods, press string, group int, meant, typed string) {
	if n := p.build.Machine.Layouts; len(n) > 1 {
		press += " in layout " + n[group].Name
	}
	if slices.ContainsFunc(p.Defects, func(d Defect) bool { return strings.Contains(d.Press, k.String()) }) {
		return
	}
	d := Defect{Press: press, Want: fmt.Sprintf("types %q", meant), Got: fmt.Sprintf("types %q", typed)}
	for at, l := range want.on {
		if at.Chord.Key == k {
			d.Rule, d.Range = l.Rule, l.Range
		}
	}
	p.Defects = append(p.Defects, d)
}
