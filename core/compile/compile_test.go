package compile_test

import (
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/examples"
)

func build(t testing.TB, text string) (*mapping.Mapping, []*compile.Build, diag.List) {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, diags, err := compile.All(
		mp, &mapping.Machine{Name: "this-machine", System: mapping.Linux, Layouts: []string{"us"}}, nil,
	)
	require.NoError(t, err)
	return mp, builds, diags
}

func filesOf(b *compile.Build) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, f := range b.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	return fsys
}

// The example's files, read back, do what the mapping says, and nothing of it is
// left undone in silence.
func TestExampleReadsBack(t *testing.T) {
	mp, builds, diags := build(t, string(examples.TideOffice))
	require.Empty(t, diags.Without(diag.Note))
	for _, b := range builds {
		got, err := compile.Read(b.Machine, filesOf(b))
		require.NoError(t, err)
		needed := slices.DeleteFunc(b.Written(), func(w *behaviour.Binding) bool { // PrintScreen is F13 to a Mac
			return b.Machine.Alike(w.Effect, behaviour.Effect{Kind: behaviour.Becomes, Key: w.Chord.Key})
		})
		differ := slices.DeleteFunc(behaviour.CompareEach(got.Bindings, needed), func(c behaviour.Change) bool {
			return c.Before != nil && c.After != nil && b.Machine.SameAltGr(*c.Before, *c.After)
		})
		assert.Empty(t, differ, b.Machine.Name)
		assert.Len(t, b.Landings, len(b.Entries))
		for _, l := range b.Landings {
			assert.True(t, l.Offer.Verdict == mechanism.Exact ||
				l.Offer.Why.String() != "", "%s on %s says nothing", l.Binding, b.Machine.Name)
		}
	}
	rows := compile.Table(mp, builds)
	assert.Len(t, rows, len(mp.Rules))
}

// What ends the session is done with a question where the desktop has one; where it has
// none that is said, or the action is not done for who wants one.
func TestQuestions(t *testing.T) {
	for on, want := range map[string]string{
		"gnome": "exact / exact", "cinnamon": "exact / exact", "i3": "exact / exact", "sway": "exact / exact",
		"plasma": "exact / exact",
		"plasma\"\n  desktop_version = \"5.27": "limited without a question / unavailable plasma does it without the " +
			"question that the rule asks for",
		"xfce": "limited without a question / unavailable xfce does it without the question " +
			"that the rule asks for",
		"mate": "limited without a question / unavailable mate does it without the question " +
			"that the rule asks for",
	} {
		_, builds, diags := build(t, fmt.Sprintf(`machine "m" {
  system  = "linux"
  desktop = "%s"
}
group "session" {
  allow = "unavailable"
  override = true
  keys = {
    "Meta+F9"  = { does = "restart" }
    "Meta+F10" = { does = "restart", confirm = true }
    "Meta+F11" = { does = "power-off" }
  }
}
`, on))
		require.False(t, diags.HasErrors())
		var got []string
		for _, l := range builds[0].Landings[:2] {
			got = append(got, strings.TrimSpace(l.Offer.Verdict.String()+" "+l.Offer.Why.String()))
		}
		assert.Equal(t, want, strings.Join(got, " / "), on)
		assert.GreaterOrEqual(t, builds[0].Landings[2].Offer.Verdict, mechanism.Limited, on)
	}
}

// A program that is not named for a system is started there by no chord, whatever its
// fallbacks.
func TestProgramsOfOtherSystems(t *testing.T) {
	_, _, diags := build(t, machines+`
app "plot" { linux = "plot" }
on "lab" "tablet" {
  keys = {
    F7        = { app = "plot" }
    "Ctrl+F8" = { app = "plot", fallback = "Ctrl+F9" }
  }
}
hyper "CapsLock" { instead = "Ctrl+Alt" }
launch "Hyper+F10" {
  on  = "lab"
  app = "plot"
}
`)
	for _, d := range diags {
		assert.NotEqual(t, diag.Error, d.Severity, d.Summary)
	}
	assert.Contains(t, fmt.Sprint(diags), `F7 is unavailable: app "plot" names no program for windows`)
}

// What nothing does, or only a running process could, is counted by rule and machine.
func TestNotDone(t *testing.T) {
	mp, builds, _ := build(t, machines+`
disable "Insert" { on = ["gauge", "lab"] }
macro "F8" {
  steps = [{ text = "x" }]
  on    = ["gauge", "lab"]
}
disable "Pause" { on = "lab" }
`)
	assert.Equal(t, 3, compile.Shortage(compile.Table(mp, builds)).NotDone, "the macro on both, and Pause")
}

