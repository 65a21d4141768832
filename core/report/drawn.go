package report

import (
	"cmp"

	"leitstand/core/picture"
)

// Drawn is what draw says.
type Drawn struct {
	Version int          `json:"version"`
	Boards  []DrawnBoard `json:"boards"`
}

// DrawnBoard is a board of a machine as it behaves.
type DrawnBoard struct {
	Machine string     `json:"machine"`
	From    string     `json:"from,omitempty"`  // the mapping, where two are compared
	Place   string     `json:"place"`           // the machine's system and desktop
	Board   string     `json:"board,omitempty"` // "" for every board
	Kind    string     `json:"kind"`            // ansi, iso or jis
	Guessed bool       `json:"guessed"`         // the mapping does not say which
	Form    string     `json:"form"`            // full, tenkeyless, compact or laptop
	Split   bool       `json:"split,omitempty"`
	Legends string     `json:"legends"` // pc or mac
	Layout  string     `json:"layout"`  // by which the caps are labelled
	Hold    string     `json:"hold,omitempty"`
	Layer   string     `json:"layer,omitempty"`
	Layers  []string   `json:"layers,omitempty"` // that the machine has beside
	Keys    []DrawnKey `json:"keys"`
	Notes   []Note     `json:"notes"`
}

// DrawnKey is a key: what its cap says, and the number of the note that says what it does. One with a place on the board
// has a row from the top, and where it begins and how wide it is, in quarters of a letter's key.
type DrawnKey struct {
	Key     string `json:"key"`
	Printed string `json:"printed,omitempty"`
	Shifted string `json:"shifted,omitempty"` // printed above, for Shift
	Block   string `json:"block,omitempty"`   // main, navigation or numpad; "" without a place
	Row     int    `json:"row"`               // -1 without a place
	From    int    `json:"from"`
	Width   int    `json:"width"`
	Rows    int    `json:"rows"`           // that it is high
	Half    int    `json:"half,omitempty"` // of its row: 1 the upper, 2 the lower
	Dead    bool   `json:"dead,omitempty"` // by itself, it waits for the next key
	Broken  bool   `json:"broken,omitempty"`
	Free    bool   `json:"free,omitempty"` // with what is held, nothing is on it
	Note    int    `json:"note,omitempty"`
}

// Note is what keys do.
type Note struct {
	Number int      `json:"number"`
	Kind   string   `json:"kind"`  // key, modifier, types, layer, starts, does, off, two, waits, by itself or lost
	Short  string   `json:"short"` // in a word or two
	Does   string   `json:"does"`
	Rules  []string `json:"rules,omitempty"`
	By     string   `json:"by,omitempty"` // where no rule says so
}

// DrawnAll is what draw says of boards.
func DrawnAll(boards []*picture.Board) Drawn {
	said := Drawn{Version: Version, Boards: []DrawnBoard{}}
	for _, b := range boards {
		said.Boards = append(said.Boards, DrawnOf(b))
	}
	return said
}

// DrawnOf is what draw says of a board.
func DrawnOf(b *picture.Board) DrawnBoard {
	d := DrawnBoard{
		Machine: b.Machine, From: b.From, Place: b.Place, Board: b.Name, Kind: b.Shape.Kind, Guessed: b.Guessed,
		Form: cmp.Or(b.Shape.Form, "full"), Split: b.Shape.Split, Legends: "pc", Layout: b.Layout, Hold: b.Hold,
		Layer: b.Layer, Layers: b.Layers, Keys: []DrawnKey{}, Notes: []Note{},
	}
	if b.Shape.Mac {
		d.Legends = "mac"
	}
	for _, c := range b.Caps {
		d.Keys = append(d.Keys, DrawnKey{
			Key: c.Key.String(), Printed: c.Printed, Shifted: c.Shifted, Block: c.Block, Row: c.Row, From: c.From,
			Width: c.Width, Rows: c.Rows, Half: c.Half, Dead: c.Dead, Broken: c.Broken, Free: c.Free, Note: c.Note,
		})
	}
	for _, e := range b.Elsewhere {
		d.Keys = append(d.Keys, DrawnKey{Key: e.Key.String(), Row: -1, Note: e.Note})
	}
	for _, n := range b.Notes {
		d.Notes = append(d.Notes, Note{n.Number, string(n.Kind), n.Short, n.Does, n.Rules, n.By})
	}
	return d
}
