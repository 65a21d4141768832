// Package intent resolves a mapping for one machine: scopes are applied,
// Primary and characters become keys of its layout, fallbacks are chosen and
// rules that meet are settled. What remains is an ordered list of presses with
// their effects, each of which knows the rule it came from.
package intent

import (
	"slices"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
)

// Machine is a machine of the mapping with what belongs to it looked up.
type Machine struct {
	*machine.Machine
	Layouts []*keys.Layout   // in the order of the machine's groups
	Boards  []*machine.Board // those used with it; what stands for any external one first
	Hyper   machine.HyperForm
	Layers  []string // the names of its layers, in the mapping's order
	// LayerKeys are how the layers are switched that a key by itself switches, on every board, and in which
	// other keys stay what they are.
	LayerKeys []LayerKey
	Compose   bool // a key begins compose sequences
	// LayoutForAll: what lands in the layout is for every user of the machine. A layout
	// is one piece, so all of it is or nothing.
	LayoutForAll bool
	// OwnAltGr: a Hyper key is Ctrl and Alt together by a layout of ours on Windows, where the right Alt has a modifier
	// of its own for what it types.
	OwnAltGr bool
	// Assumed are layouts of which XKB's characters are taken for those of the system, which are
	// not known.
	Assumed []string
}

// Four is what stands for Hyper on a desktop that knows none.
const Four = keys.Ctrl | keys.Alt | keys.Shift | keys.Meta

// Entry is one press that the mapping gives an effect on this machine.
type Entry struct {
	Rule    mapping.Rule
	Range   diag.Range // the key or chord in the rule
	Binding behaviour.Binding
	// Wish is what the rule asks for first where that cannot be had here, and Binding is
	// what stands in for it; nil if the first was taken.
	Wish *behaviour.Binding
	// Lost says that the rule names nothing for the case that its wish cannot be had: a
	// part of it is left out.
	Lost bool
	lack *Lack // nil for most: entries are many
}

// Lack is what cannot be had of an entry.
type Lack struct {
	// Tried are the fallbacks that cannot be had either.
	Tried []behaviour.Binding
	// Unspelled says why the wish, or the press itself where nothing stands in for it, cannot
	// be said on this machine: its layout lacks a character that names a key. A finding of
	// its own tells so. Nil for all others.
	Unspelled reason.List
	// Missing says why the entry cannot be realised at all: its program is not
	// named for this system. Nil otherwise.
	Missing reason.List
	// Apart are boards that the rule leaves out though it is for no key: a chord, a typed
	// word and a setting are for all of them or none.
	Apart []string
	// Less says what of the rule had to be left out, nil for nothing.
	Less reason.List
}

// Lack is what cannot be had of the entry, the zero value for nothing.
func (e *Entry) Lack() Lack {
	if e.lack == nil {
		return Lack{}
	}
	return *e.lack
}

// Change changes what cannot be had of the entry; copies of it stay as they are.
func (e *Entry) Change(how func(*Lack)) {
	changed := e.Lack()
	how(&changed)
	e.lack = &changed
}

// Instead is what the rule asks for first and does not get, in words; "" for nothing.
func (e *Entry) Instead() string {
	switch {
	case e.Wish == nil:
		return ""
	case e.Wish.Level == behaviour.Hotkey:
		return e.Wish.Press()
	case e.Wish.Effect.Kind == behaviour.TapHold:
		return "tap and hold"
	case e.Wish.Effect.Kind == behaviour.Modifier:
		return "Hyper"
	}
	return e.Wish.Effect.String()
}

// on is the entry for a board, and what it stands in for.
func (e *Entry) on(board string) *Entry {
	o := *e
	o.Binding.Board = board
	if e.Wish != nil {
		wish := *e.Wish
		wish.Board, o.Wish = board, &wish
	}
	return &o
}

// Beaten is a rule that a narrower one overrules on this machine.
type Beaten struct {
	Loser, Winner mapping.Rule
	Press         string
}

// Intent is a mapping resolved for one machine.
type Intent struct {
	Machine *Machine
	Entries []*Entry
	Beaten  []Beaten
	// Compared is how many pairs of rules were compared that could be for one press.
	Compared int
	// HyperMods is what Hyper is on this machine.
	HyperMods keys.Mods
	HasHyper  bool // whether a key is to be Hyper here, and can
	// WantsHyper says whether a key is to be Hyper here, whether it can or not.
	WantsHyper bool
}

// Carrier says whether any of the machine's mechanisms can have a press, which
// decides about fallbacks.
type Carrier interface {
	Carries(m *Machine, b behaviour.Binding) bool
}

