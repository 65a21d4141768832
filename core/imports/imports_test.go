package imports_test

import (
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/imports"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/examples"
	"leitstand/internal/sample"
)

var here = &mapping.Machine{Name: "gauge", System: mapping.Linux, Desktop: "none", Layouts: []string{"us"}, Admin: true}

func loaded(t require.TestingT, text []byte) *mapping.Mapping {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags, "%s", text)
	return mp
}

// all carries every press, so that nothing falls back.
type all struct{}

func (all) Carries(*intent.Machine, behaviour.Binding) bool { return true }

// folder is what compile writes.
func folder(builds []*compile.Build) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, b := range builds {
		for _, f := range b.Folder() {
			fsys[b.Machine.Name+"/"+f.Path] = &fstest.MapFile{Data: f.Data}
		}
	}
	return fsys
}

// taken is the mapping that is made of a folder.
func taken(t require.TestingT, fsys fs.FS) ([]byte, []mechanism.Left) {
	got, err := imports.Files([]imports.Path{{FS: fsys, Name: "."}}, here, nil)
	require.NoError(t, err)
	text, left, err := got.Text()
	require.NoError(t, err)
	return text, left
}

// changes is what other files do than those in a folder, for one machine.
func changes(t require.TestingT, fsys fs.FS, b *compile.Build) []behaviour.Change {
	sub, err := fs.Sub(fsys, b.Machine.Name)
	require.NoError(t, err)
	_, was, err := compile.ReadFolder(sub)
	require.NoError(t, err)
	is, err := compile.Read(b.Machine, mechanism.Folder(b.Files()))
	require.NoError(t, err)
	return behaviour.Compare(direct(was.Bindings), direct(is.Bindings))
}

// direct has a key of a layer do by itself what it does by way of a key that hardly a
// board has: which one that is, may differ.
func direct(list []behaviour.Binding) []behaviour.Binding {
	spare := map[keys.Key]behaviour.Effect{}
	for _, b := range list {
		if n, err := strconv.Atoi(strings.TrimPrefix(b.Chord.String(), "F")); err == nil && n > 12 &&
			b.Level == behaviour.Hotkey {
			spare[b.Chord.Key] = b.Effect
		}
	}
	var rest []behaviour.Binding
	for _, b := range list {
		if b.Level == behaviour.Hotkey && b.Effect.Kind == behaviour.Sends && b.Effect.Chord == b.Chord {
			continue // it is given anyhow
		}
		if e, ok := spare[b.Effect.Key]; ok && b.Layer != "" {
			b.Effect = e
		}
		if _, ok := spare[b.Chord.Key]; !ok || b.Level != behaviour.Hotkey {
			rest = append(rest, b)
		}
	}
	return rest
}

// What is compiled of the example, taken over, compiles to files that do the same.
func TestExample(t *testing.T) {
	builds, _, err := compile.All(loaded(t, examples.TideOffice), here, nil)
	require.NoError(t, err)
	fsys := folder(builds)
	text, left := taken(t, fsys)
	for _, l := range left {
		assert.Contains(t, l.Why, "done by hand", "%v", l)
	}
	again, diags, err := compile.All(loaded(t, text), here, nil)
	require.NoError(t, err)
	assert.Empty(t, diags)
	assert.Len(t, again, len(builds))
	for _, b := range again {
		assert.Empty(t, changes(t, fsys, b), b.Machine.Name)
	}
}

// Whatever is compiled, taken over, compiles to files that do the same.
func TestCompiledComesBack(t *testing.T) {
	sample.Anew(t, 150)
	rapid.Check(t, func(t *rapid.T) {
		drawn := sample.Valid(t)
		text := drawn.Text
		builds, diags, err := compile.All(drawn.Mapping, here, nil)
		require.NoError(t, err)
		require.False(t, diags.HasErrors(), "%v\n%s", diags, text)
		fsys := folder(builds)
		over, left := taken(t, fsys)
		again, diags, err := compile.All(loaded(t, over), here, nil)
		require.NoError(t, err)
		require.False(t, diags.HasErrors(), "%v\n%s\nof\n%s", diags, over, text)
		for _, b := range again {
			for _, c := range changes(t, fsys, b) {
				t.Fatalf(
					"%s on %s: %v, then %v\n%s\nof\n%s\nleft: %v", c.Press, b.Machine.Name, c.Before, c.After, over,
					text, left,
				)
			}
		}
	})
}

