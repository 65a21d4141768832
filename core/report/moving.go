package report

import "leitstand/core/picture"

// Moving is what draw --caps says.
type Moving struct {
	Version int           `json:"version"`
	Boards  []MovingBoard `json:"boards"`
}

// MovingBoard says which caps of a board to move.
type MovingBoard struct {
	Machine string       `json:"machine"`
	Board   string       `json:"board,omitempty"` // "" for every board
	Comes   string       `json:"comes"`           // what it comes to
	Steps   []MovingStep `json:"steps"`
	Stay    []StayingCap `json:"stay"`
	// Wordless are keys that do what no cap says.
	Wordless []string `json:"wordless,omitempty"`
	Beyond   string   `json:"-"` // the same in a sentence
}

// MovingStep are caps that are moved together.
type MovingStep struct {
	Words string      `json:"words"`
	Moves []MovingCap `json:"moves"`
}

// MovingCap is a cap that goes from one key to another.
type MovingCap struct {
	Legend string `json:"legend"`
	From   string `json:"from"`
	To     string `json:"to"`
	Slope  bool   `json:"slope,omitempty"` // into another row, where boards with sloped caps have another slope
	Left   bool   `json:"left,omitempty"`  // for want of a better place
}

// StayingCap is a key whose cap lies about it, and is left.
type StayingCap struct {
	Key     string `json:"key"`
	Printed string `json:"printed"`
	Now     string `json:"now"`
	Why     string `json:"why"`
	Words   string `json:"words"`
}

// MovingOf is what draw --caps says of boards.
func MovingOf(boards []*picture.Board) Moving {
	said := Moving{Version: Version, Boards: []MovingBoard{}}
	for _, b := range boards {
		m := picture.Caps(b)
		of := MovingBoard{Machine: b.Machine, Board: b.Name, Steps: []MovingStep{}, Stay: []StayingCap{}}
		for _, ring := range m.Steps() {
			step := MovingStep{Words: ring.String()}
			for _, mv := range ring {
				step.Moves = append(
					step.Moves,
					MovingCap{mv.Legend, mv.From.String(), mv.To.String(), mv.Slope, mv.Left},
				)
			}
			of.Steps = append(of.Steps, step)
		}
		of.Comes, of.Beyond = m.Conclusion(), m.Beyond()
		for _, k := range m.Wordless {
			of.Wordless = append(of.Wordless, k.String())
		}
		for _, s := range m.Stay {
			of.Stay = append(of.Stay, StayingCap{s.Key.String(), s.Printed, s.Now, s.Why, s.String()})
		}
		said.Boards = append(said.Boards, of)
	}
	return said
}

// Beside is what draw --compare says.
type Beside struct {
	Version int          `json:"version"`
	Pairs   []BesidePair `json:"pairs"`
	// Alone are the boards that are on one side only.
	Alone []AloneBoard `json:"alone,omitempty"`
}

// AloneBoard is a board without one to be compared with.
type AloneBoard struct {
	Machine string `json:"machine"`
	Board   string `json:"board,omitempty"`
	From    string `json:"from,omitempty"` // the mapping
}

// BesidePair are two boards, and the keys that differ.
type BesidePair struct {
	Left        DrawnBoard      `json:"left"`
	Right       DrawnBoard      `json:"right"`
	Differences []KeyDifference `json:"differences"`
}

// KeyDifference is a key that does one thing on the left board, and another on the right one.
type KeyDifference struct {
	Key   string `json:"key"`
	Left  string `json:"left"`
	Right string `json:"right"`
}

// BesideOf is what draw --compare says of pairs, and of boards that have none.
func BesideOf(pairs []*picture.Compared, alone []*picture.Board) Beside {
	said := Beside{Version: Version, Pairs: []BesidePair{}}
	for _, b := range alone {
		said.Alone = append(said.Alone, AloneBoard{b.Machine, b.Name, b.From})
	}
	for _, c := range pairs {
		p := BesidePair{Left: DrawnOf(c.Left), Right: DrawnOf(c.Right), Differences: []KeyDifference{}}
		for _, d := range c.Differences {
			p.Differences = append(p.Differences, KeyDifference{d.Key.String(), d.Left, d.Right})
		}
		said.Pairs = append(said.Pairs, p)
	}
	return said
}