// NewMachine looks up what belongs to a machine of the mapping.
func NewMachine(mp *mapping.Mapping, m *machine.Machine) *Machine {
	r := &Machine{Machine: m, Hyper: m.HyperForm()}
	for _, name := range m.Layouts {
		if own := m.OwnLayout(name); own != nil {
			r.Layouts = append(r.Layouts, own)
			continue
		}
		if l, known, ok := keys.FindLayoutOn(layoutsOf(m.System), name); ok {
			r.Layouts = append(r.Layouts, l)
			if !known {
				r.Assumed = append(r.Assumed, name)
			}
		}
	}
	r.Layouts = withOptions(r.Layouts, m.Options)
	r.Compose = slices.ContainsFunc(m.Options, func(name string) bool { return strings.HasPrefix(name, "compose:") })
	for _, name := range m.Boards {
		if b, ok := mp.Board(name); ok {
			r.Boards = append(r.Boards, b)
		}
	}
	// Where what is said of any external board and of one of them hold both, the later
	// counts in most files.
	slices.SortStableFunc(r.Boards, func(a, b *machine.Board) int { return wide(b) - wide(a) })
	return r
}

// layoutsOf names whose layouts a system has: an iPad has those of a Mac.
func layoutsOf(s machine.System) string {
	if s == machine.IPadOS {
		return keys.LayoutsOfMac
	}
	return string(s)
}

// wide is 1 for a board that stands for any external one.
func wide(b *machine.Board) int {
	if slices.Contains(b.IDs, machine.BoardID{Bus: machine.AnyExternal}) {
		return 1
	}
	return 0
}

// withOptions is layouts with options of XKB's rules.
func withOptions(layouts []*keys.Layout, names []string) []*keys.Layout {
	var list []*keys.Option
	for _, name := range names {
		if o, ok := keys.FindOption(name); ok {
			list = append(list, o)
		}
	}
	for i, l := range layouts {
		if i == 0 {
			layouts[i] = l.With(list)
		} else {
			layouts[i] = l.Behind(list)
		}
	}
	return layouts
}

// Symbols is what a key gives in a layout group, from 0. A key has a group for each layout
// up to the last that defines it, and the groups behind that wrap to those; of a layout
// between that leaves the key out it has the first one's.
func (m *Machine) Symbols(group int, k keys.Key) (keys.Symbols, bool) {
	last := len(m.Layouts) - 1
	for last > 0 && !m.Layouts[last].Defines(k) {
		last--
	}
	if group %= last + 1; group > 0 && m.Layouts[group].Defines(k) {
		return m.Layouts[group].SymbolsIn(group, k)
	}
	return m.Layouts[0].Symbols(k)
}

// Alike says whether two effects differ only by which of two keys they act as that type the same
// under all layouts of the machine, or by whether they act as a key or type what that key alone
// does.
func (m *Machine) Alike(x, y behaviour.Effect) bool {
	if x.Kind == behaviour.Becomes && y.Kind == behaviour.Becomes && m.SameMacKey(x.Key, y.Key) || m.SameAltGr(x, y) {
		return true
	}
	for g := range m.Layouts {
		a, ok1 := m.given(g, x)
		b, ok2 := m.given(g, y)
		if ok1 != ok2 || !a.Equal(b) {
			return false
		}
	}
	return true
}

// ProgramName is what tells a program from others on a system: its identifier where the system knows it by
// one, else its name in the mapping; file is the group's file whose names count as well, "" for none.
func ProgramName(mp *mapping.Mapping, system machine.System, name, file string) string {
	if app, ok := mp.App(name, file); ok {
		if words := app.Commands[system]; len(words) == 1 && isAppID(system, words[0].Value) {
			return words[0].Value
		}
	}
	return name
}

// SameMacKey says whether a machine is a Mac, to which two keys are one: PrintScreen is F13.
func (m *Machine) SameMacKey(a, b keys.Key) bool {
	x, ok1 := a.Mac()
	y, ok2 := b.Mac()
	return m.System == machine.MacOS && ok1 && ok2 && x == y
}

// given is what a press gives in a layout group that acts as a key, or types a character.
func (m *Machine) given(group int, e behaviour.Effect) (keys.Symbols, bool) {
	switch r, n := utf8.DecodeRuneInString(e.Text); {
	case e.Kind == behaviour.Becomes:
		return m.Symbols(group, e.Key)
	case e.Kind == behaviour.Nothing:
		return keys.Symbols{Type: "ONE_LEVEL", Level: []string{"VoidSymbol"}}, true
	case e.Kind == behaviour.Types && n == len(e.Text):
		return keys.Symbols{Type: "ONE_LEVEL", Level: []string{keys.RuneKeysym(r)}}, true
	}
	return keys.Symbols{Type: e.String()}, true // like nothing else
}

