package station_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

const text = `
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["de"]
}
machine "vessel" {
  system  = "macos"
  layouts = ["de"]
  boards  = ["chart-table"]
}
machine "office" {
  system  = "linux"
  desktop = "plasma"
  layouts = ["de"]
}
board "chart-table" {
  ids   = ["usb:1209:0001"]
  lacks = ["F13"]
  sends = { Insert = "CapsLock" }
}
hyper "CapsLock" { fallback = "ControlLeft" }
swap "AltLeft" "MetaLeft" { on = "chart-table" }
remap "PrintScreen" { to = "F13" }
remap "KeyQ" { to = "KeyY" }
launch "Hyper+t" {
  run      = "xterm"
  fallback = "Ctrl+Alt+t"
}
macro "Ctrl+F8" { steps = [{ text = "x" }] }
launch "Ctrl+k, t" { run = "x" }
layer "nav" {
  while = "ControlRight"
  keys = { KeyH = "ArrowLeft" }
}
`

func of(t *testing.T, mp *mapping.Mapping, b *compile.Build) *station.Station {
	t.Helper()
	s, err := station.Of(mp, b)
	require.NoError(t, err)
	return s
}

func TestAsk(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	for _, c := range []struct{ machine, chord, want string }{
		{"mess", "Hyper+t", "mess: runs xterm | board: press CapsLock and KeyT (T) | desktop xfce: runs xterm"},
		{"office", "Hyper+t", "office: runs xterm | board: press CapsLock and KeyT (T) | desktop plasma: runs xterm"},
		{"vessel", "Hyper+t", "vessel: cannot be pressed | board: no key here gives Hyper | wanted runs xterm; here " +
			"Ctrl+Alt+KeyT does it"},
		{"vessel", "Ctrl+Alt+t", "vessel: runs xterm | board: press CapsLock or ControlLeft and " +
			"AltLeft or AltRight and KeyT (T) | desktop services: runs xterm\n" +
			"vessel chart-table: runs xterm | board: press CapsLock or ControlLeft and AltRight or " +
			"MetaLeft and KeyT (T) | desktop services: runs xterm"},
		{"mess", "CapsLock", "mess: acts as Hyper | board: press CapsLock | layout xkb: it acts as Hyper"},
		{"vessel", "AltLeft", "vessel: acts as AltLeft | board: press AltLeft\nvessel chart-table: acts as " +
			"MetaLeft | board: press AltLeft | kernel modifierpanel: it acts as MetaLeft"},
		{"vessel", "Insert", "vessel: acts as Insert | board: press Insert\nvessel chart-table: acts as " +
			"ControlLeft | board: press Insert | board: its own firmware sends CapsLock | kernel hidutil: it acts " +
			"as ControlLeft"},
		{"mess", "KeyQ", "mess: types z | board: press KeyQ (Q) | kernel hwdb: it acts as KeyY | layout: KeyY " +
			"types z under de"},
		{"mess", "z", "mess: types z | board: press KeyY (Z) | layout: KeyY types z under de"},
		{"mess", "Ctrl+z", "mess: goes to the program in front, as Ctrl+KeyY | board: press ControlLeft and KeyQ " +
			"(Q) or KeyY (Z)"},
		{"mess", "Ctrl+F8", "mess: workspace 8 | board: press ControlLeft and F8 | desktop Xfce: workspace 8 | " +
			"wanted plays type \"x\", but: only a running process can play a macro"},
		{"mess", "CapsLock, Hyper+t", "mess: acts as Hyper; then runs xterm | board: press CapsLock | layout xkb: " +
			"it acts as Hyper | board: press CapsLock and KeyT (T) | desktop xfce: runs xterm"},
		{"mess", "Ctrl+k, t", "mess: goes to the program in front, as Ctrl+KeyK; then types t | board: press " +
			"ControlLeft and KeyK (K) | board: press KeyT (T) | " +
			"layout: KeyT types t under de | wanted runs x, but: not written yet: a way to follow a sequence of " +
			"strokes here"},
		{"mess", "Ctrl+?", `'?' needs Shift under layout de: if that is meant, write "Ctrl+Shift+ß"`},
		{"mess", "Crtl+t", `"Crtl" is no modifier: did you mean "Ctrl"?`},
	} {
		builds, _, err := compile.All(mp, nil, []string{c.machine})
		require.NoError(t, err)
		answers, err := of(t, mp, builds[0]).Ask(c.chord, station.Where{})
		var lines []string
		if err != nil {
			lines = append(lines, err.Error())
		}
		for _, a := range answers {
			line := strings.TrimSpace(a.Machine+" "+a.Board) + ": " + a.Does
			for _, s := range a.Way {
				line += fmt.Sprintf(" | %s: %s", strings.TrimSpace(s.Stage+" "+s.Mechanism), s.Words)
			}
			if a.Wanted != "" {
				line += " | wanted " + a.Wanted
			}
			lines = append(lines, line)
		}
		assert.Equal(t, c.want, strings.Join(lines, "\n"), "%s on %s", c.chord, c.machine)
	}
	builds, _, err := compile.All(mp, nil, []string{"mess"})
	require.NoError(t, err)
	answers, err := of(t, mp, builds[0]).Ask("KeyH", station.Where{Layer: "nav"})
	require.NoError(t, err)
	assert.Equal(t, "acts as ArrowLeft", answers[0].Does)
	assert.Empty(t, answers[0].Wanted)
	answers, err = of(t, mp, builds[0]).Ask("KeyQ", station.Where{Layer: "nav"})
	require.NoError(t, err)
	assert.Equal(t, "types z", answers[0].Does, "a key without a meaning in the layer keeps its own")
	_, err = of(t, mp, builds[0]).Ask("KeyH", station.Where{Layer: "none"})
	assert.ErrorContains(t, err, `no layer of this machine is called "none"`)
	_, err = of(t, mp, builds[0]).Ask("KeyH", station.Where{Board: "chart-table"})
	assert.ErrorContains(t, err, `no board "chart-table"`)
	found := of(t, mp, builds[0]).Find([]string{"xterm"})
	require.Len(t, found, 1)
	assert.Equal(t, "Hyper+KeyT", found[0].Press)
	assert.Equal(t, []string{"CapsLock", "KeyT (T)"}, found[0].Keys)
}

