// Package sample makes machines and bindings for tests, in one line each and at
// random.
package sample

import (
	"flag"
	"fmt"
	"hash/fnv"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"pgregory.net/rapid"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// Key is a key by its code, which must exist.
func Key(code string) keys.Key {
	k, ok := keys.ByCode(code)
	if !ok {
		panic("no key " + code)
	}
	return k
}

// Evdev is the Linux input event code of a key that has one.
func Evdev(k keys.Key) int {
	code, ok := k.Evdev()
	if !ok {
		panic("no evdev code: " + k.String())
	}
	return code
}

// Becomes is a key that acts as another.
func Becomes(from, to string) behaviour.Binding {
	return behaviour.Binding{
		Chord:  keys.Chord{Key: Key(from)},
		Effect: behaviour.Effect{Kind: behaviour.Becomes, Key: Key(to)},
	}
}

// Nothing is a key that does nothing.
func Nothing(code string) behaviour.Binding {
	return behaviour.Binding{Chord: keys.Chord{Key: Key(code)}, Effect: behaviour.Effect{Kind: behaviour.Nothing}}
}

// Modifier is a key that acts as modifiers.
func Modifier(code string, mods keys.Mods) behaviour.Binding {
	return behaviour.Binding{
		Chord:  keys.Chord{Key: Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Modifier, Mods: mods},
	}
}

// Launch is a chord that starts something.
func Launch(mods keys.Mods, code string, l behaviour.Launch) behaviour.Binding {
	return behaviour.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods, Key: Key(code)},
		Effect: behaviour.Launching(l)}
}

// Act is a chord that has the desktop do something.
func Act(mods keys.Mods, code, does string) behaviour.Binding {
	return behaviour.Binding{
		Level:  behaviour.Hotkey,
		Chord:  keys.Chord{Mods: mods, Key: Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Acts, Action: does},
	}
}

// Off is a chord that does nothing.
func Off(mods keys.Mods, code string) behaviour.Binding {
	return behaviour.Binding{
		Level:  behaviour.Hotkey,
		Chord:  keys.Chord{Mods: mods, Key: Key(code)},
		Effect: behaviour.Effect{Kind: behaviour.Nothing},
	}
}

// Layered is a layer that one key holds on, and in which another becomes a third.
func Layered(layer, hold, from, to string) []behaviour.Binding {
	in := Becomes(from, to)
	in.Layer = layer
	return []behaviour.Binding{
		{
			Chord:  keys.Chord{Key: Key(hold)},
			Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: layer, How: behaviour.While},
		},
		in,
	}
}

// Setting is how keys repeat, as Option and Value say it.
func Setting(name, value string) behaviour.Binding {
	n, _ := strconv.Atoi(strings.TrimRight(value, "ms/"))
	switch code, single := strings.CutPrefix(name, "repeat of "); {
	case single:
		return behaviour.Set(
			behaviour.Option{Kind: behaviour.RepeatOf, Key: Key(code)}, behaviour.Repeats(value == "always"),
		)
	case name == "repeat rate":
		return behaviour.Set(behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(n))
	}
	return behaviour.Set(behaviour.Option{Kind: behaviour.RepeatDelay}, behaviour.Milliseconds(n))
}

// On is a binding for one board.
func On(board string, b behaviour.Binding) behaviour.Binding {
	b.Board = board
	return b
}

// Mac is a Mac with a layout, of an administrator.
func Mac(layout string) *intent.Machine {
	return Machine(machine.Machine{Name: "vessel", System: machine.MacOS, Layouts: []string{layout}, Admin: true})
}

// AnyAction draws bindings of actions, and of chords switched off, that are taken: any action on any
// chord, each action once.
func AnyAction(t *rapid.T, taken func(behaviour.Binding) bool) []behaviour.Binding {
	var list []behaviour.Binding
	seen := map[string]bool{}
	for range rapid.IntRange(1, 40).Draw(t, "actions") {
		k := rapid.SampledFrom(keys.All()).Draw(t, "key")
		mods := keys.Mods(0)
		for _, m := range []keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta, keys.Fn} {
			if rapid.Bool().Draw(t, "modifier") {
				mods |= m
			}
		}
		does := rapid.SampledFrom(action.Names()).Draw(t, "action")
		b := Act(mods, k.String(), does)
		if rapid.IntRange(0, 3).Draw(t, "off") == 0 {
			b = Off(mods, k.String())
		}
		if seen[does] || seen[b.Press()] || !taken(b) {
			continue
		}
		seen[does], seen[b.Press()] = true, true
		list = append(list, b)
	}
	behaviour.Sort(list)
	return list
}