// The same mapping gives the same bytes.
func TestSameBytes(t *testing.T) {
	_, first, _ := build(t, string(examples.TideOffice))
	for range 5 {
		_, again, _ := build(t, string(examples.TideOffice))
		for i := range first {
			require.Equal(t, first[i].Folder(), again[i].Folder())
		}
	}
}

const machines = `
machine "office" {
  system  = "linux"
  desktop = "plasma"
}
machine "gauge" {
  system  = "linux"
  desktop = "i3"
  rights  = "user"
}
machine "lab" { system = "windows" }
machine "tablet" { system = "ipados" }
`

// A mapping without machines is for the machine at hand.
func TestOneLine(t *testing.T) {
	_, builds, diags := build(t, `remap "CapsLock" { to = "Escape" }`)
	require.Empty(t, diags)
	require.Len(t, builds, 1)
	assert.Equal(t, "this-machine", builds[0].Machine.Name)
	assert.GreaterOrEqual(t, builds[0].Landings[0].Offer.Verdict, mechanism.Limited)
}

// A key is changed by a driver only if the layout leaves what it becomes alone.
func TestKeyIsChangedOnce(t *testing.T) {
	_, builds, diags := build(t, `
machine "office" {
  system  = "linux"
  desktop = "none"
  boards  = ["chart-table"]
}
board "chart-table" { ids = ["usb:1209:0001"] }
hyper "CapsLock" {}
remap "ContextMenu" { to = "CapsLock" }
remap "Pause" { to = "ContextMenu" }
remap "Insert" {
  to = "CapsLock"
  on = "chart-table"
}
`)
	var got []string
	for _, l := range builds[0].Landings {
		name := "nothing"
		if l.Mechanism != nil {
			name = l.Mechanism.Facts().Name
		}
		got = append(got, l.Binding.Press()+": "+name)
	}
	assert.Equal(t, []string{"CapsLock: xkb", "ContextMenu: xkb", "Pause: xkb", "Insert on chart-table: nothing"}, got)
	require.Len(t, diags, 1)
	assert.Equal(t, "Insert on chart-table is unavailable: CapsLock is changed again by the layout (it acts as "+
		"Hyper), and a layout holds for all boards", diags[0].Summary)
}

// A layer whose key is also tapped is held without the tap; one that nothing can switch
// on has no keys.
// A chord comes of a chord, or of a key of a layer, only where the layout leaves alone
// what it is made of.
func TestChordOfKeysThatTheLayoutLeavesAlone(t *testing.T) {
	_, builds, _ := build(t, `
machine "gauge" {
  system  = "linux"
  session = "x11"
  desktop = "i3"
  rights  = "user"
}
hyper "ScrollLock" {}
swap "CapsLock" "Escape" {}
remap "Ctrl+KeyH" { to = "Backspace" }
remap "Ctrl+BracketLeft" { to = "Escape" }
layer "arrows" {
  while = "ControlRight"
  keys = {
    KeyD = "Ctrl+d"
    KeyE = "Ctrl+h"
    KeyF = "Alt+j"
    KeyJ = "ArrowDown"
    KeyX = "Ctrl+CapsLock"
  }
}
`)
	want := map[string]mechanism.Verdict{
		"Ctrl+KeyH": mechanism.Exact, "Ctrl+BracketLeft": mechanism.Unavailable, "KeyD in layer arrows": mechanism.Exact,
		"KeyE in layer arrows": mechanism.Exact,
		"KeyF in layer arrows": mechanism.Unavailable, "KeyX in layer arrows": mechanism.Unavailable,
		"KeyJ in layer arrows": mechanism.Exact,
	}
	for _, l := range builds[0].Landings {
		if v, asked := want[l.Binding.Press()]; asked {
			assert.Equal(t, v, l.Offer.Verdict, "%s: %s", l.Binding, l.Offer.Why.String())
			delete(want, l.Binding.Press())
		}
	}
	assert.Empty(t, want)
}

// A key that the driver leaves to the layout is the layout's for a chord as well.
func TestChordOfAKeyThatTheDriverLeaves(t *testing.T) {
	_, builds, _ := build(t, `
machine "gauge" {
  system  = "linux"
  session = "x11"
  desktop = "i3"
}
remap "KeyA" { to = "KeyB" }
remap "KeyC" { to = "KeyD" }
remap "Meta+b" { to = "Ctrl+b" }
remap "Meta+d" { to = "Ctrl+d" }
layer "arrows" {
  while = "ControlRight"
  keys = { KeyA = "ArrowLeft" }
}
`)
	want := map[string]string{"KeyA": "xkb", "KeyC": "hwdb", "Meta+KeyB": "", "Meta+KeyD": "xkb"}
	for _, l := range builds[0].Landings {
		if name, asked := want[l.Binding.Press()]; asked {
			got := ""
			if l.Mechanism != nil {
				got = l.Mechanism.Facts().Name
			}
			assert.Equal(t, name, got, "%s: %s", l.Binding, l.Offer.Why.String())
		}
	}
}

