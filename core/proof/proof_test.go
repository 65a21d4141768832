package proof_test

import (
	"io/fs"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/hwdb"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/core/mechanism/linux/xkb/keymap"
	"leitstand/core/mechanism/registry"
	"leitstand/core/proof"
	"leitstand/core/station"
	"leitstand/examples"
	"leitstand/internal/sample"
)

func build(t testing.TB, text string) []*compile.Build {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, diags, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	require.False(t, diags.HasErrors())
	return builds
}

func filesOf(b *compile.Build) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, f := range b.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	return fsys
}

func TestExampleIsProved(t *testing.T) {
	for _, b := range build(t, string(examples.TideOffice)) {
		r := prove(t, b, filesOf(b))
		assert.Empty(t, r.Defects, b.Machine.Name)
		written := map[behaviour.Place]bool{}
		for _, l := range b.Landings {
			if l.ReadBack() {
				written[l.Binding.Place()] = true
			}
		}
		assert.GreaterOrEqual(t, r.Presses, len(written), b.Machine.Name)
	}
}

// Actions of programs that come as chords are proved as those chords.
func TestEditingIsProved(t *testing.T) {
	const text = `
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["fr", "us"]
}
action "Meta+c" { does = "copy" }
action "Meta+Shift+z" { does = "redo" }
layer "edit" {
  while = "ControlRight"
  keys = {
    KeyV = { does = "paste" }
  }
}`
	b := build(t, text)[0]
	for _, l := range b.Landings {
		require.Equal(t, "xkb", l.Mechanism.Facts().Name, l.Binding.String())
	}
	r := prove(t, b, filesOf(b))
	require.Empty(t, r.Defects)
	// Another chord than the usual one is found.
	for i, f := range b.Files() {
		if f.Path == "xkb/keymap.xkb" {
			b.Files()[i].Data = []byte(strings.Replace(string(f.Data), "RedirectKey(key=<AB03>, clearMods=Mod4, "+
				"modifiers=Control)", "RedirectKey(key=<AB03>, clearMods=Mod4)", 1))
			require.NotEqual(t, f.Data, b.Files()[i].Data)
		}
	}
	r = prove(t, b, filesOf(b))
	require.NotEmpty(t, r.Defects)
}

// prove is the proof of a build by files.
func prove(t require.TestingT, b *compile.Build, files fs.FS) *proof.Result {
	s, err := station.With(nil, b, files)
	require.NoError(t, err)
	return proof.Machine(s)
}

// wrong says whether files cannot be read, or the proof finds anything wrong with them.
func wrong(b *compile.Build, files fs.FS) bool {
	s, err := station.With(nil, b, files)
	return err != nil || len(proof.Machine(s).Defects) > 0
}

// landed is a build of bindings.
func landed(t require.TestingT, m *mechanism.Machine, list []behaviour.Binding) *compile.Build {
	in := &intent.Intent{Machine: m, HasHyper: true}
	for _, b := range list {
		in.Entries = append(in.Entries, &intent.Entry{Binding: b})
	}
	b := &compile.Build{Landed: land.Of(in)}
	require.NoError(t, b.Write())
	return b
}

// Random mappings of positions are proved, under any layouts.
func TestRandomMappingsAreProved(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SliceOfNDistinct(
			rapid.SampledFrom(
				[]string{"de", "us", "fr", "gb(colemak)", "de(T3)", "ru", "ch", "us(dvorak)"},
			),
			1,
			3,
			rapid.ID[string],
		).Draw(t, "layouts")
		session := rapid.SampledFrom([]string{"", "x11", "wayland"}).Draw(t, "session")
		m := sample.Machine(
			mapping.Machine{
				System:  mapping.Linux,
				Desktop: "i3",
				Session: session,
				Layouts: layouts,
				Options: sample.Options(t, layouts),
			},
		)
		taken := func(b behaviour.Binding) bool { return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited }
		list := sample.Layers(t, m, sample.Positions(t, taken), taken)
		b := landed(t, m, list)
		r := prove(t, b, filesOf(b))
		require.Empty(t, r.Defects)
	})
}

