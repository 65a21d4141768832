package station

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mapping"
)

// Answer is what a press does on one machine and one board.
type Answer struct {
	Machine string
	Board   string   // "" for every board that no rule singles out
	Press   string   // the chord as this machine spells it
	Keys    []string // what to press on the board: keys, and what their caps say
	Way     []Step
	Does    string           // what comes of it
	Effect  behaviour.Effect // of a key, what it is made; of a chord, what it does
	Owner   Owner            // who does that; the zero value for the program in front
	Rule    mapping.Rule     // that asks for it, nil for none
	Wanted  string           // what the mapping wants and does not get here, and why; "" if nothing
	Wish    mapping.Rule     // that wants it
	Instead bool             // another chord does what the mapping wants of this one
	mapped  bool             // what is done last is of the mapping
	Begins  bool             // it waits for a further stroke
}

// Step is one stage on the way.
type Step struct {
	Stage     string // board, kernel, layout, desktop, by hand
	Mechanism string // the mechanism, or the system that acts; "" where nothing but the key does
	Words     string
}

// Where narrows a question: to one board, to a layer that is on, and to a program in front.
type Where struct {
	Board string // "" for all boards
	Layer string // "" for no layer
	Front string // a program, as rules name it; "" for any
}

// has says whether a press that is for some programs only is for the one in front.
func (w Where) has(b behaviour.Binding) bool {
	return w.Front == "" || len(b.Apps) == 0 || slices.Contains(b.Apps, w.Front)
}

// named has the program in front by the name that the machine tells it by.
func (s *Station) named(where Where) Where {
	if where.Front != "" && s.mp != nil {
		where.Front = intent.ProgramName(s.mp, s.machine.System, where.Front, "")
	}
	return where
}

// Ask says what strokes do, once for every board on which that differs. The error says why they
// mean nothing on the machine.
func (s *Station) Ask(text string, where Where) ([]Answer, error) {
	where = s.named(where)
	chords, err := s.strokes(text)
	if err != nil {
		return nil, err
	}
	boards := []string{""}
	for _, b := range s.machine.Boards {
		if len(b.Sends) > 0 || slices.ContainsFunc(s.all().entries, func(e Entry) bool { return e.Board == b.Name }) ||
			slices.ContainsFunc(s.build.Entries, func(e *intent.Entry) bool { return e.Binding.Board == b.Name }) {
			boards = append(boards, b.Name)
		}
	}
	if where.Board != "" {
		if s.board(where.Board) == nil {
			return nil, fmt.Errorf("this machine has no board %q", where.Board)
		}
		boards = []string{where.Board}
	}
	if where.Layer != "" && !slices.Contains(s.machine.Layers, where.Layer) {
		return nil, fmt.Errorf("no layer of this machine is called %q", where.Layer)
	}
	var list []Answer
	for _, board := range boards {
		a := s.answer(Where{board, where.Layer, where.Front}, chords)
		if len(list) > 0 && board != "" && a.same(list[0]) {
			continue
		}
		list = append(list, a)
	}
	return list, nil
}

// strokes reads strokes as they are on the machine; one key by its code is a place on the board,
// modifiers too.
func (s *Station) strokes(text string) ([]keys.Chord, error) {
	if k, ok := keys.ByCode(strings.TrimSpace(text)); ok {
		return []keys.Chord{{Key: k}}, nil
	}
	spelled, err := keys.ParseStrokes(text, s.mp.ModifierNames(""), diag.Nearest)
	if err != nil {
		return nil, spellingError(err)
	}
	var chords []keys.Chord
	for _, stroke := range spelled {
		c, err := intent.Chord(s.mp, s.build.Intent, stroke)
		if err != nil {
			return nil, err
		}
		chords = append(chords, c)
	}
	return chords, nil
}

// same says whether an answer differs in its board only.
func (a Answer) same(o Answer) bool {
	return a.Does == o.Does && a.Wanted == o.Wanted && slices.Equal(a.Keys, o.Keys) && slices.Equal(a.Way, o.Way)
}

func spellingError(err error) error {
	if e, ok := err.(*keys.SpellingError); ok && e.Remedy != "" {
		return fmt.Errorf("%s: %s", e.Problem, e.Remedy)
	}
	return err
}