// Of many keys that do, three are named.
func TestAskOfManyKeys(t *testing.T) {
	for more, want := range map[string]string{"F1 = \"ControlLeft\"": "ControlLeft or ControlRight or F1", "F1 = \"ControlLeft\", F2 = \"ControlLeft\"": "ControlLeft or ControlRight or F1 or …"} {
		mp, diags, err := mapping.Load(
			fstest.MapFS{
				"m.hcl": {Data: []byte("machine \"m\" {\n  system = \"linux\"\n}\nkeys = { " + more + " }\n")},
			},
			"m.hcl",
			"",
		)
		require.NoError(t, err)
		require.Empty(t, diags)
		builds, _, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		answers, err := of(t, mp, builds[0]).Ask("Ctrl+F9", station.Where{})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Keys[0])
	}
}

// A mapping's only rule is found, and its fallback; so is a sequence.
func TestAskOfOneRule(t *testing.T) {
	for _, c := range []struct{ system, rule, chord, want string }{
		{"linux\"\n  desktop = \"xfce", `launch "Ctrl+Alt+t" { run = "x" }`, "Ctrl+Alt+t", "runs x"},
		{"windows", "launch \"Meta+t\" {\n  run = \"x\"\n  fallback = \"Ctrl+Alt+t\"\n}", "Meta+t", "goes through " +
			"the taskbar (runs x; here Ctrl+Alt+KeyT does it)"},
		{"windows", "launch \"Meta+t\" {\n  run = \"x\"\n  fallback = \"Ctrl+Alt+t\"\n}", "Ctrl+Alt+t", "runs x"},
		{"windows", "launch \"Hyper+t\" {\n  run = \"x\"\n  fallback = \"Ctrl+Alt+t\"\n}\nhyper \"CapsLock\" {}", "Hyper+t", "cannot be pressed (runs x; here Ctrl+Alt+KeyT does it)"},
		{"windows", `launch "Meta+t" { run = "x" }`, "Meta+t", `goes through the taskbar (runs x, but: `},
		{"windows", `launch "Meta+F2" { run = "x" }`, "Meta+F2", `goes to the program in front, as Meta+F2 (runs x, but: `},
		{"windows", "launch \"Meta+F2\" {\n  run = \"x\"\n  fallback = \"Ctrl+Alt+t\"\n}", "Meta+F2", "nothing here; Ctrl+Alt+KeyT does it instead: runs x"},
		{"chromeos", `remap "MouseForward" { to = "ContextMenu" }`, "Alt+MouseForward", "cannot be pressed"},
		{"linux\"\n  desktop = \"i3", `launch "Meta+k, t" { run = "x" }`, "Meta+k", "begins Meta+KeyK, KeyT"},
	} {
		mp, diags, err := mapping.Load(
			fstest.MapFS{
				"m.hcl": {Data: []byte("machine \"m\" {\n  system = \"" + c.system + "\"\n}\n" + c.rule + "\n")},
			},
			"m.hcl",
			"",
		)
		require.NoError(t, err)
		require.Empty(t, diags)
		builds, _, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		answers, err := of(t, mp, builds[0]).Ask(c.chord, station.Where{})
		require.NoError(t, err)
		got := answers[0].Does
		if answers[0].Wanted != "" {
			got += " (" + answers[0].Wanted + ")"
		}
		assert.True(t, strings.HasPrefix(got, c.want), "%s on %s: %s", c.chord, c.system, got)
	}
}

