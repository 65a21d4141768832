// Package compile lands a resolved mapping on a machine's native mechanisms and
// gathers their files. The mechanisms are asked from the lowest stage up, and
// each press lands in exactly one of them: the one with the best verdict, the
// lower one where two are equal.
package compile

import (
	"cmp"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
	"leitstand/core/target"
	"leitstand/core/target/compose"
	"leitstand/core/target/console"
	"leitstand/core/target/dconf"
	"leitstand/core/target/hidutil"
	"leitstand/core/target/hwdb"
	"leitstand/core/target/i3"
	"leitstand/core/target/native"
	"leitstand/core/target/plasma"
	"leitstand/core/target/scancodemap"
	"leitstand/core/target/shelllink"
	"leitstand/core/target/steps"
	"leitstand/core/target/stock"
	"leitstand/core/target/xfce"
	"leitstand/core/target/xkb"
)

// Target is one native mechanism.
type Target interface {
	Facts() target.Facts
	// Serves says whether the machine has the mechanism.
	Serves(m *target.Machine) bool
	// Take says how well a press would land in it.
	Take(m *target.Machine, b target.Binding) target.Answer
	// Write makes files and steps of the presses that landed in it.
	Write(m *target.Machine, list []target.Binding) (target.Output, error)
}

// asking is a mechanism of a desktop that may ask before it does something.
type asking interface {
	Asks(m *target.Machine, action string) bool
}

// general is a mechanism that has a place for all users beside the user's own.
type general interface {
	FactsForAll() target.Facts
}

// Reader is a mechanism whose files can be read back.
type Reader interface {
	// Read says what the mechanism's files below a machine's folder do; no files
	// do nothing.
	Read(m *target.Machine, fsys fs.FS) ([]target.Binding, error)
}

// registry holds every mechanism, the lowest stage first.
var registry = []Target{
	hidutil.Target{},
	scancodemap.Target{},
	hwdb.Target{},
	xkb.Target{},
	console.Target{},
	compose.Target{},
	xfce.Target{},
	plasma.Target{},
	dconf.Target{Desktop: "gnome"},
	dconf.Target{Desktop: "mate"},
	dconf.Target{Desktop: "cinnamon"},
	i3.Target{},
	i3.Target{Sway: true},
	shelllink.Target{},
	stock.Target{},
	native.Target{Store: change.Dconf},
	native.Target{Store: change.Xfconf},
	native.Target{Store: change.KDE},
	native.Target{Store: change.Defaults},
	native.Target{Store: change.Registry},
	steps.Target{},
}

// Importer is a mechanism of whose kind others write files, too.
type Importer interface {
	// For is the machines whose files they are: a system, and a desktop or a session if
	// it is one only.
	For() machine.Machine
	// Knows says whether a file is of the mechanism's kind, by its name, with the folders as far
	// as they are known, and its text.
	Knows(name string, text []byte) bool
	// Import is what a file does on a machine, and what of it cannot be told; given holds
	// all files to read, by their names. The error says that the file as a whole cannot be
	// read.
	Import(m *target.Machine, text []byte, given fs.FS) (target.Imported, error)
}

// Importers lists the mechanisms that read files of others.
func Importers() []Importer {
	var list []Importer
	for _, t := range registry {
		if i, ok := t.(Importer); ok {
			list = append(list, i)
		}
	}
	return list
}

// serving lists the mechanisms of a machine.
func serving(m *target.Machine) []Target {
	var list []Target
	for _, t := range registry {
		if t.Serves(m) {
			list = append(list, t)
		}
	}
	return list
}

// Landing is where a press of the mapping ended up.
type Landing struct {
	*intent.Entry
	Target Target // nil where no mechanism takes it
	Answer target.Answer
	// Wished is the answer for what the rule asks for first, where something else stands
	// in for it.
	Wished target.Answer
	// Kept says that the system has the press for itself.
	Kept bool
}

// Facts is what the mechanism says of itself where the press landed in it: in the user's own
// place, or in that for all users.
func (l *Landing) Facts() target.Facts {
	if g, ok := l.Target.(general); ok && l.Answer.ForAll {
		return g.FactsForAll()
	}
	return l.Target.Facts()
}

// Verdict is how well what the rule asks for lands: never better for what stands in for it.
func (l *Landing) Verdict() target.Verdict {
	if l.Wish != nil {
		return min(l.Wished.Verdict, l.Answer.Verdict)
	}
	return l.Answer.Verdict
}