// answer presses chords one after the other, on one machine that remembers what was pressed.
func (s *Station) answer(where Where, chords []keys.Chord) Answer {
	var a Answer
	p := s.player(where)
	for i, c := range chords {
		next := p.stroke(c)
		if i == 0 {
			a = next
			continue
		}
		a.Press += ", " + next.Press
		a.Keys = append(a.Keys, next.Keys...)
		a.Way = append(a.Way, next.Way...)
		a.Does, a.Owner, a.Rule = a.Does+"; then "+next.Does, next.Owner, next.Rule
		if p.sequence { // the strokes are one press
			a.Does = next.Does
		}
	}
	if len(chords) == 1 {
		return a
	}
	a.Wanted, a.Wish = "", nil
	for _, l := range s.build.Landings {
		all := append([]keys.Chord{l.Binding.Chord}, l.Binding.Then...)
		if l.Binding.Level == behaviour.Hotkey && l.Mechanism == nil &&
			slices.EqualFunc(all, chords, keys.Chord.Overlaps) {
			a.Wanted, a.Wish = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Offer.Why), l.Rule
		}
	}
	return a
}

// player presses keys and notes what acts.
type player struct {
	*Station
	Where
	engine   *behaviour.Engine
	acted    []Entry // by the key that was pressed last
	typed    keys.TypeState
	sequence bool // the last stroke ended a sequence
}

func (s *Station) player(where Where) *player {
	p := &player{Station: s, Where: where}
	p.engine = s.engine(where, func(e Entry) { p.acted = append(p.acted, e) })
	return p
}

// press has keys go down one after the other and up again, and gives what is seen from the last
// one on.
func (p *player) press(list []keys.Key) []behaviour.Out {
	var outs []behaviour.Out
	for i, k := range list {
		p.acted = nil
		down := p.engine.Handle(behaviour.Event{Board: p.Board, Key: p.sends(p.Board, k), Down: true})
		if i == len(list)-1 {
			outs = down
		}
	}
	for _, k := range slices.Backward(list) {
		outs = append(outs, p.engine.Handle(behaviour.Event{Board: p.Board, Key: p.sends(p.Board, k)})...)
	}
	return outs
}

// stroke is the answer for one chord. One key without modifiers is a place on the board; a chord
// is what the system sees, so the keys that give it are looked for.
func (p *player) stroke(c keys.Chord) Answer {
	a := Answer{Machine: p.machine.Name, Board: p.Board, Press: c.String()}
	if c.Mods == 0 {
		p.place(&a, c.Key)
		return a
	}
	chosen, missing := p.choose(&a, c)
	if len(missing) > 0 {
		a.Keys = nil
		a.Way = append(a.Way, Step{"board", "", "no key here gives " + strings.Join(missing, ", ")})
		p.wants(&a, c)
		a.Does = "cannot be pressed"
		return a
	}
	a.Way = append(a.Way, Step{"board", "", "press " + strings.Join(a.Keys, " and ")})
	p.press(chosen)
	if p.Layer != "" && len(p.acted) > 0 && p.acted[0].Level == behaviour.Position && p.acted[0].Layer == p.Layer {
		e := p.acted[0]
		a.Way = append(
			a.Way,
			Step{e.Owner.Stage, e.Owner.Name, "in layer " + p.Layer + ", " + c.Key.String() + " " + e.Effect.String()},
		)
		if e.Effect.Kind != behaviour.Becomes {
			a.done(e)
			return a
		}
		c.Key = e.Effect.Key
	}
	p.desktop(&a, c)
	return a
}

// choose finds the keys that give a chord, and names them; missing is what no key gives.
func (p *player) choose(a *Answer, c keys.Chord) (chosen []keys.Key, missing []string) {
	add := func(list []keys.Key, what string) {
		if len(list) == 0 {
			missing = append(missing, what)
			return
		}
		a.Keys = append(a.Keys, p.oneOf(list))
		chosen = append(chosen, list[0])
	}
	if all := p.holdingAll(p.Board, c.Mods); len(all) > 0 {
		add(all, "")
	} else {
		for _, name := range c.Mods.Names() {
			mod, _ := keys.ModByName(name)
			add(p.holding(p.Board, mod), name)
		}
	}
	switch {
	case c.Key == keys.None:
	case p.Layer != "":
		add([]keys.Key{c.Key}, "")
	default:
		add(p.acting(p.Board, c.Key), c.Key.String())
	}
	return chosen, missing
}

