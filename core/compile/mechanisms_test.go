package compile_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
	"leitstand/core/reason"
)

// wishes are what mappings ask for, a rule each.
var wishes = []struct{ words, rule string }{
	{"a key acts as another", `remap "CapsLock" { to = "Escape" }`},
	{"so on one board only", "board \"chart-table\" { ids = [\"usb:1209:0001\"] }\nremap \"CapsLock\" {\n  to = " +
		"\"Escape\"\n  on = \"chart-table\"\n}"},
	{"a key does nothing", `disable "CapsLock" {}`},
	{"a key is Hyper", `hyper "CapsLock" {}`},
	{"a key is Compose", `remap "ScrollLock" { to = "Compose" }`},
	{"a key types a character", `remap "ScrollLock" { to = "°" }`},
	{"a key gives a chord", `remap "ScrollLock" { to = "Ctrl+c" }`},
	{"a key does one thing tapped, another held", "remap \"CapsLock\" {\n  tap  = \"Escape\"\n  hold = " +
		"\"ControlLeft\"\n}"},
	{"a layer, held, gives keys", "layer \"arrows\" {\n  while = \"ControlRight\"\n  keys = { KeyH = \"ArrowLeft\" }\n}"},
	{"a button of a mouse gives a key", `remap "MouseBack" { to = "F6" }`},
	{"a chord gives another", `remap "Ctrl+Alt+v" { to = "Ctrl+Shift+v" }`},
	{"a chord does nothing", `disable "Meta+F7" {}`},
	{"a chord starts a program", `launch "Ctrl+Alt+t" { run = "tidegauge" }`},
	{"so for every user", "launch \"Ctrl+Alt+t\" {\n  run      = \"tidegauge\"\n  everyone = true\n}"},
	{"so in one program only", "app \"chart\" {\n  linux   = \"chart.desktop\"\n  macos   = \"example.chart\"\n  " +
		"windows = \"C:\\\\Tide\\\\chart.exe\"\n}\nlaunch \"Ctrl+Alt+t\" {\n  run      = \"tidegauge\"\n  in_front " +
		"= [\"chart\"]\n}"},
	{"a modifier alone starts a program", `launch "MetaLeft" { run = "tidegauge" }`},
	{"strokes one after the other do", `launch "Ctrl+Alt+t, g" { run = "tidegauge" }`},
	{"a chord does what the desktop can", `action "Meta+Shift+u" { does = "close" }`},
	{"a key types a text", `snippet "F7" { text = "Süderhaff" }`},
	{"an abbreviation becomes a text", "remap \"ScrollLock\" { to = \"Compose\" }\n" +
		"abbreviation \";shf\" { text = \"Süderhaff\" }"},
	{"a key plays a macro", `macro "F8" { steps = [{ press = "Ctrl+c" }, { wait = "50ms" }, { press = "Ctrl+v" }] }`},
	{"how fast keys repeat", "repeat {\n  delay = \"220ms\"\n  rate  = 40\n}"},
	{"a key does not repeat", `repeat { never = ["KeyA"] }`},
}

// docs/mechanisms.md is what the mechanisms offer when they are asked for each kind of rule.
func TestMechanismsInDocs(t *testing.T) {
	const page = "../../docs/mechanisms.md"
	text := mechanismsPage(t)
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(text), 0o644))
	}
	have, err := os.ReadFile(page)
	require.NoError(t, err)
	assert.Equal(t, string(have), text, "run this test with -update")
}

func mechanismsPage(t *testing.T) string {
	t.Helper()
	var text strings.Builder
	text.WriteString(`# What each mechanism carries

Each kind of rule, asked of every kind of machine with an administrator: the mechanism that carries it, how well, and why not
better. *Not written yet* is ours to do; all else is so on that system. A test keeps this page in step with the program.

| mechanism | evidence | it takes effect |
|---|---|---|
`)
	for _, m := range registry.List() {
		for _, f := range placesOf(m) {
			fmt.Fprintf(&text, "| %s | %s: %s | %s |\n", f.Name, f.Evidence, f.Basis, f.Takes)
		}
	}
	var kinds []string
	for _, d := range machine.Desktops() {
		session := machine.Wayland
		if d.Only == machine.X11 || d.Name == "cinnamon" {
			session = machine.X11
		}
		kinds = append(kinds, fmt.Sprintf("system = \"linux\"\n  desktop = %q\n  session = %q", d.Name, session))
	}
	kinds = append(
		kinds,
		"system = \"linux\"\n  session = \"console\"",
		`system = "macos"`,
		`system = "windows"`,
		`system = "ipados"`,
		`system = "chromeos"`,
	)
	for _, kind := range kinds {
		title := ""
		for _, wish := range wishes {
			boards := ""
			if strings.Contains(wish.rule, "board ") {
				boards = "\n  boards  = [\"chart-table\"]"
			}
			source := "machine \"office\" {\n  " + kind + "\n  layouts = [\"us\"]" + boards + "\n}\n" + wish.rule + "\n"
			mp, diags, err := mapping.Load(mapFile(source), "m.hcl", "")
			require.NoError(t, err)
			require.False(t, diags.HasErrors(), "%v\n%s", diags, source)
			b, _, err := compile.Machine(mp, mp.Machines[0])
			require.NoError(t, err)
			if title == "" {
				title = b.Machine.Place()
				if b.Machine.Session != "" && b.Machine.Session != machine.Console {
					title += ", on " + map[string]string{machine.Wayland: "Wayland", machine.X11: "X11"}[b.Machine.Session]
				}
				fmt.Fprintf(
					&text, "\n## %s\n\n| a rule says | by | how well | what differs |\n|---|---|---|---|\n", title,
				)
			}
			row := compile.Table(mp, []*compile.Build{b})
			cell := row[len(row)-1].Cells[0]
			by := map[string]bool{}
			var names []string
			for i := range b.Landings {
				if l := &b.Landings[i]; l.Rule == row[len(row)-1].Rule && l.Mechanism != nil && !by[l.Facts().Name] {
					by[l.Facts().Name] = true
					names = append(names, l.Facts().Name)
				}
			}
			if len(names) == 0 {
				names = []string{"–"}
			}
			fmt.Fprintf(
				&text,
				"| %s | %s | %s | %s |\n",
				wish.words,
				strings.Join(names, ", "),
				cell.Verdict,
				strings.ReplaceAll(cell.Why.String(), "|", `\|`),
			)
		}
	}
	text.WriteString("\n## Every reason\n\nWhat a rule can be told. A fact about a system has its source; what has " +
		"none comes of the mapping itself, or is ours to do.\n\n| code | reason | source |\n|---|---|---|\n")
	for _, f := range reason.All() {
		source := f.Source
		if f.Kind != reason.System {
			source = f.Kind.String()
		}
		fmt.Fprintf(&text, "| `%s` | %s | %s |\n", f.Code, strings.ReplaceAll(f.Words, "|", `\|`), source)
	}
	return text.String()
}

// placesOf is what a mechanism says of itself, in each of its places.
func placesOf(m registry.Mechanism) []mechanism.Facts {
	list := []mechanism.Facts{m.Facts()}
	if general, ok := m.(interface{ FactsForAll() mechanism.Facts }); ok {
		if f := general.FactsForAll(); f.Name != "" {
			list = append(list, f)
		}
	}
	return list
}
