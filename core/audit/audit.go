package audit

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/station"
)

// Machine looks over what a mapping compiles to for one machine. What a rule allows
// is left out.
func Machine(mp *mapping.Mapping, s *station.Station) diag.List {
	b := s.Build()
	a := &auditor{mp: mp, b: b, told: map[told]bool{}, station: s, moved: map[string]map[keys.Key]*land.Landing{}}
	a.lost()
	a.options()
	for _, l := range b.Landings {
		a.hotkey(l)
	}
	a.notes()
	return a.list
}

// Programs looks for programs that a machine starts and does not have.
func Programs(mp *mapping.Mapping, b *compile.Build, has func(program string) bool) diag.List {
	a := &auditor{mp: mp, b: b, told: map[told]bool{}}
	for _, l := range b.Landings {
		command := l.Binding.Effect.Launch().Command
		if l.Mechanism == nil || len(command) == 0 || strings.IndexAny(command[0], "~$%") == 0 || has(command[0]) {
			continue
		}
		a.add(
			"no-program", l.Rule, l.Range, fmt.Sprintf("%s is not on this machine", command[0]),
			"install it, or name it by its whole path",
		)
	}
	return a.list
}

// Whole looks over what concerns no one machine.
func Whole(mp *mapping.Mapping) diag.List { return append(unusedBoards(mp), nowhere(mp)...) }

// auditor is the work on one machine.
type auditor struct {
	mp      *mapping.Mapping
	b       *compile.Build
	list    diag.List
	told    map[told]bool // what was told of every board is not told of one again
	station *station.Station
	// moved is what the keys of each board act as.
	moved map[string]map[keys.Key]*land.Landing
}

type told struct {
	code string
	at   diag.Range
}

func (a *auditor) add(code string, rule mapping.Rule, at diag.Range, summary, advice string) {
	if mapping.Allows(rule, a.b.Machine.Machine, code) || a.told[told{code, at}] {
		return
	}
	a.told[told{code, at}] = true
	f, _ := Find(code)
	a.list = append(a.list, diag.Diagnostic{
		Severity: f.Severity, Code: code, Summary: summary, Advice: advice, Range: at, Line: a.mp.SourceLine(at),
		Machines: []string{a.b.Machine.Name},
	})
}

// positions is what the keys of a board act as, where a rule says so, and the
// landing that does.
func (a *auditor) positions(board string) map[keys.Key]*land.Landing {
	if known, ok := a.moved[board]; ok {
		return known
	}
	a.moved[board] = a.station.Changed(board)
	return a.moved[board]
}

// boards are the machine's boards, and "" for one that no rule singles out.
func (a *auditor) boards() []*machine.Board {
	return append([]*machine.Board{{}}, a.b.Machine.Boards...)
}

// options finds rules that take a key from an option of the machine.
func (a *auditor) options() {
	for _, o := range a.b.Machine.Layouts[0].Extra.Options {
		for _, name := range o.Changes() {
			k, ok := keys.ByXKB(name)
			if !ok {
				continue
			}
			for _, l := range a.b.Landings {
				if l.Mechanism != nil && l.Binding.Level == behaviour.Position && l.Binding.Layer == "" &&
					l.Binding.Chord.Key == k {
					a.add(
						"option-lost", l.Rule, l.Range,
						fmt.Sprintf("%s is a key of option %s, and the rule gives it another meaning", k, o.Name),
						"leave the key to the option, or take the option out of the machine's list and off the machine",
					)
				}
			}
		}
	}
}

// needed are keys whose loss locks people out, beside letters and digits.
var needed = []string{"Escape", "Enter", "Tab", "Backspace", "Space"}

