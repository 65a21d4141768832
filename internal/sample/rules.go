package sample

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"pgregory.net/rapid"

	"leitstand/core/action"
	"leitstand/core/keys"
)

// reserved is left to the mistakes.
const reserved = "Lang5"

// key draws a key with no rule on its position, and takes it.
func (d *draws) key(what string) (string, bool) {
	return d.keyWith(what, func(keys.Key) bool { return true })
}

// keyWith draws a key that is as it should be.
func (d *draws) keyWith(what string, is func(keys.Key) bool) (string, bool) {
	free := slices.DeleteFunc(
		append(keys.All(), keys.Buttons()...),
		func(k keys.Key) bool { return d.claimed[k] || k.String() == reserved || !is(k) },
	)
	common := slices.DeleteFunc(
		slices.Clone(free), func(k keys.Key) bool { return !slices.Contains(usual, k.String()) },
	)
	if len(common) > 0 && !d.rarely("an unusual key", 4) {
		free = common
	}
	if len(free) == 0 {
		return "", false
	}
	k := rapid.SampledFrom(free).Draw(d.t, what)
	d.claimed[k] = true
	return k.String(), true
}

// usual are keys that mappings speak of, so that rules meet.
var usual = strings.Fields(
	"CapsLock Insert Pause ScrollLock ContextMenu Escape Backquote Tab Space Enter F6 F7 F8 F9 F12 KeyQ KeyH KeyJ " +
		"KeyZ KeyC KeyY Digit1 Digit0 " +
		"AltLeft MetaLeft AltRight ControlLeft ControlRight ShiftRight MetaRight IntlBackslash PageDown Home " +
		"ArrowLeft Numpad7 NumLock MouseBack MouseForward",
)

// anyKey draws any key, taken or not.
func (d *draws) anyKey(what string) string {
	if d.rarely("any", 3) {
		return rapid.SampledFrom(keys.All()).Draw(d.t, what).String()
	}
	return d.one(what, usual...)
}

// output draws what a press gives, other than what it must not be.
func (d *draws) output(not string) string {
	switch d.one("gives", "key", "key", "chord", "character", "compose") {
	case "key":
		for {
			if k := d.anyKey("to"); k != not {
				return k
			}
		}
	case "chord":
		return d.given()
	case "character":
		return d.character()
	default:
		return "Compose"
	}
}

// given draws a chord that a press gives.
func (d *draws) given() string {
	if d.rarely("what editors know", 3) {
		return d.one(
			"editing chord", "Ctrl+Backspace", "Ctrl+Delete", "Ctrl+ArrowLeft", "Ctrl+KeyA", "Ctrl+Shift+KeyC", "Shift+Home",
		)
	}
	mods := rapid.SliceOfNDistinct(
		rapid.SampledFrom(
			[]string{"Ctrl", "Alt", "Shift", "Meta", "AltGr", "Hyper", "Primary", "Desk", "CtrlRight", "ShiftLeft"},
		),
		1,
		3,
		family,
	).Draw(d.t, "modifiers given")
	return strings.Join(mods, "+") + "+" + d.anyKey("key given")
}

// family is the modifier, whatever the side, that a name is of.
func family(name string) string {
	return strings.TrimSuffix(strings.TrimSuffix(name, "Left"), "Right")
}

// character draws a character: of ASCII, or of a layout of a machine.
func (d *draws) character() string {
	if d.rarely("of a layout", 2) {
		m := rapid.SampledFrom(d.machines).Draw(d.t, "whose")
		l, _ := keys.FindLayout(rapid.SampledFrom(m.Layouts).Draw(d.t, "which layout"))
		var list []string
		for _, k := range keys.All() {
			for _, r := range l.Characters(k) {
				if r > ' ' && unicode.IsGraphic(r) {
					list = append(list, string(r))
				}
			}
		}
		return d.one("character of the layout", list...)
	}
	return string(rune(rapid.IntRange('!', '~').Draw(d.t, "character of ASCII")))
}

func (d *draws) hands() {
	if !d.rarely("hands", 6) {
		return
	}
	for _, k := range strings.Fields("ControlLeft AltLeft MetaLeft ControlRight AltRight MetaRight") {
		d.claimed[Key(k)] = true
	}
	d.write(
		"hands {\n  %s\n  sides = %q\n}\n",
		d.one(
			"how",
			`order = ["Ctrl", "Alt", "Meta"]`,
			`order = ["Meta", "Ctrl", "Alt"]`,
			`order = ["Alt", "Meta", "Ctrl"]`,
			`primary = "thumb"`,
			`primary = "corner"`,
		),
		d.one("sides", "left", "both"),
	)
}

func (d *draws) hypers() {
	as := d.one(
		"as",
		"",
		"",
		"",
		`"Ctrl+Alt"`,
		`"Ctrl+Alt+Shift+Meta"`,
		`"Hyper"`,
		`"Shift"`,
		`{ linux = "Ctrl+Alt+Shift", other = "Hyper" }`,
	)
	instead := d.one("instead", "", "", "Ctrl+Alt", "Meta+Alt")
	for range rapid.IntRange(0, 2).Draw(d.t, "hypers") {
		k, ok := d.key("hyper")
		if !ok {
			return
		}
		d.write("hyper %q {\n", k)
		if as != "" {
			d.write("  as = %s\n", as)
		}
		if instead != "" {
			d.write("  instead = %q\n", instead)
		}
		if d.rarely("hyper's tap", 3) {
			d.write("  tap = %q\n  within = \"180ms\"\n", d.output(""))
		}
		if d.rarely("hyper's fallback", 2) {
			d.write("  fallback = %q\n", d.anyKey("fallback of a hyper"))
		}
		d.write("}\n")
	}
}

