// Package picture has what a picture of a board shows, as values: where each key is, what its cap says, and what it
// does on a machine. All that a key does is what the station says.
package picture

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

// Board is a board of a machine as it behaves.
type Board struct {
	Machine string
	From    string // the mapping's name, where two are compared
	Place   string // the machine's system and desktop, in words
	Name    string // of the board; "" for every board
	Shape   machine.Shape
	Guessed bool   // the mapping does not say whether it is ansi, iso or jis
	Layout  string // by which the caps are labelled
	Hold    string // the modifiers that are held, "" for none
	Layer   string // that is on, "" for none
	Caps    []Cap
	Notes   []Note
	Layers  []string // those that the machine has beside
	// Elsewhere are the keys that the board does not have, or that its shape has no place for, and do something else.
	Elsewhere []Elsewhere
	words     capWords
}

// Cap is a key, where it is, what is printed on it, and the note that says what it does; 0 for what it does by itself.
type Cap struct {
	machine.Cap
	Printed string // alone
	Shifted string // with Shift, where that is no capital of it
	Dead    bool   // it waits for the next key
	Broken  bool
	Free    bool // nothing is on it with the modifiers that are held
	Note    int
}

// Note is what keys do.
type Note struct {
	Number int
	Kind   Kind
	Short  string // in a word or two, for the cap
	Does   string
	Acts   keys.Key // as which key; keys.None for anything else
	Rules  []string // that say so; none for what the system or the desktop does
	By     string   // who does it, where no rule says so
}

// Elsewhere is a key without a place in the picture.
type Elsewhere struct {
	Key  keys.Key
	Note int
}

// Asked is what is to be shown.
type Asked struct {
	Board, Layer, Hold string
	Layers             bool // each layer that there is, beside
}

// All are the boards of a machine, or the one that is asked for; where it names none, one that stands for every board.
// The error says that there is no such board, layer or modifier.
func All(s *station.Station, asked Asked) ([]*Board, error) {
	names := []string{asked.Board}
	if own := s.Build().Machine.Boards; asked.Board == "" && len(own) > 0 {
		names = nil
		for _, b := range own {
			names = append(names, b.Name)
		}
	}
	var list []*Board
	for _, name := range names {
		asked.Board = name
		b, err := Of(s, asked)
		if err != nil {
			return nil, err
		}
		list = append(list, b)
		if !asked.Layers || asked.Layer != "" {
			continue
		}
		for _, layer := range b.Layers {
			of := asked
			of.Layer = layer
			if b, err = Of(s, of); err != nil {
				return nil, err
			}
			list = append(list, b)
		}
	}
	return list, nil
}

// Holds are the modifiers with which rules make hotkeys on a machine, those with most first, as Asked spells them.
func Holds(s *station.Station) (list []string) {
	count := map[string]int{}
	for _, l := range s.Build().Landings {
		c := l.Binding.Chord
		if l.Binding.Level != behaviour.Hotkey || c.Mods == 0 || c.Key == keys.None || l.Mechanism == nil {
			continue
		}
		name := strings.Join(c.Mods.Names(), "+")
		if count[name]++; count[name] == 1 {
			list = append(list, name)
		}
	}
	slices.SortStableFunc(list, func(a, b string) int { return count[b] - count[a] })
	return list
}

// Every is all the boards of machines, without those that do not have the board, the layer or the modifiers that are
// asked for. The error says that none has.
func Every(stations []*station.Station, asked Asked) (list []*Board, err error) {
	for _, s := range stations {
		boards, refused := All(s, asked)
		if err == nil {
			err = refused
		}
		list = append(list, boards...)
	}
	if len(list) > 0 {
		err = nil
	}
	return list, err
}

// Of is a board of a machine. The error says that there is no such board, layer or modifier.
func Of(s *station.Station, asked Asked) (*Board, error) {
	m := s.Build().Machine
	b := &Board{
		Machine: m.Name, Place: m.Machine.Place(), Name: asked.Board, Hold: asked.Hold, Layer: asked.Layer,
		Layout: m.Machine.Layouts[0],
	}
	var of *machine.Board
	if asked.Board != "" {
		at := slices.IndexFunc(m.Boards, func(o *machine.Board) bool { return o.Name == asked.Board })
		if at < 0 {
			return nil, fmt.Errorf("the machine %s has no board %q", m.Name, asked.Board)
		}
		of = m.Boards[at]
		b.Shape = machine.ShapeOf(of)
	}
	if b.Guessed = b.Shape.Kind == ""; b.Guessed {
		b.Shape.Kind = kind(m.Machine.Layouts[0])
	}
	inLayer := func(o behaviour.Binding) bool { return o.Layer == asked.Layer }
	if asked.Layer != "" && !slices.ContainsFunc(s.Read().Bindings, inLayer) {
		return nil, fmt.Errorf("the machine %s has no layer %q", m.Name, asked.Layer)
	}
	for _, o := range s.Read().Bindings {
		if o.Layer != "" && o.Layer != asked.Layer && !slices.Contains(b.Layers, o.Layer) {
			b.Layers = append(b.Layers, o.Layer)
		}
	}
	b.words = capWords{layout: m.Layouts[0], mac: b.Shape.Mac}
	return b, b.fill(s, m, of)
}