// The first stroke of a sequence is the desktop's, which waits for the next.
func TestAskOfSequences(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "gauge" {
  system  = "linux"
  desktop = "i3"
  boards  = ["chart-table"]
}
launch "Meta+k, t" { run = "x" }
launch "Meta+k, u" { run = "y" }
launch "Meta+l, t" { run = "z" }
board "chart-table" {
  ids    = ["usb:1209:0001"]
  broken = ["KeyL"]
}
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	for chord, want := range map[string]string{"Meta+k": "begins Meta+KeyK, KeyT; Meta+KeyK, KeyU", "Meta+j": "goes to the program in front, as Meta+KeyJ"} {
		answers, err := of(t, mp, builds[0]).Ask(chord, station.Where{})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Does, chord)
	}
	answers, err := of(t, mp, builds[0]).Ask("Meta+l", station.Where{Board: "chart-table"})
	require.NoError(t, err)
	assert.Equal(t, "cannot be pressed", answers[0].Does)
	for _, step := range answers[0].Way {
		assert.NotContains(t, fmt.Sprint(step), "waits for the next stroke")
	}
}

// What an option of the machine makes of a key is part of the way; Compose is told as
// such, and an abbreviation that is typed after it does not come of the word alone.
func TestAskOfOptions(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`
machine "office" {
  system  = "linux"
  desktop = "i3"
  options = ["compose:rctrl"]
}
remap "Pause" { to = "Compose" }
abbreviation "nhn" {
  text = "NHN"
}
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	for chord, want := range map[string]string{"ControlRight": "gives Multi_key", "Pause": "acts as Compose"} {
		answers, err := of(t, mp, builds[0]).Ask(chord, station.Where{})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Does, chord)
	}
	played, err := of(t, mp, builds[0]).Play("Pause 100ms", station.Where{})
	require.NoError(t, err)
	assert.Equal(t, []string{"Compose"}, played.Moments[0].Sees)
	played, err = of(t, mp, builds[0]).Play("KeyN 50ms, KeyH 50ms, KeyN 50ms, Space 50ms", station.Where{})
	require.NoError(t, err)
	assert.NotEmpty(t, played.Wanted)
}

// What press says holds on every kind of machine: of keys that hold several modifiers, in
// layers, of broken keys, and after Compose.
func TestAskBesideThePlayer(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`
machine "office" {
  system  = "linux"
  desktop = "plasma"
  session = "x11"
  layouts = ["de"]
  boards  = ["wheelhouse"]
}
board "wheelhouse" {
  ids    = ["usb:1209:0003"]
  broken = ["F5"]
  lacks  = ["F6"]
}
hyper "CapsLock" {}
remap "Pause" { to = "Compose" }
layer "nav" {
  while = "ControlRight"
  keys = { KeyJ = "ArrowDown" }
}
abbreviation ";shf" {
  text = "Süderhaff"
}
launch "Ctrl+F5" { run = "xterm" }
launch "CtrlRight" { run = "xterm" }
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	ask := func(chord string, where station.Where) station.Answer {
		answers, err := of(t, mp, builds[0]).Ask(chord, where)
		require.NoError(t, err)
		return answers[0]
	}
	assert.Equal(
		t, []string{"ControlLeft", "KeyC (C)"}, ask("Ctrl+c", station.Where{}).Keys,
		"CapsLock holds three modifiers more",
	)
	for chord, want := range map[string]string{
		"Ctrl+F9": "ControlLeft", "CtrlLeft+F9": "ControlLeft", "Alt+F9": "AltLeft", "AltLeft+F9": "AltLeft",
		"AltGr+F9": "AltRight",
		"Shift+F9": "ShiftLeft or ShiftRight", "ShiftLeft+F9": "ShiftLeft", "ShiftRight+F9": "ShiftRight",
		"Meta+F9": "MetaLeft or MetaRight", "MetaLeft+F9": "MetaLeft", "MetaRight+F9": "MetaRight",
	} {
		assert.Equal(t, want, ask(chord, station.Where{}).Keys[0], chord)
	}
	down := ask("Shift+KeyJ", station.Where{Layer: "nav"})
	assert.Equal(t, "in layer nav, KeyJ acts as ArrowDown", down.Way[1].Words)
	assert.Equal(t, "goes to the program in front, as Shift+ArrowDown", down.Does)
	for _, chord := range []string{"F5", "F6", "Ctrl+F5"} {
		a := ask(chord, station.Where{Board: "wheelhouse"})
		assert.Equal(t, "cannot be pressed", a.Does, chord)
		assert.Empty(t, a.Keys, chord)
	}
	p, err := of(t, mp, builds[0]).Play("hold ControlRight, hold ShiftLeft, KeyJ", station.Where{})
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(p.Moments), "ArrowDown")
	p, err = of(t, mp, builds[0]).Play("Pause 50ms, Shift+Comma, s, h, f", station.Where{})
	require.NoError(t, err)
	assert.Contains(
		t,
		fmt.Sprint(p.Moments),
		`{410ms KeyF down [the text "Süderhaff"]}`,
		"the keys of an abbreviation reach nobody",
	)
}

