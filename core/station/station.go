// Package station is a machine as it is after the changes: what its files say, read back, on top of
// what its system, its desktop and its layouts do by themselves. It says what a press does, the way
// it takes and whose it is, so that no two commands can say different things of one press.
//
// A press goes from the board to the kernel, to the layout and to the desktop. Chords that two want
// are the mapping's, as far as the files can say that.
package station

import (
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strings"
	"sync"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/mechanism/registry"
)

// Station is one machine.
type Station struct {
	mp      *mapping.Mapping
	build   *compile.Build
	machine *intent.Machine
	read    compile.Reading
	bare    func() *keymap.Keymap // of the layouts and options, without the mapping
	stock   func() desktop.Table  // what the system or the desktop does by itself
	// own is what the files say, places of it the keys by their places, which are few; all has what the
	// system does by itself as well. Each is made when somebody asks.
	places, own, all func() *index
	// engines are what do the machine's presses, by the program in front.
	engines sync.Map
	// pressed are the keys that act as a key, or hold modifiers, by board.
	pressed sync.Map
}

// index is what the machine does, by place.
type index struct {
	entries []Entry
	// positions and hotkeys find an entry, by its place and by the key of its first stroke.
	positions map[at]int
	hotkeys   map[keys.Key][]int
}

// at is a place on a board, in a layer.
type at struct {
	board, layer string
	key          keys.Key
}

// Entry is a press that the machine does something with.
type Entry struct {
	behaviour.Binding
	Owner   Owner
	Landing *land.Landing // of the mapping; nil for what is not of a rule
}

// Owner is who acts on a press.
type Owner struct {
	Stage string // board, kernel, layout, desktop, by hand
	Name  string // the mechanism, or what the system or the desktop is called
}

// Of is the machine of a build: all changes carried out, and what it has then read back.
func Of(mp *mapping.Mapping, b *compile.Build) (*Station, error) {
	has, err := b.Simulated()
	if err != nil {
		return nil, fmt.Errorf("machine %s: what is to happen cannot be carried out: %w", b.Machine.Name, err)
	}
	return With(mp, b, has)
}

// With is the machine of a build as it is with the files of a folder, which need not be those of
// the build.
func With(mp *mapping.Mapping, b *compile.Build, files fs.FS) (*Station, error) {
	got, err := compile.Read(b.Machine, files)
	if err != nil {
		return nil, fmt.Errorf("machine %s: what was written cannot be read back: %w", b.Machine.Name, err)
	}
	return newStation(mp, b, got), nil
}

// Unwritten is the machine of a build as it would be with what landed, where nothing can be written.
func Unwritten(mp *mapping.Mapping, b *compile.Build) *Station {
	var as compile.Reading
	for _, w := range b.Written() {
		as.Bindings = append(as.Bindings, *w)
	}
	return newStation(mp, b, as)
}

func newStation(mp *mapping.Mapping, b *compile.Build, read compile.Reading) *Station {
	s := &Station{mp: mp, build: b, machine: b.Machine, read: read}
	s.bare = sync.OnceValue(func() *keymap.Keymap { return keymap.Build(b.Machine.Layouts, nil, nil) })
	s.stock = sync.OnceValue(func() desktop.Table { return desktop.NewTable(s.machine) })
	s.places = sync.OnceValue(func() *index {
		return s.find(func(l behaviour.Level) bool { return l == behaviour.Position })
	})
	s.own = sync.OnceValue(func() *index {
		return s.find(func(behaviour.Level) bool { return true })
	})
	s.all = sync.OnceValue(s.withStock)
	return s
}

// Build is what the machine's files were made by.
func (s *Station) Build() *compile.Build { return s.build }

// Read is what the machine's files say.
func (s *Station) Read() compile.Reading { return s.read }

// Stock is what the system or the desktop does on a chord by itself.
func (s *Station) Stock(c keys.Chord) (desktop.Use, bool) { return s.stock().Of(c) }

