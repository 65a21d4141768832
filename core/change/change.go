// Package change has what happens to a user's machine as values: a file that is put in
// place, a line in a file that others own, a setting of a store, an item of a list that
// others own, a word to a running program.
//
// A mechanism lists changes, and everything else comes of the list: the files of a compiled
// folder, the steps that a person takes, those that take all back, and the proof, which
// carries the changes out on a simulated machine and reads that machine.
package change

// Change is one thing that happens to a machine: a File, a Line, a Block, a Setting, a Member, a
// Call or a Hand.
type Change interface {
	// Note is what is said of every change.
	Note() About
	isChange()
}

// About is what is said of every change.
type About struct {
	Serves   []string // the presses that it serves, by their names; several may share a change
	In       string   // the file below the machine's folder that holds it, with slashes
	Says     string   // what a person who does it is told, as a sentence
	Unsays   string   // what is told who takes it back
	Everyone bool     // it is for all users, and an administrator's to do
	Takes    string   // when it takes effect, where that is later than what else the mechanism does
	Shown    bool     // the file is none of the compiled ones: only a machine's view has it
}

// Note is what is said of the change.
func (a About) Note() About { return a }

// File is a file of ours.
type File struct {
	About
	Path string // on the machine; ~ is the user's home
	Data []byte // nil for none
	// Merged: what a user has there is merged into it, so it is not just these bytes then.
	Merged bool
}

// Line is a line at the end of a file that others own, and begin from another where there is
// none.
type Line struct {
	About
	Path string
	Text string
	From string // the file that it begins from, "" for an empty one
	Gone bool   // the line is taken out
	// After and Before are what the file had after the change that this one takes back, and
	// before it: where nobody else has written into it since, it gets just that.
	After, Before []byte
}

// Block is lines of ours in a file that others own, between two that mark them, at the end where
// there are none yet.
type Block struct {
	About
	Path         string
	Begins, Ends string // how the first and the last line begin
	Text         string // with both; "" for none
	First        string // what a file that is new begins with
	// After and Before are as those of a Line.
	After, Before []byte
}

// Setting is a value of a store.
type Setting struct {
	About
	Store string // as below
	Key   string
	To    Value // nil for none
	// Default is what the key is when nobody has set it, where that is known.
	Default Value
	Label   string // what the desktop's panel calls it, where the store asks for that
	// Merged is how the value is put beside what is there: "" for in its place. Values that are merged have a
	// file of their own.
	Merged Merging
	// Sole: no other key of the same folder may have the value. An install removes it from the others and restores it
	// to them later. A Sole setting without a value is such a removal.
	Sole bool
	// Assumed: every machine that runs has it, so nobody sets it; a file of the store's own
	// form would mean something else without it.
	Assumed bool
	// Expects is the value that the key must have for the change to be made, if Held: who
	// takes a change back must not undo what others have set since.
	Expects Value
	Held    bool
}

// Merging is how a value is put beside the one that is there.
type Merging string

// The ways: letters of a text; the pairs of Windows's scancode map, of which ours go before those of the same key; and
// the chords of an action, beside which those stay that a user has added to the action's own, which Default has.
const (
	Letters   Merging = "letters"
	Scancodes Merging = "scancodes"
	Chords    Merging = "chords"
)

// Member is an item of a list in a store that others own.
type Member struct {
	About
	Store string
	Key   string
	Item  string
	// Between parts the items where the store has the list as one text; "" for a list of texts.
	Between string
	Gone    bool // the item is taken out
	// After and Before are what the key had after the change that this one takes back, and
	// before it: where nobody else has changed it since, it gets just that.
	After, Before Value
}

// Call is a word to a running program, and the one that takes it back: a program and its
// arguments, or sh -c and a line of shell.
type Call struct {
	About
	// Command names what it runs, on Linux, where it is installed.
	Command  Command
	Do, Undo []string // nil for none
	// InTurn: it is taken back in its turn, before the changes that came before it. Else the
	// program is told at last, when all is as it was.
	InTurn bool
	// Holds is a line of shell, or of a batch file, that succeeds where it holds, "" for none.
	Holds string
}

// Hand is what a person does: a setting that is in no file, a restart.
type Hand struct {
	About
	Lines []string // what is to be entered, as it stands
	// InTurn: it is undone in reverse order, before the changes that precede it. Otherwise it is undone last.
	InTurn bool
	// Ends is what must end before this can be done. Without Says, ending it is the whole step; several such steps are one.
	Ends Ending
}

// Ending is what must end for changes to take effect.
type Ending int

// The endings, the longest last.
const (
	EndsNothing Ending = iota
	EndsSession        // the user signs out and in
	EndsMachine        // the machine is restarted
)

// String says what a person does.
func (e Ending) String() string {
	return [...]string{"", "Sign out and in again.", "Restart the machine."}[e]
}

func (File) isChange()    {}
func (Line) isChange()    {}
func (Block) isChange()   {}
func (Setting) isChange() {}
func (Member) isChange()  {}
func (Call) isChange()    {}
func (Hand) isChange()    {}

// The stores of settings. A key of Xfconf is a channel and a property's path, with a colon
// between.
const (
	Dconf    = "dconf"
	Xfconf   = "xfconf"
	KDE      = "kde"
	Keeper   = "kglobalaccel"
	Registry = "registry"
	Defaults = "defaults"
)

// Value is a typed value of a store: a Text, Texts, an Int, an Unsigned, a Bool,
// Bytes, or a Raw.
type Value interface{ isValue() }

// The types of values. Raw is a value of a type that is not ours, as its store spells it.
type (
	Text     string
	Texts    []string
	Int      int
	Unsigned uint
	Bool     bool
	Bytes    string
	Raw      string
)

func (Text) isValue()     {}
func (Texts) isValue()    {}
func (Int) isValue()      {}
func (Unsigned) isValue() {}
func (Bool) isValue()     {}
func (Bytes) isValue()    {}
func (Raw) isValue()      {}