// Why are the reasons why the verdict is not better, none for a plain exact.
func (l *Landing) Why() reason.List {
	if l.Wish != nil && l.Answer.Verdict > target.Resident {
		return l.Wished.Why
	}
	return l.Answer.Why
}

// Build is one machine, compiled.
type Build struct {
	*intent.Intent
	Landings []Landing               // in the order of Entries
	Files    []target.File           // those that the system reads; Folder has all
	Used     []target.Facts          // the mechanisms that took something
	Place    func(diag.Range) string // names a line of the mapping
	parts    []part
	gone     []Gone // since the folder was compiled before
	undo     []part // how that is taken out
}

// carrier asks a machine's mechanisms for the intent's choice of fallbacks.
type carrier struct{ mechanisms []Target }

func (c *carrier) Carries(m *intent.Machine, b behaviour.Binding) bool {
	if c.mechanisms == nil {
		c.mechanisms = serving(m)
	}
	_, a := best(c.mechanisms, m, b)
	return a.Verdict >= target.ByHand
}

func best(list []Target, m *intent.Machine, b behaviour.Binding) (Target, target.Answer) {
	if b.Board != "" && b.Level == behaviour.Setting {
		if m.Desktop == "sway" && m.Session == "wayland" {
			return nil, target.Answer{Why: reason.SwayBoards.Of()}
		}
		return nil, target.Answer{Why: reason.AllBoardsAlike.Of()}
	}
	var winner Target
	var answer target.Answer
	worth := target.None
	for _, t := range list {
		if b.Level == behaviour.Typing && b.Board != "" {
			break // what makes a text of an abbreviation does not see boards
		}
		a := t.Take(m, b)
		if asks, ok := t.(asking); b.Confirm && a.Verdict > target.Resident && !(ok && asks.Asks(m, b.Effect.Action)) {
			a = target.Answer{Why: reason.NoQuestionAsked.Of(t.Facts().Name)}
		}
		v := a.Verdict
		if b.Everyone && v == target.Exact && !a.ForAll && !t.Facts().Everyone {
			v = target.Near // what is for one user only is no better than what is nearly for all
		}
		if v > worth {
			winner, answer, worth = t, a, v
		} else if answer.Verdict == target.None {
			answer.Why = answer.Why.And(a.Why...) // each has a reason of its own
		}
	}
	if answer.Verdict <= target.Resident {
		winner = nil
	}
	if winner == nil && len(answer.Why) == 0 {
		answer = beyondFiles(m.Machine, b)
	}
	return winner, answer
}

// Resolve works out what a mapping means on a machine, fallbacks chosen by what
// its mechanisms can have.
func Resolve(mp *mapping.Mapping, m *machine.Machine) (*intent.Intent, diag.List) {
	return intent.Resolve(mp, m, &carrier{})
}

// Machine compiles a mapping for one machine. What does not land in full is told
// as warnings, or as errors where the rule needs it exact.
func Machine(mp *mapping.Mapping, m *machine.Machine) (*Build, diag.List, error) {
	in, diags := Resolve(mp, m)
	b := &Build{Intent: in, Place: mp.Place, Landings: make([]Landing, 0, len(in.Entries))}
	mechanisms := serving(in.Machine)
	for i := range in.Entries {
		b.Landings = append(b.Landings, land(in, mechanisms, &in.Entries[i]))
	}
	b.fitTogether(mechanisms)
	for i := range b.Landings {
		l := &b.Landings[i]
		if len(l.Less) > 0 && l.Answer.Verdict > target.Near {
			l.Answer.Verdict = target.Near
		}
		l.Answer.Why = l.Answer.Why.And(l.Less...)
		if l.Binding.Everyone && l.Target != nil && !l.Facts().Everyone && !(l.at(target.Layout) && in.Machine.LayoutForAll) {
			l.Answer.Verdict, l.Answer.Why = min(l.Answer.Verdict, target.Near), l.Answer.Why.And(reason.OnlyThisUser.Of()...)
		}
	}
	diags = append(diags, findings(mp, b)...)
	if diags.HasErrors() {
		return b, diags, nil
	}
	taken := make([]target.Binding, 0, len(b.Landings))
	for _, t := range mechanisms {
		for _, forAll := range []bool{true, false} {
			first := len(taken)
			var facts target.Facts
			for i := range b.Landings {
				if l := &b.Landings[i]; l.Target == t && l.Answer.ForAll == forAll {
					taken, facts = append(taken, l.Binding), l.Facts()
				}
			}
			if len(taken) == first {
				continue
			}
			out, err := t.Write(in.Machine, taken[first:len(taken):len(taken)])
			if err != nil {
				return nil, diags, fmt.Errorf("machine %s: %w", m.Name, err)
			}
			facts = weighed(facts, b.Machine)
			b.Used = append(b.Used, facts)
			b.Files = append(b.Files, out.Files...)
			b.parts = append(b.parts, part{facts, out})
		}
	}
	return b, append(diags, setTwice(mp, b)...), nil
}

