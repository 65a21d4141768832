package xkb_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/mechanism/linux/xkb/keymap/compared"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// Random mappings under random layouts: the compiled option is given to the real
// libxkbcommon, and every chord is asked of it. The reader's answer is the same,
// keysym, modifiers left over and repeat alike; so is that of its reading of the
// keymap as the real compiler writes it.
func TestRandomMappingsAsLibxkbcommonHasThem(t *testing.T) {
	realtest.Pressed(t, "xkb", "libxkbcommon", "random mappings: every key in every state, asked of the library")
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	realtest.LayoutsOfThisMachine(t)
	x := realtest.NewXkbcommon(t)
	sample.Anew(t, 70) // others for each tree
	presses, mappings := 0, 0
	rapid.Check(t, func(rt *rapid.T) {
		layouts := rapid.SliceOfNDistinct(
			rapid.SampledFrom(
				[]string{
					"de", "us", "fr", "gb", "es", "it", "se", "ch", "us(dvorak)", "de(nodeadkeys)", "ru", "jp",
					"gb(colemak)", "de(T3)",
				},
			),
			1,
			2,
			rapid.ID[string],
		).Draw(rt, "layouts")
		m := withOptions(
			sample.Options(rt, layouts),
			"wayland",
			rapid.SampledFrom([]string{"sway", "plasma"}).Draw(rt, "desktop"),
			layouts...)
		taken := func(b behaviour.Binding) bool { return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited }
		list := sample.Layers(rt, m, sample.Positions(rt, taken), taken)
		out, err := mechanism.Write(xkb.Mechanism{}, m, list)
		require.NoError(rt, err)
		dir := t.TempDir()
		files := fstest.MapFS{}
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
			require.NoError(rt, os.MkdirAll(filepath.Dir(filepath.Join(dir, f.Path)), 0o755))
			require.NoError(rt, os.WriteFile(filepath.Join(dir, f.Path), f.Data, 0o644))
		}
		var names, variants []string
		for _, l := range layouts {
			name, variant := keys.SplitLayout(l)
			names, variants = append(names, name), append(variants, variant)
		}
		text, complaints := realtest.Output(
			t, "xkbcli", "compile-keymap", "--include", filepath.Join(dir, "xkb"), "--include-defaults", "--rules",
			"evdev", "--model", "pc105", "--layout", strings.Join(names, ","), "--variant",
			strings.Join(variants, ","), "--options", strings.Join(append(m.Options, "leitstand:mapping"), ","),
		)
		require.Empty(rt, complaints)
		layout, err := xkb.Open(m, files)
		require.NoError(rt, err)
		ours := layout.Keymap("")
		// The keys that the mapping makes modifiers, or that switch a layer on, are held, too.
		var more []string
		for _, b := range list {
			if b.Effect.Kind == behaviour.Layers && b.Layer == "" && b.Effect.How == behaviour.While ||
				b.Effect.Kind == behaviour.Modifier || b.Effect.Kind == behaviour.Becomes && b.Effect.Key.IsModifier() && !b.Chord.Key.IsModifier() {
				more = append(more, b.Chord.Key.String())
			}
		}
		more = more[:min(len(more), 2)]
		real := x.Keymap(t, text)
		presses += compared.Same(rt, ours, real, fmt.Sprint("built ", layouts, list), more...)
		parsed, err := keymap.Parse("compiled", text)
		require.NoError(rt, err)
		presses += compared.Same(rt, parsed, real, "parsed", more...)
		mappings++
	})
	t.Logf("%d presses of %d mappings asked", presses, mappings)
}

// Random mappings are loaded into a real X server and pressed by keycode, several
// hundred presses each: the keysym and the modifiers that a program receives are
// those of the reader.
func TestRandomMappingsPressedInX(t *testing.T) {
	server := realtest.XServer(t)
	p := server.Presser()
	presses := 0
	for seed := range 6 {
		random := rapid.Custom(func(rt *rapid.T) []behaviour.Binding {
			m := machine("x11", "i3", "de")
			return sample.Positions(rt, func(b behaviour.Binding) bool {
				// Keys that switch consoles, groups or locks would change the state for the
				// presses that follow.
				return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited && b.Effect.Key.Section() != keys.Media &&
					b.Effect.Key.Section() != keys.System &&
					b.Chord.Key.Section() != keys.Media && b.Chord.Key.Section() != keys.System &&
					!b.Chord.Key.IsModifier() && !b.Effect.Key.IsModifier()
			})
		})
		list := random.Example(seed)
		m := machine("x11", "i3", "de")
		dir := write(t, m, list)
		server.LoadKeymap(filepath.Join(dir, "xkb/keymap.xkb"))
		layout, err := xkb.Open(m, os.DirFS(dir))
		require.NoError(t, err)
		ours := layout.Keymap("")
		held := [][]string{
			{},
			{"ShiftLeft"},
			{"AltRight"},
			{"ShiftLeft", "AltRight"},
			{"ControlLeft"},
			{"MetaLeft", "ShiftRight"},
		}
		var chords [][]int
		var want []string
		for _, h := range held {
			for _, k := range keys.All() {
				key, ok := ours.KeyOf(k)
				code, has := k.Evdev()
				if !ok || !has || code < 2 || k.IsModifier() || k.Section() == keys.Media ||
					k.Section() == keys.System || k.Section() == keys.Editing || k.Section() == keys.International {
					continue
				}
				state := ours.NewState()
				var chord []int
				for _, name := range h {
					held, _ := ours.KeyOf(sample.Key(name))
					state.Press(held)
					chord = append(chord, sample.Evdev(sample.Key(name)))
				}
				given := state.Get(key)
				value, _ := keys.KeysymValue(given.Keysym)
				chords = append(chords, append(chord, code))
				want = append(want, fmt.Sprintf("%s with %v: %#x state %#x", k, h, value, uint8(state.Mods())))
			}
		}
		for i, events := range p.Chords(chords) {
			e := events[len(events)-1]
			value := e.Value
			if value == 0xFFFFFF {
				value, _ = keys.KeysymValue("VoidSymbol")
			}
			head, _, _ := strings.Cut(want[i], ":")
			require.Equal(t, want[i], fmt.Sprintf("%s: %#x state %#x", head, value, e.State), "mapping %v", list)
			presses++
		}
	}
	t.Logf("%d presses in X", presses)
}

