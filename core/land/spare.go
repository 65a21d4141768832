package land

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism/registry"
	"leitstand/core/reason"
)

// spare are keys that hardly a board has, and that every XKB layout gives a keysym of
// its own: XF86Launch5 to XF86Launch9.
var spare = []string{"F14", "F15", "F16", "F17", "F18"}

// useSpareKeys lets a key of a layer type a text or have the desktop do something, which a
// layout cannot: it becomes a spare key there, of which the programs' compose sequences
// make the text, and the desktop the action. (An action goes this way in an X11 session
// only, whose server presses the spare key in place of a letter or a sign: window
// managers find the keys of a keysym in the first group, and see no other of a layer.)
// What is left when the spare keys are used up cannot be had.
func useSpareKeys(in *intent.Intent, mechanisms []registry.Mechanism) {
	m := in.Machine
	if m.System != machine.Linux || m.Session == machine.Console {
		return
	}
	used := map[keys.Key]bool{}
	for _, e := range in.Entries {
		used[e.Binding.Chord.Key], used[e.Binding.Effect.Key] = true, true
		for _, t := range e.Binding.Then {
			used[t.Key] = true
		}
	}
	free := slices.DeleteFunc(slices.Clone(spare), func(code string) bool {
		k, _ := keys.ByCode(code)
		return used[k]
	})
	for _, e := range in.Entries {
		b := &e.Binding
		if b.Layer == "" || b.Board != "" {
			continue
		}
		pressed := m.Session == machine.X11 && b.Chord.Key.Section() == keys.Writing
		switch kind := b.Effect.Kind; {
		case kind == behaviour.Types && len([]rune(b.Effect.Text)) > 1:
		case pressed && (kind == behaviour.Acts || kind == behaviour.Launches):
		default:
			continue
		}
		if len(free) == 0 {
			e.Change(func(l *intent.Lack) { l.Missing = reason.NoSpareKey.Of(strings.Join(spare, ", ")) })
			continue
		}
		k, _ := keys.ByCode(free[0])
		acts := *e
		acts.Binding = behaviour.Binding{
			Level: behaviour.Hotkey, Chord: keys.Chord{Key: k}, Effect: b.Effect,
			Request: behaviour.Request{Everyone: b.Everyone},
		}
		if ways, _ := offers(mechanisms, m, acts.Binding); len(ways) == 0 {
			continue
		}
		free = free[1:]
		acts.Change(func(l *intent.Lack) { l.Less = reason.BySpareKey.Of(k, b.Chord.Key) })
		e.Binding.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: k}
		in.Entries = append(in.Entries, &acts)
	}
}
