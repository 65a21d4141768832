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

// layout compares a Linux machine's keyboard in every state.
func (p *prover) layout(written *keymap.Keymap, landings []land.Landing) {
	bare := keymap.Build(p.build.Machine.Layouts, nil, nil)
	meant := map[keys.Key]land.Landing{}
	layered := map[keys.Key]map[string]land.Landing{} // by layer
	chords := map[keys.Key][]land.Landing{}           // that are to be other chords
	hyper := false
	for _, l := range landings {
		file := l.ReadBack()
		if file && l.Facts().Stage == mechanism.Layout && l.Binding.Level == behaviour.Hotkey {
			chords[l.Binding.Chord.Key] = append(chords[l.Binding.Chord.Key], l)
		} else if file && l.Facts().Stage == mechanism.Layout && l.Binding.Layer != "" {
			if layered[l.Binding.Chord.Key] == nil {
				layered[l.Binding.Chord.Key] = map[string]land.Landing{}
			}
			layered[l.Binding.Chord.Key][l.Binding.Layer] = l
		} else if file && l.Facts().Stage == mechanism.Layout {
			meant[l.Binding.Chord.Key] = l
			hyper = hyper || l.Binding.Effect.Kind == behaviour.Modifier && l.Binding.Effect.Mods == keys.Hyper
		}
	}
	if !hyper { // what no press leads to
		for k := range chords {
			chords[k] = slices.DeleteFunc(chords[k], func(l land.Landing) bool {
				return (l.Binding.Chord.Mods | l.Binding.Effect.Chord.Mods).Has(keys.Hyper)
			})
		}
	}
	// touched says whether the mapping gives a key another meaning in the layout. (One that
	// it leaves alone may yet do something else, where it takes a modifier away.)
	touched := func(k keys.Key) bool {
		_, positions := meant[k]
		return positions || len(layered[k]) > 0 || len(chords[k]) > 0
	}
	// What a driver makes of a key reaches the layout as that key.
	for _, l := range landings {
		if l.Mechanism == nil || l.Facts().Stage != mechanism.Kernel || l.Binding.Effect.Kind != behaviour.Becomes {
			continue
		}
		to := l.Binding.Effect.Key
		then, again := meant[to]
		for _, in := range layered[to] {
			then, again = in, true
		}
		if again {
			p.Defects = append(
				p.Defects,
				Defect{
					Press: l.Binding.Press(),
					Want:  l.Binding.Effect.String(),
					Got:   "is changed twice, and " + then.Binding.Effect.String(),
					Rule:  l.Rule,
					Range: l.Range,
				},
			)
		}
	}
	// A key that is pressed in place of another must be what the bare layout makes it.
	for _, l := range landings {
		to, out := sent(l)
		file := l.ReadBack()
		if !file || !out || l.Facts().Stage != mechanism.Layout || l.Binding.Layer != "" && to == l.Binding.Chord.Key {
			continue
		}
		key, ok1 := written.KeyOf(to)
		model, ok2 := bare.KeyOf(to)
		if ok1 && ok2 && len(chords[to]) == 0 && touched(to) && !written.Like(key, bare, model) {
			p.Defects = append(
				p.Defects,
				Defect{
					Press: l.Binding.Press(),
					Want:  l.Binding.Effect.String(),
					Got:   fmt.Sprintf("is %s, which the layout changes", to),
					Rule:  l.Rule,
					Range: l.Range,
				},
			)
		}
	}
	p.reach = 0
	for _, k := range keys.All() {
		if key, ok := written.KeyOf(k); ok {
			p.reach |= key.Reach()
		}
		as := k
		if l, changed := meant[k]; changed {
			as = l.Binding.Effect.Key // None where it is to be no other key
		}
		if key, ok := bare.KeyOf(as); ok {
			p.reach |= key.Reach()
		}
	}
	for _, v := range []string{"Alt", "Meta", "Super", "LevelThree", "NumLock", "Hyper"} {
		want := bare.Virtual(v)
		if v == "Hyper" && hyper {
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
	for _, k := range keys.All() {
		key, ok := written.KeyOf(k)
		l, changed := meant[k]
		as := k
		if changed && l.Binding.Effect.Kind == behaviour.Becomes {
			as = l.Binding.Effect.Key
		}
		model, has := bare.KeyOf(as)
		if inLayers := layered[k]; ok && len(inLayers) > 0 {
			p.layers(written, bare, k, l, changed, inLayers, touched)
			continue
		}
		if ok && has && len(chords[k]) > 0 {
			p.chords(written, bare, k, chords[k])
			continue
		}
		if !ok || !has {
			if ok != has && !changed {
				p.Defects = append(p.Defects, Defect{Press: k.String(), Want: "a key of the layout", Got: "no key"})
			}
			continue
		}
		if changed && l.Binding.Effect.Kind == behaviour.Sends {
			p.layers(written, bare, k, l, changed, nil, touched)
			continue
		}
		if changed && l.Binding.Effect.Kind != behaviour.Becomes {
			p.special(written, key, l)
			continue
		}
		if written.Like(key, bare, model) {
			continue
		}
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
		want.Action = map[string]string{"while": "holds group", "toggle": "locks group", "once": "latches group"}[e.How]
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
	type meaning struct {
		effect behaviour.Effect
		meant  bool
		model  *keymap.Key // what it becomes, in the bare layout
		// pressed: the server may press that key in place of this one, since the layout
		// leaves it alone.
		pressed bool
	}
	watched := key.Watches() | keymap.Shift // of which a text leaves nothing
	groups := make([]meaning, p.groups())
	for g := range groups {
		m := meaning{effect: behaviour.Effect{Kind: behaviour.Becomes, Key: k}, meant: changed}
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
		e := &groups[g].effect
		var want keymap.Outcome
		switch e.Kind {
		case behaviour.Becomes:
			if groups[g].model == nil {
				want = got // the layout has no such key, and nothing is said of it
				break
			}
			want = bare.At(groups[g].model, on, g%n)
			if groups[g].meant {
				want.Repeats = got.Repeats // a key repeats in all of its groups or in none
			}
			if got.To != "" && groups[g].pressed {
				to, _ := e.Key.XKB()
				want.Redirect = keymap.Redirect{To: to}
			}
		case behaviour.Sends:
			if groups[g].model == nil {
				break // X11 has no such key; the default of nothing is no chord
			}
			want = bare.At(groups[g].model, on, g%n)
			want.Repeats = got.Repeats
			to, _ := e.Chord.Key.XKB()
			want.Redirect = keymap.Redirect{To: to, Adds: written.Held(e.Chord.Mods)}
		case behaviour.Types:
			want = p.givenByRole(written, *e)
			if want.Left, want.Repeats = on, got.Repeats; isLetter(e.Text) {
				want.Left &^= keymap.Shift | keymap.Lock
			}
		case behaviour.Leaves:
			want = keymap.Outcome{
				Given:  keymap.Given{Keysym: "ISO_First_Group", Left: on, Repeats: got.Repeats},
				Action: "locks group",
				Group:  1,
			}
			if got.Keysym == "VoidSymbol" { // a key with actions of its own goes back by as much as the layer is away
				want.Keysym, want.Group = "VoidSymbol", -p.groupOf(e.Layer)
			}
		default:
			want = p.givenByRole(written, *e)
			want.Left, want.Repeats = on, got.Repeats && want.Sets == 0 && want.Action == ""
		}
		return want, got
	}, base)
}

// compare presses a key in every state and reports the state with the fewest
// modifiers in which the two sides differ. What they do can only go by the watched
// modifiers.
func (p *prover) compare(
	k keys.Key,
	watched keymap.Mask,
	both func(on keymap.Mask, group int) (want, got keymap.Outcome),
	l land.Landing,
) {
	best := -1
	var defect Defect
	for g := range p.groups() {
		for on := range keymap.Masks {
			if keymap.Mask(on)&^(p.reach&watched) != 0 {
				continue // no press leads there, or the modifier is left over on both sides
			}
			want, got := both(keymap.Mask(on), g)
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
