// Package press says what a press does on a machine, and the way it takes there:
// which key is pressed on the board, what the kernel, the layout and the desktop
// make of it. It goes by what the compiled files do.
package press

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
	"leitstand/core/target"
)

// Answer is what a chord does on one machine and one board.
type Answer struct {
	Machine string
	Board   string   // "" for every board that no rule singles out
	Press   string   // the chord as this machine spells it
	Keys    []string // what to press on the board: keys, and what their caps say
	Way     []Step
	Does    string // what comes of it
	Wanted  string // what the mapping wants and does not get here, and why; "" if nothing
}

// Step is one stage on the way.
type Step struct {
	Stage  string // board, kernel, layout, desktop
	Target string // the mechanism, "" where nothing of ours acts
	Words  string
}

// Where narrows a question: to one board, and to a layer that is on.
type Where struct {
	Board string // "" for all boards
	Layer string // "" for no layer
}

// Ask says what a chord does on a compiled machine, once for every board on which
// it differs. The error says why the chord means nothing there.
func Ask(mp *mapping.Mapping, b *compile.Build, chord string, where Where) ([]Answer, error) {
	own := mp.ModifierNames("")
	var chords []keys.Chord
	if k, ok := keys.ByCode(strings.TrimSpace(chord)); ok { // a place on the board, modifiers too
		chords = []keys.Chord{{Key: k}}
	} else {
		strokes, err := keys.ParseStrokes(chord, own, diag.Nearest)
		if err != nil {
			return nil, spellingError(err)
		}
		for _, s := range strokes {
			c, err := intent.Chord(mp, b.Intent, s)
			if err != nil {
				return nil, err
			}
			chords = append(chords, c)
		}
	}
	boards := []string{""}
	for _, board := range b.Machine.Boards {
		if len(board.Sends) > 0 || slices.ContainsFunc(b.Landings, func(l compile.Landing) bool { return l.Binding.Board == board.Name }) {
			boards = append(boards, board.Name)
		}
	}
	if where.Board != "" {
		if !slices.ContainsFunc(b.Machine.Boards, func(d *machine.Board) bool { return d.Name == where.Board }) {
			return nil, fmt.Errorf("this machine has no board %q", where.Board)
		}
		boards = []string{where.Board}
	}
	if where.Layer != "" && !slices.ContainsFunc(b.Landings, func(l compile.Landing) bool { return l.Binding.Layer == where.Layer }) {
		return nil, fmt.Errorf("no layer of this machine is called %q", where.Layer)
	}
	var list []Answer
	for _, board := range boards {
		a := sequence(b, place{board, where.Layer}, chords)
		if len(list) > 0 && board != "" && a.same(list[0]) {
			continue
		}
		list = append(list, a)
	}
	return list, nil
}

// same says whether an answer differs in its board only.
func (a Answer) same(o Answer) bool {
	return a.Does == o.Does && a.Wanted == o.Wanted && slices.Equal(a.Keys, o.Keys) && slices.Equal(a.Way, o.Way)
}

func spellingError(err error) error {
	if s, ok := err.(*keys.SpellingError); ok && s.Remedy != "" {
		return fmt.Errorf("%s: %s", s.Problem, s.Remedy)
	}
	return err
}

// place is where a key is pressed.
type place struct{ board, layer string }

// sequence follows several strokes, one after the other. Where a rule has them
// together, that is what they do.
func sequence(b *compile.Build, at place, chords []keys.Chord) Answer {
	a := ask(b, at, chords[0])
	for _, c := range chords[1:] {
		next := ask(b, at, c)
		a.Press += ", " + next.Press
		a.Keys = append(a.Keys, next.Keys...)
		a.Way = append(a.Way, next.Way...)
		a.Does += "; then " + next.Does
	}
	if len(chords) == 1 {
		return a
	}
	for _, l := range b.Landings {
		all := append([]keys.Chord{l.Binding.Chord}, l.Binding.Then...)
		if l.Binding.Level != behaviour.Hotkey || !slices.EqualFunc(all, chords, keys.Chord.Overlaps) {
			continue
		}
		if l.Target != nil {
			a.Does = l.Binding.Effect.String()
		} else {
			a.Wanted = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Answer.Why)
		}
	}
	return a
}

