package sample

import (
	"fmt"
	"strings"
	"testing/fstest"

	"pgregory.net/rapid"

	"leitstand/core/mapping"
)

// Mapping draws a mapping that the language takes, and gives its text too: three machines
// of all kinds, boards, and rules that get in each other's way.
func Mapping(t *rapid.T) (string, *mapping.Mapping) {
	d := &draws{t: t}
	for i := range 3 {
		d.machine(i)
	}
	d.text.WriteString("board \"chart-table\" { ids = [\"usb:1209:0001\"] }\nboard \"wheelhouse\" { ids = [\"usb:1209:0003\", \"bluetooth:1209:0004\"] }\n")
	d.positions()
	for _, b := range []string{"chart-table", "wheelhouse"} {
		fmt.Fprintf(&d.text, "on %q {\n", b)
		d.positions()
		d.text.WriteString("}\n")
	}
	d.chords()
	d.layer()
	const name = "drawn.hcl"
	text := d.text.String()
	mp, diags, err := mapping.Load(fstest.MapFS{name: {Data: []byte(text)}}, name, "")
	if err != nil {
		t.Fatal(err)
	} else if diags.HasErrors() {
		t.Skip("the language refuses it")
	}
	return text, mp
}

type draws struct {
	t    *rapid.T
	text strings.Builder
}

func (d *draws) one(what string, of ...string) string {
	return rapid.SampledFrom(of).Draw(d.t, what)
}

// sometimes is a line, or none.
func (d *draws) sometimes(line string) string {
	if rapid.IntRange(0, 3).Draw(d.t, line) > 0 {
		return ""
	}
	return "  " + line + "\n"
}

var positions = strings.Fields("CapsLock Insert Pause ScrollLock ContextMenu F7 F8 F9 KeyQ KeyH KeyJ KeyZ AltLeft MetaLeft AltRight ControlRight " +
	"MetaRight IntlBackslash Escape Backquote Digit1 Home MouseBack MouseForward")

var does = strings.Fields("copy paste redo find maximize close tile-left workspace-3 lock volume-up next-input-source overview move")

func (d *draws) machine(i int) {
	fmt.Fprintf(&d.text, "machine \"m%d\" {\n", i)
	switch system := d.one("system", "linux", "linux", "linux", "macos", "windows"); system {
	case "linux":
		desktop := d.one("desktop", "gnome", "plasma", "xfce", "mate", "cinnamon", "i3", "sway", "none")
		fmt.Fprintf(&d.text, "  system = \"linux\"\n  desktop = %q\n", desktop)
		sessions := map[string][]string{"gnome": {"x11", "wayland"}, "plasma": {"x11", "wayland"}, "none": {"x11", "wayland", "console"}, "sway": {"wayland"}}[desktop]
		if session := d.one("session", append(sessions, "")...); session != "" {
			fmt.Fprintf(&d.text, "  session = %q\n", session)
		}
	default:
		fmt.Fprintf(&d.text, "  system = %q\n", system)
	}
	fmt.Fprintf(&d.text, "  layouts = [%s]\n  boards = [\"chart-table\", \"wheelhouse\"]\n  rights = %q\n}\n",
		d.one("layouts", `"us"`, `"de"`, `"fr", "us"`, `"ru"`), d.one("rights", "admin", "user"))
}

func (d *draws) positions() {
	for _, k := range rapid.SliceOfNDistinct(rapid.SampledFrom(positions), 0, 4, rapid.ID[string]).Draw(d.t, "keys") {
		switch d.one("what", "off", "hyper", "compose", "chord", "key", "key") {
		case "off":
			fmt.Fprintf(&d.text, "disable %q {\n%s}\n", k, d.sometimes("everyone = true"))
		case "hyper":
			fmt.Fprintf(&d.text, "hyper %q {\n%s}\n", k, d.sometimes(`fallback = "F13"`))
		case "compose":
			fmt.Fprintf(&d.text, "remap %q { to = \"Compose\" }\n", k)
		case "chord":
			fmt.Fprintf(&d.text, "remap %q { to = \"Ctrl+c\" }\n", k)
		default:
			fmt.Fprintf(&d.text, "remap %q {\n  to = %q\n%s}\n", k, d.one("to", positions...), d.sometimes("everyone = true"))
		}
	}
}

func (d *draws) chord() string {
	mods := rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"Ctrl", "Alt", "Shift", "Meta", "Hyper"}), 1, 3, rapid.ID[string]).Draw(d.t, "modifiers")
	return strings.Join(mods, "+") + "+" + d.one("key", "KeyQ", "KeyW", "KeyE", "KeyA", "KeyS", "KeyZ", "KeyX", "KeyC", "KeyV", "F9", "ArrowLeft", "7")
}

func (d *draws) chords() {
	for range rapid.IntRange(0, 5).Draw(d.t, "chords") {
		switch c := d.chord(); d.one("does", "launch", "action", "off", "chord", "text") {
		case "launch":
			fmt.Fprintf(&d.text, "launch %q {\n  run = \"xterm\"\n%s%s}\n", c, d.sometimes("everyone = true"), d.sometimes("takes = true"))
		case "action":
			fmt.Fprintf(&d.text, "action %q {\n  does = %q\n%s%s}\n", c, d.one("action", does...), d.sometimes("everyone = true"), d.sometimes("takes = true"))
		case "off":
			fmt.Fprintf(&d.text, "disable %q {\n%s}\n", c, d.sometimes("everyone = true"))
		case "chord":
			fmt.Fprintf(&d.text, "remap %q { to = %q }\n", c, d.one("gives", "Ctrl+c", "Escape", "Ctrl+Shift+KeyV"))
		default:
			fmt.Fprintf(&d.text, "snippet %q { text = \"NHN\" }\n", d.one("key of a text", "F7", "F12"))
		}
	}
}

func (d *draws) layer() {
	if rapid.Bool().Draw(d.t, "layer") {
		fmt.Fprintf(&d.text, "layer \"tide\" {\n  %s = %q\n  keys {\n    KeyH = \"ArrowLeft\"\n    KeyU = { does = %q }\n    KeyC = %q\n  }\n}\n",
			d.one("how", "hold", "switch", "once"), d.one("held", "ControlRight", "AltRight", "F12"), d.one("action in the layer", does...), d.one("in the layer", "Ctrl+d", "€", "KeyQ"))
	}
}
