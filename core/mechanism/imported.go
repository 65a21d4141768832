package mechanism

import (
	"fmt"
	"regexp"
	"slices"
	"sync"

	"leitstand/core/keys"
	"leitstand/core/machine"
)

// Imported is what a file says that others may have written.
type Imported struct {
	Bindings []Binding
	Boards   []*machine.Board // those that it singles out, under names of ours
	Left     []Left
	Passed   []string // the kinds of settings in the file that are not about keys
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

// Free notes chords that a file takes from the desktop's own actions without giving them
// anything else to do: from then on they reach programs. That is not the same as a chord
// that is switched off, which reaches nobody.
func (i *Imported) Free(line int, text string, chords []keys.Chord) {
	for _, c := range chords {
		if !slices.ContainsFunc(i.Bindings, func(b Binding) bool { return b.Chord.Overlaps(c) }) {
			i.Leave(
				line,
				text,
				fmt.Sprintf(
					"%s is free: the desktop leaves it to programs, for which the language has no word; disable "+
						"would take it from them, too",
					c,
				),
			)
		}
	}
}

// Freed is chords that a line of a file takes from the desktop's actions.
type Freed struct {
	Line   int
	Text   string
	Chords []keys.Chord
}

// Pass notes that a file holds settings of a kind that is not about keys.
func (i *Imported) Pass(kind string) {
	if !slices.Contains(i.Passed, kind) {
		i.Passed = append(i.Passed, kind)
	}
}

// Pattern is a regular expression that is compiled when it is first asked for: hardly any
// run reads files of others.
func Pattern(text string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(text) })
}