func ask(b *compile.Build, at place, c keys.Chord) Answer {
	board := at.board
	a := Answer{Machine: b.Machine.Name, Board: board, Press: c.String()}
	// One key by its code is a place on the board; a chord is what the system sees,
	// so the keys that give it are looked for.
	if c.Mods == 0 {
		a.position(b, at, c.Key)
		return a
	}
	var missing []string
	add := func(list []keys.Key, what string) {
		if len(list) == 0 {
			missing = append(missing, what)
			return
		}
		a.Keys = append(a.Keys, oneOf(b, list))
	}
	if all := holdingAll(b, board, c.Mods); len(all) > 0 {
		add(all, "")
	} else {
		for _, mod := range c.Mods.Names() {
			m, _ := keys.ModByName(mod)
			add(holding(b, board, m), mod)
		}
	}
	if at.layer != "" && c.Key != keys.None {
		add([]keys.Key{c.Key}, "")
	} else if c.Key != keys.None {
		add(acting(b, board, c.Key), c.Key.String())
	}
	if len(missing) > 0 {
		a.Keys = nil
		a.Way = append(a.Way, Step{"board", "", "no key here gives " + strings.Join(missing, ", ")})
		a.wants(b, c)
		a.Does = "cannot be pressed"
		return a
	}
	a.Way = append(a.Way, Step{"board", "", "press " + strings.Join(a.Keys, " and ")})
	if at.layer != "" {
		if l, ok := landed(b, at, c.Key); ok && l.Target != nil {
			e := l.Binding.Effect
			a.Way = append(a.Way, Step{stage(l.Target), l.Facts().Name, "in layer " + at.layer + ", " + c.Key.String() + " " + e.String()})
			if e.Kind != behaviour.Becomes {
				a.Does = e.String()
				return a
			}
			c.Key = e.Key
		}
	}
	a.hotkey(b, c)
	return a
}

// wants notes what the mapping says of a chord that cannot be pressed.
func (a *Answer) wants(b *compile.Build, c keys.Chord) {
	for _, l := range b.Landings {
		if l.Binding.Level == behaviour.Hotkey && len(l.Binding.Then) == 0 && l.Binding.Chord.Overlaps(c) {
			why := l.Answer.Why.String()
			if why == "" {
				why = "its keys are not there"
			}
			a.Wanted = fmt.Sprintf("%s, but: %s", l.Binding.Effect, why)
		}
	}
	for _, l := range b.Landings {
		if l.Instead() == c.String() && l.Binding.Level == behaviour.Hotkey {
			a.Wanted = fmt.Sprintf("%s; here %s does it", l.Binding.Effect, l.Binding.Press())
		}
	}
}

// landed finds the binding of a position on a board.
func landed(b *compile.Build, at place, k keys.Key) (compile.Landing, bool) {
	var found compile.Landing
	ok := false
	for _, l := range b.Landings {
		if l.Binding.Level != behaviour.Position || l.Binding.Layer != at.layer || l.Binding.Chord.Key != k {
			continue
		}
		if l.Binding.Board == at.board || l.Binding.Board == "" && !ok {
			found, ok = l, true
		}
	}
	return found, ok
}

// does is what a key acts as on a board: itself, where no file says otherwise.
func does(b *compile.Build, board string, k keys.Key) behaviour.Effect {
	if l, ok := landed(b, place{board, ""}, k); ok && l.Target != nil {
		return l.Binding.Effect
	}
	return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
}

// acting lists the keys that act as a key.
func acting(b *compile.Build, board string, k keys.Key) []keys.Key {
	if k.Section() == keys.Mouse { // which nothing changes
		return []keys.Key{k}
	}
	var list []keys.Key
	for _, from := range keys.All() {
		if e := does(b, board, from); e.Kind == behaviour.Becomes && e.Key == k && exists(b, board, from) {
			list = append(list, from)
		}
	}
	return list
}

// sides are the keys of each modifier.
var sides = map[keys.Mods][]string{
	keys.Ctrl: {"ControlLeft", "ControlRight"}, keys.CtrlLeft: {"ControlLeft"}, keys.CtrlRight: {"ControlRight"},
	keys.Alt: {"AltLeft", "AltRight"}, keys.AltLeft: {"AltLeft"}, keys.AltRight: {"AltRight"},
	keys.Shift: {"ShiftLeft", "ShiftRight"}, keys.ShiftLeft: {"ShiftLeft"}, keys.ShiftRight: {"ShiftRight"},
	keys.Meta: {"MetaLeft", "MetaRight"}, keys.MetaLeft: {"MetaLeft"}, keys.MetaRight: {"MetaRight"},
	keys.AltGr: {"AltRight"}, keys.Fn: {"Fn"},
}

