package sample

import (
	"fmt"
	"slices"
	"strings"
	"testing/fstest"

	"pgregory.net/rapid"

	"leitstand/core/desktop"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
)

// Drawn is a mapping drawn at random.
type Drawn struct {
	Text    string
	Mapping *mapping.Mapping
	Found   diag.List // what reading it found wrong
	// Wrong is the code of the error that the mapping has on purpose, "" if it is valid.
	Wrong string
}

// Mapping draws a mapping: machines of all kinds, boards, and rules of every kind that get
// in each other's way. What it draws is taken from the language's own tables, and valid by
// construction, but for one mistake in some of them.
func Mapping(t *rapid.T) Drawn {
	d := &draws{
		t:       t,
		claimed: map[keys.Key]bool{},
		chorded: map[keys.Key]bool{},
		alone:   map[string]bool{},
		words:   map[string]bool{},
	}
	d.boards()
	for i := range rapid.IntRange(1, 3).Draw(t, "machines") {
		d.machine(i)
	}
	d.write(
		"app \"chart\" {\n  linux = %s\n%s}\n",
		d.one("program", `"org.example.Chart.desktop"`, `["chart", "--station", "Süderhaff 3"]`, `"~/bin/chart"`),
		d.one("on other systems", "  macos = \"org.example.chart\"\n  windows = \"C:\\\\Tide\\\\chart.exe\"\n", ""),
	)
	d.write(
		"modifier \"Desk\" {\n  macos = \"Ctrl+Alt\"\n  other = %q\n}\n",
		d.one("desk", "Meta", "Ctrl+Alt", "Alt+Shift"),
	)
	for _, rules := range []func(){d.hands, d.hypers, d.layers, d.positions, d.narrower, d.hotkeys, d.abbreviations, d.repeats, d.natives} {
		rules()
	}
	wrong := d.mistake()
	const name = "drawn.hcl"
	text := d.text.String()
	mp, diags, err := mapping.Load(fstest.MapFS{name: {Data: []byte(text)}}, name, "")
	if err != nil {
		t.Fatal(err)
	}
	return Drawn{text, mp, diags, wrong}
}

// Valid draws a mapping without a mistake.
func Valid(t *rapid.T) Drawn {
	d := Mapping(t)
	if d.Wrong != "" {
		t.Skip("a mistake on purpose")
	}
	if d.Found.HasErrors() {
		t.Fatalf("the language refuses what should be valid: %s: %s\n%s", d.Found[0].Range, d.Found[0].Summary, d.Text)
	}
	return d
}

// draws is a mapping while it is drawn, and what is taken in it already.
type draws struct {
	t        *rapid.T
	text     strings.Builder
	machines []*machine.Machine
	boardsOf []string
	claimed  map[keys.Key]bool // positions with a rule
	chorded  map[keys.Key]bool // keys with a chord
	alone    map[string]bool   // modifiers alone
	tables   int               // that rules are rows of
	topTable bool              // one of them is the file's own
	words    map[string]bool   // abbreviations
	compose  bool
}

func (d *draws) write(format string, args ...any) { fmt.Fprintf(&d.text, format, args...) }

func (d *draws) one(what string, of ...string) string {
	return rapid.SampledFrom(of).Draw(d.t, what)
}

// rarely is true one time in n.
func (d *draws) rarely(what string, n int) bool { return rapid.IntRange(1, n).Draw(d.t, what) == n }

func (d *draws) boards() {
	d.boardsOf = []string{"chart-table", "wheelhouse"}
	d.write("board \"chart-table\" { ids = [\"usb:1209:0001\"] }\n")
	d.write(
		"board \"wheelhouse\" {\n  ids = [%s]\n  legends = %q\n",
		d.one("identity", `"usb:1209:0003", "bluetooth:1209:0004"`, `"built-in"`, `"any external"`),
		d.one("caps", "pc", "mac"),
	)
	if d.rarely("shape", 3) {
		d.write(
			"  shape = [%q, %q%s]\n  lacks = [\"ScrollLock\"]\n  broken = [\"%s\"]\n  sends = { CapsLock = \"%s\" }\n",
			d.one("kind", machine.Kinds...), d.one("form", machine.Forms...), d.one("halves", "", ", \"split\""),
			d.one("broken", "F5", "KeyB", "Enter", "ShiftRight"), d.one("sends", "ControlLeft", "Escape", "F13"),
		)
	}
	d.write("}\n")
}

