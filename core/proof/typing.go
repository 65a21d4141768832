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
	latin *keys.Layout // whose characters chords have on a Mac
	m     *intent.Machine
	on    map[keys.Key][]placed // positions and chords, by key
	words []placed              // abbreviations
	caps  bool                  // CapsLock is a layer
	hyper bool                  // a key is Ctrl and Alt together, so the right Alt is not
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

// Press presses a key as the mapping means it.
func (t meantLayout) Press(s keys.TypeState, k keys.Key, held keys.Mods) (keys.Stroke, keys.TypeState) {
	if held&(keys.Ctrl|keys.Meta) != 0 || held.Has(keys.Alt) && t.third != keys.Alt { // of which a layout has no rules
		own, next := t.latin.Press(s, k, held)
		stroke := keys.Stroke{VK: t.seenAs(k, own.VK)}
		_, sent := keys.SentTogether(k, held)
		if as := t.isIn(k); as == k || sent {
			stroke.Text = own.Text
		} else if _, together := keys.SentTogether(as, held); as != keys.None && !together {
			other, _ := t.latin.Press(s, as, held)
			stroke.Text = other.Text
		}
		return stroke, next
	}
	own, _ := t.Layout.Press(s, k, held)
	text, next := t.Type(s, k, held)
	return keys.Stroke{Text: text, VK: t.seenAs(k, own.VK)}, next
}

// isIn is the key that a layout has in the place of one, whatever is held; None for one that types nothing.
func (t meantLayout) isIn(k keys.Key) keys.Key {
	l, ok := t.at(behaviour.Place{Chord: keys.Chord{Key: k}})
	if !ok || t.m.System != machine.Windows {
		return k
	}
	switch e := l.Binding.Effect; {
	case e.Kind == behaviour.Becomes && !isWriting(k):
		return e.Key
	case e.Kind == behaviour.Modifier, e.Kind == behaviour.Nothing && !isWriting(k),
		e.Kind == behaviour.Layers && e.How == behaviour.While:
		return keys.None
	}
	return k
}

// anyKey stands for a virtual key that the bindings' comparison has looked at.
const anyKey = 0xFFFE

// seenAs is the virtual key that programs see of a key, by itself the one given. A function key that types is none that
// they know, so that they do not act on it as well.
func (t meantLayout) seenAs(k keys.Key, own uint16) uint16 {
	if l, ok := t.at(behaviour.Place{Chord: keys.Chord{Key: k}}); ok {
		switch e := l.Binding.Effect; {
		case e.Kind == behaviour.Types && k.Section() == keys.Function:
			return keys.Unassigned
		case e.Kind == behaviour.Modifier, e.Kind == behaviour.Becomes, e.Kind == behaviour.Nothing && !isWriting(k),
			e.Kind == behaviour.Layers && e.How == behaviour.While:
			return anyKey
		}
	}
	if k.String() == "AltRight" && t.hyper {
		return anyKey
	}
	return own
}

// isWriting says whether a key is one of those that a layout gives characters by the modifiers.
func isWriting(k keys.Key) bool { return k.Section() == keys.Writing || k.String() == "Space" }

