package mapping

import (
	"slices"
	"time"

	"leitstand/core/diag"
	"leitstand/core/keys"
)

// Kind names a kind of rule.
type Kind string

// The kinds of rules.
const (
	KindHands        Kind = "hands"
	KindSwap         Kind = "swap"
	KindHyper        Kind = "hyper"
	KindRemap        Kind = "remap"
	KindDisable      Kind = "disable"
	KindLaunch       Kind = "launch"
	KindAction       Kind = "action"
	KindMenu         Kind = "menu"
	KindLayer        Kind = "layer"
	KindSnippet      Kind = "snippet"
	KindAbbreviation Kind = "abbreviation"
	KindMacro        Kind = "macro"
	KindRepeat       Kind = "repeat"
	KindNative       Kind = "native"
)

// Rule is one statement of the mapping: one of the types of this file.
type Rule interface{ Head() *Common }

// Common is what all rules share.
type Common struct {
	Kind     Kind
	Range    diag.Range // the block's header, or its line among many
	Scope    Scope
	Group    string // the group it stands in, "" for none
	Why      string // the user's reason, shown in every listing
	Enabled  bool
	Need     string   // the verdict that it needs at least; "" for none
	Override bool     // takes the chord from its present owner
	Everyone bool     // for all users of the machine
	Apps     []Text   // only while one of these programs is in front
	Allow    []string // codes of findings that are meant
}

// Head returns the shared part itself, so that embedding it makes a Rule.
func (c *Common) Head() *Common { return c }

// Allows says whether a finding of a rule on a machine is meant.
func Allows(r Rule, m *Machine, code string) bool {
	if code == "needs-agent" && Allows(r, m, "unavailable") { // which is worse
		return true
	}
	return r != nil && slices.Contains(r.Head().Allow, code) || slices.Contains(m.Allow, code)
}

// Trigger is what sets a rule off: a position on the board, or what the system
// sees: a chord, several in sequence, or one modifier alone.
type Trigger struct {
	Key     keys.Key  // of a position; None otherwise
	Strokes []ChordAt // of what the system sees
	Range   diag.Range
}

// Output is what a press gives: exactly one of these, or nothing at all where there is no
// output. The last four are for keys of a layer only.
type Output struct {
	Key     keys.Key
	Chord   *keys.Spelling
	Text    string
	Compose bool // the key that begins a compose sequence
	Action  string
	Off     bool // the key does nothing
	Program *Program
	Steps   []Step
	TapHold *TapHold
	Range   diag.Range
}

// Given says whether there is an output.
func (o Output) Given() bool {
	return o.Key != keys.None || o.Chord != nil || o.Text != "" || o.Action != "" || o.Compose || o.Off ||
		o.Program != nil ||
		o.Steps != nil ||
		o.TapHold != nil
}

// TapHold is what a key gives that does two things.
type TapHold struct {
	Tap, Hold Output
	Within    time.Duration // how long a tap may last
}

// Program is what a launch starts: exactly one of App, Run and Open.
type Program struct {
	App     Text   // the name of an app block
	Run     []Text // program and arguments
	Open    Text   // a web address or a file
	Dir     Text   // the folder to start in, if not ""
	Confirm bool   // asks first
}

// DefaultWithin is the time within which a press counts as a tap.
const DefaultWithin = 200 * time.Millisecond

// Hands says where the hands expect the modifiers; exactly one of Order and
// Primary is given.
type Hands struct {
	Common
	Order   []Text // Ctrl, Alt, Meta from the corner to the space bar
	Primary string // "corner" or "thumb": where the main shortcut modifier lies
	Both    bool   // on the right side, too
}

// Swap exchanges two keys.
type Swap struct {
	Common
	A, B KeyAt
}

// Hyper makes a key one more modifier.
type Hyper struct {
	Common
	Key      KeyAt
	Tap      Output        // what a tap gives, if Given
	Within   time.Duration // how long a tap may last
	As       *Modifier     // the modifiers it stands for, by system; nil for what the machine can have
	Fallback KeyAt         // what the key is where no Hyper can be had, if not None
	Instead  keys.Mods     // what chords with Hyper take there, 0 if not said
}

// Remap makes a press give something else: To, or Tap and Hold.
type Remap struct {
	Common
	From      Trigger
	To        Output
	Tap, Hold Output
	Within    time.Duration
	Fallback  KeyAt // what a position is where a tap cannot be told from a hold
}

// Disable switches keys and chords off.
type Disable struct {
	Common
	Presses []Trigger
}

// Launch starts a program, or opens a file or web page.
type Launch struct {
	Common
	Program
	Press    Trigger
	Fallback []Trigger // tried in order where Press cannot be had
}

// Action has the desktop do something it can do by itself.
type Action struct {
	Common
	Press    Trigger
	Fallback []Trigger
	Does     Text // a name of package action
	Confirm  bool // asks first, or is not done
}

// Menu chooses an item of a program's menu.
type Menu struct {
	Common
	Press    Trigger
	Fallback []Trigger
	Item     []Text // its title, or those of the menus that lead to it before it
}

// How says how a layer is switched on.
type How string

// The ways to switch a layer on.
const (
	While  How = "while"  // it is held
	Toggle How = "toggle" // until the key is pressed again, or Leave
	Once   How = "once"   // for the next key only
)

// Layer gives keys another meaning for a while.
type Layer struct {
	Common
	Name     Text
	How      How
	Key      KeyAt
	Tap      Output // what a tap of a held layer's key gives, if Given
	Within   time.Duration
	Fallback KeyAt // what the key is where it cannot switch the layer on as said, if not None
	Leave    KeyAt // leaves a toggled layer, beside its own key; None if there is none
	Dead     bool  // keys without a meaning in the layer do nothing
	Keys     []LayerKey
}

// LayerKey is one key of a layer.
type LayerKey struct {
	Key KeyAt
	Out Output
}

// Snippet types a text, by a press or in place of an abbreviation.
type Snippet struct {
	Common
	Press        Trigger
	Fallback     []Trigger
	Abbreviation Text   // "" for a snippet by a press
	End          string // what ends an abbreviation: "space", "any" or "none"
	Case         string // "exact", "any", or "follow" the case it was typed in
	Text         Text
}

// Macro plays steps in order.
type Macro struct {
	Common
	Press    Trigger
	Fallback []Trigger
	Steps    []Step
}

// Verb is what a step of a macro does.
type Verb string

// The steps of a macro.
const (
	PressKey Verb = "press"   // a chord, down and up
	HoldKey  Verb = "hold"    // a key, down
	Release  Verb = "release" // a key, up
	Wait     Verb = "wait"    // a pause
	Type     Verb = "text"    // typed
)

// Step is one step of a macro.
type Step struct {
	Verb  Verb
	Chord keys.Spelling // of press
	Key   keys.Key      // of hold and release
	Pause time.Duration // of wait
	Text  string        // of type
	Range diag.Range
}

// Repeat says how keys repeat while they are held.
type Repeat struct {
	Common
	Delay         time.Duration // before the first repetition, 0 if not said
	Rate          int           // repetitions a second, 0 if not said
	Accents       *bool         // whether holding a letter offers its accents, nil if not said
	Never, Always []KeyAt
}

// Native passes settings through for which the language has no word.
type Native struct {
	Common
	For      Text // the system or desktop they are for
	Settings []Setting
}

// Setting is one native setting. Value is a string, a list of them, an int64 or a bool.
type Setting struct {
	Name  Text
	Value any
}