// holding lists the keys that act as a modifier.
func holding(b *compile.Build, board string, mod keys.Mods) []keys.Key {
	var list []keys.Key
	for _, from := range keys.All() {
		switch e := does(b, board, from); e.Kind {
		case behaviour.Becomes:
			if slices.Contains(sides[mod], e.Key.String()) && exists(b, board, from) && !isAltGr(b, mod, e.Key) {
				list = append(list, from)
			}
		case behaviour.Modifier:
			if e.Mods == mod && exists(b, board, from) {
				list = append(list, from)
			}
		default: // no other makes a key a modifier
		}
	}
	return list
}

// holdingAll lists the keys that hold just these modifiers together, where there is
// more than one.
func holdingAll(b *compile.Build, board string, mods keys.Mods) []keys.Key {
	var list []keys.Key
	for _, from := range keys.All() {
		if e := does(b, board, from); e.Kind == behaviour.Modifier && e.Mods == mods && len(mods.Names()) > 1 && exists(b, board, from) {
			list = append(list, from)
		}
	}
	return list
}

// isAltGr says whether the right Alt key is no Alt but AltGr under the layout.
func isAltGr(b *compile.Build, mod keys.Mods, k keys.Key) bool {
	if mod != keys.Alt || k.String() != "AltRight" {
		return false
	}
	s, ok := b.Machine.Layouts[0].Symbols(k)
	return ok && s.Level[0] == "ISO_Level3_Shift"
}

// exists says whether a board has the key, and it works.
func exists(b *compile.Build, board string, k keys.Key) bool {
	for _, d := range b.Machine.Boards {
		if d.Name == board && (slices.Contains(d.Lacks, k) || slices.Contains(d.Broken, k)) {
			return false
		}
	}
	return true
}

// sends is what a board's own firmware sends for its caps.
func sends(b *compile.Build, board string) map[keys.Key]keys.Key {
	for _, d := range b.Machine.Boards {
		if d.Name == board {
			return d.Sends
		}
	}
	return nil
}

// oneOf names keys to choose from, with what their caps say.
func oneOf(b *compile.Build, list []keys.Key) string {
	if len(list) == 0 {
		return "(no key)"
	}
	var names []string
	for _, k := range list {
		name := k.String()
		if cap := b.Machine.Layouts[0].Cap(k); cap != name {
			name += " (" + cap + ")"
		}
		names = append(names, name)
	}
	if len(names) > 3 {
		names = append(names[:3], "…")
	}
	return strings.Join(names, " or ")
}

// position follows one key from the board on.
func (a *Answer) position(b *compile.Build, at place, k keys.Key) {
	a.Keys = []string{oneOf(b, []keys.Key{k})}
	if !exists(b, at.board, k) {
		a.Way = append(a.Way, Step{"board", "", fmt.Sprintf("%s lacks %s, or has it broken", at.board, a.Keys[0])})
		a.Keys, a.Does = nil, "cannot be pressed"
		return
	}
	a.Way = append(a.Way, Step{"board", "", "press " + a.Keys[0]})
	if sent, ok := sends(b, at.board)[k]; ok {
		a.Way = append(a.Way, Step{"board", "", "its own firmware sends " + sent.String()})
		k = sent
	}
	l, ok := landed(b, at, k)
	if !ok && at.layer != "" { // a key without a meaning in the layer keeps its own
		l, ok = landed(b, place{at.board, ""}, k)
	}
	if ok && l.Target == nil {
		a.Wanted = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Answer.Why)
	}
	e := behaviour.Effect{Kind: behaviour.Becomes, Key: k}
	if ok && l.Target != nil {
		e = l.Binding.Effect
		a.Way = append(a.Way, Step{stage(l.Target), l.Facts().Name, "it " + e.String()})
	}
	a.Does = e.String()
	switch e.Kind {
	case behaviour.Becomes:
		if s, ok := b.Machine.Layouts[0].Symbols(e.Key); ok && e.Key.Section() == keys.Writing {
			if r, ok := keys.KeysymRune(s.Level[0]); ok {
				a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("%s types %c under %s", e.Key, r, b.Machine.Layouts[0].Name)})
				a.Does = fmt.Sprintf("types %c", r)
			}
		}
		name, _ := e.Key.XKB()
		for _, o := range b.Machine.Layouts[0].Extra.Options {
			if s, ok := b.Machine.Layouts[0].Symbols(e.Key); ok && slices.Contains(o.Changes(), name) {
				a.Way = append(a.Way, Step{"layout", "", fmt.Sprintf("option %s makes %s give %s", o.Name, e.Key, strings.Join(slices.Compact(slices.Clone(s.Level)), ", "))})
				if e.Key.Section() != keys.Writing {
					a.Does = "gives " + s.Level[0]
				}
			}
		}
		a.hotkey(b, keys.Chord{Key: e.Key})
		a.alone(b, e.Key)
	default: // what else a position does, it does at once
	}
}