// lost finds what no key gives any more.
func (a *auditor) lost() {
	layout, all := a.b.Machine.Layouts[0], keys.All()
	for _, board := range a.boards() {
		moved := a.positions(board.Name)
		if len(moved) == 0 {
			continue
		}
		var given [1 << 8]bool
		var mods keys.Mods
		works := func(k keys.Key) bool { return !slices.Contains(board.Lacks, k) && !slices.Contains(board.Broken, k) }
		for _, k := range all {
			_, is := moved[k]
			given[k] = !is && works(k)
		}
		for _, k := range modifiers() {
			if given[k] {
				mods |= a.modifierOf(k)
			}
		}
		for k, l := range moved {
			switch e := l.Binding.Effect; {
			case !works(k):
			case e.Kind == behaviour.Becomes:
				given[e.Key] = true
				mods |= a.modifierOf(e.Key)
			case e.Kind == behaviour.Modifier:
				mods |= e.Mods
			}
		}
		where := ""
		if board.Name != "" {
			where = " on " + board.Name
		}
		written := a.written(board.Name)
		types := func(r rune) bool { return written[unicode.ToLower(r)] || typed(layout, &given, r) }
		for _, k := range slices.Sorted(maps.Keys(moved)) {
			l := moved[k]
			a.lostKey(l, k, &given, types, where)
			if mod := a.modifierOf(k); mod != 0 && mods&mod == 0 {
				a.add(
					"lost-modifier", l.Rule, l.Range,
					fmt.Sprintf("no key acts as %s any more%s", mod.Names()[0], where),
					"leave one of its two keys, or put it on another key",
				)
			}
		}
	}
}

// written are the characters that rules have keys of a board type, in lower case.
func (a *auditor) written(board string) map[rune]bool {
	found := map[rune]bool{}
	for i := range a.b.Landings {
		l := &a.b.Landings[i]
		e := l.Written().Effect
		if text := []rune(e.Text); l.Mechanism != nil && e.Kind == behaviour.Types && len(text) == 1 && len(l.Binding.Then) == 0 &&
			len(l.Binding.Apps) == 0 && (l.Binding.Board == "" || l.Binding.Board == board) {
			found[unicode.ToLower(text[0])] = true
		}
	}
	return found
}

// modifiers are the keys of modifierOf.
var modifiers = sync.OnceValue(func() []keys.Key {
	return slices.DeleteFunc(
		keys.All(), func(k keys.Key) bool { return modifierOf(k) == 0 && k.String() != "AltRight" },
	)
})

// modifierOf is the modifier, either side, that a key is; 0 for another key, and for
// the right Alt, which is AltGr in many layouts.
func modifierOf(k keys.Key) keys.Mods {
	switch k.String() {
	case "ControlLeft", "ControlRight":
		return keys.Ctrl
	case "AltLeft":
		return keys.Alt
	case "ShiftLeft", "ShiftRight":
		return keys.Shift
	case "MetaLeft", "MetaRight":
		return keys.Meta
	}
	return 0
}

// modifierOf is modifierOf, and Alt for the right Alt where the machine's layout makes it
// that.
func (a *auditor) modifierOf(k keys.Key) keys.Mods {
	if s, ok := a.b.Machine.Symbols(0, k); k.String() == "AltRight" && ok && keys.RealModifier(s.Level[0]) == "Mod1" {
		return keys.Alt
	}
	return modifierOf(k)
}

// typed says whether any of the given keys types a character, in either case.
func typed(layout *keys.Layout, given *[1 << 8]bool, r rune) bool {
	for k, left := range given {
		if !left || keys.Key(k).Section() != keys.Writing {
			continue
		}
		for _, c := range layout.Characters(keys.Key(k)) {
			if c != 0 && unicode.ToLower(c) == unicode.ToLower(r) {
				return true
			}
		}
	}
	return false
}

// lostKey tells what a moved key gave that no key gives now.
func (a *auditor) lostKey(
	l *land.Landing, k keys.Key, given *[1 << 8]bool, types func(rune) bool, where string,
) {
	layout := a.b.Machine.Layouts[0]
	if slices.Contains(needed, k.String()) && !given[k] {
		a.add("lost-key", l.Rule, l.Range, fmt.Sprintf("no key gives %s any more%s", k, where), "put it on another key")
		return
	}
	if k.Section() != keys.Writing {
		return
	}
	var gone []string
	for i, r := range layout.Characters(k) {
		apart := i > 1 && l.Written().Effect.Kind == behaviour.Types && a.b.Machine.System != machine.Linux
		if r == 0 || i > 1 && r > 0x7F || apart || types(r) {
			continue // of the third level, only what programs need; a layout of ours leaves that to the key
		}
		if r >= '0' && r <= '9' || unicode.IsLetter(r) && i < 2 && r < 0x80 {
			a.add(
				"lost-key", l.Rule, l.Range, fmt.Sprintf("no key types %c any more%s", r, where),
				"put it on another key",
			)
			return
		}
		if c := string(r); !slices.Contains(gone, c) {
			gone = append(gone, c)
		}
	}
	if len(gone) > 0 {
		a.add(
			"lost-character", l.Rule, l.Range,
			fmt.Sprintf("no key types %s any more under layout %s%s", strings.Join(gone, " "), layout.Name, where),
			"put them on another key, or allow it if nobody misses them",
		)
	}
}