func (d *draws) machine(i int) {
	m := &machine.Machine{Name: fmt.Sprintf("m%d", i), System: machine.Linux}
	if d.rarely("another system", 2) {
		m.System = machine.System(d.one("system", machine.Systems...))
	}
	d.write("machine %q {\n  system = %q\n", m.Name, m.System)
	if m.System == machine.Linux {
		m.Desktop = d.one("desktop", machine.DesktopNames()...)
		d.write("  desktop = %q\n", m.Desktop)
		if list := desktop.Versions(m.Desktop); len(list) > 0 && d.rarely("a version", 2) {
			m.DesktopVersion = d.one("version", list...)
			d.write("  desktop_version = %q\n", m.DesktopVersion)
		}
		can := slices.DeleteFunc(
			slices.Clone(machine.Sessions), func(s string) bool { return !machine.HasSession(m.Desktop, s) },
		)
		if m.Session = d.one("session", append(can, "")...); m.Session != "" {
			d.write("  session = %q\n", m.Session)
		}
	}
	most := 1
	if d.rarely("several layouts", 3) {
		most = 4
	}
	m.Layouts = rapid.SliceOfNDistinct(
		rapid.OneOf(rapid.SampledFrom([]string{"us", "de", "fr", "gb", "ru"}), rapid.SampledFrom(keys.LayoutNames())),
		1, most, rapid.ID[string],
	).Draw(d.t, "layouts")
	d.write("  layouts = [%s]\n", quoted(m.Layouts))
	if m.System == machine.Linux && m.Session != "console" {
		if m.Options = Options(d.t, m.Layouts); len(m.Options) > 0 {
			d.write("  options = [%s]\n", quoted(m.Options))
		}
	}
	m.Boards = rapid.SliceOfDistinct(rapid.SampledFrom(d.boardsOf), rapid.ID[string]).Draw(d.t, "boards")
	if len(m.Boards) > 0 {
		d.write("  boards = [%s]\n", quoted(m.Boards))
	}
	d.write("  rights = %q\n", d.one("rights", "admin", "user"))
	if m.System == machine.Windows && !d.rarely("no layout library", 3) {
		d.write("  layout_library = true\n")
	}
	if m.System == machine.Windows && !d.rarely("no keyboard filter", 3) {
		d.write("  keyboard_filter = true\n")
	}
	d.write("}\n")
	d.machines = append(d.machines, m)
}

func quoted(list []string) string {
	q := make([]string, len(list))
	for i, s := range list {
		q[i] = fmt.Sprintf("%q", s)
	}
	return strings.Join(q, ", ")
}

// common are attributes that every rule takes.
func (d *draws) common() {
	for _, line := range []string{"everyone = true", "override = true", `why = "the hands are used to it"`, `allow = ["unavailable"]`} {
		if d.rarely(line, 6) {
			d.write("  %s\n", line)
		}
	}
	if d.rarely("on", 8) {
		d.write("  on = [%s]\n", d.scopes())
	}
	if d.rarely("except", 8) {
		d.write("  except = [%s]\n", d.scopes())
	}
}

// scopes are one place or two.
func (d *draws) scopes() string {
	list := []string{d.scope()}
	if other := d.scope(); other != list[0] && d.rarely("two scopes", 3) {
		list = append(list, other)
	}
	return quoted(list)
}

// scope is a place where a rule may hold.
func (d *draws) scope() string {
	names := append([]string{"linux", "macos", "windows", "gnome", "i3", "wayland", "x11"}, d.boardsOf...)
	for _, m := range d.machines {
		names = append(names, m.Name)
	}
	return d.one("scope", names...)
}

// mistake adds one, or none, and gives the code of the error that it must cause.
func (d *draws) mistake() string {
	if !d.rarely("mistake", 5) {
		return ""
	}
	free := "Lang5" // a key of which no chord is taken, and that desktops have
	for _, name := range []string{"F7", "F8", "F9", "Insert", "KeyX", "KeyV", "KeyJ", "Digit8"} {
		if k, _ := keys.ByCode(name); !d.chorded[k] && !d.claimed[k] {
			free = name
		}
	}
	all := []struct{ code, text string }{ // "" for what is a finding only
		{"unknown-key", `remap "CapsLok" { to = "Escape" }`},
		{"unknown-key", `swap "AltLeft" "MetaLeft2" {}`},
		{"bad-output", `remap "Lang5" { to = "" }`},
		{"two-rules", "remap \"Lang5\" { to = \"F1\" }\ndisable \"Lang5\" {}"},
		{"two-rules", "launch \"Ctrl+Lang5\" { run = \"xterm\" }\nlaunch \"CtrlLeft+Lang5\" { run = \"xterm\" }"},
		{"below-need", "macro \"Ctrl+Lang5\" {\n  steps = [{ text = \"x\" }]\n  need = \"exact\"\n}"},
		{"unknown-action", `action "Ctrl+Lang5" { does = "tile-lefft" }`},
		{"missing-attribute", `launch "Ctrl+Lang5" {}`},
		{"unknown-scope", "on \"m7\" {\n  disable \"Lang5\" {}\n}"},
		{"unknown-scope", "remap \"Lang5\" {\n  to = \"F1\"\n  except = \"chart-tabel\"\n}"},
		{"unknown-scope", "group \"wrong\" {\n  on = \"m7\"\n  launch \"Ctrl+Lang5\" { run = \"xterm\" }\n}"},
		{"unknown-app", `launch "Ctrl+Alt+Shift+` + free + `" { app = "chrat" }`},
		{"unknown-app", "layer \"wrong\" {\n  while = \"Lang5\"\n  keys = { KeyH = { app = \"chrat\" } }\n}"},
		{"bad-chord", `launch "Desc+Lang5" { run = "xterm" }`},
		{"unknown-layout", "machine \"wrong\" {\n  system = \"linux\"\n  layouts = [\"dee\"]\n}"},
		{
			"out-of-range",
			"layer \"wrong\" {\n  while = \"Lang5\"\n  tap = \"Escape\"\n  within = \"9s\"\n  keys = { KeyH = " +
				"\"F1\" }\n}",
		},
		{"", "launch \"Ctrl+~\" {\n  run = \"xterm\"\n  on = \"tilde\"\n}\nmachine \"tilde\" { system = \"linux\" }"},
		{"", "launch \"Ctrl+ж\" {\n  run = \"xterm\"\n  on = \"plain\"\n}\nmachine \"plain\" { system = \"linux\" }"},
	}
	m := rapid.SampledFrom(all).Draw(d.t, "the mistake")
	d.write("%s\n", m.text)
	return m.code
}
