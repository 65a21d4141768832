package target

import (
	"regexp"
	"slices"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
)

// Imported is what a file says that others may have written.
type Imported struct {
	Bindings []Binding
	Boards   []*mapping.Board // those that it singles out, under names of ours
	Left     []Left
}

// Left is a piece of a file that is not taken over.
type Left struct {
	File string `json:"file,omitempty"` // as the user calls it
	Line int    `json:"line,omitempty"` // 0 where a file has no lines
	Text string `json:"text"`           // what stands there
	Why  string `json:"why"`            // why it is left, or what it does
}

// Leave notes that a line is not taken over.
func (i *Imported) Leave(line int, text, why string) {
	i.Left = append(i.Left, Left{Line: line, Text: text, Why: why})
}

// SwitchOff notes chords that a file takes from the desktop's own actions, where it gives
// them nothing else to do.
func (i *Imported) SwitchOff(chords []keys.Chord) {
	for _, c := range chords {
		if !slices.ContainsFunc(i.Bindings, func(b Binding) bool { return b.Chord.Overlaps(c) }) {
			i.Bindings = append(i.Bindings, Binding{Level: behaviour.Hotkey, Chord: c, Effect: behaviour.Effect{Kind: behaviour.Nothing}})
		}
	}
}

// Pattern is a regular expression that is compiled when it is first asked for: hardly any
// run reads files of others.
func Pattern(text string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(text) })
}