// IsModifier says whether a key is a modifier by its nature, or by what the machine's
// layouts and options make of it.
func (m *Machine) IsModifier(k keys.Key) bool {
	s, ok := m.Symbols(0, k)
	return k.IsModifier() || ok && s.RealModifier() != ""
}

// Latin is the layout that says which key a character in a chord means: the
// machine's first, or its first Latin one if that types no Latin letters.
func (m *Machine) Latin() *keys.Layout {
	for _, l := range m.Layouts {
		if l.Latin() {
			return l
		}
	}
	us, _, _ := keys.FindLayoutOn(layoutsOf(m.System), "us")
	return us
}

// xkbGroups is how many groups a key has in a layout of Linux. (The X Keyboard Extension.)
const xkbGroups = 4

// GroupLayers are the layers that fit into the groups of a layout of Linux, the first ones: each takes as many groups as
// there are layouts.
func (m *Machine) GroupLayers() []string {
	fit := xkbGroups/max(1, len(m.Layouts)) - 1
	return m.Layers[:max(0, min(fit, len(m.Layers)))]
}

// Resolve works out what the mapping means on one of its machines. The
// diagnostics are errors that only show with the machine known.
func Resolve(mp *mapping.Mapping, m *machine.Machine, carrier Carrier) (*Intent, diag.List) {
	r := &resolver{mp: mp, carrier: carrier, Intent: Intent{Machine: NewMachine(mp, m)}}
	here := make([]placed, 0, len(mp.Rules))
	for _, rule := range mp.Rules {
		if reach := mapping.Reaches(mp, rule, m); rule.Head().Enabled && reach.Why == "" {
			here = append(here, placed{rule, reach})
		}
	}
	r.findHyper(here)
	layers := map[string]bool{}
	for _, name := range r.Machine.Layers {
		layers[name] = true
	}
	for _, p := range here {
		r.Machine.Compose = r.Machine.Compose || composes(p.rule)
		if l, ok := p.rule.(*mapping.Layer); ok && !layers[l.Name.Value] {
			layers[l.Name.Value] = true
			r.Machine.Layers = append(r.Machine.Layers, l.Name.Value)
			if !l.Tap.Given() && !l.Dead && len(p.reach.Boards)+len(p.reach.Without) == 0 {
				on := LayerKey{l.Name.Value, l.Key.Key, behaviour.SwitchNamed(string(l.How))}
				r.Machine.LayerKeys = append(r.Machine.LayerKeys, on)
			}
		}
	}
	claims := make([]claim, 0, len(here))
	for _, p := range here {
		r.lacks = nil
		h, entries := p.rule.Head(), r.expand(p.rule)
		for _, d := range r.lacks {
			if !mapping.Allows(p.rule, m, d.Code) {
				r.diags = append(r.diags, d)
			}
		}
		for i := range entries {
			e := &entries[i]
			e.Binding.Everyone, e.Binding.Override = h.Everyone, h.Override
			for _, a := range h.Apps {
				e.Binding.Apps = append(e.Binding.Apps, ProgramName(r.mp, r.Machine.System, a.Value, a.Range.File))
			}
			c := claim{entry: e, reach: p.reach}
			if e.Binding.Board != "" { // the rule itself differs by board
				if !c.on(e.Binding.Board) {
					continue
				}
				c.reach, c.own = mapping.Reach{Boards: []string{e.Binding.Board}}, true
			}
			if len(c.reach.Without) > 0 && e.Binding.Level != behaviour.Position {
				apart := c.reach.Without
				e.Change(func(l *Lack) { l.Apart = apart })
				c.reach.Without = nil
			}
			claims = append(claims, c)
		}
	}
	r.decideRivals(claims)
	return &r.Intent, r.diags
}

// composes says whether a rule makes a key Compose, in a layer or outside.
func composes(rule mapping.Rule) bool {
	switch rule := rule.(type) {
	case *mapping.Remap:
		return rule.To.Compose
	case *mapping.Layer:
		return slices.ContainsFunc(rule.Keys, func(k mapping.LayerKey) bool { return k.Out.Compose })
	}
	return false
}

// placed is a rule that speaks of the machine, of every board or of some.
type placed struct {
	rule  mapping.Rule
	reach mapping.Reach
}

// resolver is the work on one machine.
type resolver struct {
	Intent
	mp      *mapping.Mapping
	carrier Carrier
	diags   diag.List
	lacks   diag.List       // what the machine's layout does not have of the rule at hand
	lacked  reason.List     // the last of these
	met     map[[2]int]bool // pairs of claims already told of
	draws   draws           // conflicts that are reported
	// instead are the modifiers that chords with Hyper take where there is none; 0 for none.
	instead keys.Mods
	confirm bool // the rule at hand wants a question first
}

