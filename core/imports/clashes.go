package imports

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
)

// Clashes are the presses of a machine that a configuration of its user's binds as well, where the desktop includes
// ours into it: the desktop then names a duplicate, and goes by one of the two.
func Clashes(b *compile.Build, path string, text []byte) (presses []string) {
	own := bindingsOf(b, path, text)
	for _, l := range b.Landings {
		if includes(l) && slices.ContainsFunc(own, func(o behaviour.Binding) bool {
			return o.Chord.Overlaps(l.Binding.Chord) && len(o.Then)+len(l.Binding.Then) == 0
		}) && !slices.Contains(presses, l.Binding.Press()) {
			presses = append(presses, l.Binding.Press())
		}
	}
	return presses
}

// Present are the rules of a machine that a configuration of its user's carries already, press by press.
func Present(b *compile.Build, path string, text []byte) (rules []mapping.Rule) {
	own := bindingsOf(b, path, text)
	lacks := map[mapping.Rule]bool{}
	for _, l := range b.Landings {
		has := includes(l) && slices.ContainsFunc(own, func(o behaviour.Binding) bool {
			return o.Chord == l.Binding.Chord && slices.Equal(o.Then, l.Binding.Then) && o.Effect.Equal(l.Written().Effect)
		})
		lacks[l.Rule] = lacks[l.Rule] || !has
	}
	for _, l := range b.Landings {
		if !lacks[l.Rule] && !slices.Contains(rules, l.Rule) {
			rules = append(rules, l.Rule)
		}
	}
	return rules
}

// bindingsOf are the hotkeys of a user's configuration of the machine's desktop; none where it cannot be read.
func bindingsOf(b *compile.Build, path string, text []byte) (list []behaviour.Binding) {
	at := slices.IndexFunc(registry.Importers(), func(i registry.Importer) bool {
		of := i.For()
		return of.System == b.Machine.System && of.Desktop == b.Machine.Desktop && i.Knows(path, text)
	})
	if at < 0 {
		return nil
	}
	got, err := registry.Importers()[at].Import(b.Machine, text, mechanism.Folder{})
	if err != nil {
		return nil
	}
	return slices.DeleteFunc(got.Bindings, func(o behaviour.Binding) bool { return o.Level != behaviour.Hotkey })
}

// includes reports whether a press is a hotkey of the desktop.
func includes(l land.Landing) bool {
	return l.Mechanism != nil && l.Facts().Stage == mechanism.Desktop && l.Binding.Level == behaviour.Hotkey
}