// Random mappings of positions, some of them for single boards, are proved, board by board;
// what a board's file has lost is found.
func TestRandomBoardsAreProved(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SliceOfNDistinct(
			rapid.SampledFrom([]string{"de", "us", "fr", "ru"}), 1, 2, rapid.ID[string],
		).Draw(t, "layouts")
		where := mapping.Machine{System: mapping.Linux, Desktop: "i3", Session: "x11", Layouts: layouts}
		if rapid.Bool().Draw(t, "sway") {
			where.Desktop, where.Session = "sway", "wayland"
		}
		m := sample.Machine(where)
		m.Boards = []*mapping.Board{
			{
				Name: "chart-table",
				IDs: []mapping.BoardID{
					{Bus: mapping.USB, Vendor: 0x1209, Product: 1},
					{Bus: mapping.Bluetooth, Vendor: 0x1209, Product: 2},
				},
			},
			{Name: "wheelhöuse", IDs: []mapping.BoardID{{Bus: mapping.USB, Vendor: 0x1209, Product: 3}}},
		}
		taken := func(b behaviour.Binding) bool { return xkb.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited }
		list := sample.Positions(t, func(b behaviour.Binding) bool {
			return b.Effect.Kind != behaviour.Sends && taken(b) // whose other key a board must leave alone
		})
		for _, board := range m.Boards {
			for _, b := range sample.Positions(t, func(b behaviour.Binding) bool { return taken(sample.On(board.Name, b)) }) {
				list = append(list, sample.On(board.Name, b))
			}
		}
		b := landed(t, m, list)
		r := prove(t, b, filesOf(b))
		require.Empty(t, r.Defects)

		if where.Desktop != "i3" {
			return
		}
		for i, f := range b.Files() {
			if lines := strings.SplitAfter(string(f.Data), "\n"); strings.HasPrefix(f.Path, "xkb/board") {
				at := slices.IndexFunc(lines, func(l string) bool {
					return strings.Contains(l, "VoidSymbol") &&
						strings.HasSuffix(l, "};\n")
				})
				if at < 0 {
					continue
				}
				b.Files()[i].Data = []byte(strings.Join(slices.Delete(lines, at, at+1), ""))
				require.True(t, wrong(b, filesOf(b)), "%s has lost a key, and the proof finds nothing", f.Path)
				return
			}
		}
	})
}

// Random chords that are to be others are proved, and a keymap that has lost any line of
// them is not.
func TestRandomChordsAreProved(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SliceOfNDistinct(
			rapid.SampledFrom([]string{"de", "us", "fr", "gb", "ru", "ch", "us(dvorak)"}), 1, 3, rapid.ID[string],
		).Draw(t, "layouts")
		m := sample.Machine(
			mapping.Machine{
				System:  mapping.Linux,
				Desktop: "i3",
				Session: "x11",
				Layouts: layouts,
				Options: sample.Options(t, layouts),
			},
		)
		hyper := sample.Modifier("ScrollLock", keys.Hyper)
		has := xkb.Mechanism{}.Take(m, hyper).Verdict == mechanism.Exact // options may have it already
		list := sample.Chords(t, func(b behaviour.Binding) bool {
			other := hyper.Chord.Key
			return (has || !(b.Chord.Mods | b.Effect.Chord.Mods).Has(keys.Hyper)) &&
				xkb.Mechanism{}.Take(
					m, b,
				).Verdict >= mechanism.Limited && b.Chord.Key != other && b.Effect.Key != other && b.Effect.Chord.Key != other
		})
		if has {
			list = append(list, hyper)
		}
		if len(list) == 0 {
			return // of which there is no file
		}
		b := landed(t, m, list)
		files := filesOf(b)
		r := prove(t, b, files)
		require.Empty(t, r.Defects)
		if len(m.Options) > 0 { // which may leave a modifier without a key, so that its lines are for nothing
			return
		}
		const path = "xkb/keymap.xkb"
		lines := strings.SplitAfter(string(files[path].Data), "\n")
		at := rapid.IntRange(0, len(lines)-1).Draw(t, "line")
		line := lines[at]
		// Not every layout has AltGr.
		reached := !strings.Contains(line, "Mod5")
		if reached && (strings.Contains(line, "map[") || strings.Contains(line, "preserve[")) ||
			strings.Contains(line, "RedirectKey") {
			mutant := slices.Concat(lines[:at], lines[at+1:])
			whole, err := xkb.Open(m, files)
			require.NoError(t, err)
			files[path] = &fstest.MapFile{Data: []byte(strings.Join(mutant, ""))}
			if !wrong(b, files) { // the line must have been for nothing
				lost, err := xkb.Open(m, files)
				require.NoError(t, err)
				sameKeys(t, list, whole.Keymap(""), lost.Keymap(""), len(layouts), line)
			}
		}
	})
}