// hotkey looks at one chord.
func (a *auditor) hotkey(l land.Landing) {
	b := l.Binding
	if b.Level != behaviour.Hotkey || b.Layer != "" || b.Chord.Key == keys.None {
		return
	}
	c := b.Chord
	if use, ok := a.station.Stock(c); ok && b.Effect.Kind != behaviour.Nothing && l.Mechanism != nil &&
		!sameAction(l, use) {
		if !use.Fixed && !b.Override {
			a.add("taken", l.Rule, l.Range, fmt.Sprintf("%s is taken on %s: %s", c, a.b.Machine.Place(), use.Words),
				"use another chord, which `leitstand chords --free` lists, or say override = true")
		}
	}
	if char, ok := a.types(c); ok {
		a.add(
			"types-character", l.Rule, l.Range,
			fmt.Sprintf("%s types %q under layout %s, which the rule takes", c, char, a.b.Machine.Layouts[0].Name),
			"use a chord with Ctrl, Alt or Meta that types nothing",
		)
	}
	a.started(l)
	if what, ok := ends(b.Effect, b.Confirm); ok && easy(c) {
		a.add(
			"ends-session", l.Rule, l.Range, fmt.Sprintf("%s alone %s", c, what),
			"add modifiers, or confirm = true",
		)
	}
	a.reachable(l)
	if use, ok := conventions[c.String()]; ok && l.Mechanism != nil {
		a.add("convention", l.Rule, l.Range, fmt.Sprintf("%s is %s in many programs", c, use), "")
	}
}

// sameAction says whether a press is for what the desktop does with it anyhow.
func sameAction(l land.Landing, u desktop.Use) bool {
	if d, ok := l.Mechanism.(interface {
		Does(desktop.Use) behaviour.Effect
	}); ok && d.Does(u).Equal(l.Binding.Effect) {
		return true
	}
	if n, ok := l.Mechanism.(interface{ Calls(action string) string }); ok && l.Binding.Effect.Kind == behaviour.Acts {
		return n.Calls(l.Binding.Effect.Action) == u.Name
	}
	return l.Binding.Effect.Kind == behaviour.Launches && u.IsLaunch(l.Binding.Effect.Launch())
}

// types says which character a chord types.
func (a *auditor) types(c keys.Chord) (rune, bool) {
	level := -1
	altgr := c.Mods.Has(keys.AltGr)
	rest := c.Mods &^ (keys.Shift | keys.ShiftLeft | keys.ShiftRight | keys.AltGr)
	// Windows cannot tell Ctrl+Alt from AltGr, and a Mac types with Option.
	switch {
	case a.b.Machine.System == machine.Windows && rest == keys.Ctrl|keys.Alt && !a.b.Machine.OwnAltGr,
		a.b.Machine.System == machine.MacOS && rest == keys.Alt:
		altgr, rest = true, 0
	}
	if rest != 0 || c.Key.Section() != keys.Writing && c.Key.String() != "Space" {
		return 0, false
	}
	level = 0
	if c.Mods&(keys.Shift|keys.ShiftLeft|keys.ShiftRight) != 0 {
		level++
	}
	if altgr {
		level += 2
	}
	s, ok := a.b.Machine.Layouts[0].Symbols(c.Key)
	if !ok || level >= len(s.Level) {
		return 0, false
	}
	r, ok := keys.KeysymRune(s.Level[level])
	// XKB's layouts have more on their third level than those of other systems.
	if altgr && a.b.Machine.System != machine.Linux && r > 0x7F && !strings.ContainsRune("€£²³µ", r) {
		return 0, false
	}
	return r, ok
}

// easy says whether a chord is hit by accident: one key, or with Shift only.
func easy(c keys.Chord) bool { return c.Mods&^(keys.Shift|keys.ShiftLeft|keys.ShiftRight) == 0 }

