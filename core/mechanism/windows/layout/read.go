package layout

import (
	"errors"
	"fmt"
	"io/fs"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/regfile"
)

// Layout is a library that was read, and the system's own layout that it goes by.
type Layout struct {
	*keys.LibraryLayout
	Base *keys.Layout
}

// Open reads the libraries of a machine's folder, in the order of the machine's layouts; nil for none.
func Open(m *mechanism.Machine, fsys fs.FS) ([]*Layout, error) {
	var list []*Layout
	for _, base := range m.Layouts {
		of := "layout/" + strings.NewReplacer("(", "-", ")", "").Replace(base.Name)
		if _, err := fs.Stat(fsys, of+".reg"); errors.Is(err, fs.ErrNotExist) && len(list) == 0 {
			continue
		}
		if err := named(fsys, of+".reg"); err != nil {
			return nil, fmt.Errorf("%s.reg: %w", of, err)
		}
		var both [2]*library.Library
		for i, processor := range []string{"AMD64", "ARM64"} {
			file, err := fs.ReadFile(fsys, of+"/"+processor+".dll")
			if err == nil {
				both[i], _, err = library.Open(file)
			}
			if err != nil {
				return nil, fmt.Errorf("%s/%s.dll: %w", of, processor, err)
			}
		}
		if !reflect.DeepEqual(both[0], both[1]) {
			return nil, fmt.Errorf("%s: the libraries for the two processors differ", of)
		}
		list = append(list, &Layout{keys.NewLibraryLayout(both[0]), base})
	}
	if len(list) != 0 && len(list) != len(m.Layouts) {
		return nil, errors.New("layout: there is no library for each of the machine's layouts")
	}
	return list, nil
}

// named says what the registry lacks for Windows to know a layout.
func named(fsys fs.FS, name string) error {
	data, err := fs.ReadFile(fsys, name)
	if err != nil {
		return err
	}
	values, err := regfile.Parse(data)
	if err != nil {
		return err
	}
	has := map[string]string{}
	for _, v := range values {
		if strings.HasPrefix(v.Key, `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Keyboard Layouts\a`) &&
			v.Text != nil {
			has[v.Name] = *v.Text
		}
	}
	if _, err := strconv.ParseUint(has["Layout Id"], 16, 12); err != nil ||
		!strings.HasSuffix(has["Layout File"], ".dll") ||
		has["Layout Text"] == "" {
		return errors.New("a layout has a file, an id and a text")
	}
	return nil
}

// Read reads the libraries of a machine's folder: what differs from the machine's own layouts.
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

// typing is what a key types in a state: what waits is told by how it stands alone.
func typing(t keys.Typist, s keys.TypeState, k keys.Key, held keys.Mods) string {
	text, after := t.Type(s, k, held)
	if l, ok := t.(*keys.Layout); ok && after.Accents != "" {
		text, _ = l.Finish(after, "")
		return "waits: " + text
	}
	if after.Waits != "" {
		return "waits: " + after.Waits
	}
	return text
}

// bindings is what differs in one layout.
func (l *Layout) bindings(m *mechanism.Machine) (list []mechanism.Binding) {
	add := func(level behaviour.Level, layer string, c keys.Chord, e behaviour.Effect) {
		list = append(list, mechanism.Binding{Level: level, Layer: layer, Chord: c, Effect: e})
	}
	on, layered := m.LayerOf(intent.BitState)
	holder := l.Modifier()
	if layered && holder == on.Key {
		add(
			behaviour.Position,
			"",
			keys.Chord{Key: holder},
			behaviour.Effect{Kind: behaviour.Layers, Layer: on.Layer, How: on.How},
		)
	} else if layered = false; holder != keys.None {
		add(behaviour.Position, "", keys.Chord{Key: holder}, behaviour.Effect{Kind: behaviour.Other, Words: "is a modifier of the layout's own"})
	}
	list = append(list, l.codes(holder)...)
	none := keys.TypeState{}
	for _, k := range writes() {
		if k == holder {
			continue
		}
		at := keys.Chord{Key: k}
		is, was := [2]string{}, [2]string{}
		for i, mods := range []keys.Mods{0, keys.Shift} {
			is[i], was[i] = typing(l, none, k, mods), typing(l.Base, none, k, mods)
		}
		shifted := func() { // what a rule says of the key with Shift
			if is[1] != is[0] {
				add(behaviour.Hotkey, "", keys.Chord{Mods: keys.Shift, Key: k}, text(is[1]))
			}
		}
		once, dead := onceBy(m, k)
		switch {
		case dead && strings.HasPrefix(is[0], "waits: ") && is[0] != was[0]:
			add(behaviour.Position, "", at, behaviour.Effect{Kind: behaviour.Layers, Layer: once.Layer, How: once.How})
			shifted()
			l.after(add, once.Layer, strings.TrimPrefix(is[0], "waits: "), holder)
		case l.composes(is[0]):
			add(behaviour.Position, "", at, behaviour.Effect{Kind: behaviour.Composes})
			shifted()
			for _, b := range l.words(strings.TrimPrefix(is[0], "waits: "), "") {
				if !slices.ContainsFunc(list, func(o mechanism.Binding) bool { return o.Place() == b.Place() }) {
					list = append(list, b)
				}
			}
		case is[0] != was[0]:
			add(behaviour.Position, "", at, text(is[0]))
			add(behaviour.Hotkey, "", keys.Chord{Mods: keys.Shift, Key: k}, text(is[1]))
			list[len(list)-1].Kept = is[0] == is[1]
		case is[1] != was[1]:
			add(behaviour.Hotkey, "", keys.Chord{Mods: keys.Shift, Key: k}, text(is[1]))
		}
		for _, mods := range []keys.Mods{keys.AltGr, keys.AltGr | keys.Shift} {
			if is := typing(l, none, k, mods); is != typing(l.Base, none, k, mods) {
				add(behaviour.Hotkey, "", keys.Chord{Mods: mods, Key: k}, text(is))
			}
		}
		if !layered {
			continue
		}
		var with [2]string
		for i, mods := range []keys.Mods{0, keys.Shift} {
			with[i] = typing(l, keys.TypeState{Layer: true}, k, mods)
		}
		if with != was {
			add(behaviour.Position, on.Layer, at, l.effect(with))
		}
	}
	return list
}