// alone looks for what a modifier does that is pressed and let go with nothing in between.
func (a *Answer) alone(b *compile.Build, k keys.Key) {
	for _, l := range b.Landings {
		c := l.Binding.Chord
		if l.Binding.Level != behaviour.Hotkey || c.Key != keys.None || len(c.Mods.Names()) != 1 || !slices.Contains(sides[c.Mods], k.String()) {
			continue
		}
		if l.Target == nil {
			a.Wanted = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Answer.Why)
			continue
		}
		a.Way = append(a.Way, Step{stage(l.Target), l.Facts().Name, "let go with nothing in between: " + l.Binding.Effect.String()})
		a.Does = "alone: " + l.Binding.Effect.String()
	}
}

// stage names where a mechanism works.
func stage(t compile.Target) string {
	if s := t.Facts().Stage; s != target.Person {
		return s.String()
	}
	return "by hand"
}

// hotkey looks for what the desktop does with a chord.
func (a *Answer) hotkey(b *compile.Build, c keys.Chord) {
	for _, l := range b.Landings {
		if l.Binding.Level != behaviour.Hotkey || len(l.Binding.Then) > 0 || !l.Binding.Chord.Overlaps(c) {
			continue
		}
		if l.Target == nil {
			a.Wanted = fmt.Sprintf("%s, but: %s", l.Binding.Effect, l.Answer.Why)
			continue
		}
		a.Way = append(a.Way, Step{stage(l.Target), l.Facts().Name, l.Binding.Effect.String()})
		a.Does = l.Binding.Effect.String()
		return
	}
	var begun []string
	for _, l := range b.Landings {
		if l.Binding.Level != behaviour.Hotkey || l.Target == nil || len(l.Binding.Then) == 0 || !l.Binding.Chord.Overlaps(c) {
			continue
		}
		if begun = append(begun, l.Binding.Press()); len(begun) == 1 {
			a.Way = append(a.Way, Step{stage(l.Target), l.Facts().Name, "waits for the next stroke"})
		}
	}
	if len(begun) > 0 {
		a.Does = "begins " + strings.Join(begun, "; ")
		return
	}
	for _, l := range b.Landings {
		if l.Instead() == c.String() && l.Binding.Level == behaviour.Hotkey {
			a.Does = fmt.Sprintf("nothing here; %s does it instead: %s", l.Binding.Press(), l.Binding.Effect)
			return
		}
	}
	if a.Does == "" {
		a.Does = "goes to the program in front, as " + c.String()
	}
}

// Found is a press that does what was looked for.
type Found struct {
	Machine string
	Press   string
	Keys    []string
	Does    string
	Rule    mapping.Rule
	Verdict target.Verdict
	Why     reason.List
	Instead string // what the press stands in for, "" for nothing
}

// Find looks for presses by what they do: every word must be part of the rule's
// title or of the effect, without regard to case.
func Find(b *compile.Build, words []string) []Found {
	var list []Found
	for _, l := range b.Landings {
		text := strings.ToLower(mapping.Title(l.Rule) + " " + l.Binding.Effect.String())
		if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, strings.ToLower(w)) }) {
			continue
		}
		f := Found{b.Machine.Name, l.Binding.Press(), nil, l.Binding.Effect.String(), l.Rule, l.Answer.Verdict, l.Answer.Why, ""}
		if l.Wish != nil {
			f.Instead = l.Instead()
		}
		if l.Binding.Level == behaviour.Hotkey && l.Binding.Chord.Key != keys.None {
			f.Keys = ask(b, place{}, l.Binding.Chord).Keys
		}
		list = append(list, f)
	}
	return list
}