func TestLayerIsSwitchedOnOrNotThere(t *testing.T) {
	_, builds, _ := build(t, `
machine "office" {
  system  = "linux"
  desktop = "none"
}
layer "nav" {
  while = "AltRight"
  tap  = "Escape"
  keys = { KeyN = "ArrowDown" }
}
layer "once" {
  once = "ControlRight"
  keys = { KeyM = "ArrowUp" }
}
`)
	var got []string
	for _, l := range builds[0].Landings {
		got = append(got, fmt.Sprintf("%s: %s, %s", l.Binding, l.Offer.Verdict, l.Offer.Why.String()))
	}
	const keycodes = "programs that look at keycodes (games, virtual machines) still see the old key"
	assert.Equal(t, []string{
		"AltRight holds layer nav: limited, " + keycodes,
		"KeyN in layer nav acts as ArrowDown: limited, " + keycodes + "; under X11, Ctrl with it reaches programs " +
			"such as xterm as Ctrl with the plain key",
		"ControlRight takes the next key from layer once: needs-agent, only X11 has a layer for one key only: say " +
			"session = \"x11\" if the machine has no Wayland session",
		"KeyM in layer once acts as ArrowUp: unavailable, nothing switches layer once on here",
	}, got)
}

// A key of a layer types a text by way of a spare key, where programs compose.
func TestTextInALayer(t *testing.T) {
	_, builds, diags := build(t, `
machine "office" {
  system  = "linux"
  desktop = "none"
}
remap "Pause" { to = "F14" }
layer "nav" {
  while = "AltRight"
  keys = { KeyN = { text = "NHN" } }
}
`)
	require.Empty(t, diags)
	var got []string
	for _, l := range builds[0].Landings {
		got = append(got, l.Binding.String()+": "+l.Mechanism.Facts().Name)
	}
	assert.Equal(t, []string{"Pause acts as F14: hwdb", "AltRight holds layer nav: xkb", "KeyN in layer nav acts " +
		"as F15: xkb", `F15 types "NHN": compose`}, got)
}

func TestUnknownMachine(t *testing.T) {
	mp, _, err := mapping.Load(examples.Files, "tide-office/leitstand.hcl", "")
	require.NoError(t, err)
	_, _, err = compile.All(mp, nil, []string{"office", "vesel"})
	assert.EqualError(t, err, `the mapping has no machine "vesel"; did you mean "vessel"?`)
}

func writeFolder(dir string, builds []*compile.Build) error {
	_, err := compile.WriteFolder(dir, builds)
	return err
}

func TestWriteFolder(t *testing.T) {
	_, builds, _ := build(t, string(examples.TideOffice))
	dir := filepath.Join(t.TempDir(), "out")
	require.NoError(t, writeFolder(dir, builds))
	read := func(name string) string {
		text, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		return string(text)
	}
	assert.Contains(t, read("office/STEPS.md"), "# office: what to do")

	// What a user put beside our files stays; what an earlier run made goes.
	require.NoError(t, os.WriteFile(filepath.Join(dir, "mess/notes.txt"), []byte("mine"), 0o644))
	_, fewer, _ := build(t, strings.Replace(string(examples.TideOffice), `desktop = "xfce"`, `desktop = "none"`, 1))
	require.NoError(t, writeFolder(dir, fewer))
	assert.Equal(t, "mine", read("mess/notes.txt"))
	assert.NoFileExists(t, filepath.Join(dir, "mess/xfce/xfce4-keyboard-shortcuts.xml"))
	assert.NoDirExists(t, filepath.Join(dir, "mess/xfce"))
	assert.FileExists(t, filepath.Join(dir, "mess/xkb/keymap.xkb"))
	assert.NoDirExists(t, filepath.Join(dir, ".leitstand-new"))
}