// Each of these mappings has been drawn once, and did not come back.
func TestFoundOnceComesBack(t *testing.T) {
	for name, text := range map[string]string{
		"a key that stays what it is, but on one of the external boards": `machine "gauge" {
  system  = "linux"
  desktop = "gnome"
  session = "console"
  layouts = ["fr"]
  boards  = ["wheelhouse", "chart-table"]
}
board "wheelhouse" { ids = ["any external"] }
board "chart-table" { ids = ["usb:1209:0001"] }
keys = { Digit1 = "&" }
on "chart-table" {
  keys = { Digit1 = "ScrollLock" }
}
`,
	} {
		builds, diags, err := compile.All(loaded(t, []byte(text)), here, nil)
		require.NoError(t, err)
		require.False(t, diags.HasErrors(), "%v", diags)
		fsys := folder(builds)
		over, left := taken(t, fsys)
		assert.Empty(t, left, name)
		again, _, err := compile.All(loaded(t, over), here, nil)
		require.NoError(t, err)
		for _, b := range again {
			assert.Empty(t, changes(t, fsys, b), "%s\n%s", name, over)
		}
	}
}

// A key that types a text, by a layout of our own, comes back as one that types a text.
func TestTextsByKeysComeBack(t *testing.T) {
	const text = "machine \"lab\" {\n  system = \"windows\"\n  layouts = [\"de\"]\n  layout_library = true\n}\n" +
		"snippet \"KeyW\" { text = \"Süd\" }\nremap \"KeyQ\" { to = \"æ\" }\n"
	builds, diags, err := compile.All(loaded(t, []byte(text)), here, nil)
	require.NoError(t, err)
	require.False(t, diags.HasErrors())
	over, left := taken(t, folder(builds))
	assert.Empty(t, left)
	assert.Contains(t, string(over), `KeyW = { text = "Süd" }`)
	assert.Contains(t, string(over), `KeyQ = "æ"`)
}

// An action by way of F20 comes back as an action of the layer only for a key that the compiler gives a spare key there.
func TestActionsOfLayersComeBack(t *testing.T) {
	for key, want := range map[string]string{"Lang4": `Lang4 = "F20"`, "Insert": `Insert = "F20"`, "KeyJ": `KeyJ = { does = "minimize" }`} {
		builds, diags, err := compile.All(loaded(t, fmt.Appendf(nil,
			"machine \"mess\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n  session = \"x11\"\n  layouts = [\"us\"]\n}\n"+
				"layer \"tide\" {\n  while = \"CapsLock\"\n  keys = { %s = \"F20\" }\n}\naction \"F20\" { does = \"minimize\" }\n",
			key,
		)), here, nil)
		require.NoError(t, err)
		require.False(t, diags.HasErrors())
		fsys := folder(builds)
		over, _ := taken(t, fsys)
		assert.Contains(t, string(over), want)
		again, _, err := compile.All(loaded(t, over), here, nil)
		require.NoError(t, err)
		assert.Empty(t, changes(t, fsys, again[0]), "%s\n%s", key, over)
	}
}

// A rule is present where the user's configuration has all of its presses with the same effect; another rule for the same
// press, which the configuration does not carry, stays in the mapping.
func TestPresentRules(t *testing.T) {
	const text = `machine "mess" {
  system  = "linux"
  desktop = "i3"
  layouts = ["us"]
}
app "gauge" { linux = "gauge" }
launch "Alt+Enter" { run = "xterm" }
launch "Alt+c" { run = "xcalc" }
launch "Alt+d" { run = "xterm" }
launch "Alt+d" {
  run      = "xterm"
  in_front = ["gauge"]
}
action "Alt+Shift+q" { does = "close" }
`
	const config = "bindsym Mod1+Return exec xterm\nbindsym Mod1+c exec xterm\nbindsym Mod1+d exec xterm\n" +
		"bindsym Mod1+Shift+q kill\n"
	mp := loaded(t, []byte(text))
	builds, _, err := compile.All(mp, here, nil)
	require.NoError(t, err)
	anew := loaded(t, []byte(text))
	anew.SwitchOff(imports.Present(builds[0], "~/.config/i3/config", []byte(config)))
	var rest []string
	for _, r := range anew.Rules {
		if r.Head().Enabled {
			rest = append(rest, fmt.Sprint(mapping.Title(r), " ", r.Head().Range.Start.Line))
		}
	}
	assert.Equal(t, []string{"launch Alt+c xcalc 8", "launch Alt+d xterm 10"}, rest)
	assert.Empty(t, imports.Present(builds[0], "", nil))
}

// A text of one character by a key comes back as that, and not as the key that types the character.
func TestCharactersByKeysComeBack(t *testing.T) {
	for _, system := range []string{"system = \"macos\"", "system = \"windows\"\n  layout_library = true"} {
		for _, text := range []string{"x", "Q", "!", "€"} {
			builds, diags, err := compile.All(loaded(t, fmt.Appendf(
				nil,
				"machine \"lab\" {\n  %s\n  layouts = [\"us\"]\n}\nsnippet \"Digit5\" { text = %q }\n",
				system,
				text,
			)), here, nil)
			require.NoError(t, err)
			require.False(t, diags.HasErrors())
			fsys := folder(builds)
			over, _ := taken(t, fsys)
			again, _, err := compile.All(loaded(t, over), here, nil)
			require.NoError(t, err)
			assert.Empty(t, changes(t, fsys, again[0]), "%s %s\n%s", system, text, over)
		}
	}
}