// after is what keys do after the dead key of a one-shot layer.
func (l *Layout) after(
	add func(behaviour.Level, string, keys.Chord, behaviour.Effect), layer, waits string, holder keys.Key,
) {
	for _, k := range writes() {
		var is, own [2]string
		for i, mods := range []keys.Mods{0, keys.Shift} {
			is[i] = typing(l, keys.TypeState{Waits: waits}, k, mods)
			own[i] = typing(l, keys.TypeState{}, k, mods)
			dead := strings.HasPrefix(own[i], "waits: ") &&
				(strings.HasPrefix(is[i], "waits: ") || strings.HasPrefix(typing(l.Base, keys.TypeState{}, k, mods), "waits: "))
			if own[i] == "" || dead {
				is[i] = own[i] // it types nothing, and what waits goes on; or it is a dead key, which is said
			}
		}
		if is != own && k != holder {
			add(behaviour.Position, layer, keys.Chord{Key: k}, l.effect(is))
		}
	}
}

// composes says whether what waits is the Compose key, by the name that the library has for it.
func (l *Layout) composes(typed string) bool {
	waits, ok := strings.CutPrefix(typed, "waits: ")
	unit := []rune(waits)
	return ok && len(unit) == 1 && unit[0] <= 0xFFFF && l.Accents[uint16(unit[0])] == "COMPOSE"
}

// words are the abbreviations behind what waits, where some has been typed.
func (l *Layout) words(waits, before string) (list []mechanism.Binding) {
	const longest = 20
	for _, k := range writes() {
		for _, mods := range []keys.Mods{0, keys.Shift, keys.AltGr, keys.AltGr | keys.Shift} {
			own := typing(l, keys.TypeState{}, k, mods)
			if len([]rune(own)) != 1 || len(before) > longest {
				continue
			}
			got, then := l.Type(keys.TypeState{Waits: waits}, k, mods)
			switch word := before + own; {
			case then.Waits != "" && then.Waits != waits:
				list = append(list, l.words(then.Waits, word)...)
			case then.Waits == "" && got != own &&
				!slices.ContainsFunc(list, func(o mechanism.Binding) bool { return o.Word == word }):
				list = append(list, mechanism.Binding{Level: behaviour.Typing, Word: word, Effect: text(got)})
			}
		}
	}
	return list
}

// onceBy is the one-shot layer that a key begins.
func onceBy(m *mechanism.Machine, k keys.Key) (intent.LayerKey, bool) {
	for _, on := range m.LayerKeys {
		if _, is := m.LayerState(on.Layer); is == intent.DeadState && on.Key == k {
			return on, true
		}
	}
	return intent.LayerKey{}, false
}

// text is the effect of typing a text, or nothing.
func text(t string) behaviour.Effect {
	if t == "" {
		return behaviour.Effect{Kind: behaviour.Nothing}
	}
	return behaviour.Effect{Kind: behaviour.Types, Text: t}
}

// effect is what a key of a layer does: a text, or what another key types by itself.
func (l *Layout) effect(is [2]string) behaviour.Effect {
	for _, k := range writes() {
		own := [2]string{typing(l.Base, keys.TypeState{}, k, 0), typing(l.Base, keys.TypeState{}, k, keys.Shift)}
		if is[0] != is[1] && is == own {
			return behaviour.Effect{Kind: behaviour.Becomes, Key: k}
		}
	}
	return text(is[0])
}

// writes are the keys whose characters are compared.
func writes() []keys.Key {
	return slices.DeleteFunc(keys.All(), func(k keys.Key) bool {
		return k.Section() != keys.Writing && k.String() != "Space" &&
			(k.Section() != keys.Function || k.String() == "Escape")
	})
}

// codes are the keys that have another virtual key than they have by themselves, of those that type nothing: that of the
// right Alt, which is Ctrl and Alt together, that of Pause, or, for Pause, that of another key or none.
func (l *Layout) codes(holder keys.Key) (list []mechanism.Binding) {
	const pause = "Pause"
	by := map[uint16]keys.Key{}
	for _, k := range keys.All() {
		if vk, ok := keys.SystemVK(k); ok && by[vk] == keys.None {
			by[vk] = k
		}
	}
	for _, k := range keys.All() {
		was, has := keys.SystemVK(k)
		is, there := l.Virtual(k)
		if !has || k == holder || is == was || k.Section() == keys.Writing || k.String() == "AltRight" {
			continue
		}
		e := behaviour.Effect{Kind: behaviour.Nothing}
		switch to := by[is]; {
		case there && l.AltGr && to.String() == "AltRight":
			e = behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Ctrl | keys.Alt}
		case k.String() != pause && (to == keys.None || to.String() != pause):
			continue // of which we have no words
		case to != keys.None:
			e = behaviour.Effect{Kind: behaviour.Becomes, Key: to}
		case there:
			e = behaviour.Effect{Kind: behaviour.Other, Words: "is a virtual key that no key has"}
		}
		list = append(list, mechanism.Binding{Level: behaviour.Position, Chord: keys.Chord{Key: k}, Effect: e})
	}
	return list
}
