package behaviour

import (
	"slices"
	"strings"
	"time"

	"leitstand/core/keys"
)

// Event is a key going down or up on a board.
type Event struct {
	Board string
	Key   keys.Key
	Down  bool
	At    time.Duration // since the start
}

// Out is what programs and the desktop see: exactly one of its fields beside At is
// set.
type Out struct {
	At       time.Duration
	Down, Up keys.Key // a key, as programs see it
	Text     string   // a text typed
	Erase    int      // characters taken back, for an abbreviation
	Launch   *Launch
	Action   string
	// Compose: a compose sequence begins, which programs make of the presses that follow.
	Compose bool
	Other   string // what else a system does, in words
}

// Engine does what bindings say, event by event. It has no clock: time comes with
// the events, and with Wait.
//
// Its rules, where a press could mean two things:
//   - A key with tap and hold is held once its limit has passed, or once another key
//     goes down while it is down: fast typing never turns a hold into a tap. It is
//     tapped if it goes up before both.
//   - A key that goes down as one thing goes up as the same, whatever has changed
//     meanwhile.
//   - A layer for one key is left by the next key that is no modifier.
//   - A hotkey takes the keys that are held as its modifiers must be, neither more
//     nor less; its own key does not reach programs.
//   - A modifier alone acts when it goes up with nothing pressed in between; until
//     then it is the modifier.
type Engine struct {
	positions map[place]Binding // outside layers and in them
	hotkeys   []Binding
	words     []Binding
	types     func(k keys.Key, shift, altgr bool) (rune, bool)
	// Acted is told of each binding that acts, or waits for a further stroke; nil for nobody.
	Acted func(Binding)
	// Natural says which modifier a key is under the layout, with its side; nil for what its code
	// says.
	Natural func(keys.Key) keys.Mods

	now     time.Duration
	out     []Out
	down    map[source]held
	layers  []string // switched on, the last is the first to be asked
	once    string   // on for the next key
	dead    map[string]bool
	pending *pendingKey
	alone   *aloneKey
	partial []Binding // sequences whose first strokes were pressed
	strokes int
	typed   []rune
	// composing is what has been typed since Compose was pressed; nil if it was not.
	composing []rune
}

type place struct {
	board, layer string
	key          keys.Key
}

type source struct {
	board string
	key   keys.Key
}

// held is what a key that is down stands for.
type held struct {
	keys  []keys.Key // that went down for it, in order
	mods  keys.Mods
	layer string
	how   Switch
}

type pendingKey struct {
	source
	effect Effect
	since  time.Duration
}

type aloneKey struct {
	source
	binding Binding
}

// NewEngine makes an engine of bindings. types says which character a key types, for
// abbreviations; nil if they do not matter.
func NewEngine(bindings []Binding, types func(k keys.Key, shift, altgr bool) (rune, bool)) *Engine {
	e := &Engine{positions: map[place]Binding{}, down: map[source]held{}, dead: map[string]bool{}, types: types}
	for _, b := range bindings {
		switch b.Level {
		case Position:
			e.positions[place{b.Board, b.Layer, b.Chord.Key}] = b
			for _, x := range []*Effect{&b.Effect, b.Effect.Hold} {
				if x != nil && x.Kind == Layers && x.Dead {
					e.dead[x.Layer] = true
				}
			}
		case Hotkey:
			e.hotkeys = append(e.hotkeys, b)
		case Typing:
			e.words = append(e.words, b)
		}
	}
	return e
}

// Anew is an engine of the same bindings to which nothing has happened yet. The two can be used side by side.
func (e *Engine) Anew() *Engine {
	return &Engine{
		positions: e.positions, hotkeys: e.hotkeys, words: e.words, types: e.types, dead: e.dead,
		Acted: e.Acted, Natural: e.Natural, down: map[source]held{},
	}
}

// Handle takes an event and returns what comes of it. Events come in the order of
// their times.
func (e *Engine) Handle(ev Event) []Out {
	e.out = nil
	e.endPending(ev.At)
	e.now = ev.At
	src := source{ev.Board, ev.Key}
	if ev.Down {
		if _, already := e.down[src]; already || e.pending != nil && e.pending.source == src {
			return nil // the keyboard's own repetition
		}
		e.hold()
		e.press(src)
	} else {
		e.release(src)
	}
	return e.out
}

// Wait lets time pass without an event.
func (e *Engine) Wait(until time.Duration) []Out {
	e.out = nil
	e.endPending(until)
	e.now = max(e.now, until)
	return e.out
}