// land asks the mechanisms for an entry: for its wish, for what stands in for it, and for the place of
// a key that has no modifiers.
func land(in *intent.Intent, mechanisms []Target, e *intent.Entry) Landing {
	l := Landing{Entry: e}
	switch {
	case len(e.Missing) > 0:
		l.Answer.Why = e.Missing
	case len(e.Apart) > 0: // as hard as the same for that board only
		one := e.Binding
		one.Board = e.Apart[0]
		if t, a := answer(in, mechanisms, one); t == nil {
			l.Answer = a
		} else {
			l.Answer.Why = reason.BoardWithoutChord.Of()
		}
	default:
		l.Target, l.Answer = answer(in, mechanisms, e.Binding)
	}
	if l.Target == nil && len(e.Missing) == 0 && len(e.Apart) == 0 && aloneInItsPlace(in, e.Binding) {
		// A key without modifiers is a place on the board as well.
		at := *e
		at.Binding.Level = behaviour.Position
		k := keyOfAction(in, e)
		if k != keys.None {
			at.Binding.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: k}
		}
		if t, a := best(mechanisms, in.Machine, at.Binding); t != nil {
			if k != keys.None {
				a.Verdict, a.Why = min(a.Verdict, target.Near), a.Why.And(reason.KeyActsForIt.Of(e.Binding.Chord.Key, k)...)
			}
			l.Entry, l.Target, l.Answer = &at, t, a
		}
	}
	switch {
	case e.Wish != nil && len(e.Unspelled) > 0:
		l.Wished.Why = e.Unspelled
	case e.Wish != nil:
		_, l.Wished = answer(in, mechanisms, *e.Wish)
	}
	if l.Target == nil && e.Wish == nil {
		for _, t := range e.Tried {
			_, a := answer(in, mechanisms, t)
			l.Answer.Why = l.Answer.Why.And(reason.FallbackToo.Of(t.Press(), a.Why)...)
		}
	}
	return l
}

// aloneInItsPlace says whether a chord is one key that is to give or do something, and
// whose place no rule gives another meaning.
func aloneInItsPlace(in *intent.Intent, b behaviour.Binding) bool {
	c := b.Chord
	gives := b.Effect.Kind == behaviour.Acts || b.Effect.Kind == behaviour.Sends || b.Effect.Kind == behaviour.Becomes
	return gives && b.Level == behaviour.Hotkey && c.Mods == 0 && len(b.Then) == 0 && len(b.Apps) == 0 &&
		!slices.ContainsFunc(in.Entries, func(e intent.Entry) bool {
			o := e.Binding
			return o.Level == behaviour.Position && (o.Chord.Key == c.Key || o.Effect.Key == c.Key)
		})
}

// keyOfAction is a key by which the system does an action, so that another key does it that acts
// as that one; None for none, and for a key of which other rules need a chord.
func keyOfAction(in *intent.Intent, e *intent.Entry) keys.Key {
	needed := slices.ContainsFunc(in.Entries, func(o intent.Entry) bool {
		return o.Binding.Level == behaviour.Hotkey && o.Binding.Chord.Key == e.Binding.Chord.Key && o.Binding.Chord.Mods != 0
	})
	if in.Machine.System != machine.Linux && e.Binding.Effect.Kind == behaviour.Acts && !needed {
		for _, u := range desktop.Stock(in.Machine) {
			if u.Name == e.Binding.Effect.Action && u.Chord.Mods == 0 && u.Chord.Key.Section() == keys.Media {
				return u.Chord.Key
			}
		}
	}
	return keys.None
}