// A held layer and a switched one, pressed in a real X server: their keys give what
// they should, Shift, AltGr and Hyper stay what they are, and a key without a meaning
// in the layer keeps its own.
func TestLayersPressedInX(t *testing.T) {
	server := realtest.XServer(t)
	p := server.Presser()
	for _, layouts := range [][]string{{"de"}, {"fr", "us"}} {
		m := machine("x11", "i3", layouts...)
		m.Layers = []string{"arrows"}
		in := func(code string, e behaviour.Effect) mechanism.Binding {
			return mechanism.Binding{Layer: "arrows", Chord: keys.Chord{Key: sample.Key(code)}, Effect: e}
		}
		for _, how := range []string{"while", "toggle", "once"} {
			list := []mechanism.Binding{
				sample.Modifier("CapsLock", keys.Hyper),
				{
					Chord:  keys.Chord{Key: sample.Key("ControlRight")},
					Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: "arrows", How: behaviour.SwitchNamed(how)},
				},
				in("KeyH", behaviour.Effect{Kind: behaviour.Becomes, Key: sample.Key("ArrowLeft")}),
				in("KeyE", behaviour.Effect{Kind: behaviour.Types, Text: "ß"}),
				in("KeyX", behaviour.Effect{Kind: behaviour.Nothing}),
				in(
					"KeyD",
					behaviour.Effect{
						Kind:  behaviour.Sends,
						Chord: keys.Chord{Mods: keys.Ctrl, Key: sample.Key("KeyD")},
					},
				),
				in(
					"KeyU",
					behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Alt, Key: sample.Key("KeyC")}},
				),
			}
			if how == "toggle" {
				list = append(list, in("ControlRight", behaviour.Effect{Kind: behaviour.Leaves, Layer: "arrows"}))
			}
			server.LoadKeymap(filepath.Join(write(t, m, list), "xkb/keymap.xkb"))
			press := func(codes ...string) (keysym string, state int) {
				var evdev []int
				switch how {
				case "while":
					evdev = append(evdev, sample.Evdev(sample.Key("ControlRight")))
				case "once":
					p.Chord(sample.Evdev(sample.Key("ControlRight")))
				}
				for _, c := range codes {
					evdev = append(evdev, sample.Evdev(sample.Key(c)))
				}
				events := p.Chord(evdev...)
				return events[len(events)-1].Keysym, events[len(events)-1].State & 0xFF
			}
			if how == "toggle" {
				p.Chord(sample.Evdev(sample.Key("ControlRight")))
			}
			at := fmt.Sprint(how, layouts)
			for _, c := range []struct {
				keys   []string
				keysym string
				state  int
			}{
				{[]string{"KeyH"}, "Left", 0}, {[]string{"ShiftLeft", "KeyH"}, "Left", 0x01},
				{[]string{"CapsLock", "KeyH"}, "Left", 0x20},
				// The server presses the other key, so that Xlib's own look-up, which prefers a
				// group with a letter while Ctrl is held, finds what others find.
				{[]string{"ControlLeft", "KeyH"}, "Left", 0x04},
				{[]string{"KeyE"}, "ssharp", 0}, {[]string{"ShiftLeft", "KeyE"}, "ssharp", 0x01},
				{[]string{"KeyX"}, "NoSymbol", 0}, {[]string{"KeyD"}, "d", 0x04},
				{[]string{"ShiftLeft", "KeyD"}, "D", 0x05}, {[]string{"KeyU"}, "c", 0x08},
				{[]string{"KeyG"}, "g", 0}, {[]string{"ShiftLeft", "KeyG"}, "G", 0x01},
			} {
				keysym, state := press(c.keys...)
				assert.Equal(
					t, []any{xlibName(c.keysym), c.state}, []any{xlibName(keysym), state}, "%s: %v", at, c.keys,
				)
			}
			if how == "toggle" {
				p.Chord(sample.Evdev(sample.Key("ControlRight")))
				got := p.Chord(sample.Evdev(sample.Key("KeyH")))
				assert.Equal(t, "h", got[0].Keysym, at)
			} else {
				assert.Equal(t, "h", p.Chord(sample.Evdev(sample.Key("KeyH")))[0].Keysym, at)
			}
			if how == "once" { // held, it holds the layer, and waits for no key afterwards
				events := p.Chord(sample.Evdev(sample.Key("ControlRight")), sample.Evdev(sample.Key("KeyH")))
				assert.Equal(t, "Left", events[len(events)-1].Keysym, at)
				assert.Equal(t, "h", p.Chord(sample.Evdev(sample.Key("KeyH")))[0].Keysym, at)
			}
		}
	}
}
