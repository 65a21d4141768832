package report

// Free is what chords --free says.
type Free struct {
	Version int        `json:"version"`
	Free    []FreeKeys `json:"free"`
}

// FreeKeys are the keys with which modifiers make a chord that no machine uses.
type FreeKeys struct {
	Modifiers string   `json:"modifiers"`
	Keys      []string `json:"keys"`
}

// Chords is what chords says.
type Chords struct {
	Version int     `json:"version"`
	Chords  []Chord `json:"chords"`
}

// Chord is a chord that is taken, and by what, by machine.
type Chord struct {
	Chord string            `json:"chord"`
	By    map[string]string `json:"by"`
}