// Machine is a machine outside any mapping.
func Machine(m machine.Machine) *intent.Machine {
	if m.Name == "" {
		m.Name = "gauge"
	}
	m.Admin = true
	return intent.NewMachine(&mapping.Mapping{}, &m)
}

// Under CI, properties are tried with the same seed always, unless they ask for others.
func init() {
	if os.Getenv("CI") != "" {
		_ = flag.Set("rapid.seed", "20260401") // a number is always a value of this flag
	}
}

// Checks has properties tried n times, unless a flag asks for another number.
func Checks(n int) {
	if f := flag.Lookup("rapid.checks"); f.Value.String() == f.DefValue {
		_ = flag.Set("rapid.checks", fmt.Sprint(n))
	}
}

// OnlyUnit leaves a test out where only those are wanted that take no time: no real component, and
// no long run of random mappings.
func OnlyUnit(t testing.TB) {
	t.Helper()
	if os.Getenv("LEITSTAND_UNIT") != "" {
		t.Skip("left out of the unit tests")
	}
}

// Anew has properties tried n times with another seed in each run, which it tells; or with one that is made of
// LEITSTAND_SEED, so that what has passed passes again.
func Anew(t testing.TB, n int) {
	t.Helper()
	OnlyUnit(t)
	times := flag.Lookup("rapid.checks")
	tried := times.Value.String()
	t.Cleanup(func() { _ = flag.Set("rapid.checks", tried) }) // the next test has a number of its own
	Checks(n)
	seed := uint64(time.Now().UnixNano())
	given := os.Getenv("LEITSTAND_SEED")
	if given != "" {
		hash := fnv.New64a()
		hash.Write([]byte(given))
		seed = hash.Sum64()
	}
	f := flag.Lookup("rapid.seed")
	was := f.Value.String()
	if was == f.DefValue || os.Getenv("CI") != "" {
		_ = flag.Set("rapid.seed", fmt.Sprint(seed))
	}
	t.Logf("seed: -rapid.seed=%s", f.Value)
	t.Cleanup(func() { _ = flag.Set("rapid.seed", was) })
}

// Nasty is text that every layer of quoting on its way can break.
const Nasty = "Süderhaff 3 'north' \"mole\" $HOME ${PATH} `id` \\n \\ %s %u %% & ; | <b> ]]> # * ~ ? ! ^ " +
	"--\nsecond line\\"

