package proof

import (
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb/keymap"
)

// meaning is what landings of the layout say, by key.
type meaning struct {
	keys    map[keys.Key]land.Landing
	layered map[keys.Key]map[string]land.Landing // by layer
	chords  map[keys.Key][]land.Landing          // that are to be other chords
	hyper   bool
}

// meaningOf gathers what landings of the layout say.
func meaningOf(landings []land.Landing) meaning {
	m := meaning{
		map[keys.Key]land.Landing{},
		map[keys.Key]map[string]land.Landing{},
		map[keys.Key][]land.Landing{},
		false,
	}
	for _, l := range landings {
		k := l.Binding.Chord.Key
		switch {
		case !l.ReadBack() || l.Facts().Stage != mechanism.Layout:
		case l.Binding.Level == behaviour.Hotkey:
			m.chords[k] = append(m.chords[k], l)
		case l.Binding.Layer != "":
			if m.layered[k] == nil {
				m.layered[k] = map[string]land.Landing{}
			}
			m.layered[k][l.Binding.Layer] = l
		default:
			m.keys[k] = l
			m.hyper = m.hyper || l.Binding.Effect.Kind == behaviour.Modifier && l.Binding.Effect.Mods == keys.Hyper
		}
	}
	if !m.hyper { // what no press leads to
		for k := range m.chords {
			m.chords[k] = slices.DeleteFunc(m.chords[k], func(l land.Landing) bool {
				return (l.Binding.Chord.Mods | l.Binding.Effect.Chord.Mods).Has(keys.Hyper)
			})
		}
	}
	return m
}

// touches says whether the mapping gives a key another meaning in the layout. (One that
// it leaves alone may yet do something else, where it takes a modifier away.)
func (m meaning) touches(k keys.Key) bool {
	_, positions := m.keys[k]
	return positions || len(m.layered[k]) > 0 || len(m.chords[k]) > 0
}

// layout compares a Linux machine's keyboard in every state.
func (p *prover) layout(written *keymap.Keymap, landings []land.Landing) {
	bare := keymap.Build(p.build.Machine.Layouts, nil, nil)
	meant := meaningOf(landings)
	p.changedTwice(meant, landings)
	p.redirected(written, bare, meant, landings)
	p.modifiers(written, bare, meant)
	for _, k := range keys.All() {
		p.key(written, bare, meant, k)
	}
}

// changedTwice finds what a driver makes of a key, which reaches the layout as that key, and what the
// layout then makes of it.
func (p *prover) changedTwice(meant meaning, landings []land.Landing) {
	for _, l := range landings {
		if l.Mechanism == nil || l.Facts().Stage != mechanism.Kernel || l.Binding.Effect.Kind != behaviour.Becomes {
			continue
		}
		to := l.Binding.Effect.Key
		then, again := meant.keys[to]
		for _, in := range meant.layered[to] {
			then, again = in, true
		}
		if again {
			p.defect(l, "is changed twice, and "+then.Binding.Effect.String())
		}
	}
}

// redirected finds keys that are pressed in place of others, and are not what the bare layout makes
// them.
func (p *prover) redirected(written, bare *keymap.Keymap, meant meaning, landings []land.Landing) {
	for _, l := range landings {
		to, out := sent(l)
		if !l.ReadBack() || !out || l.Facts().Stage != mechanism.Layout ||
			l.Binding.Layer != "" && to == l.Binding.Chord.Key {
			continue
		}
		key, ok1 := written.KeyOf(to)
		model, ok2 := bare.KeyOf(to)
		if ok1 && ok2 && len(meant.chords[to]) == 0 && meant.touches(to) && !written.Like(key, bare, model) {
			p.defect(l, fmt.Sprintf("is %s, which the layout changes", to))
		}
	}
}

// defect notes that a landing does something else.
func (p *prover) defect(l land.Landing, got string) {
	p.Defects = append(p.Defects, Defect{
		Press: l.Binding.Press(), Want: l.Binding.Effect.String(), Got: got, Rule: l.Rule, Range: l.Range,
	})
}

// modifiers compares which real modifiers the virtual ones are, and notes which can be turned on.
func (p *prover) modifiers(written, bare *keymap.Keymap, meant meaning) {
	p.reach = 0
	for _, k := range keys.All() {
		if key, ok := written.KeyOf(k); ok {
			p.reach |= key.Reach()
		}
		as := k
		if l, changed := meant.keys[k]; changed {
			as = l.Binding.Effect.Key // None where it is to be no other key
		}
		if key, ok := bare.KeyOf(as); ok {
			p.reach |= key.Reach()
		}
	}
	for _, v := range []string{"Alt", "Meta", "Super", "LevelThree", "NumLock", "Hyper"} {
		want := bare.Virtual(v)
		if v == "Hyper" && meant.hyper {
			want = keymap.Mod3
		}
		got := written.Virtual(v)
		if got == 0 && want&p.reach == 0 {
			continue // no key is left that could turn it on
		}
		if got != want {
			p.Defects = append(p.Defects, Defect{Press: "the modifier " + v,
				Want: "is " + strings.Join(want.Names(), "+"), Got: "is " + strings.Join(got.Names(), "+")})
		}
	}
}

