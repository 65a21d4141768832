package behaviour

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"leitstand/core/keys"
)

// Kind is what happens.
type Kind uint8

// The kinds of effects.
const (
	Becomes  Kind = iota // the key acts as Effect.Key
	Nothing              // the press does nothing
	Modifier             // the key acts as the modifiers Effect.Mods
	Sends                // the chord Effect.Chord arrives instead
	Types                // the text Effect.Text is typed
	TapHold              // Effect.Tap when tapped, Effect.Hold when held
	Layers               // the layer Effect.Layer is switched on, by Effect.How
	Leaves               // the layer Effect.Layer is left
	Composes             // a compose sequence begins
	Launches             // Effect.Launch() is started
	Acts                 // the desktop does Effect.Action
	Chooses              // the item Effect.Item() of the program's menus is chosen
	Plays                // the steps Effect.Steps() are played
	Sets                 // a setting is Effect.Value
	Other                // Effect.Words says what; only found in files, never meant
)

// Effect is what a press does.
type Effect struct {
	Kind      Kind
	How       Switch // of the layer
	Dead      bool   // keys without a meaning in the layer do nothing
	Key       keys.Key
	Mods      keys.Mods
	Chord     keys.Chord
	Text      string
	Tap, Hold *Effect
	Within    time.Duration // how long a tap may last
	Layer     string
	Action    string
	Value     Value
	Words     string
	rest      *rest // nil for most: there are many effects
}

// rest is what only some effects have, and is large. It is not changed once it is made.
type rest struct {
	launch Launch
	item   []string
	steps  []Step
}

// Launching is the effect of starting something.
func Launching(l Launch) Effect { return Effect{Kind: Launches, rest: &rest{launch: l}} }

// Choosing is the effect of choosing from a program's menus, by titles from the menu to the item.
func Choosing(item []string) Effect { return Effect{Kind: Chooses, rest: &rest{item: item}} }

// Playing is the effect of playing steps one after the other.
func Playing(steps []Step) Effect { return Effect{Kind: Plays, rest: &rest{steps: steps}} }

// Launch is what Launches starts.
func (e *Effect) Launch() Launch { return e.more().launch }

// Item is what Chooses chooses: titles, from the menu to the item.
func (e *Effect) Item() []string { return e.more().item }

// Steps are what Plays plays.
func (e *Effect) Steps() []Step { return e.more().steps }

var nothingMore rest

func (e *Effect) more() *rest { return cmp.Or(e.rest, &nothingMore) }

func (r *rest) equal(o *rest) bool {
	return r == o || slices.Equal(r.steps, o.steps) && slices.Equal(r.item, o.item) && r.launch.Equal(o.launch)
}

// Switch is how a layer is switched on.
type Switch uint8

// The ways to switch a layer on.
const (
	NoSwitch Switch = iota
	While           // as long as the key is held
	Toggle          // until it is pressed again, or the layer is left
	Once            // for the next key
)

// switches are the ways to switch a layer on, as a mapping names them.
var switches = [...]string{"", "while", "toggle", "once"}

func (s Switch) String() string { return switches[s] }

// SwitchNamed is a way to switch a layer on by its name.
func SwitchNamed(name string) Switch { return Switch(max(0, slices.Index(switches[:], name))) }

// Launch is a program, or a thing to open with the program it belongs to.
type Launch struct {
	App     string   // the system's own identifier of a program, or
	Command []string // program and arguments, or
	Open    string   // a web address or file
	Dir     string   // the folder to start in, "" for the usual one
	Confirm bool     // asks first
}

// Step is one step of a macro: exactly one of its fields is set.
type Step struct {
	Press         keys.Chord
	Hold, Release keys.Key
	Wait          time.Duration
	Type          string
}

// String is the step in words.
func (s Step) String() string {
	switch {
	case s.Hold != keys.None:
		return "hold " + s.Hold.String()
	case s.Release != keys.None:
		return "release " + s.Release.String()
	case s.Wait != 0:
		return "wait " + s.Wait.String()
	case s.Type != "":
		return fmt.Sprintf("type %q", s.Type)
	default:
		return "press " + s.Press.String()
	}
}

// String is the launch in words.
func (l Launch) String() string {
	what := "starts nothing"
	switch {
	case l.Open != "":
		what = "opens " + l.Open
	case l.App != "":
		what = "starts " + l.App
	case len(l.Command) > 0:
		what = "runs " + strings.Join(quoteWords(l.Command), " ")
	}
	if l.Dir != "" {
		what += " in " + l.Dir
	}
	if l.Confirm {
		what += ", after asking"
	}
	return what
}

func quoteWords(words []string) []string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = w
		if w == "" ||
			strings.ContainsFunc(w, func(r rune) bool { return r <= ' ' || r == '"' || r == '\'' || r == '\\' }) {
			quoted[i] = fmt.Sprintf("%q", w)
		}
	}
	return quoted
}

// String is the effect in words.
func (e Effect) String() string {
	switch e.Kind {
	case Becomes:
		return "acts as " + e.Key.String()
	case Nothing:
		return "does nothing"
	case Modifier:
		return "acts as " + strings.Join(e.Mods.Names(), "+")
	case Sends:
		return "gives " + e.Chord.String()
	case Types:
		return fmt.Sprintf("types %q", e.Text)
	case TapHold:
		return fmt.Sprintf("tapped within %s %s, held %s", e.Within, e.Tap, e.Hold)
	case Layers:
		return map[Switch]string{
			While: "holds layer ", Toggle: "switches to layer ", Once: "takes the next key from layer ",
		}[e.How] + e.Layer
	case Leaves:
		return "leaves layer " + e.Layer
	case Composes:
		return "acts as Compose"
	case Launches:
		return e.Launch().String()
	case Acts:
		return "does " + e.Action
	case Chooses:
		return "chooses " + strings.Join(quoteWords(e.Item()), " › ") + " in the menus"
	case Plays:
		parts := make([]string, len(e.Steps()))
		for i, s := range e.Steps() {
			parts[i] = s.String()
		}
		return "plays " + strings.Join(parts, ", ")
	case Sets:
		return "is " + e.Value.String()
	default:
		return e.Words
	}
}

// Equal says whether two effects are the same.
func (e Effect) Equal(o Effect) bool {
	same := e.Kind == o.Kind && e.Key == o.Key && e.Mods == o.Mods && e.Chord == o.Chord && e.Text == o.Text &&
		e.Within == o.Within &&
		e.Layer == o.Layer && e.How == o.How && e.Dead == o.Dead && e.Action == o.Action &&
		reflect.DeepEqual(e.Value, o.Value) &&
		e.Words == o.Words
	return same && e.more().equal(o.more()) && alike(e.Tap, o.Tap) && alike(e.Hold, o.Hold)
}

func alike(a, b *Effect) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Equal(*b)
}

// Equal says whether two launches are the same.
func (l Launch) Equal(o Launch) bool {
	return l.App == o.App && l.Open == o.Open && l.Dir == o.Dir && l.Confirm == o.Confirm &&
		slices.Equal(l.Command, o.Command)
}