// Type is what a key types as the mapping means it.
func (t meantLayout) Type(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	if len(t.on[k]) == 0 && s.Waits == "" {
		return t.bare(s, k, held)
	}
	at := keys.Chord{Key: k}
	if l, ok := t.at(behaviour.Place{Chord: at}); ok {
		if e := l.Binding.Effect; e.Kind == behaviour.Modifier || e.Kind == behaviour.Layers && e.How != behaviour.Once {
			return "", s // with whatever else is held
		}
	}
	before, waits := s, s.Waits
	if s.Waits = ""; strings.HasPrefix(waits, composing) {
		return t.compose(before, s, strings.TrimPrefix(waits, composing), k, held)
	} else if waits != "" {
		layer := waits
		if l, mods, ok := t.onKeypad(layer, s, k, held); ok {
			return t.does(l, before, s, mods)
		}
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

// onKeypad is what a layer for one press has for a key of the numeric keypad: on Windows, where such a layer goes by
// characters, what it has for a key with the same one.
func (t meantLayout) onKeypad(
	layer string, s keys.TypeState, k keys.Key, held keys.Mods,
) (*land.Landing, keys.Mods, bool) {
	if t.m.System != machine.Windows || k.Section() != keys.Numpad {
		return nil, 0, false
	}
	typed, _ := t.Layout.Press(s, k, held)
	for _, mods := range []keys.Mods{0, keys.Shift} {
		for _, other := range keys.All() {
			own, _ := t.Layout.Press(keys.TypeState{}, other, mods)
			l, ok := t.at(behaviour.Place{Layer: layer, Chord: keys.Chord{Key: other}})
			if ok && typed.Text != "" && own.Text == typed.Text {
				return l, mods, true
			}
		}
	}
	return nil, 0, false
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
	stroke, next := t.Layout.Press(s, k, held)
	next.CapsLock = caps
	return stroke.Text, next
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

// typing compares what programs get of the keys of a layout of our own with the system's layout and the mapping on top:
// every key in every state of the modifiers and locks, and every key again behind every dead key.
func (p *prover) typing(base *keys.Layout, got keys.Board, group int) {
	want := p.meant(base)
	walk := &walk{
		prover: p, want: want, got: got, group: group, windows: p.build.Machine.System == machine.Windows,
		told: map[keys.Key]bool{},
	}
	pairs, seen := []pair{{}}, map[pair]bool{}
	for len(pairs) > 0 {
		now := pairs[0]
		pairs = pairs[1:]
		for _, k := range keys.All() {
			for _, on := range walk.states(k, now == pair{}) {
				next, waits := walk.press(now, k, on)
				after := next.after
				if next.after = ""; waits && !seen[next] {
					seen[next] = true
					next.after = after
					pairs = append(pairs, next)
				}
			}
		}
	}
}

// meant is a layout of the system's with what landed on top.
func (p *prover) meant(base *keys.Layout) meantLayout {
	want := meantLayout{Layout: base, latin: base, m: p.build.Machine, on: map[keys.Key][]placed{}, third: keys.Alt}
	if p.build.Machine.System == machine.Windows {
		want.third = keys.AltGr
	} else if !base.Latin() {
		want.latin = p.build.Machine.Latin()
	}
	for i := range p.build.Landings {
		l := &p.build.Landings[i]
		if !l.ReadBack() || l.Facts().Stage != mechanism.Layout {
			continue
		}
		on := placed{l.Binding.Place(), l}
		if on.Level == behaviour.Typing {
			want.words = append(want.words, on)
		}
		want.on[on.Chord.Key] = append(want.on[on.Chord.Key], on)
		e := l.Binding.Effect
		want.caps = want.caps || e.Kind == behaviour.Layers && e.How == behaviour.Toggle
		want.hyper = want.hyper || e.Kind == behaviour.Modifier
	}
	return want
}

// pair is what two layouts remember after the same presses.
type pair struct {
	want, got keys.TypeState
	after     string // those presses, in words
}

// on is what is held and on while a key is pressed.
type on struct {
	held          keys.Mods
	layered       bool // the key of a held layer is held
	caps, numLock bool
}

// walk is a walk of two layouts side by side.
type walk struct {
	*prover
	want    meantLayout
	got     keys.Board
	group   int
	windows bool
	told    map[keys.Key]bool // the keys of which a defect is noted
}

// states are those that a key is pressed in. Chords are pressed where no dead key waits.
func (w *walk) states(k keys.Key, first bool) (list []on) {
	held := []keys.Mods{0, keys.Shift, w.want.third, w.want.third | keys.Shift}
	if first {
		chords := []keys.Mods{keys.Ctrl, keys.Alt}
		if !w.windows {
			chords = []keys.Mods{keys.Ctrl, keys.Meta, keys.Ctrl | keys.Meta}
		}
		for _, more := range chords {
			held = append(held, more)
			if !w.windows {
				held = append(held, more|keys.Shift, more|keys.Alt, more|keys.Alt|keys.Shift)
			}
		}
	}
	_, layered := w.want.m.LayerOf(intent.BitState)
	for _, mods := range held {
		for _, caps := range []bool{false, true} {
			list = append(list, on{held: mods, caps: caps})
			if w.windows && k.Section() == keys.Numpad {
				list = append(list, on{held: mods, caps: caps, numLock: true})
			}
		}
		if layered && mods&^keys.Shift == 0 {
			list = append(list, on{held: mods, layered: true})
			if k.Section() == keys.Numpad {
				list = append(list, on{held: mods, layered: true, numLock: true})
			}
		}
	}
	return list
}

// press presses a key in both layouts and compares. Waits says whether a dead key waits then in both.
func (w *walk) press(now pair, k keys.Key, on on) (next pair, waits bool) {
	behind := now.want.Waits != ""
	if on.caps && w.windows && (behind && !strings.HasPrefix(now.want.Waits, composing) || w.want.hasChord(k)) {
		// A layer there has no CapsLock of its own; and CapsLock exchanges what a key types with Shift, or leaves it.
		// Both are said.
		return pair{}, false
	}
	for _, s := range []*keys.TypeState{&now.want, &now.got} {
		s.Layer, s.CapsLock, s.NumLock = on.layered, on.caps, on.numLock
	}
	meant, want := w.want.Press(now.want, k, on.held)
	typed, got := w.got.Press(now.got, k, on.held)
	w.Presses++
	if two := behind && want.Accents != "" || now.want.Accents != "" && want.Waits != ""; two && w.windows {
		return pair{}, false // two dead keys, of which one is a layer's: that they do not go together is said
	}
	if meant.VK == anyKey {
		meant.VK = typed.VK
	}
	left := want.Accents + want.Waits
	press := func() string { return now.after + on.words(k) }
	if meant != typed || (left == "") != (got.Waits == "") {
		w.note(k, press(), strokeWords(meant, left), strokeWords(typed, got.Waits))
		return pair{}, false
	}
	for _, s := range []*keys.TypeState{&want, &got} {
		s.Layer, s.CapsLock, s.NumLock = false, false, false
	}
	if left == "" {
		return pair{}, false
	}
	return pair{want, got, press() + ", "}, true
}

// words is a press in this state in words.
func (o on) words(k keys.Key) string {
	press := keys.Chord{Mods: o.held, Key: k}.String()
	if o.caps {
		press += " with CapsLock on"
	}
	if o.numLock {
		press += " with NumLock on"
	}
	if o.layered {
		press += " with the layer's key"
	}
	return press
}

// strokeWords is what programs get of a press, in words.
func strokeWords(s keys.Stroke, waits string) string {
	text := "types nothing"
	switch {
	case waits != "":
		text = fmt.Sprintf("types %q and waits", s.Text+waits)
	case s.Text != "":
		text = fmt.Sprintf("types %q", s.Text)
	}
	switch s.VK {
	case 0:
		return text
	case keys.Unassigned:
		return text + ", as a virtual key that is assigned to nothing"
	}
	return fmt.Sprintf("%s, as the virtual key %02X", text, s.VK)
}

// note notes that a key types something else, once for each key.
func (w *walk) note(k keys.Key, press, want, got string) {
	if n := w.build.Machine.Layouts; len(n) > 1 {
		press += " in layout " + n[w.group].Name
	}
	if w.told[k] {
		return
	}
	w.told[k] = true
	d := Defect{Press: press, Want: want, Got: got}
	for _, l := range w.want.on[k] {
		d.Rule, d.Range = l.Rule, l.Range
	}
	w.Defects = append(w.Defects, d)
}