// Where the output cannot go, nothing is written.
func TestWriteFolderRefused(t *testing.T) {
	_, builds, _ := build(t, string(examples.TideOffice))
	dir := t.TempDir()
	file := filepath.Join(dir, "file")
	require.NoError(t, os.WriteFile(file, []byte("mine"), 0o644))
	assert.ErrorContains(t, writeFolder(file, builds), "is a file")

	// A link that leads out of the folder is not followed.
	out, outside := filepath.Join(dir, "out"), filepath.Join(dir, "outside")
	require.NoError(t, os.MkdirAll(out, 0o755))
	require.NoError(t, os.MkdirAll(outside, 0o755))
	require.NoError(t, os.Symlink(outside, filepath.Join(out, "office")))
	require.Error(t, writeFolder(out, builds))
	for _, d := range []string{out, outside} {
		var files []string
		require.NoError(t, filepath.WalkDir(d, func(p string, e fs.DirEntry, err error) error {
			if err == nil && e.Type().IsRegular() {
				files = append(files, p)
			}
			return err
		}))
		assert.Empty(t, files, d)
	}

	// A folder in a file's place stops everything.
	blocked := filepath.Join(dir, "blocked")
	require.NoError(t, os.MkdirAll(filepath.Join(blocked, "office/STEPS.md"), 0o755))
	assert.ErrorContains(t, writeFolder(blocked, builds), "is a folder where a file should go")
	assert.NoFileExists(t, filepath.Join(blocked, "office/xkb/symbols/leitstand"))
}

// manyRules makes n rules for five machines, all different.
func manyRules(n int) string {
	var b strings.Builder
	b.WriteString("machine \"mess\" {\n system = \"linux\"\n desktop = \"xfce\"\n}\n")
	for i := range 4 {
		fmt.Fprintf(&b, "machine \"m%d\" { system = %q }\n", i, []string{"linux", "macos", "windows", "ipados"}[i])
	}
	mods := []string{"Ctrl", "Alt", "Shift", "Meta", "Hyper", "AltGr"}
	for i := range n {
		var chord []string
		for j, m := range mods {
			if i>>j&1 == 1 {
				chord = append(chord, m)
			}
		}
		chord = append(chord, fmt.Sprintf("F%d", i/64%24+1))
		// Beyond the chords there are, the rules are for boards that differ.
		on := fmt.Sprintf("b%d", i/1536)
		if i < 1536 {
			on = "mess"
		}
		switch press := strings.Join(chord, "+"); i % 4 {
		case 0:
			fmt.Fprintf(&b, "action %q {\n does = \"tile-left\"\n on = %q\n}\n", press, on)
		case 1:
			fmt.Fprintf(&b, "snippet %q {\n text = \"gauge %d\"\n on = %q\n}\n", press, i, on)
		default:
			fmt.Fprintf(&b, "launch %q {\n run = [\"tidegauge\", \"--station\", \"%d\"]\n on = %q\n}\n", press, i, on)
		}
	}
	for i := range n/1536 + 1 {
		fmt.Fprintf(&b, "board \"b%d\" { ids = [\"usb:1209:%04x\"] }\n", i, i)
	}
	return strings.Replace(b.String(), "desktop = \"xfce\"\n", "desktop = \"xfce\"\n boards = [\"b0\"]\n", 1)
}

func BenchmarkCompile(b *testing.B) {
	for _, n := range []int{10, 1_000, 10_000} {
		text := []byte(manyRules(n))
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: text}}, "m.hcl", "")
				if err != nil || len(diags) > 0 {
					b.Fatal(err, diags[0])
				}
				if _, _, err := compile.All(mp, nil, nil); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*n), "ns/rule")
		})
	}
}

// The page undoes mechanisms in reverse order.
func TestTakenBackInReverse(t *testing.T) {
	_, builds, _ := build(t, string(examples.TideOffice))
	seen := 0
	for _, b := range builds {
		forth, back, _ := strings.Cut(stepsOf(b), "\n## To undo it\n")
		named := func(page, pattern string) (names []string) {
			for _, m := range regexp.MustCompile(pattern).FindAllStringSubmatch(page, -1) {
				if len(names) == 0 || names[len(names)-1] != m[1] {
					names = append(names, m[1])
				}
			}
			return names
		}
		undone := named(back, `(?m)^\d+\. \*\*([^*]+)\*\*: `)
		done := slices.DeleteFunc(named(forth, `(?m)^## [A-Z][a-z ]+: (.*)$`), func(name string) bool {
			return !slices.Contains(undone, name)
		})
		slices.Reverse(done)
		assert.Equal(t, done, undone, b.Machine.Name)
		seen += len(done)
	}
	assert.Greater(t, seen, 20)
}

// stepsOf is the page of steps of a machine's folder.
func stepsOf(b *compile.Build) string {
	for _, f := range b.Folder() {
		if f.Path == compile.StepsFile {
			return string(f.Data)
		}
	}
	return ""
}
