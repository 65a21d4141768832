// Package picture has what a picture of a board shows, as values: where each key is, what its cap says, and what it
// does on a machine. All that a key does is what the station says.
package picture

import (
	"fmt"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

// Board is a board of a machine as it behaves.
type Board struct {
	Machine string
	Name    string // of the board; "" for every board
	Kind    string // ansi, iso or jis
	Guessed bool   // the mapping does not say which kind
	Layout  string // by which the caps are labelled
	Hold    string // the modifiers that are held, "" for none
	Layer   string // that is on, "" for none
	Caps    []Cap
	Notes   []Note
	Layers  []string // those that the machine has beside
	// Elsewhere are the keys beyond the main block that do something else.
	Elsewhere []Elsewhere
}

// Cap is a key, where it is, what is printed on it, and the note that says what it does; 0 for what it does by itself.
type Cap struct {
	machine.Cap
	Printed string
	Note    int
}

// Note is what keys do.
type Note struct {
	Number int
	Does   string
	Rules  []string // that say so; none for what the system or the desktop does
	By     string   // who does it, where no rule says so
}

// Elsewhere is a key beyond the main block.
type Elsewhere struct {
	Key  keys.Key
	Note int
}

// Asked is what is to be shown.
type Asked struct {
	Board, Layer, Hold string
}

// Of is a board of a machine. The error says that there is no such board, layer or modifier.
func Of(s *station.Station, asked Asked) (*Board, error) {
	m := s.Build().Machine
	b := &Board{
		Machine: m.Name, Name: asked.Board, Hold: asked.Hold, Layer: asked.Layer, Layout: m.Machine.Layouts[0],
	}
	b.Kind, b.Guessed = kind(m.Machine.Layouts[0]), true
	if asked.Board != "" {
		at := slices.IndexFunc(m.Boards, func(o *machine.Board) bool { return o.Name == asked.Board })
		if at < 0 {
			return nil, fmt.Errorf("the machine %s has no board %q", m.Name, asked.Board)
		}
		for _, word := range m.Boards[at].Shape {
			if slices.Contains(machine.Kinds, word) {
				b.Kind, b.Guessed = word, false
			}
		}
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
	where := station.Where{Board: asked.Board, Layer: asked.Layer}
	var refused error
	means := false // what is asked for, of some key
	ask := func(k keys.Key) int {
		note, err := b.note(s, k, where)
		if err == nil {
			means = true
		} else if refused == nil {
			refused = err
		}
		return note
	}
	shown := map[keys.Key]bool{}
	for _, c := range machine.MainBlock(b.Kind) {
		note := ask(c.Key)
		shown[c.Key] = true
		b.Caps = append(b.Caps, Cap{c, printed(m.Layouts[0], c.Key), note})
	}
	for _, k := range keys.All() {
		if shown[k] {
			continue
		}
		if note := ask(k); note > 0 {
			b.Elsewhere = append(b.Elsewhere, Elsewhere{k, note})
		}
	}
	if !means { // of no key
		return nil, refused
	}
	return b, nil
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

// note finds out what a key does, and numbers it; 0 for what it does by itself. The error says that the key means nothing
// with what is held.
func (b *Board) note(s *station.Station, k keys.Key, where station.Where) (int, error) {
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
		n := Note{Does: a.Does}
		if a.Rule != nil {
			n.Rules = []string{mapping.Title(a.Rule)}
		} else if b.Hold == "" || a.Owner.Stage != "desktop" {
			continue
		} else {
			n.By = a.Owner.Name
		}
		return b.number(n), nil
	}
	return 0, nil
}

// number is that of a note; one that says the same is one.
func (b *Board) number(n Note) int {
	for i := range b.Notes {
		o := &b.Notes[i]
		if o.Does == n.Does && o.By == n.By {
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

// short are words for caps that have no character.
var short = map[string]string{
	"Escape": "Esc", "Backspace": "Bksp", "CapsLock": "Caps", "ShiftLeft": "Shift", "ShiftRight": "Shift",
	"ControlLeft": "Ctrl", "ControlRight": "Ctrl", "MetaLeft": "Meta", "MetaRight": "Meta", "AltLeft": "Alt",
	"AltRight":    "Alt",
	"ContextMenu": "Menu", "NonConvert": "無変換", "Convert": "変換", "KanaMode": "かな",
}

// printed is what the cap of a key says.
func printed(l *keys.Layout, k keys.Key) string {
	text := l.Cap(k)
	if word, ok := short[text]; ok {
		return word
	}
	if text == "Space" {
		return ""
	}
	return text
}