// answer asks the mechanisms for a press that the mapping means.
func answer(in *intent.Intent, mechanisms []Target, b behaviour.Binding) (Target, target.Answer) {
	switch {
	case !b.Chord.Mods.Has(keys.Hyper) || in.HasHyper:
		t, a := best(mechanisms, in.Machine, b)
		switch {
		case t == nil:
			a.Why = stockReasons(in.Machine, b).And(a.Why...)
		case len(in.Machine.Assumed) > 0 && b.Level == behaviour.Hotkey && b.Chord.Key.Section() == keys.Writing:
			a.Verdict, a.Why = min(a.Verdict, target.Near), a.Why.And(reason.LayoutAssumed.Of(in.Machine.Assumed[0])...)
		}
		return t, a
	case !in.WantsHyper:
		return nil, target.Answer{Why: reason.NoHyperKey.Of()}
	case personal(in.Machine.Machine):
		return nil, target.Answer{Why: reason.NoHyper.Of(in.Machine.System.Title())}
	}
	return nil, target.Answer{Verdict: target.Resident, Why: reason.OnlyProcess.Of("make a key Hyper here")}
}

// personal says whether a machine's system lets no program see the keyboard.
func personal(m *machine.Machine) bool {
	return m.System == machine.IPadOS || m.System == machine.ChromeOS
}

// Folder lists all files of the machine's folder: those that the system reads, what a
// person does with them, and what the machine is.
func (b *Build) Folder() []target.File {
	all := append(slices.Clone(b.Files), target.File{Path: StepsFile, Data: stepsPage(b)})
	all = append(all, target.File{Path: DescriptionFile, Data: describe(b.Machine, all, b.Landings)})
	slices.SortFunc(all, func(x, y target.File) int { return cmp.Compare(x.Path, y.Path) })
	return all
}

// StandIn is what is there in place of what the rule asks for: the press of a fallback, or
// what the key does.
func (l *Landing) StandIn() string {
	if l.Binding.Level == behaviour.Hotkey {
		return l.Binding.Press()
	}
	return l.Binding.String()
}

// ReadFolder reads a folder that compile wrote, for the machine that it says it is for.
func ReadFolder(fsys fs.FS) (*intent.Machine, Reading, error) {
	m, err := Described(fsys)
	if err != nil {
		return nil, Reading{}, err
	}
	got, err := Read(m, fsys)
	return m, got, err
}

// Reading is what the files of a machine's folder say.
type Reading struct {
	Bindings []behaviour.Binding // of all mechanisms
	Layout   *xkb.Layout         // nil where the machine has no XKB
}

// Read reads a machine's folder back: what its files do.
func Read(m *intent.Machine, fsys fs.FS) (Reading, error) {
	var all Reading
	for _, t := range serving(m) {
		r, ok := t.(Reader)
		if !ok {
			continue
		}
		var list []behaviour.Binding
		var err error
		if _, ok := t.(xkb.Target); ok { // which says more than bindings, and takes the longest to read
			if all.Layout, err = xkb.Open(m, fsys); err == nil {
				list = all.Layout.Bindings()
			}
		} else {
			list, err = r.Read(m, fsys)
		}
		if err != nil {
			return Reading{}, err
		}
		all.Bindings = append(slices.Grow(all.Bindings, len(list)), list...)
	}
	behaviour.Sort(all.Bindings)
	return all, nil
}

// Written lists what the machine's files should do: the presses that landed in
// a mechanism with files.
func (b *Build) Written() []behaviour.Binding {
	list := make([]behaviour.Binding, 0, len(b.Landings))
	for _, l := range b.Landings {
		if _, ok := l.Target.(Reader); ok {
			list = append(list, l.Written())
		}
	}
	behaviour.Sort(list)
	return list
}

// Written is what the landing's file should say.
func (l Landing) Written() behaviour.Binding {
	b := l.Binding
	if l.Answer.Does != nil {
		b.Effect = *l.Answer.Does
	}
	return b
}

// weighed is what a mechanism says of itself, its evidence held against what was pressed in
// the version of the machine's desktop, where it is the desktop that does it.
func weighed(facts target.Facts, m *intent.Machine) target.Facts {
	version := ""
	if facts.Stage == target.Desktop && strings.HasPrefix(facts.Name, m.Desktop) {
		version = desktop.Version(m)
	}
	return facts.Weigh(target.Record(), version)
}