// A rule for single programs is wanted where one of them is in front.
func TestAskOfProgramInFront(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "gauge" {
  system  = "linux"
  desktop = "i3"
}
app "chart" { linux = ["chart"] }
launch "Ctrl+F9" {
  run      = "x"
  in_front = ["chart"]
}
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	for front, wanted := range map[string]bool{"": true, "chart": true, "log": false} {
		answers, err := of(t, mp, builds[0]).Ask("Ctrl+F9", station.Where{Front: front})
		require.NoError(t, err)
		assert.Equal(t, "goes to the program in front, as Ctrl+F9", answers[0].Does)
		assert.Equal(t, wanted, answers[0].Wanted != "", front)
		played, err := of(t, mp, builds[0]).Play("Ctrl+F9", station.Where{Front: front})
		require.NoError(t, err)
		assert.Equal(t, wanted, played.Wanted != nil, front)
	}
}

// A rule for one program is found by the program's name in the mapping, whatever the machine tells it by.
func TestProgramInFront(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`machine "vessel" {
  system  = "macos"
  layouts = ["us"]
}
app "chart" { macos = "org.example.chart" }
menu "Ctrl+Alt+e" {
  item     = ["File", "Export…"]
  in_front = "chart"
}`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	b, _, err := compile.Machine(mp, mp.Machines[0])
	require.NoError(t, err)
	for front, want := range map[string]string{
		"chart": "chooses File › Export… in the menus", "other": "goes to the program in front, as Ctrl+Alt+KeyE",
	} {
		answers, err := of(t, mp, b).Ask("Ctrl+Alt+e", station.Where{Front: front})
		require.NoError(t, err)
		assert.Equal(t, want, answers[0].Does)
	}
}
