package xkb

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb/keymap"
)

// For is a machine with Linux, whatever its desktop.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.Linux} }

var compiledKeymap = mechanism.Pattern(`(?m)^\s*xkb_keymap\b`)

// Knows says whether a text is a whole keymap, as xkbcomp or xkbcli write it.
func (Mechanism) Knows(_ string, text []byte) bool { return compiledKeymap().Match(text) }

// ofOurs heads a keymap that we write, by which it is known again.
const ofOurs = "The machine's layouts with the keyboard mapping on top."

// mostMoved is how many keys a user may have changed: more of them are those of other
// layouts.
const mostMoved = 40

// Import reads a whole keymap with all that is put on top of the layouts, and says which
// keys are other than the machine's layouts have them.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	var got mechanism.Imported
	if strings.Contains(string(text), ofOurs) {
		return importOurs(m, text)
	}
	have, err := keymap.Parse("keymap", string(text))
	if err != nil {
		return got, err
	}
	bare := keymap.Build(m.Layouts, nil, nil)
	moved := 0
	for _, k := range keys.All() {
		key, ok := have.KeyOf(k)
		own, known := bare.KeyOf(k)
		if !ok || !known || same(have, key, bare, own, len(m.Layouts)) {
			continue
		}
		if moved++; moved > mostMoved {
			return mechanism.Imported{}, fmt.Errorf(
				"the keymap is of other layouts than %s, or much changed; name its layouts",
				strings.Join(m.Machine.Layouts, ", "),
			)
		}
		if e, ok := meaning(m, have, bare, key); ok {
			got.Bindings = append(got.Bindings, mechanism.Binding{Chord: keys.Chord{Key: k}, Effect: e})
		} else {
			got.Leave(0, k.String(), "it gives "+have.At(key, 0, 0).Keysym+", and is no key that the layouts have")
		}
	}
	return got, nil
}

// importOurs reads a keymap that we wrote, which leaves the layouts to be included.
func importOurs(m *mechanism.Machine, text []byte) (mechanism.Imported, error) {
	var got mechanism.Imported
	sections, err := parse("keymap", string(text), len(m.Layouts))
	switch {
	case err != nil:
		return got, err
	case sections[""] == nil:
		return got, errors.New("a keymap without symbols")
	}
	got.Bindings = sections[""].bindings(m)
	return got, nil
}

// same says whether two keys of two keymaps do the same in every state, however they are
// defined.
func same(a *keymap.Keymap, x *keymap.Key, b *keymap.Keymap, y *keymap.Key, groups int) bool {
	if a.Like(x, b, y) {
		return true
	}
	for g := range groups {
		for on := range keymap.Masks {
			p, q := a.At(x, keymap.Mask(on), g), b.At(y, keymap.Mask(on), g)
			if p.Sets != 0 && p.Sets == q.Sets { // nobody asks what is left over beside a modifier
				p.Left = q.Left
			}
			if p != q {
				return false
			}
		}
	}
	return true
}

// meaning is what a key is that is not what the layouts make it.
func meaning(m *intent.Machine, have, bare *keymap.Keymap, key *keymap.Key) (behaviour.Effect, bool) {
	for _, k := range keys.All() {
		if model, ok := bare.KeyOf(k); ok && same(have, key, bare, model, len(m.Layouts)) {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: k}, true
		}
	}
	o := have.At(key, 0, 0)
	for g := range m.Layouts { // the same in every state
		for _, on := range []keymap.Mask{keymap.Shift, keymap.Control, keymap.Mod5, keymap.Lock} {
			other := have.At(key, on, g)
			other.Left = o.Left
			if other != o {
				return behaviour.Effect{}, false
			}
		}
	}
	switch {
	case o.Sets == keymap.Mod3 && strings.HasPrefix(o.Keysym, "Hyper_"):
		return behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Hyper}, true
	case o.Sets == have.Held(intent.Four) && o.Sets != 0:
		return behaviour.Effect{Kind: behaviour.Modifier, Mods: intent.Four}, true
	case o.Sets|o.Locks|o.Latch != 0 || o.Action != "" || o.To != "":
	case o.Keysym == "Multi_key":
		return behaviour.Effect{Kind: behaviour.Composes}, true
	case o.Keysym == "VoidSymbol" || o.Keysym == "NoSymbol":
		return behaviour.Effect{Kind: behaviour.Nothing}, true
	}
	return behaviour.Effect{}, false
}