// done says that an entry does what comes of the press.
func (a *Answer) done(e Entry) {
	a.Does, a.Effect, a.Owner, a.mapped = e.Effect.String(), e.Effect, e.Owner, e.Landing != nil
	if e.Landing != nil {
		a.Rule = e.Landing.Rule
	}
}

// place follows one key from the board on.
func (p *player) place(a *Answer, k keys.Key) {
	a.Keys = []string{p.oneOf([]keys.Key{k})}
	if !p.exists(p.Board, k) {
		a.Way = append(a.Way, Step{"board", "", fmt.Sprintf("%s lacks %s, or has it broken", p.Board, a.Keys[0])})
		a.Keys, a.Does = nil, "cannot be pressed"
		return
	}
	a.Way = append(a.Way, Step{"board", "", "press " + a.Keys[0]})
	sent := p.sends(p.Board, k)
	if sent != k {
		a.Way = append(a.Way, Step{"board", "", "its own firmware sends " + sent.String()})
	}
	if l := p.meant(p.Where, sent); l != nil && l.Mechanism == nil {
		a.Wanted, a.Wish = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Offer.Why), l.Rule
	}
	p.press([]keys.Key{k})
	effect := behaviour.Effect{Kind: behaviour.Becomes, Key: sent}
	if len(p.acted) > 0 && p.acted[0].Level == behaviour.Position {
		effect = p.acted[0].Effect
		a.Way = append(a.Way, Step{p.acted[0].Owner.Stage, p.acted[0].Owner.Name, "it " + effect.String()})
		a.done(p.acted[0])
		if l := p.meant(p.Where, sent); a.Rule == nil && l != nil && l.Mechanism != nil && l.Binding.Effect.Equal(effect) {
			a.Rule = l.Rule // a board of its own has it from what is said of every board
		}
	}
	a.Does, a.Effect = effect.String(), effect
	if a.mapped = false; effect.Kind == behaviour.Becomes {
		p.types(a, effect.Key)
		if p.desktop(a, keys.Chord{Key: effect.Key}); !a.mapped {
			a.Effect = effect // whatever the desktop makes of that by itself
		}
	}
}

// types says what the layout and its options make of a key.
func (p *player) types(a *Answer, k keys.Key) {
	layout, typist := p.machine.Layouts[0], p.typist()
	s, ok := layout.Symbols(k)
	if !ok {
		return
	}
	var text string
	waiting := p.typed.Accents
	if text, p.typed = typist.Type(p.typed, k, 0); k.Section() == keys.Writing {
		switch {
		case p.typed.Waits != "":
			a.Does = "waits for the next key"
			a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("%s is a dead key under our %s", k, layout.Name)})
		case len(p.typed.Accents) > len(waiting):
			a.Does = "waits for the key that " + strings.TrimPrefix(p.typed.Accents, waiting) + " is to be put on"
			a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("%s is a dead key under %s", k, layout.Name)})
		case text != "":
			a.Does = "types " + text
			a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("%s types %s under %s", k, text, layout.Name)})
		}
	}
	name, _ := k.XKB()
	for _, o := range layout.Extra.Options {
		if slices.Contains(o.Changes(), name) {
			a.Way = append(
				a.Way,
				Step{
					"layout",
					"",
					fmt.Sprintf(
						"option %s makes %s give %s", o.Name, k,
						strings.Join(slices.Compact(slices.Clone(s.Level)), ", "),
					),
				},
			)
			if k.Section() != keys.Writing {
				a.Does = "gives " + s.Level[0]
			}
		}
	}
}

// mostBegun are the sequences that are named of those which a stroke begins.
const mostBegun = 5