// endPending turns a pending key into a hold if its time is over.
func (e *Engine) endPending(now time.Duration) {
	if p := e.pending; p != nil && now-p.since >= p.effect.Within {
		e.now = p.since + p.effect.Within
		e.hold()
	}
}

// hold decides that the pending key is held.
func (e *Engine) hold() {
	if p := e.pending; p != nil {
		e.pending = nil
		e.down[p.source] = e.begin(*p.effect.Hold)
	}
}

// acted tells of a binding that acts.
func (e *Engine) acted(b Binding) {
	if e.Acted != nil {
		e.Acted(b)
	}
}

// Waits says whether strokes were pressed that begin a sequence.
func (e *Engine) Waits() bool { return len(e.partial) > 0 }

// SwitchOn has a layer on from the start.
func (e *Engine) SwitchOn(layer string) { e.layers = append(e.layers, layer) }

// modOf is the modifier that a key is.
func (e *Engine) modOf(k keys.Key) keys.Mods {
	if e.Natural != nil {
		return e.Natural(k)
	}
	return ModifierOf(k)
}

// find is the binding of a position now: in the layers that are on, for this board
// before for every board.
func (e *Engine) find(src source) (Binding, bool) {
	layers := slices.Clone(e.layers)
	if e.once != "" {
		layers = append(layers, e.once)
	}
	for i := len(layers) - 1; i >= -1; i-- {
		layer := ""
		if i >= 0 {
			layer = layers[i]
		}
		for _, board := range []string{src.board, ""} {
			if b, ok := e.positions[place{board, layer, src.key}]; ok {
				return b, true
			}
		}
		if layer != "" && e.dead[layer] && !src.key.IsModifier() {
			return Binding{Effect: Effect{Kind: Nothing}}, true
		}
	}
	return Binding{}, false
}

func (e *Engine) press(src source) {
	b, ok := e.find(src)
	effect := b.Effect
	if !ok {
		effect = Effect{Kind: Becomes, Key: src.key}
	} else {
		e.acted(b)
	}
	once := e.once
	if effect.Kind == TapHold {
		e.pending = &pendingKey{src, effect, e.now}
		return
	}
	h := e.begin(effect)
	if h.mods == 0 && effect.Kind != Layers && once != "" && e.once == once {
		e.once = ""
	}
	if a := e.aloneFor(src, h); a != nil {
		e.alone = a
	} else {
		e.alone = nil
	}
	e.down[src] = h
}

// aloneFor finds the binding of a modifier alone that this press may become.
func (e *Engine) aloneFor(src source, h held) *aloneKey {
	if len(h.keys) == 0 || h.mods == 0 || len(e.down) > 0 {
		return nil
	}
	for _, b := range e.hotkeys {
		if b.Chord.Key == keys.None && matches(b.Chord.Mods, h.mods) {
			return &aloneKey{src, b}
		}
	}
	return nil
}

func (e *Engine) release(src source) {
	if p := e.pending; p != nil && p.source == src {
		e.pending = nil
		e.end(e.begin(*p.effect.Tap))
		return
	}
	h, ok := e.down[src]
	if !ok {
		return
	}
	delete(e.down, src)
	e.end(h)
	if a := e.alone; a != nil && a.source == src {
		e.acted(a.binding)
		e.act(a.binding.Effect)
	}
	e.alone = nil
}

// begin does what an effect does when its key goes down.
func (e *Engine) begin(effect Effect) held {
	switch effect.Kind {
	case Becomes:
		byCode := ModifierOf(effect.Key) != 0
		if !byCode && e.hotkey(keys.Chord{Mods: e.Mods(), Key: effect.Key}) {
			return held{mods: e.modOf(effect.Key)} // whoever takes a press, what is held changes with it
		}
		if mod := e.modOf(effect.Key); mod != 0 {
			e.emit(Out{Down: effect.Key})
			return held{keys: []keys.Key{effect.Key}, mods: mod}
		}
		if byCode && e.hotkey(keys.Chord{Mods: e.Mods(), Key: effect.Key}) { // which the layout makes no modifier
			return held{}
		}
		if e.compose(effect.Key) {
			return held{}
		}
		e.emit(Out{Down: effect.Key})
		e.typing(effect.Key)
		return held{keys: []keys.Key{effect.Key}}
	case Modifier:
		h := held{mods: effect.Mods}
		for _, k := range modKeys(effect.Mods) {
			e.emit(Out{Down: k})
			h.keys = append(h.keys, k)
		}
		return h
	case Layers:
		switch effect.How {
		case While:
			e.layers = append(e.layers, effect.Layer)
			return held{layer: effect.Layer, how: effect.How}
		case Toggle:
			if !slices.Contains(e.layers, effect.Layer) {
				e.layers = append(e.layers, effect.Layer)
			}
		case Once:
			e.once = effect.Layer
		}
	case Leaves:
		e.leave(effect.Layer)
	default:
		e.act(effect)
	}
	return held{}
}