// find makes the index of what the files say on some levels.
func (s *Station) find(on func(behaviour.Level) bool) *index {
	x := &index{positions: map[at]int{}, hotkeys: map[keys.Key][]int{}}
	landed, read := map[behaviour.Place]*land.Landing{}, map[behaviour.Place]bool{}
	for i := range s.build.Landings {
		if l := &s.build.Landings[i]; l.Mechanism != nil && on(l.Binding.Level) {
			landed[l.Binding.Place()] = l
		}
	}
	x.entries = make([]Entry, 0, len(landed))
	for i := range s.read.Bindings {
		g := &s.read.Bindings[i]
		if g.Level == behaviour.Setting || !on(g.Level) {
			continue
		}
		place := g.Place()
		l := landed[place]
		switch {
		case l != nil && (l.Written().Effect.Equal(g.Effect) || s.machine.Alike(l.Written().Effect, g.Effect)):
			x.add(Entry{l.Written(), ownerOf(l.Mechanism), l})
			read[place] = true
		case g.Kept && s.machine.System != machine.Linux: // which the list of stock chords says in words
		case l == nil || !g.Kept:
			x.add(Entry{Binding: *g, Owner: s.system()})
			read[place] = true
		}
	}
	for i := range s.build.Landings {
		l := &s.build.Landings[i]
		if !on(l.Binding.Level) {
			continue
		}
		if place := l.Binding.Place(); landed[place] == l && !read[place] && s.needsNoFile(x, l) {
			x.add(Entry{l.Written(), ownerOf(l.Mechanism), l})
		}
	}
	return x
}

// needsNoFile says whether something that landed is there without one: a person does it, the system
// by itself, or a key is to do what it does anyhow.
func (s *Station) needsNoFile(x *index, l *land.Landing) bool {
	if !l.ReadBack() {
		return true
	}
	w := l.Written()
	outside := behaviour.Effect{Kind: behaviour.Becomes, Key: w.Chord.Key}
	if e, ok := x.position(Where{Board: w.Board}, w.Chord.Key); ok { // as on every board, or out of all layers
		outside = e.Effect
	}
	return w.Level == behaviour.Position && (outside.Equal(w.Effect) || s.machine.Alike(outside, w.Effect))
}