// sameKeys requires that the keys of bindings do the same in two keymaps.
func sameKeys(t require.TestingT, list []behaviour.Binding, a, b *keymap.Keymap, groups int, line string) {
	for _, l := range list {
		x, _ := a.KeyOf(l.Chord.Key)
		y, _ := b.KeyOf(l.Chord.Key)
		for g := range groups {
			for on := range keymap.Masks {
				require.Equal(t, a.At(x, keymap.Mask(on), g), b.At(y, keymap.Mask(on), g), line)
			}
		}
	}
}

// A writer that does something else is caught, with the shortest press that shows
// it.
func TestWrongWriterIsCaught(t *testing.T) {
	b := build(t, `
machine "gauge" {
  system  = "linux"
  session = "wayland"
  layouts = ["de"]
  rights  = "user"
}
hyper "ScrollLock" {}
remap "ContextMenu" { to = "KeyZ" }
disable "Insert" {}
`)[0]
	for _, c := range []struct{ old, new, press, want, got string }{
		{"[ y, Y, guillemotright, U203A ]", "[ y, Y, guillemotright, U203B ]", "Shift+Mod5+ContextMenu", "gives U203A", "gives U203B"},
		{"FOUR_LEVEL_SEMIALPHABETIC", "FOUR_LEVEL", "Lock+ContextMenu", "gives Y", "with Lock"},
		{"modifier_map Mod3 { <SCLK> };", "", "ScrollLock", "acts as Hyper", "without being the modifier"},
		{"key <INS> { type[Group1] = \"ONE_LEVEL\", symbols[Group1] = [ VoidSymbol ] };", "", "Insert", "does nothing", "nothing of its own"},
		{"key <HYPR> { type[Group1] = \"ONE_LEVEL\", symbols[Group1] = [ VoidSymbol ] };", "", "ScrollLock", "acts as Hyper", "beside Super"},
	} {
		files := filesOf(b)
		const path = "xkb/symbols/leitstand"
		text := string(files[path].Data)
		require.Contains(t, text, c.old)
		files[path] = &fstest.MapFile{Data: []byte(strings.Replace(text, c.old, c.new, 1))}
		r := prove(t, b, files)
		i := slices.IndexFunc(r.Defects, func(d proof.Defect) bool { return d.Press == c.press })
		if assert.GreaterOrEqual(t, i, 0, "%s is not reported: %v", c.press, r.Defects) {
			assert.Contains(t, r.Defects[i].Want, c.want)
			assert.Contains(t, r.Defects[i].Got, c.got)
		}
	}
}