// reachable finds chords that nobody can press.
func (a *auditor) reachable(l land.Landing) {
	if l.Mechanism == nil {
		return
	}
	board := &machine.Board{Name: l.Binding.Board}
	for _, b := range a.b.Machine.Boards {
		if b.Name == l.Binding.Board {
			board = b
		}
	}
	moved := a.positions(board.Name)
	inLayout := l.Facts().Stage == mechanism.Layout // which has each state of a key apart
	gives := func(k keys.Key) bool {
		kind, to := behaviour.Becomes, k
		if m, ok := moved[k]; ok && !(inLayout && m.Facts().Stage == mechanism.Layout) {
			kind, to = m.Binding.Effect.Kind, m.Binding.Effect.Key
		}
		return kind == behaviour.Becomes && to == l.Binding.Chord.Key && !slices.Contains(board.Broken, k) &&
			!slices.Contains(board.Lacks, k)
	}
	if gives(l.Binding.Chord.Key) || slices.ContainsFunc(keys.All(), gives) { // most keys are what they are
		return
	}
	a.add(
		"unreachable", l.Rule, l.Range,
		fmt.Sprintf("no key gives %s any more, so %s cannot be pressed", l.Binding.Chord.Key, l.Binding.Chord),
		"use another chord, or leave a key that gives it",
	)
}

// notes says when and where the mapping holds, once for each mechanism.
func (a *auditor) notes() {
	for _, name := range a.b.Machine.Assumed {
		system := a.b.Machine.System.Title()
		a.add(
			"layout-assumed",
			nil,
			a.b.Machine.Range,
			fmt.Sprintf(
				"what keys type under layout %s on %s is not known: Linux's layout of that name is taken for it",
				name, system,
			),
			"",
		)
	}
	for _, f := range a.b.Used {
		at := diag.Range{}
		for _, l := range a.b.Landings {
			if l.Mechanism != nil && l.Facts().Name == f.Name {
				at = l.Range
				break
			}
		}
		if f.Stage == mechanism.Person || f.Itself {
			continue
		}
		a.add("takes-effect", nil, at, fmt.Sprintf("%s takes effect %s", f.Name, f.Takes), "")
		if f.Everyone || f.Stage == mechanism.Layout && a.b.Machine.LayoutForAll {
			a.add(
				"needs-rights", nil, at,
				fmt.Sprintf("what %s does needs an administrator, and holds for every user", f.Name), "",
			)
		}
		if !f.Everyone && f.Stage != mechanism.Desktop {
			a.add(
				"not-everywhere",
				nil,
				at,
				fmt.Sprintf(
					"what %s does holds in your session: not on the log-in screen, nor on a text console", f.Name,
				),
				"",
			)
		}
	}
}

// unusedBoards finds boards that no machine names.
func unusedBoards(mp *mapping.Mapping) diag.List {
	var list diag.List
	f, _ := Find("unused-board")
	for _, b := range mp.Boards {
		used := slices.ContainsFunc(
			mp.Machines, func(m *machine.Machine) bool { return slices.Contains(m.Boards, b.Name) },
		)
		if !used && len(mp.Machines) > 0 {
			list = append(list, diag.Diagnostic{
				Severity: f.Severity, Code: f.Code, Summary: fmt.Sprintf("no machine has the board %q", b.Name),
				Advice: "add it to the boards of a machine, or take it out", Range: b.Range, Line: mp.SourceLine(b.Range),
			})
		}
	}
	return list
}

// nowhere finds rules that hold on none of the machines. A mapping without machines
// is for whichever it is read on, and may say things for others.
func nowhere(mp *mapping.Mapping) diag.List {
	var list diag.List
	f, _ := Find("no-machine")
	for _, r := range mp.Rules {
		h := r.Head()
		holds := func(m *machine.Machine) bool { return mapping.Holds(mp, r, m) }
		if len(mp.Machines) == 0 || !h.Enabled || slices.Contains(h.Allow, f.Code) ||
			slices.ContainsFunc(mp.Machines, holds) {
			continue
		}
		advice := "widen its scope, add the machine, or say allow = [\"no-machine\"]"
		if both := h.Scope.Mixed(); both != "" {
			advice = fmt.Sprintf(
				"%s are names of different kinds, of which each must hold; for either, write a rule or an on block for each",
				both,
			)
		}
		list = append(list, diag.Diagnostic{
			Severity: f.Severity, Code: f.Code, Summary: mapping.Title(r) + " holds on no machine of the mapping",
			Advice: advice, Range: h.Range, Line: mp.SourceLine(h.Range),
		})
	}
	return list
}