// desktop says what the desktop makes of the chord that was pressed.
func (p *player) desktop(a *Answer, c keys.Chord) {
	p.wants(a, c)
	p.sequence = false
	var begun []string
	var first *land.Landing // of those that are begun
	for _, e := range p.acted {
		ended := len(e.Then) > 0 && p.ends(e, c)
		switch {
		case e.Level != behaviour.Hotkey:
		case e.Chord.Key == keys.None && c.Mods == 0:
			a.Way = append(
				a.Way, Step{e.Owner.Stage, e.Owner.Name, "let go with nothing in between: " + e.Effect.String()},
			)
			a.done(e)
			a.Does = "alone: " + a.Does
			return
		case len(e.Then) > 0 && !ended:
			if begun = append(begun, e.Press()); len(begun) == 1 {
				a.Way = append(a.Way, Step{e.Owner.Stage, e.Owner.Name, "waits for the next stroke"})
				a.Owner, first = e.Owner, e.Landing
			}
		default:
			a.Way = append(a.Way, Step{e.Owner.Stage, e.Owner.Name, e.Effect.String()})
			a.done(e)
			if p.sequence = ended; e.Landing == nil {
				p.insteadOf(a, c)
			}
			return
		}
	}
	switch {
	case len(begun) > 0:
		if more := len(begun) - mostBegun; more > 1 {
			begun = append(begun[:mostBegun:mostBegun], fmt.Sprintf("and %d more", more))
		}
		if a.Does = "begins " + strings.Join(begun, "; "); first != nil {
			a.Rule = first.Rule
		}
		a.Effect, a.Begins = behaviour.Effect{Kind: behaviour.Other, Words: a.Does}, true
	case p.insteadOf(a, c):
	case a.Does == "" && p.typeChord(a, c):
	case a.Does == "":
		a.Does = "goes to the program in front, as " + c.String()
	}
}

// typist is the layout that types: one of ours, or the machine's first.
func (s *Station) typist() keys.Typist {
	if len(s.read.Typists) > 0 {
		return s.read.Typists[0]
	}
	return s.machine.Layouts[0]
}

// typeChord says what a chord of Shift and AltGr types, if it does.
func (p *player) typeChord(a *Answer, c keys.Chord) bool {
	var text string
	if text, p.typed = p.typist().Type(p.typed, c.Key, c.Mods); text == "" {
		return false
	}
	a.Does = "types " + text
	a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("%s types %s under %s", c, text, p.machine.Layouts[0].Name)})
	return true
}

// ends says whether a chord is the last stroke of a sequence, and its sequence is done with it.
func (p *player) ends(e Entry, c keys.Chord) bool {
	return !p.engine.Waits() && e.Then[len(e.Then)-1].Overlaps(c)
}

// insteadOf says what stands in for a chord that the mapping wants and does not get.
func (p *player) insteadOf(a *Answer, c keys.Chord) bool {
	for _, l := range p.build.Landings {
		if l.Instead() == c.String() && l.Binding.Level == behaviour.Hotkey {
			if a.Does != "" {
				a.Wanted = fmt.Sprintf("%s; here %s does it", l.Binding.Effect, l.Binding.Press())
				a.Wish = l.Rule
			} else {
				a.Does = fmt.Sprintf("nothing here; %s does it instead: %s", l.Binding.Press(), l.Binding.Effect)
			}
			a.Instead, a.Wish = true, l.Rule
			return true
		}
	}
	return false
}

// wants notes what the mapping says of a chord and does not get.
func (p *player) wants(a *Answer, c keys.Chord) {
	pressed := len(a.Keys) > 0
	for _, l := range p.build.Landings {
		b := l.Binding
		alone := c.Mods == 0 && b.Chord.Key == keys.None && len(b.Chord.Mods.Names()) == 1 &&
			isMod(p.natural(c.Key), b.Chord.Mods)
		if !p.has(b) {
			continue
		}
		if b.Level != behaviour.Hotkey || len(b.Then) > 0 || !alone && !b.Chord.Overlaps(c) ||
			pressed && l.Mechanism != nil {
			continue
		}
		why := l.Offer.Why.String()
		if why == "" {
			why = "its keys are not there"
		}
		a.Wanted, a.Wish = fmt.Sprintf("%s, but: %s", b.Effect, why), l.Rule
	}
	for _, l := range p.build.Landings {
		if !pressed && l.Instead() == c.String() && l.Binding.Level == behaviour.Hotkey {
			a.Wanted, a.Wish = fmt.Sprintf("%s; here %s does it", l.Binding.Effect, l.Binding.Press()), l.Rule
		}
	}
}