// All makes the stations of builds, in their order.
func All(mp *mapping.Mapping, builds []*compile.Build) ([]*Station, error) {
	list := make([]*Station, len(builds))
	for i, b := range builds {
		var err error
		if list[i], err = Of(mp, b); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// Name is the machine's.
func (s *Station) Name() string { return s.machine.Name }

func (x *index) add(e Entry) {
	switch e.Level {
	case behaviour.Position:
		x.positions[at{e.Board, e.Layer, e.Chord.Key}] = len(x.entries)
	case behaviour.Hotkey:
		x.hotkeys[e.Chord.Key] = append(x.hotkeys[e.Chord.Key], len(x.entries))
	default: // what is typed is found by who plays it
	}
	x.entries = append(x.entries, e)
}

// withStock adds what the system and the desktop do by themselves, as far as nobody has changed
// it.
func (s *Station) withStock() *index {
	own, uses := s.own(), desktop.Uses(s.machine)
	x := &index{positions: own.positions, hotkeys: maps.Clone(own.hotkeys)}
	x.entries = append(make([]Entry, 0, len(own.entries)+len(uses)), own.entries...)
	changed := map[string]bool{}
	for _, c := range s.build.Changes() {
		switch c := c.(type) {
		case change.Setting:
			changed[c.Key] = true
			if name, ok := c.To.(change.Text); ok && c.Sole {
				changed[string(name)] = true
			}
		case change.Member:
			changed[c.Key] = true
		default: // no setting of a desktop's
		}
	}
	for _, u := range uses {
		over := slices.ContainsFunc(
			x.hotkeys[u.Chord.Key],
			func(i int) bool {
				e := x.entries[i]
				byItself := e.Landing != nil && e.Landing.Facts().Itself && e.Chord != u.Chord // for one side only
				return !byItself && e.Chord.Overlaps(u.Chord)
			},
		)
		if over || changed[u.Key] {
			continue
		}
		x.add(Entry{Owner: s.system(), Binding: behaviour.Binding{
			Level: behaviour.Hotkey, Chord: u.Chord, Provenance: behaviour.Provenance{Kept: true},
			Effect: behaviour.Effect{Kind: behaviour.Other, Words: u.Words},
		}})
	}
	return x
}

// system is who does what no rule asks for.
func (s *Station) system() Owner {
	if d, ok := machine.FindDesktop(s.machine.Desktop); ok && s.machine.System == machine.Linux && d.Title != "" {
		return Owner{mechanism.Desktop.String(), d.Title}
	}
	return Owner{mechanism.Desktop.String(), s.machine.System.Title()}
}

// ownerOf is the mechanism that carries a landing.
func ownerOf(t registry.Mechanism) Owner {
	f := t.Facts()
	if f.Stage == mechanism.Person {
		return Owner{"by hand", f.Name}
	}
	return Owner{f.Stage.String(), f.Name}
}

// position is what the machine makes of a key of a board in a layer, the board's own before that
// of every board.
func (s *Station) position(where Where, k keys.Key) (Entry, bool) {
	return s.places().position(where, k)
}

func (x *index) position(where Where, k keys.Key) (Entry, bool) {
	for _, board := range []string{where.Board, ""} {
		if i, ok := x.positions[at{board, where.Layer, k}]; ok {
			return x.entries[i], true
		}
	}
	return Entry{}, false
}

// meant is what the mapping says of a key of a board in a layer, whether or not the machine
// has it.
func (s *Station) meant(where Where, k keys.Key) *land.Landing {
	var found *land.Landing
	for i := range s.build.Landings {
		l := &s.build.Landings[i]
		if b := l.Binding; b.Level == behaviour.Position && b.Layer == where.Layer && b.Chord.Key == k &&
			(b.Board == where.Board || b.Board == "" && found == nil) {
			found = l
		}
	}
	return found
}

// does is what a key acts as on a board: itself, where no file says otherwise.
func (s *Station) does(board string, k keys.Key) behaviour.Effect {
	if e, ok := s.position(Where{Board: board}, k); ok {
		return e.Effect
	}
	return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
}

// acting lists the keys of a board that act as a key; as a button of a mouse acts that button only, where nothing has
// it give something else.
func (s *Station) acting(board string, k keys.Key) []keys.Key {
	if k.Section() == keys.Mouse {
		if e := s.does(board, k); e.Kind != behaviour.Becomes || e.Key != k {
			return nil
		}
		return []keys.Key{k}
	}
	return s.once(asking{board, "acting", k, 0}, func(from keys.Key) bool {
		e := s.does(board, from)
		return e.Kind != behaviour.Becomes || e.Key != k || !s.exists(board, from)
	})
}

// asking is what keys are looked for by.
type asking struct {
	board, what string
	key         keys.Key
	mods        keys.Mods
}

// once looks for keys, without those that are not meant, when they are first asked for. The list is the caller's.
func (s *Station) once(what asking, not func(keys.Key) bool) []keys.Key {
	known, ok := s.pressed.Load(what)
	if !ok {
		known, _ = s.pressed.LoadOrStore(what, slices.DeleteFunc(keys.All(), not))
	}
	return slices.Clone(known.([]keys.Key))
}

// holding lists the keys of a board that act as a modifier, a bare one by either side.
func (s *Station) holding(board string, mod keys.Mods) []keys.Key {
	return s.once(asking{board, "holding", keys.None, mod}, func(from keys.Key) bool {
		e := s.does(board, from)
		is := e.Kind == behaviour.Modifier && e.Mods == mod ||
			e.Kind == behaviour.Becomes && isMod(s.natural(e.Key), mod)
		return !is || !s.exists(board, from)
	})
}

// isMod says whether a modifier with its side is one of either side.
func isMod(is, of keys.Mods) bool {
	return is != 0 && keys.Chord{Mods: is}.Overlaps(keys.Chord{Mods: of})
}

// families are the modifiers of desktops by those of a keymap.
var families = map[keymap.Mask]keys.Mods{
	keymap.Shift: keys.Shift, keymap.Control: keys.Ctrl, keymap.Mod1: keys.Alt, keymap.Mod4: keys.Meta,
	keymap.Mod5: keys.AltGr,
}

// natural is the modifier that a key is under the layouts and their options, with its side where
// it has one: what the compiled keymap switches on by it, and on a Mac what its code says.
func (s *Station) natural(k keys.Key) keys.Mods {
	byCode := behaviour.ModifierOf(k)
	sym, ok := s.machine.Layouts[0].Symbols(k)
	switch system := s.machine.System; {
	case !ok || system == machine.MacOS || system == machine.IPadOS || k.String() == "Fn":
		return byCode
	case system != machine.Linux:
		return sym.Modifier()
	}
	bare := s.bare()
	key, ok := bare.KeyOf(k)
	if !ok {
		return byCode
	}
	sets := bare.At(key, 0, 0).Sets
	family := families[sets]
	if sets == keymap.Mod3 && sym.Modifier() == keys.Hyper { // else it leads to a layout's fifth level
		family = keys.Hyper
	}
	for _, sided := range []keys.Mods{sym.Modifier(), byCode} {
		if isMod(sided, family) {
			return sided
		}
	}
	return family
}

// holdingAll lists the keys that hold just these modifiers together, where there is more than
// one.
func (s *Station) holdingAll(board string, mods keys.Mods) []keys.Key {
	if len(mods.Names()) < 2 {
		return nil
	}
	return s.once(asking{board, "holding all", keys.None, mods}, func(from keys.Key) bool {
		e := s.does(board, from)
		return e.Kind != behaviour.Modifier || e.Mods != mods || !s.exists(board, from)
	})
}

// exists says whether a board has the key, and it works.
func (s *Station) exists(board string, k keys.Key) bool {
	b := s.board(board)
	return b == nil || !slices.Contains(b.Lacks, k) && !slices.Contains(b.Broken, k)
}

// sends is what a board's own firmware sends for a key.
func (s *Station) sends(board string, k keys.Key) keys.Key {
	if b := s.board(board); b != nil {
		if to, ok := b.Sends[k]; ok {
			return to
		}
	}
	return k
}

func (s *Station) board(name string) *machine.Board {
	for _, b := range s.machine.Boards {
		if b.Name == name {
			return b
		}
	}
	return nil
}

// oneOf names keys to choose from, with what their caps say.
func (s *Station) oneOf(list []keys.Key) string {
	if len(list) == 0 {
		return "(no key)"
	}
	var names []string
	for _, k := range list {
		name := k.String()
		if cap := s.machine.Layouts[0].Cap(k); cap != name {
			name += " (" + cap + ")"
		}
		names = append(names, name)
	}
	if len(names) > 3 {
		names = append(names[:3], "…")
	}
	return strings.Join(names, " or ")
}

// engine does what the machine does with keys, on a board with a layer on; acted is told which
// entries act.
func (s *Station) engine(where Where, acted func(Entry)) *behaviour.Engine {
	known, ok := s.engines.Load(where.Front)
	if !ok {
		known, _ = s.engines.LoadOrStore(where.Front, s.newEngineOf(where))
	}
	of := known.(*engineOf)
	e := of.engine.Anew()
	if where.Layer != "" {
		e.SwitchOn(where.Layer)
	}
	if acted != nil {
		e.Acted = func(b behaviour.Binding) { acted(of.byPlace[b.Place()]) }
	}
	return e
}

// engineOf is an engine with the entries that its bindings are.
type engineOf struct {
	engine  *behaviour.Engine
	byPlace map[behaviour.Place]Entry
}

// newEngineOf makes the engine of what the machine does with a program in front.
func (s *Station) newEngineOf(where Where) *engineOf {
	list := make([]behaviour.Binding, 0, len(s.all().entries))
	byPlace := make(map[behaviour.Place]Entry, len(s.all().entries))
	for _, e := range s.all().entries {
		if !where.has(e.Binding) {
			continue
		}
		b := e.Binding
		// What has landed is typed after Compose, and the mapping's is not; but in a panel's list, it is typed
		// before a space or a sign.
		if e.Level == behaviour.Typing {
			if b.End = behaviour.AfterCompose; e.Landing != nil && e.Landing.Mechanism != nil &&
				e.Landing.Facts().Stage == mechanism.Person {
				b.End = behaviour.AtSign
			}
		}
		list = append(list, b)
		byPlace[e.Place()] = e
	}
	e := newEngine(s.machine, list)
	e.Natural = s.natural
	return &engineOf{e, byPlace}
}

// Changed is what the keys of a board act as outside of layers, where a rule says so: the board's own
// before that of every board.
func (s *Station) Changed(board string) map[keys.Key]*land.Landing {
	x, found := s.places(), map[keys.Key]*land.Landing{}
	for at, i := range x.positions {
		l := x.entries[i].Landing
		if l == nil || at.layer != "" || at.board != board && at.board != "" {
			continue
		}
		if found[at.key] == nil || at.board != "" {
			found[at.key] = l
		}
	}
	return found
}