// Whatever a machine's keys do, the mapping that is made of it means just that.
func TestMeans(t *testing.T) {
	sample.Checks(300)
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,12}`))
	desktops := slices.DeleteFunc(machine.DesktopNames(), func(d string) bool { return !machine.HasSession(d, "x11") })
	rapid.Check(t, func(t *rapid.T) {
		m := sample.Machine(
			mapping.Machine{
				System:  mapping.Linux,
				Session: "x11",
				Desktop: rapid.SampledFrom(desktops).Draw(t, "desktop"),
				Layouts: rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}, {"ru", "us"}, {"ch(fr)"}}).Draw(
					t, "layouts",
				),
			},
		)
		hypers := 0
		list := sample.Positions(t, func(b behaviour.Binding) bool {
			hyper := b.Effect.Kind == behaviour.Modifier
			if hyper {
				hypers++
			}
			return (!hyper || hypers == 1 && m.Hyper == machine.RealHyper) &&
				b.Effect.Key != sample.Key("MouseMiddle") // a hyper may stand for one thing only
		})
		list = sample.Layers(t, m, list, func(behaviour.Binding) bool { return true })
		can := func(c keys.Chord) bool { return !c.Mods.Has(keys.Hyper) || m.Hyper == machine.RealHyper }
		hotkeys := sample.Launches(t, word, func(b behaviour.Binding) bool {
			return b.Chord.Mods != 0 && can(b.Chord) && strings.TrimSpace(b.Effect.Launch().Command[0]) != ""
		})
		seen := map[keys.Chord]bool{}
		for _, b := range hotkeys {
			seen[b.Chord] = true
		}
		for _, more := range [][]behaviour.Binding{
			sample.Chords(t, func(b behaviour.Binding) bool {
				return b.Chord.Mods != 0 && can(b.Chord) && can(b.Effect.Chord) && b.Effect.Chord != b.Chord
			}),
			sample.Actions(func(b behaviour.Binding) bool { return true }),
		} {
			for _, b := range more {
				if !seen[b.Chord] {
					seen[b.Chord] = true
					hotkeys = append(hotkeys, b)
				}
			}
		}
		list = append(list, hotkeys...)
		list = append(
			list, sample.Setting("repeat delay", "250ms"), sample.Setting("repeat rate", "33/s"),
			sample.Setting("repeat of KeyA", "never"),
		)
		behaviour.Sort(list)

		text, left, err := imports.Gathered{Sources: []imports.Source{{Machine: m, Bindings: list}}}.Text()
		require.NoError(t, err)
		require.Empty(t, left)
		mp := loaded(t, text)
		in, diags := intent.Resolve(mp, mp.Machines[0], all{})
		require.Empty(t, diags, "%s", text)
		var meant []behaviour.Binding
		for _, e := range in.Entries {
			meant = append(meant, e.Binding)
		}
		for _, c := range behaviour.Compare(list, meant) {
			t.Fatalf("%s: %v, meant %v\n%s", c.Press, c.Before, c.After, text)
		}
	})
}

var update = flag.Bool("update", false, "write the mappings into testdata; read them before committing")

// Files of each kind, as people, panels and programs write them, and the mapping that is
// made of them.
func TestFormats(t *testing.T) {
	names, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, name := range names {
		t.Run(filepath.Base(name), func(t *testing.T) {
			archive, err := txtar.ParseFile(name)
			require.NoError(t, err)
			const wanted = "want.hcl"
			want := ""
			fsys := fstest.MapFS{}
			archive.Files = slices.DeleteFunc(archive.Files, func(f txtar.File) bool {
				if f.Name == wanted {
					want = string(f.Data)
				}
				return f.Name == wanted
			})
			for _, f := range archive.Files {
				fsys[f.Name] = &fstest.MapFile{Data: f.Data}
			}
			text, _ := taken(t, fsys)
			loaded(t, text)
			if *update {
				archive.Files = append(archive.Files, txtar.File{Name: wanted, Data: text})
				require.NoError(t, os.WriteFile(name, txtar.Format(archive), 0o644))
				return
			}
			assert.Equal(t, want, string(text))
		})
	}
}

// A layer that a key of the system's own holds, with nothing to write for it, comes back.
func TestLayersOfTheSystemComeBack(t *testing.T) {
	const text = "machine \"skiff\" {\n  system  = \"macos\"\n  layouts = [\"us\"]\n}\nlayer \"tide\" {\n" +
		"  while = \"AltRight\"\n  keys = { Backquote = \"Digit1\" }\n}\n"
	builds, diags, err := compile.All(loaded(t, []byte(text)), here, nil)
	require.NoError(t, err)
	require.False(t, diags.HasErrors())
	over, left := taken(t, folder(builds))
	assert.Empty(t, left)
	assert.Contains(t, string(over), `while = "AltRight"`)
	again, _, err := compile.All(loaded(t, over), here, nil)
	require.NoError(t, err)
	assert.Empty(t, changes(t, folder(builds), again[0]), "%s", over)
}
