package report

import (
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
	Board   string     `json:"board,omitempty"` // "" for every board
	Kind    string     `json:"kind"`            // ansi, iso or jis
	Guessed bool       `json:"guessed"`         // the mapping does not say which
	Layout  string     `json:"layout"`          // by which the caps are labelled
	Hold    string     `json:"hold,omitempty"`
	Layer   string     `json:"layer,omitempty"`
	Layers  []string   `json:"layers,omitempty"` // that the machine has beside
	Keys    []DrawnKey `json:"keys"`
	Notes   []Note     `json:"notes"`
}

// DrawnKey is a key: what its cap says, and the number of the note that says what it does. Of the main block it has a
// row from the top, and where it begins and how wide it is, in quarters of a letter's key.
type DrawnKey struct {
	Key     string `json:"key"`
	Printed string `json:"printed,omitempty"`
	Row     int    `json:"row"` // -1 beyond the main block
	From    int    `json:"from"`
	Width   int    `json:"width"`
	Note    int    `json:"note,omitempty"`
}

// Note is what keys do.
type Note struct {
	Number int      `json:"number"`
	Does   string   `json:"does"`
	Rules  []string `json:"rules,omitempty"`
	By     string   `json:"by,omitempty"` // where no rule says so
}

// DrawnOf is what draw says of a board.
func DrawnOf(b *picture.Board) DrawnBoard {
	d := DrawnBoard{
		Machine: b.Machine, Board: b.Name, Kind: b.Kind, Guessed: b.Guessed, Layout: b.Layout, Hold: b.Hold, Layer: b.Layer,
		Layers: b.Layers,
		Keys:   []DrawnKey{}, Notes: []Note{},
	}
	for _, c := range b.Caps {
		d.Keys = append(d.Keys, DrawnKey{c.Key.String(), c.Printed, c.Row, c.From, c.Width, c.Note})
	}
	for _, e := range b.Elsewhere {
		d.Keys = append(d.Keys, DrawnKey{Key: e.Key.String(), Row: -1, Note: e.Note})
	}
	for _, n := range b.Notes {
		d.Notes = append(d.Notes, Note(n))
	}
	return d
}