// key compares a key in every state.
func (p *prover) key(written, bare *keymap.Keymap, meant meaning, k keys.Key) {
	key, ok := written.KeyOf(k)
	l, changed := meant.keys[k]
	as := k
	if changed && l.Binding.Effect.Kind == behaviour.Becomes {
		as = l.Binding.Effect.Key
	}
	model, has := bare.KeyOf(as)
	switch inLayers := meant.layered[k]; {
	case ok && len(inLayers) > 0:
		p.layers(written, bare, k, l, changed, inLayers, meant.touches)
	case ok && has && len(meant.chords[k]) > 0:
		p.chords(written, bare, k, meant.chords[k])
	case !ok || !has:
		if ok != has && !changed {
			p.Defects = append(p.Defects, Defect{Press: k.String(), Want: "a key of the layout", Got: "no key"})
		}
	case changed && l.Binding.Effect.Kind == behaviour.Sends:
		p.layers(written, bare, k, l, changed, nil, meant.touches)
	case changed && l.Binding.Effect.Kind != behaviour.Becomes:
		p.special(written, key, l)
	case written.Like(key, bare, model):
		p.Presses++ // as a whole
	default:
		p.compare(k, key.Watches()|model.Watches(), func(on keymap.Mask, g int) (keymap.Outcome, keymap.Outcome) {
			return bare.At(model, on, g), written.At(key, on, g)
		}, l)
	}
}

// special compares a key that is to do nothing, or to be a modifier.
func (p *prover) special(written *keymap.Keymap, key *keymap.Key, l land.Landing) {
	want := p.givenByRole(written, l.Binding.Effect)
	watched := key.Watches()
	if l.Binding.Effect.Kind == behaviour.Types {
		watched |= keymap.Shift // of which a text leaves nothing
	}
	p.compare(l.Binding.Chord.Key, watched, func(on keymap.Mask, g int) (keymap.Outcome, keymap.Outcome) {
		got := written.At(key, on, g)
		w := want
		w.Left, w.Repeats = on, got.Repeats && want.Sets == 0 && want.Action == ""
		if e := l.Binding.Effect; e.Kind == behaviour.Types && isLetter(e.Text) {
			w.Left &^= keymap.Shift | keymap.Lock // used up, so that they make no capital
		}
		return w, got
	}, l)
}

// givenByRole is what a key gives that is to do nothing, to be a modifier, or to switch a
// layer on, in whatever state.
func (p *prover) givenByRole(written *keymap.Keymap, e behaviour.Effect) keymap.Outcome {
	var want keymap.Outcome
	want.Keysym = "VoidSymbol"
	switch e.Kind {
	case behaviour.Modifier:
		want.Sets = written.Held(e.Mods)
		if e.Mods == keys.Hyper {
			want.Keysym, want.Sets = "Hyper_L", keymap.Mod3
		}
	case behaviour.Composes:
		want.Keysym = "Multi_key"
	case behaviour.Types:
		want.Keysym = keys.RuneKeysym([]rune(e.Text)[0])
	case behaviour.Layers:
		want.Action = map[behaviour.Switch]string{
			behaviour.While: "holds group", behaviour.Toggle: "locks group", behaviour.Once: "latches group",
		}[e.How]
		want.Group = p.groupOf(e.Layer)
	default: // the others have the keysyms of a key, as above
	}
	return want
}

func isLetter(text string) bool { return unicode.IsLetter([]rune(text)[0]) }

// groupOf is the first group of a layer, from 0.
func (p *prover) groupOf(layer string) int {
	return len(p.build.Machine.Layouts) * (1 + slices.Index(p.build.Machine.Layers, layer))
}