// positions draws rules of places on the board.
func (d *draws) positions() {
	for range rapid.IntRange(0, 8).Draw(d.t, "positions") {
		d.position("")
	}
}

func (d *draws) position(scope string) {
	k, ok := d.key("key")
	if !ok {
		return
	}
	kind := d.one("what", "off", "swap", "tap", "many", "to", "to", "to")
	foot := "}\n"
	begin := func(kind string) string {
		head, end := d.form(kind, k)
		foot = end
		return head
	}
	switch kind {
	case "off":
		d.write("%s", begin("off"))
	case "swap":
		first, _ := keys.ByCode(k)
		// Two modifiers are what people swap, and all that some systems can.
		modifiers := first.IsModifier() && !d.rarely("a modifier and another key", 3)
		other, ok := d.keyWith("other", func(k keys.Key) bool { return !modifiers || k.IsModifier() })
		if !ok {
			return
		}
		d.write("swap %q %q {\n", k, other)
	case "tap":
		hold := d.given()
		if d.rarely("holds a key", 2) {
			hold = d.anyKey("hold")
		}
		d.write("%s  tap = %q\n  hold = %q\n", begin("remap"), d.output(""), hold)
		if d.rarely("fallback of a tap", 2) {
			d.write("  fallback = %q\n", d.anyKey("fallback"))
		}
	case "many":
		d.tables++
		d.write("group \"rows%d\" {\n  keys = { %s = %q }\n", d.tables, k, d.output(k))
	default:
		d.write("%s  to = %q\n", begin("remap"), d.output(k))
	}
	if scope != "" {
		d.write("  on = [%q]\n%s", scope, foot)
		return
	}
	d.common()
	d.write("%s", foot)
}

// narrower draws rules that speak of one key, each narrower than the one before.
func (d *draws) narrower() {
	if !d.rarely("narrower", 2) {
		return
	}
	k, ok := d.key("contested")
	if !ok {
		return
	}
	m := rapid.SampledFrom(d.machines).Draw(d.t, "machine").Name
	b := d.one("board", d.boardsOf...)
	if d.rarely("everywhere", 2) {
		d.write("remap %q { to = %q }\n", k, d.output(k))
	}
	d.write("remap %q {\n  to = %q\n  on = %q\n}\n", k, d.output(k), m)
	d.write(
		"on %q {\n  remap %q { to = %q }\n  on %q {\n    remap %q { to = %q }\n  }\n}\n", b, k, d.output(k), m, k,
		d.output(k),
	)
}

// layers draws layers of every kind.
func (d *draws) layers() {
	for i := range max(0, rapid.IntRange(-1, 4).Draw(d.t, "layers")) {
		k, ok := d.key("layer's key")
		if !ok {
			return
		}
		how := d.one("how", "while", "toggle", "once")
		d.write("layer \"tide%d\" {\n  %s = %q\n", i, how, k)
		if how == "while" && d.rarely("layer's tap", 3) {
			d.write("  tap = %q\n", d.output(""))
		}
		d.write("  others = %q\n", d.one("others", "pass", "pass", "off"))
		if d.rarely("layer's fallback", 4) {
			d.write("  fallback = %q\n", d.anyKey("fallback of a layer"))
		}
		var inner strings.Builder
		leave := ""
		if how == "toggle" && d.rarely("leave", 3) {
			leave = d.anyKey("leave")
			d.write("  leave = %q\n", leave)
		}
		seen := map[string]bool{k: true, leave: true}
		for range rapid.IntRange(1, 7).Draw(d.t, "keys in the layer") {
			at := d.anyKey("in the layer")
			if seen[at] {
				continue
			}
			seen[at] = true
			switch d.one("gives in the layer", "output", "output", "output", "action", "text", "program", "steps", "off", "tap") {
			case "action":
				fmt.Fprintf(&inner, "    %s = { does = %q }\n", at, d.one("action in the layer", action.Names()...))
			case "text":
				fmt.Fprintf(&inner, "    %s = { text = %q }\n", at, d.content())
			case "program":
				fmt.Fprintf(
					&inner,
					"    %s = { %s }\n",
					at,
					d.one(
						"program in the layer",
						`app = "chart"`,
						`run = ["tidegauge", "--all"]`,
						`open = "https://tides.example"`,
						`run = "x", dir = "/srv", confirm = true`,
					),
				)
			case "steps":
				fmt.Fprintf(&inner, "    %s = { steps = [{ press = \"%s\" }, { text = \"x y\" }] }\n", at, d.given())
			case "off":
				fmt.Fprintf(&inner, "    %s = \"off\"\n", at)
			case "tap":
				fmt.Fprintf(&inner, "    %s = { tap = %q, hold = %q }\n", at, d.output(""), d.anyKey("hold"))
			default:
				fmt.Fprintf(&inner, "    %s = %q\n", at, d.output(""))
			}
		}
		if inner.Len() == 0 {
			inner.WriteString("    Lang4 = \"F20\"\n")
		}
		d.write("  keys = {\n%s  }\n", inner.String())
		d.common()
		d.write("}\n")
	}
}

// content draws a text to type.
func (d *draws) content() string {
	return d.one(
		"text",
		"NHN",
		"Süderhaff 3",
		"x",
		"a\nb",
		"\t",
		"€",
		"100 % \\ \" ${x} 'y' `z`",
		"Gauge zero: NHN -5.00 m",
	)
}