// fill puts the keys onto the board. The error says that what is held means nothing with any key.
func (b *Board) fill(s *station.Station, m *intent.Machine, of *machine.Board) error {
	words := b.words
	where := station.Where{Board: b.Name, Layer: b.Layer}
	var refused error
	means := false // what is asked for, of some key
	ask := func(k keys.Key) int {
		note, err := b.asked(s, k, where, words)
		if err == nil {
			means = true
		} else if refused == nil {
			refused = err
		}
		return note
	}
	pressable := desktop.Pressable()
	shown := map[keys.Key]int{}
	for _, at := range b.Shape.Caps() {
		if of != nil && slices.Contains(of.Lacks, at.Key) {
			continue
		}
		c := Cap{
			Cap: at, Printed: words.printed(at.Key), Shifted: words.shifted(at.Key), Dead: words.dead(at.Key),
			Broken: of != nil && slices.Contains(of.Broken, at.Key),
		}
		if note, twice := shown[at.Key]; twice || c.Broken {
			c.Note = note
		} else {
			c.Note = ask(at.Key)
		}
		shown[at.Key] = c.Note
		c.Free = b.Hold != "" && c.Note == 0 && !c.Broken && slices.Contains(pressable, at.Key)
		b.Caps = append(b.Caps, c)
	}
	for _, k := range keys.All() {
		if _, is := shown[k]; is || of != nil && slices.Contains(of.Lacks, k) {
			continue
		}
		if note := ask(k); note > 0 {
			b.Elsewhere = append(b.Elsewhere, Elsewhere{k, note})
		}
	}
	if !means { // of no key
		return refused
	}
	return nil
}

// kind is where the keys of a board most likely are that is sold with a layout.
func kind(layout string) string {
	switch layout {
	case "us", "us(intl)", "kr", "cn", "th":
		return "ansi"
	case "jp":
		return "jis"
	}
	return "iso"
}

// asked finds out what a key does, and numbers it; 0 for what it does by itself. The error says that the key means nothing
// with what is held.
func (b *Board) asked(s *station.Station, k keys.Key, where station.Where, words capWords) (int, error) {
	chord := k.String()
	if b.Hold != "" {
		chord = b.Hold + "+" + chord
	}
	answers, err := s.Ask(chord, where)
	if err != nil {
		return 0, err
	}
	for _, a := range answers {
		if a.Board != where.Board || a.Does == "" {
			continue
		}
		n := Note{Kind: kindOf(a.Effect), Short: words.short(a.Effect), Does: a.Does}
		if a.Effect.Kind == behaviour.Becomes && b.Hold == "" {
			n.Acts = a.Effect.Key
			if acts := a.Effect.String(); acts != a.Does && !strings.HasPrefix(a.Does, "types ") {
				n.Does = acts + "; " + a.Does
			}
		}
		if a.Begins {
			n.Kind, n.Short = Waits, "…"
		}
		switch {
		case a.Rule != nil:
			n.Rules = []string{mapping.Title(a.Rule)}
		case a.Wanted != "":
			n.Kind, n.Short, n.Does, n.Acts = Lost, "not here", "not as wanted: "+a.Wanted, keys.None
			n.Rules = []string{mapping.Title(a.Wish)}
		case a.Instead:
			n.Kind, n.Short, n.Rules = Lost, "elsewhere", []string{mapping.Title(a.Wish)}
		case b.Hold == "" && (a.Effect.Kind != behaviour.Becomes || a.Effect.Key != k):
			n.By = cmp.Or(a.Owner.Name, "the board's own firmware")
		case b.Hold != "" && a.Owner.Stage == "desktop":
			n.Kind, n.Short, n.By = Stock, a.Does, a.Owner.Name
		default:
			continue
		}
		return b.number(n), nil
	}
	return 0, nil
}

// number is that of a note; one that says the same is one.
func (b *Board) number(n Note) int {
	for i := range b.Notes {
		o := &b.Notes[i]
		if o.Does == n.Does && o.By == n.By && o.Kind == n.Kind && o.Acts == n.Acts {
			for _, r := range n.Rules {
				if !slices.Contains(o.Rules, r) {
					o.Rules = append(o.Rules, r)
				}
			}
			return o.Number
		}
	}
	n.Number = len(b.Notes) + 1
	b.Notes = append(b.Notes, n)
	return n.Number
}