// layers compares a key that means something else in a layer, in the groups of the
// layouts and of the layers.
func (p *prover) layers(
	written, bare *keymap.Keymap,
	k keys.Key,
	base land.Landing,
	changed bool,
	inLayers map[string]land.Landing,
	touched func(keys.Key) bool,
) {
	key, _ := written.KeyOf(k)
	n := len(p.build.Machine.Layouts)
	watched := key.Watches() | keymap.Shift // of which a text leaves nothing
	groups := make([]inGroup, p.groups())
	for g := range groups {
		m := inGroup{effect: behaviour.Effect{Kind: behaviour.Becomes, Key: k}, meant: changed}
		if changed {
			m.effect = base.Binding.Effect
		}
		if g >= n {
			if l, ok := inLayers[p.build.Machine.Layers[g/n-1]]; ok {
				m.effect, m.meant = l.Binding.Effect, true
			}
		}
		as := m.effect.Key
		if m.effect.Kind == behaviour.Sends {
			as = m.effect.Chord.Key
		}
		if m.model, _ = bare.KeyOf(as); m.model != nil {
			watched |= m.model.Watches()
			m.pressed = g >= n && !touched(as)
		}
		groups[g] = m
	}
	p.compare(k, watched, func(on keymap.Mask, g int) (keymap.Outcome, keymap.Outcome) {
		got := written.At(key, on, g)
		return p.wanted(written, bare, groups[g], on, g%n, got), got
	}, base)
}

// inGroup is what a key means in a group.
type inGroup struct {
	effect behaviour.Effect
	meant  bool
	model  *keymap.Key // what it becomes, in the bare layout
	// pressed: the server may press that key in place of this one, since the layout
	// leaves it alone.
	pressed bool
}

// wanted is what a key is to give in a state, in the group of a layout; got is what it gives.
func (p *prover) wanted(
	written, bare *keymap.Keymap, m inGroup, on keymap.Mask, layout int, got keymap.Outcome,
) keymap.Outcome {
	e := m.effect
	switch e.Kind {
	case behaviour.Becomes:
		if m.model == nil {
			return got // the layout has no such key, and nothing is said of it
		}
		want := bare.At(m.model, on, layout)
		if m.meant {
			want.Repeats = got.Repeats // a key repeats in all of its groups or in none
		}
		if got.To != "" && m.pressed {
			to, _ := e.Key.XKB()
			want.Redirect = keymap.Redirect{To: to}
		}
		return want
	case behaviour.Sends:
		if m.model == nil {
			return keymap.Outcome{} // X11 has no such key; the default of nothing is no chord
		}
		want := bare.At(m.model, on, layout)
		want.Repeats = got.Repeats
		to, _ := e.Chord.Key.XKB()
		want.Redirect = keymap.Redirect{To: to, Adds: written.Held(e.Chord.Mods)}
		return want
	case behaviour.Types:
		want := p.givenByRole(written, e)
		if want.Left, want.Repeats = on, got.Repeats; isLetter(e.Text) {
			want.Left &^= keymap.Shift | keymap.Lock
		}
		return want
	case behaviour.Leaves:
		want := keymap.Outcome{
			Given:  keymap.Given{Keysym: "ISO_First_Group", Left: on, Repeats: got.Repeats},
			Action: "locks group",
			Group:  1,
		}
		if got.Keysym == "VoidSymbol" { // a key with actions of its own goes back by as much as the layer is away
			want.Keysym, want.Group = "VoidSymbol", -p.groupOf(e.Layer)
		}
		return want
	default: // the others give one thing in whatever state
	}
	want := p.givenByRole(written, e)
	want.Left, want.Repeats = on, got.Repeats && want.Sets == 0 && want.Action == ""
	return want
}

// compare presses a key in every state and reports the state with the fewest
// modifiers in which the two sides differ. What they do can only go by the watched
// modifiers.
func (p *prover) compare(
	k keys.Key, watched keymap.Mask, both func(on keymap.Mask, group int) (want, got keymap.Outcome), l land.Landing,
) {
	best := -1
	var defect Defect
	for g := range p.groups() {
		for on := range keymap.Masks {
			if keymap.Mask(on)&^(p.reach&watched) != 0 {
				continue // no press leads there, or the modifier is left over on both sides
			}
			want, got := both(keymap.Mask(on), g)
			p.Presses++
			if want == got || best >= 0 && bits.OnesCount(uint(on)) >= best {
				continue
			}
			best = bits.OnesCount(uint(on))
			press := strings.Join(append(keymap.Mask(on).Names(), k.String()), "+")
			if n := len(p.build.Machine.Layouts); g%n > 0 {
				press += " in layout " + p.build.Machine.Layouts[g%n].Name
			}
			if n := len(p.build.Machine.Layouts); g >= n {
				press += " in layer " + p.build.Machine.Layers[g/n-1]
			}
			defect = Defect{Press: press, Want: words(want), Got: words(got)}
			if l.Entry != nil { // the mapping speaks of the key
				defect.Rule, defect.Range = l.Rule, l.Range
			}
		}
	}
	if best >= 0 {
		p.Defects = append(p.Defects, defect)
	}
}