// A key that the driver changes and the layout changes again is caught.
func TestChangedTwiceIsCaught(t *testing.T) {
	m := sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: "i3", Layouts: []string{"de"}})
	first, second := sample.Becomes("ContextMenu", "CapsLock"), sample.Modifier("CapsLock", keys.Hyper)
	b := &compile.Build{Landed: &land.Landed{Intent: &intent.Intent{Machine: m}, Landings: []land.Landing{
		{Entry: &intent.Entry{Binding: first}, Mechanism: hwdb.Mechanism{}},
		{Entry: &intent.Entry{Binding: second}, Mechanism: xkb.Mechanism{}},
	}}}
	files := fstest.MapFS{}
	for _, w := range []struct {
		target registry.Mechanism
		list   []behaviour.Binding
	}{{hwdb.Mechanism{}, []behaviour.Binding{first}}, {xkb.Mechanism{}, []behaviour.Binding{second}}} {
		out, err := mechanism.Write(w.target, m, w.list)
		require.NoError(t, err)
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
		}
	}
	r := prove(t, b, files)
	require.Len(t, r.Defects, 1)
	assert.Equal(t, "ContextMenu", r.Defects[0].Press)
	assert.Equal(t, "is changed twice, and acts as Hyper", r.Defects[0].Got)
}

// Two chords that a desktop spells alike are told of, and no fault of the program's.
func TestChordsThatAreSpelledAlike(t *testing.T) {
	const text = `
machine "gauge" {
  system  = "linux"
  desktop = "i3"
}
launch "Meta+F13" { run = "xterm" }
launch "Meta+MediaSelect" { run = "tidegauge" }
`
	mp, _, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	b := build(t, text)[0]
	r := prove(t, b, filesOf(b))
	list := r.Diagnostics(mp)
	require.Len(t, list, 1)
	assert.Equal(t, "told-apart", list[0].Code)
	assert.Contains(t, list[0].Summary, "Meta+MediaSelect cannot be told from Meta+F13")
}

// everyMechanism is a mapping that lands in the mechanisms which the example has no machine for.
const everyMechanism = `
machine "office" {
  system  = "linux"
  desktop = "gnome"
  layouts = ["de"]
}
machine "mess" {
  system  = "linux"
  desktop = "mate"
}
machine "shed" {
  system  = "linux"
  desktop = "cinnamon"
}
machine "gauge" {
  system  = "linux"
  desktop = "sway"
  layouts = ["de", "us"]
  boards  = ["chart-table"]
  rights  = "user"
}
machine "boards" {
  system  = "linux"
  desktop = "none"
  session = "x11"
  boards  = ["chart-table"]
  rights  = "user"
}
machine "tower" {
  system  = "linux"
  session = "console"
}
machine "bridge" {
  system  = "linux"
  desktop = "plasma"
  session = "wayland"
}
machine "cabin" {
  system  = "macos"
  layouts = ["de"]
}
on "cabin" {
  action "Ctrl+Alt+Home" { does = "overview" }
  action "Ctrl+Alt+F3" { does = "previous-workspace" }
  disable "Shift+Meta+4" {}
  disable "Meta+p" {}
  launch "Meta+Space" {
    app   = "chart"
    override = true
  }
  remap "Ctrl+c" {
    to       = "Meta+c"
    in_front = "chart"
  }
}
app "chart" { macos = "org.example.chart" }
board "chart-table" { ids = ["usb:1209:0001"] }
hyper "CapsLock" {}
disable "Insert" {}
remap "ScrollLock" { to = "Escape" }
remap "Pause" {
  to = "F14"
  on = "chart-table"
}
remap "MouseBack" { to = "F6" }
launch "Hyper+t" { run = ["tidegauge", "--station", "Süderhaff 3"] }
launch "Meta+F7" {
  run      = "tidegauge"
  everyone = true
}
action "Meta+ArrowLeft" { does = "tile-left" }
action "Meta+F12" { does = "copy" }
disable "Alt+F4" {
  everyone = true
}
disable "Ctrl+Alt+F2" { on = "tower" }
snippet "F8" { text = "NHN" }
repeat {
  delay = "300ms"
  rate  = 50
}
`

func BenchmarkProof(b *testing.B) {
	builds := build(b, string(examples.TideOffice))
	presses := 0
	for b.Loop() {
		for _, m := range builds {
			presses += prove(b, m, filesOf(m)).Presses
		}
	}
	b.ReportMetric(float64(presses)/b.Elapsed().Seconds(), "presses/s")
}
