package report

import (
	"fmt"

	"leitstand/core/host"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// Boards is what boards says.
type Boards struct {
	Version   int        `json:"version"`
	Keyboards []Attached `json:"keyboards"`
	Others    []Attached `json:"others"` // that have keys, and are no keyboards
	// The boards of the mapping that are not attached.
	Absent []string `json:"absent"`
}

// Attached is a device with keys.
type Attached struct {
	Name  string `json:"name"`
	ID    string `json:"id,omitempty"` // as a mapping spells it
	What  string `json:"what"`
	Board string `json:"board,omitempty"` // of the mapping
}

// BoardsOf is what boards says of the devices that are attached, and the boards of a mapping.
func BoardsOf(list []host.Attached, boards []*machine.Board) Boards {
	r := Boards{Version: Version, Keyboards: []Attached{}, Others: []Attached{}, Absent: []string{}}
	present := map[*machine.Board]bool{}
	for _, d := range list {
		a := Attached{Name: d.Name, What: d.Why}
		if d.Identified {
			a.ID = d.ID.String()
		}
		if b := d.Match(boards); b != nil {
			a.Board, present[b] = b.Name, true
		}
		if d.Keyboard {
			r.Keyboards = append(r.Keyboards, a)
		} else {
			r.Others = append(r.Others, a)
		}
	}
	for _, b := range boards {
		if !present[b] {
			r.Absent = append(r.Absent, b.Name)
		}
	}
	return r
}

// Learned is a key that was pressed, and what is known of it.
type Learned struct {
	Key   string // its code; "" for one without a name here
	Event string // the kernel's code
	Scan  string // what the board sends, "" if the driver does not say
	Board string // of the mapping, or else the device's name; "" where a terminal tells the key
	Text  string // the character that the key bears, where a terminal tells it
	Place bool   // the terminal tells the place on the board, not just the character
	// What it does, on the machine of the mapping that this one is.
	Answers []Answer
}

// LearnedOf is what is known of a key that was pressed on a device.
func LearnedOf(e host.KeyEvent, d host.Attached, board *machine.Board) Learned {
	l := Learned{Event: fmt.Sprint(e.Code), Board: d.Name}
	if board != nil {
		l.Board = board.Name
	}
	if k, ok := keys.ByEvdev(e.Code); ok {
		l.Key = k.String()
	}
	if e.Scan != 0 {
		l.Scan = fmt.Sprintf("%x", e.Scan)
	}
	return l
}

// LearnedInTerminal is what is known of a key that a terminal reports.
func LearnedInTerminal(r host.Reported) Learned {
	l := Learned{Text: r.Text, Place: r.Place}
	if r.Key != keys.None {
		l.Key = r.Key.String()
	}
	return l
}
