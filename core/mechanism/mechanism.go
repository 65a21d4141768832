// Package mechanism is the common vocabulary of the native mechanisms: what one
// answers when it is asked for a press, and what it writes. Each mechanism has a
// folder of its own below this one.
package mechanism

import (
	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"slices"
)

// Verdict says how faithfully a rule lands on a machine, the worst first.
type Verdict uint8

// The verdicts.
const (
	Unavailable Verdict = iota // nothing does it: the system cannot, or we do not yet
	NeedsAgent                 // only a running process could do it
	Manual                     // a setting without a file: steps are written
	Limited                    // done, with a difference that is said
	Exact                      // done
)

var verdictNames = [...]string{"unavailable", "needs-agent", "manual", "limited", "exact"}

// String is the verdict as tables show it.
func (v Verdict) String() string { return verdictNames[v] }

// Phrase is the verdict behind what it is said of: "is unavailable".
func (v Verdict) Phrase() string {
	if v == NeedsAgent {
		return "needs an agent"
	}
	return "is " + v.String()
}

// Phrases is the same of several.
func (v Verdict) Phrases() string {
	if v == NeedsAgent {
		return "need an agent"
	}
	return "are " + v.String()
}

// VerdictNamed is the verdict of a name.
func VerdictNamed(name string) (Verdict, bool) {
	i := slices.Index(verdictNames[:], name)
	return Verdict(max(i, 0)), i >= 0
}

// MarshalText writes the verdict as String does.
func (v Verdict) MarshalText() ([]byte, error) { return []byte(v.String()), nil }

// Evidence says how we know that a mechanism does what its files say.
type Evidence uint8

// The kinds of evidence.
const (
	Documented Evidence = iota // by public documentation only
	Parsed                     // a parser of the system's formats read it back
	Tested                     // keys were pressed on the component in our tests
)

// String is the evidence in a word.
func (e Evidence) String() string { return [...]string{"documented", "parsed", "tested"}[e] }

// Stage is where on a key's way a mechanism works, the first stage first.
type Stage uint8

// The stages.
const (
	Kernel  Stage = iota // the driver or event system, before any layout
	Layout               // the keyboard layout
	Desktop              // the desktop's hotkeys
	Person               // somebody following written steps
)

// String is the stage in a word.
func (s Stage) String() string { return [...]string{"kernel", "layout", "desktop", "person"}[s] }

// When is the moment at which what a mechanism does takes effect.
type When uint8

// The moments, the soonest first.
const (
	Already      When = iota + 1 // the system does it by itself
	AtOnce                       // when the change is made
	Steps                        // when a person has followed the steps
	Reload                       // when the desktop reads its configuration again
	ProgramStart                 // when a program starts anew
	LogIn                        // at the next log-in at the latest
	Restart                      // when the machine starts anew
)

// String is the moment in a word or two.
func (w When) String() string {
	return [...]string{"", "already", "at once", "by steps", "reload", "program start", "log-in", "restart"}[w]
}

// Takes says in a phrase when something takes effect that the mechanism's own words do not cover.
func (w When) Takes() string {
	return map[When]string{ProgramStart: "in programs that start from then on", LogIn: "at the next log-in"}[w]
}

// Facts is what a mechanism says of itself.
type Facts struct {
	Name     string
	Stage    Stage
	Evidence Evidence
	Basis    string // what stands behind the evidence, in a few words
	When     When   // its files take effect
	Takes    string // the same as a sentence
	Everyone bool   // its files hold for all users of the machine
	Itself   bool   // the system does it by itself: there are no files
}

// Plain says whether a binding is one press of a key or chord that means the same
// everywhere: no layer, no sequence, no single program, no modifier alone, and no
// chord of one board only, since what matches chords does not see boards.
func Plain(b Binding) bool {
	return (b.Level == behaviour.Position || b.Level == behaviour.Hotkey && b.Board == "") &&
		b.Layer == "" && len(b.Then) == 0 && len(b.Apps) == 0 && b.Chord.Key != keys.None
}

// File is one native file.
type File struct {
	Path string // below the machine's folder, with slashes
	Data []byte
	Goes string // where it belongs on the machine, in the system's own spelling
}

// Output is what a mechanism writes for a machine: changes, of which all else comes.
type Output struct {
	Changes []change.Change
}

// Files are those of the compiled folder.
func (o Output) Files() []File {
	var files []File
	for _, f := range change.Folder(o.Changes) {
		files = append(files, File(f))
	}
	return files
}

// Steps is what a person does to make the changes, in order.
func (o Output) Steps() []Step {
	steps, _ := change.Steps(o.Changes)
	return steps
}

// Back is what a person does to have it as it was.
func (o Output) Back() []Step {
	_, back := change.Steps(o.Changes)
	return back
}

// Changed is what comes of changes.
func Changed(list []change.Change) Output { return Output{list} }

// Step is one line of a machine's STEPS.md, and the commands or settings that belong
// to it.
type Step = change.Step

// Machine and Binding are what mechanisms are asked about.
type (
	Machine = intent.Machine
	Binding = behaviour.Binding
)
