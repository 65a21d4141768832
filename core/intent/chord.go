package intent

import (
	"fmt"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
)

// chord makes a spelled chord one of this machine: Primary is its main shortcut
// modifier, Hyper what stands for it, a name of the user's own what it is on this
// system, and a character the key that types it.
func (r *resolver) chord(s keys.Spelling, at diag.Range) (keys.Chord, bool) {
	chord := keys.Chord{Key: s.Key}
	for _, name := range s.Mods {
		mods, ok := r.mods(name, at)
		if !ok {
			return chord, false
		}
		chord.Mods |= mods
	}
	if chord.Mods.Has(keys.Hyper) && r.HyperMods != keys.Hyper {
		chord.Mods = chord.Mods&^keys.Hyper | r.HyperMods
	}
	if s.Char == 0 {
		return chord, true
	}
	k, ok := r.character(s, at)
	chord.Key = k
	return chord, ok
}

// mods is what a modifier's name stands for here.
func (r *resolver) mods(name string, at diag.Range) (keys.Mods, bool) {
	if name == keys.Primary {
		if r.Machine.System == machine.MacOS || r.Machine.System == machine.IPadOS {
			return keys.Meta, true
		}
		return keys.Ctrl, true
	}
	if m, ok := keys.ModByName(name); ok {
		return m, true
	}
	own, ok := r.mp.Modifier(name, at.File)
	if !ok {
		return 0, false
	}
	mods := own.On(r.Machine.System)
	if mods == 0 {
		r.add(
			diag.Error, at, "no-such-modifier",
			fmt.Sprintf("modifier %q stands for nothing on %s", name, r.Machine.System),
			fmt.Sprintf("add %s = … or other = … to it", r.Machine.System),
			diag.Related{Range: own.Range, Words: "defined here"},
		)
	}
	return mods, mods != 0
}

func (r *resolver) character(s keys.Spelling, at diag.Range) (keys.Key, bool) {
	if s.Char >= '0' && s.Char <= '9' {
		return keys.ByCode("Digit" + string(s.Char))
	}
	if s.Char == ' ' {
		return keys.ByCode("Space")
	}
	layout := r.Machine.Latin()
	place, ok := layout.Find(s.Char)
	switch {
	case !ok:
		r.lack(at, reason.NoSuchCharacter.Of(string(s.Char), layout.Name),
			"name the key by its code, which `leitstand keys` lists")
		return keys.None, false
	case place.Mods != 0:
		r.lack(at, reason.HiddenModifier.Of(string(s.Char), strings.Join(place.Mods.Names(), "+"), layout.Name),
			fmt.Sprintf("if that is meant, write %q", spelled(s, place, layout)))
		return keys.None, false
	}
	return place.Key, true
}

// lack notes that the machine's layout does not have what a rule speaks of.
func (r *resolver) lack(at diag.Range, why reason.List, advice string) {
	r.lacked = why
	r.lacks = append(r.lacks, diag.Diagnostic{
		Severity: diag.Warning, Code: why[0].Code, Summary: why.String(), Advice: advice, Range: at,
		Line: r.mp.SourceLine(at), Machines: []string{r.Machine.Name},
	})
}

// lacking is why what was asked for last cannot be had, nil if it was no lack.
func (r *resolver) lacking() reason.List {
	if len(r.lacks) == 0 {
		return nil
	}
	return r.lacked
}

// unspelled is the entry of a press or a key that the layout does not have, or that gives
// what it does not have; nothing where an error says what is wrong.
func (r *resolver) unspelled(rule mapping.Rule, at diag.Range, b behaviour.Binding) []Entry {
	why := r.lacking()
	if why == nil {
		return nil
	}
	if b.Effect.Kind == behaviour.Becomes && b.Effect.Key == keys.None {
		b.Effect = behaviour.Effect{Kind: behaviour.Other, Words: mapping.Title(rule)}
	}
	return []Entry{{Rule: rule, Range: at, Binding: b, lack: &Lack{Missing: why, Unspelled: why}}}
}

// spelled is the chord with the modifiers its character needs written out.
func spelled(s keys.Spelling, place keys.Place, layout *keys.Layout) string {
	had := map[string]bool{}
	for _, m := range s.Mods {
		had[m] = true
	}
	for _, m := range place.Mods.Names() {
		if !had[m] {
			s.Mods = append(s.Mods, m)
		}
	}
	s.Char, s.Key = 0, place.Key
	if sym, ok := layout.Symbols(place.Key); ok {
		if c, ok := keys.KeysymRune(sym.Level[0]); ok && unicode.IsGraphic(c) {
			s.Char, s.Key = c, keys.None
		}
	}
	return s.String()
}

// Chord makes a spelled chord one of a resolved machine.
func Chord(mp *mapping.Mapping, in *Intent, s keys.Spelling) (keys.Chord, error) {
	r := &resolver{mp: mp, Intent: Intent{Machine: in.Machine, HyperMods: in.HyperMods}}
	c, ok := r.chord(s, diag.Range{})
	if list := append(r.diags, r.lacks...); !ok && len(list) > 0 {
		return c, fmt.Errorf("%s: %s", list[0].Summary, list[0].Advice)
	}
	return c, nil
}
