package keylayout

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"unicode"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

// Open reads the layouts of a machine's folder, in the order of the machine's; nil for none.
func Open(m *mechanism.Machine, fsys fs.FS) ([]*Layout, error) {
	list := make([]*Layout, len(m.Layouts))
	some := false
	for i, base := range m.Layouts {
		name := "keylayout/leitstand-" + strings.NewReplacer("(", "-", ")", "").Replace(base.Name) + ".keylayout"
		text, err := fs.ReadFile(fsys, name)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err == nil {
			some = true
			list[i], err = Parse(base, text)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	if !some {
		return nil, nil
	}
	if at := slices.Index(list, nil); at >= 0 {
		return nil, fmt.Errorf("there is no layout file for %s", m.Layouts[at].Name)
	}
	return list, nil
}

// Read reads the layouts of a machine's folder: what differs from the machine's own.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	list, err := Open(m, fsys)
	return Bindings(m, list), err
}

// Bindings is what differs in layouts from the machine's own.
func Bindings(m *mechanism.Machine, list []*Layout) []mechanism.Binding {
	var lists [][]mechanism.Binding
	for _, l := range list {
		lists = append(lists, l.bindings(m))
	}
	return mechanism.EachOnce(lists...)
}

// press is one way to press a key by itself or with Shift, Option and CapsLock.
type press struct {
	mods keys.Mods
	caps bool
}

var (
	byItself = []press{{}, {keys.Shift, false}, {0, true}}
	onOption = []press{{keys.Alt, false}, {keys.Alt | keys.Shift, false}, {keys.Alt, true}}
)

// typist is a layout of the system's or one of ours.
type typist interface {
	keys.Typist
	Finish(s keys.TypeState, text string) (string, keys.TypeState)
}

// typed is what a key types, in each of some ways, after a state.
func typed(t typist, k keys.Key, ways []press, waits string) (texts, next []string) {
	for _, w := range ways {
		text, after := t.Type(keys.TypeState{CapsLock: w.caps, Waits: waits}, k, w.mods)
		texts, next = append(texts, text), append(next, after.Waits+after.Accents)
		if next[len(next)-1] != "" && waits == "" { // told by what it types before a key that it has no meaning for
			before, _ := t.Finish(after, "")
			texts[len(texts)-1] = "waits: " + before
		}
	}
	return texts, next
}

// sameWithCaps says whether a key does by itself what it does with CapsLock on, where that makes capitals.
func sameWithCaps(texts []string) bool { return len(texts) < len(byItself) || texts[0] == texts[2] }

// bindings is what differs in one layout.
func (l *Layout) bindings(m *mechanism.Machine) (list []mechanism.Binding) {
	option, hasOption := m.LayerOf(intent.OptionState)
	caps, hasCaps := m.LayerOf(intent.CapsState)
	add := func(level behaviour.Level, layer string, c keys.Chord, e behaviour.Effect) {
		b := mechanism.Binding{Level: level, Layer: layer, Chord: c, Effect: e}
		b.Kept = c.Mods&(keys.Alt|keys.AltGr) != 0
		list = append(list, b)
	}
	if l.noCapitals = hasCaps; hasCaps {
		c := keys.Chord{Key: caps.Key}
		add(behaviour.Position, "", c, behaviour.Effect{Kind: behaviour.Layers, Layer: caps.Layer, How: caps.How})
		add(behaviour.Position, caps.Layer, c, behaviour.Effect{Kind: behaviour.Leaves, Layer: caps.Layer})
	}
	for _, k := range writing() {
		one, next := typed(l, k, byItself, "")
		was, _ := typed(l.Base, k, byItself, "")
		at := keys.Chord{Key: k}
		if hasCaps { // what CapsLock does is the layer's
			if was[2] = was[0]; one[2] != one[0] {
				add(behaviour.Position, caps.Layer, at, l.effect(one[2:], byItself[:1]))
			}
			one, was = one[:2], was[:2]
		}
		shifted := func() { // what a rule says of the key with Shift
			if one[1] != one[0] {
				add(behaviour.Hotkey, "", keys.Chord{Mods: keys.Shift, Key: k}, text(one[1]))
			}
		}
		on, layered := l.once(m, k, one, was, next)
		switch {
		case layered:
			add(behaviour.Position, "", at, behaviour.Effect{Kind: behaviour.Layers, Layer: on.Layer, How: on.How})
			shifted()
			for _, in := range writing() {
				after, again := typed(l, in, byItself, next[0])
				own, waits := typed(l, in, byItself, "")
				for i := range again {
					if again[i] != "" && waits[i] != "" {
						after[i] = own[i] // dead keys are what they are
					}
				}
				if !slices.Equal(after, own) {
					add(behaviour.Position, on.Layer, keys.Chord{Key: in}, l.effect(after, byItself))
				}
			}
		case next[0] == "compose" && sameWithCaps(one):
			add(behaviour.Position, "", at, behaviour.Effect{Kind: behaviour.Composes})
			shifted()
			for _, b := range l.words(next[0], "") {
				if !slices.ContainsFunc(list, func(o mechanism.Binding) bool { return o.Place() == b.Place() }) {
					list = append(list, b)
				}
			}
		case one[0] != was[0]:
			add(behaviour.Position, "", at, text(one[0]))
			add(behaviour.Hotkey, "", keys.Chord{Mods: keys.Shift, Key: k}, text(one[1]))
			list[len(list)-1].Kept = one[0] == one[1]
		default:
			l.chords(add, k, one, was, byItself)
		}
		with, _ := typed(l, k, onOption, "")
		switch was, _ := typed(l.Base, k, onOption, ""); {
		case slices.Equal(with, was):
		case hasOption && (all(with) || l.keyOf(with, byItself) != keys.None):
			add(behaviour.Position, option.Layer, at, l.effect(with, byItself))
		default:
			l.chords(add, k, with, was, onOption)
		}
	}
	return list
}

// words are the abbreviations behind a state, in which some of them has been typed.
func (l *Layout) words(state, before string) (list []mechanism.Binding) {
	const longest = 20
	for _, k := range writing() {
		for _, w := range slices.Concat(byItself, onOption) {
			own, after := l.Type(keys.TypeState{CapsLock: w.caps}, k, w.mods)
			if after.Waits != "" || len([]rune(own)) != 1 || w.caps || len(before) > longest {
				continue
			}
			got, then := l.Type(keys.TypeState{CapsLock: w.caps, Waits: state}, k, w.mods)
			switch word := before + own; {
			case then.Waits != "" && then.Waits != state:
				list = append(list, l.words(then.Waits, word)...)
			case then.Waits == "" && got != l.alone[state]+own:
				b := mechanism.Binding{Level: behaviour.Typing, Word: word, Effect: text(got)}
				if !slices.ContainsFunc(list, func(o mechanism.Binding) bool { return o.Word == word }) {
					list = append(list, b)
				}
			}
		}
	}
	return list
}

// chords are the ways to press a key that differ, by themselves; CapsLock is none of a chord.
func (l *Layout) chords(
	add func(behaviour.Level, string, keys.Chord, behaviour.Effect), k keys.Key, is, was []string, ways []press,
) {
	for i, w := range ways {
		if i >= len(is) || is[i] == was[i] || w.caps {
			continue
		}
		add(behaviour.Hotkey, "", keys.Chord{Mods: w.mods, Key: k}, text(is[i]))
		if w.mods.Has(keys.Alt) { // and AltGr, which is an Option key: the file does not tell the two apart
			add(behaviour.Hotkey, "", keys.Chord{Mods: w.mods&^keys.Alt | keys.AltGr, Key: k}, text(is[i]))
		}
	}
}

// once is the layer that a key begins for one press, by what it waits for.
func (l *Layout) once(m *mechanism.Machine, k keys.Key, one, was, next []string) (intent.LayerKey, bool) {
	if next[0] == "" || !sameWithCaps(one) || one[0] == was[0] && !all(one) { // a dead key of the layout's own
		return intent.LayerKey{}, false
	}
	for _, on := range m.LayerKeys {
		if _, is := m.LayerState(on.Layer); is == intent.DeadState && on.Key == k {
			return on, true
		}
	}
	return intent.LayerKey{}, false
}

// all says whether all texts are the same.
func all(texts []string) bool {
	return !slices.ContainsFunc(texts, func(t string) bool { return t != texts[0] })
}

// text is the effect of typing a text, or nothing.
func text(t string) behaviour.Effect {
	if t == "" {
		return behaviour.Effect{Kind: behaviour.Nothing}
	}
	return behaviour.Effect{Kind: behaviour.Types, Text: t}
}

// effect is what a key of a layer does: a text, or what another key types by itself.
func (l *Layout) effect(texts []string, ways []press) behaviour.Effect {
	if k := l.keyOf(texts, ways); k != keys.None {
		return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
	}
	return text(texts[0])
}

// keyOf is the key that types this by itself under the system's own layout.
func (l *Layout) keyOf(texts []string, ways []press) keys.Key {
	for _, k := range writing() {
		own, _ := typed(l.Base, k, ways, "")
		if l.noCapitals && len(own) > 2 {
			own[2] = own[0]
		}
		if len(ways) > 1 && !all(texts) && slices.Equal(own, texts) {
			return k
		}
	}
	return keys.None
}

// writing are the keys whose characters are compared.
func writing() []keys.Key {
	return slices.DeleteFunc(keys.All(), func(k keys.Key) bool {
		_, has := k.Mac()
		return !has || k.Section() != keys.Writing && k.String() != "Space"
	})
}

// For is a Mac.
func (Mechanism) For() machine.Machine { return machine.Machine{System: machine.MacOS} }

// Knows says whether a file is a keyboard layout of macOS, by its name or its document type.
func (Mechanism) Knows(name string, text []byte) bool {
	return strings.HasSuffix(name, ".keylayout") ||
		strings.Contains(string(text[:min(len(text), 512)]), "KeyboardLayout.dtd")
}

// Import reads a layout file: what differs from the machine's first layout.
func (Mechanism) Import(m *mechanism.Machine, text []byte, _ fs.FS) (mechanism.Imported, error) {
	l, err := Parse(m.Layouts[0], text)
	if err != nil {
		return mechanism.Imported{}, err
	}
	var got mechanism.Imported
	for _, b := range Bindings(m, []*Layout{l}) {
		if b.Kept = b.Kept && !b.Chord.Mods.Has(keys.Alt); b.Kept {
			continue
		}
		if strings.ContainsFunc(b.Effect.Text, unicode.IsControl) {
			got.Leave(0, b.Press(), "it types a control character")
		} else {
			got.Bindings = append(got.Bindings, b)
		}
	}
	return got, nil
}