// Positions draws bindings of positions, no key twice: taken says whether a
// mechanism would take one.
func Positions(t *rapid.T, taken func(behaviour.Binding) bool) []behaviour.Binding {
	all := keys.All()
	from := rapid.SliceOfNDistinct(rapid.SampledFrom(all), 0, 12, rapid.ID[keys.Key]).Draw(t, "keys")
	var list []behaviour.Binding
	for _, k := range from {
		b := behaviour.Binding{Chord: keys.Chord{Key: k}}
		switch rapid.IntRange(0, 5).Draw(t, "kind") {
		case 0:
			b.Effect.Kind = behaviour.Nothing
		case 1:
			b.Effect = behaviour.Effect{Kind: behaviour.Modifier, Mods: keys.Hyper}
		case 2:
			b.Effect.Kind = behaviour.Composes
		case 3:
			mods := rapid.SampledFrom([]keys.Mods{keys.Ctrl, keys.Alt | keys.Shift, keys.Meta}).Draw(t, "with")
			b.Effect = behaviour.Effect{
				Kind:  behaviour.Sends,
				Chord: keys.Chord{Mods: mods, Key: rapid.SampledFrom(all).Draw(t, "chord")},
			}
			if slices.Contains(from, b.Effect.Chord.Key) { // which may be another key then
				continue
			}
		default:
			to := rapid.SampledFrom(all).Draw(t, "to")
			if to == k {
				continue
			}
			b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: to}
		}
		if taken(b) {
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list
}

// Launches draws bindings of chords, none twice.
func Launches(t *rapid.T, word *rapid.Generator[string], taken func(behaviour.Binding) bool) []behaviour.Binding {
	mods := []keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta, keys.Hyper}
	var list []behaviour.Binding
	for range rapid.IntRange(0, 6).Draw(t, "launches") {
		b := behaviour.Binding{Level: behaviour.Hotkey}
		for _, m := range mods {
			if rapid.Bool().Draw(t, "held") {
				b.Chord.Mods |= m
			}
		}
		b.Chord.Key = rapid.SampledFrom(keys.All()).Draw(t, "key")
		b.Effect = behaviour.Launching(behaviour.Launch{
			Command: rapid.SliceOfN(word, 1, 4).Draw(t, "command"),
			Dir:     rapid.OneOf(rapid.Just(""), word).Draw(t, "dir"),
		})
		seen := slices.ContainsFunc(list, func(o behaviour.Binding) bool { return o.Place() == b.Place() })
		if !seen && taken(b) {
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list
}

// Apart leaves out bindings of chords that a desktop which goes by characters cannot tell
// from one before: the keys type the same under some layout of the machine.
func Apart(m *intent.Machine, list []behaviour.Binding) []behaviour.Binding {
	var apart []behaviour.Binding
	types := func(k keys.Key) (all []string) {
		for g := range m.Layouts {
			s, _ := m.Symbols(g, k)
			all = append(all, s.Level...)
		}
		return all
	}
	for _, b := range list {
		mine := types(b.Chord.Key)
		if !slices.ContainsFunc(apart, func(o behaviour.Binding) bool {
			return o.Level == behaviour.Hotkey && o.Chord.Mods&^keys.Shift == b.Chord.Mods&^keys.Shift &&
				slices.ContainsFunc(
					types(o.Chord.Key),
					func(sym string) bool { return sym != "NoSymbol" && slices.Contains(mine, sym) },
				)
		}) {
			apart = append(apart, b)
		}
	}
	return apart
}

// Chords draws bindings of chords that are to be other chords, none twice.
func Chords(t *rapid.T, taken func(behaviour.Binding) bool) []behaviour.Binding {
	mods := func(what string) keys.Mods {
		var mods keys.Mods
		for _, m := range []keys.Mods{keys.Ctrl, keys.Alt, keys.Shift, keys.Meta, keys.Hyper, keys.AltGr} {
			if rapid.IntRange(0, 3).Draw(t, what) == 0 {
				mods |= m
			}
		}
		return mods
	}
	var list []behaviour.Binding
	for range rapid.IntRange(0, 8).Draw(t, "chords") {
		b := behaviour.Binding{
			Level: behaviour.Hotkey,
			Chord: keys.Chord{Mods: mods("held"), Key: rapid.SampledFrom(keys.All()).Draw(t, "key")},
		}
		b.Effect = behaviour.Effect{
			Kind:  behaviour.Sends,
			Chord: keys.Chord{Mods: mods("given"), Key: rapid.SampledFrom(keys.All()).Draw(t, "other")},
		}
		if b.Effect.Chord.Mods == 0 {
			b.Effect = behaviour.Effect{Kind: behaviour.Becomes, Key: b.Effect.Chord.Key}
		}
		seen := slices.ContainsFunc(list, func(o behaviour.Binding) bool { return o.Place() == b.Place() })
		if !seen && taken(b) {
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list
}

// Actions is a chord for every action that a mechanism takes.
func Actions(taken func(behaviour.Binding) bool) []behaviour.Binding {
	const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
	mods := []keys.Mods{keys.Meta, keys.Ctrl | keys.Alt, keys.Shift | keys.Meta}
	var list []behaviour.Binding
	for i, a := range action.All() {
		b := behaviour.Binding{Level: behaviour.Hotkey, Effect: behaviour.Effect{Kind: behaviour.Acts, Action: a.Name},
			Chord: keys.Chord{Mods: mods[i/26], Key: Key("Key" + letters[i%26:i%26+1])}}
		if taken(b) {
			list = append(list, b)
		}
	}
	behaviour.Sort(list)
	return list
}

// Layers adds layers to bindings of positions and to their machine, as many as its
// keymap has room for.
func Layers(
	t *rapid.T, m *intent.Machine, list []behaviour.Binding, taken func(behaviour.Binding) bool,
) []behaviour.Binding {
	all := keys.All()
	most := 4/len(m.Layouts) - 1
	names := []string{"one", "two", "three"}[:rapid.IntRange(0, max(0, most)).Draw(t, "layers")]
	m.Layers = names
	used, modifier, given := map[keys.Key]bool{}, map[keys.Key]bool{}, map[keys.Key]bool{}
	for _, b := range list {
		used[b.Chord.Key], used[b.Effect.Chord.Key], given[b.Effect.Chord.Key] = true, true, true
		modifier[b.Chord.Key] = b.Effect.Kind == behaviour.Modifier || b.Effect.Key.IsModifier()
	}
	free := slices.DeleteFunc(
		[]keys.Key{
			Key("ControlRight"),
			Key("AltRight"),
			Key("CapsLock"),
			Key("ContextMenu"),
			Key("IntlBackslash"),
			Key("KeyQ"),
			Key("MetaRight"),
		},
		func(k keys.Key) bool { return used[k] || !taken(Nothing(k.String())) },
	)
	for _, name := range names {
		if len(free) == 0 {
			break
		}
		on := behaviour.Binding{
			Chord:  keys.Chord{Key: free[0]},
			Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: name, How: behaviour.While},
		}
		free = free[1:]
		switch how := rapid.SampledFrom([]string{"while", "toggle", "once"}).Draw(t, "how"); {
		case how == "once":
			if on.Effect.How = behaviour.Once; !taken(on) {
				on.Effect.How = behaviour.While
			}
		case how == "toggle":
			on.Effect.How = behaviour.Toggle
			list = append(
				list,
				behaviour.Binding{
					Layer:  name,
					Chord:  on.Chord,
					Effect: behaviour.Effect{Kind: behaviour.Leaves, Layer: name},
				},
			)
		}
		list = append(list, on)
		for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(all), 0, 6, rapid.ID[keys.Key]).Draw(t, "keys in the layer") {
			b := behaviour.Binding{Layer: name, Chord: keys.Chord{Key: k}}
			switch rapid.IntRange(0, 5).Draw(t, "kind in the layer") {
			case 0:
				b.Effect.Kind = behaviour.Nothing
			case 1:
				b.Effect = behaviour.Effect{
					Kind: behaviour.Types,
					Text: rapid.SampledFrom([]string{"€", "ä", "ß", "→", "7", "Q"}).Draw(t, "character"),
				}
			case 2:
				mods := rapid.SampledFrom([]keys.Mods{keys.Ctrl, keys.Alt | keys.Shift, keys.Meta}).Draw(
					t, "with in the layer",
				)
				b.Effect = behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: mods, Key: k}}
				if used[k] { // which is another key then
					continue
				}
			default:
				b.Effect = behaviour.Effect{
					Kind: behaviour.Becomes,
					Key:  rapid.SampledFrom(all).Draw(t, "to in the layer"),
				}
			}
			if k != on.Chord.Key && !modifier[k] && !given[k] && taken(b) {
				list = append(list, b)
			}
		}
	}
	behaviour.Sort(list)
	return list
}

// Options draws options of XKB's rules that go together in a keymap of layouts, mostly none.
func Options(t *rapid.T, names []string) []string {
	var layouts []*keys.Layout
	for _, name := range names {
		l, _ := keys.FindLayout(name)
		layouts = append(layouts, l)
	}
	var list []string
	for range max(0, rapid.IntRange(-2, 2).Draw(t, "how many options")) {
		name := rapid.SampledFrom(keys.OptionNames()).Draw(t, "option")
		o, _ := keys.FindOption(name)
		if o.Fits(layouts) && !slices.ContainsFunc(list, func(other string) bool {
			x, _ := keys.FindOption(other)
			return o.Clash(x) != "" || other == name
		}) {
			list = append(list, name)
		}
	}
	return list
}