func (e *Engine) leave(layer string) {
	if i := slices.Index(e.layers, layer); i >= 0 {
		e.layers = slices.Delete(e.layers, i, i+1)
	}
}

// end does what letting a key go does.
func (e *Engine) end(h held) {
	for i := len(h.keys) - 1; i >= 0; i-- {
		e.emit(Out{Up: h.keys[i]})
	}
	if h.layer != "" && h.how == While {
		e.leave(h.layer)
	}
}

func (e *Engine) emit(o Out) {
	o.At = e.now
	e.out = append(e.out, o)
}

// act does what happens at once.
func (e *Engine) act(effect Effect) {
	switch effect.Kind {
	case Sends:
		e.chord(effect.Chord)
	case Types:
		e.emit(Out{Text: effect.Text})
	case Launches:
		l := effect.Launch()
		e.emit(Out{Launch: &l})
	case Acts:
		e.emit(Out{Action: effect.Action})
	case Other:
		e.emit(Out{Other: effect.Words})
	case Composes:
		e.composing = []rune{}
		e.emit(Out{Compose: true})
	case Plays:
		for _, s := range effect.Steps() {
			switch {
			case s.Wait != 0:
				e.now += s.Wait
			case s.Hold != keys.None:
				e.emit(Out{Down: s.Hold})
			case s.Release != keys.None:
				e.emit(Out{Up: s.Release})
			case s.Type != "":
				e.emit(Out{Text: s.Type})
			default:
				e.chord(s.Press)
			}
		}
	default: // the engine itself does the others, as it goes
	}
}

// chord gives a chord: what is held is let go for it, so that it arrives as itself.
func (e *Engine) chord(c keys.Chord) {
	var lifted []keys.Key
	for _, h := range e.heldInOrder() {
		if h.mods != 0 {
			lifted = append(lifted, h.keys...)
		}
	}
	for _, k := range lifted {
		e.emit(Out{Up: k})
	}
	mods := modKeys(c.Mods)
	for _, k := range mods {
		e.emit(Out{Down: k})
	}
	if c.Key != keys.None {
		e.emit(Out{Down: c.Key})
		e.emit(Out{Up: c.Key})
	}
	for i := len(mods) - 1; i >= 0; i-- {
		e.emit(Out{Up: mods[i]})
	}
	for _, k := range lifted {
		e.emit(Out{Down: k})
	}
}

func (e *Engine) heldInOrder() []held {
	srcs := make([]source, 0, len(e.down))
	for s := range e.down {
		srcs = append(srcs, s)
	}
	slices.SortFunc(srcs, func(a, b source) int {
		if a.board != b.board {
			return strings.Compare(a.board, b.board)
		}
		return int(a.key) - int(b.key)
	})
	list := make([]held, len(srcs))
	for i, s := range srcs {
		list[i] = e.down[s]
	}
	return list
}

// Mods are the modifiers that are on now, with their sides.
func (e *Engine) Mods() keys.Mods {
	var m keys.Mods
	for _, h := range e.down {
		m |= h.mods
	}
	return m
}

// hotkey does what a hotkey does with the chord, if there is one, stroke by stroke.
func (e *Engine) hotkey(c keys.Chord) bool {
	candidates := e.hotkeys
	if len(e.partial) > 0 {
		candidates = e.partial
	}
	var next []Binding
	for _, b := range candidates {
		want := b.Chord
		if e.strokes > 0 {
			want = b.Then[e.strokes-1]
		}
		if want.Key != c.Key || want.Key == keys.None || !matches(want.Mods, c.Mods) {
			continue
		}
		if len(b.Then) == e.strokes {
			e.partial, e.strokes = nil, 0
			e.acted(b)
			e.act(b.Effect)
			return true
		}
		next = append(next, b)
	}
	if len(next) > 0 {
		for _, b := range next {
			e.acted(b)
		}
		e.partial = next
		e.strokes++
		return true
	}
	if e.strokes > 0 { // not the next stroke: the sequence is broken off
		e.partial, e.strokes = nil, 0
		return true
	}
	return false
}