func (r *resolver) add(sev diag.Severity, at diag.Range, code, summary, advice string, related ...diag.Related) {
	r.diags = append(r.diags, diag.Diagnostic{
		Severity: sev, Code: code, Summary: summary, Advice: advice, Range: at, Line: r.mp.SourceLine(at), Related: related,
		Machines: []string{r.Machine.Name},
	})
}

// findHyper decides what Hyper is on this machine, for all rules alike.
func (r *resolver) findHyper(here []placed) {
	r.HyperMods = keys.Hyper
	if r.Machine.Hyper == machine.SeveralModifiers {
		r.HyperMods = Four
	}
	var first *mapping.Hyper
	var stands keys.Mods
	for _, p := range here {
		h, ok := p.rule.(*mapping.Hyper)
		if !ok {
			continue
		}
		r.WantsHyper = true
		r.HasHyper = r.HasHyper || r.Machine.Hyper != machine.NoHyper
		as := keys.Mods(0)
		if h.As != nil {
			as = h.As.On(r.Machine.System)
		}
		if first != nil && (as != stands || first.Instead != h.Instead) {
			r.add(
				diag.Error, h.Range, "two-hypers", "two keys are Hyper, and each stands for other modifiers",
				"let both stand for the same", diag.Related{Range: first.Range, Words: "the other"},
			)
			continue
		}
		first, stands = h, as
		if r.Machine.Hyper == machine.NoHyper {
			r.instead = h.Instead
		}
		if as != 0 && r.Machine.Hyper != machine.NoHyper {
			r.Machine.Hyper, r.HyperMods = machine.SeveralModifiers, as
			if r.HyperMods == keys.Hyper {
				r.Machine.Hyper = r.Machine.HyperForm()
			}
		}
	}
	switch {
	case !r.WantsHyper:
	case r.Machine.System == machine.MacOS:
		r.useGlobe(here)
	case r.Machine.System == machine.Windows && (stands == 0 || stands == keys.Ctrl|keys.Alt):
		r.Machine.OwnAltGr = r.Machine.LayoutLibrary
		if r.Machine.OwnAltGr = r.Machine.OwnAltGr && r.useAltGr(here); !r.Machine.OwnAltGr && r.Machine.HasAltGr() {
			r.useAltGr(here)
		}
	}
}

// useAltGr makes Hyper of AltGr, which is Ctrl and Alt together to Windows, where a key can be that, and says whether.
func (r *resolver) useAltGr(here []placed) bool {
	was := r.Intent
	r.Machine.Hyper, r.HyperMods, r.HasHyper = machine.SeveralModifiers, keys.Ctrl|keys.Alt, true
	for _, p := range here {
		if h, ok := p.rule.(*mapping.Hyper); ok && len(p.reach.Boards)+len(p.reach.Without) == 0 &&
			r.carries(
				position(
					h,
					h.Key.Key,
					h.Key.Range,
					behaviour.Effect{Kind: behaviour.Modifier, Mods: r.HyperMods},
				).Binding,
			) {
			return true
		}
	}
	r.Machine.Hyper, r.HyperMods, r.HasHyper = machine.NoHyper, was.HyperMods, was.HasHyper
	return false
}

// HasAltGr says whether a Windows machine's first layout has AltGr: it types something by it.
func (m *Machine) HasAltGr() bool {
	return m.System == machine.Windows && len(m.Layouts) > 0 && m.Layouts[0].TypesWith(keys.AltGr)
}

// SameAltGr says whether two effects are AltGr on such a machine: the right Alt, and Ctrl and Alt together.
func (m *Machine) SameAltGr(x, y behaviour.Effect) bool {
	is := func(e behaviour.Effect) bool {
		return e.Kind == behaviour.Becomes && e.Key.String() == "AltRight" ||
			e.Kind == behaviour.Modifier && e.Mods == keys.Ctrl|keys.Alt
	}
	return is(x) && is(y) && m.HasAltGr()
}

// useGlobe makes Hyper of the Globe key where an action of the system's can have a chord with it.
func (r *resolver) useGlobe(here []placed) {
	was := r.Intent
	r.Machine.Hyper, r.HyperMods, r.HasHyper = machine.GlobeHyper, keys.Fn, true
	for _, p := range here {
		a, ok := p.rule.(*mapping.Action)
		if !ok || len(a.Press.Strokes) != 1 {
			continue
		}
		b, ok := r.hotkey(a.Press, behaviour.Effect{Kind: behaviour.Acts, Action: a.Does.Value})
		spelled := slices.Contains(a.Press.Strokes[0].Chord.Mods, "Hyper")
		if r.lacks = nil; ok && spelled && r.carries(b) {
			return
		}
	}
	r.Machine.Hyper, r.HyperMods, r.HasHyper = machine.NoHyper, was.HyperMods, was.HasHyper
}
