package imports

import (
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/land"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
)

// Clashes are the presses of a machine that a configuration of its user's binds as well, where the desktop includes
// ours into it: the desktop then names a duplicate, and goes by one of the two.
func Clashes(b *compile.Build, path string, text []byte) (presses []string) {
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
	for _, l := range b.Landings {
		if l.Mechanism == nil || l.Facts().Stage != mechanism.Desktop || l.Binding.Level != behaviour.Hotkey {
			continue
		}
		if bound(l, got.Bindings) && !slices.Contains(presses, l.Binding.Press()) {
			presses = append(presses, l.Binding.Press())
		}
	}
	return presses
}

func bound(l land.Landing, list []behaviour.Binding) bool {
	return slices.ContainsFunc(list, func(o behaviour.Binding) bool {
		return o.Level == behaviour.Hotkey && o.Chord.Overlaps(l.Binding.Chord) && len(o.Then) == 0 &&
			len(l.Binding.Then) == 0
	})
}
