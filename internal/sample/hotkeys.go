package sample

import (
	"fmt"
	"slices"
	"strings"

	"pgregory.net/rapid"

	"leitstand/core/action"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// chord draws a chord that no other rule has: no two have one key.
func (d *draws) chord(bare bool) (string, bool) {
	if d.rarely("a modifier alone", 12) {
		m := d.one("which alone", "Ctrl", "Alt", "Shift", "Meta", "AltGr", "MetaLeft", "CtrlRight")
		if !d.alone[family(m)] {
			d.alone[family(m)] = true
			return m, true
		}
	}
	if d.rarely("a key of a program", 5) {
		name := d.one("which program", "BrowserHome", "LaunchMail", "MediaSelect", "LaunchApp1", "LaunchApp2")
		if !d.chorded[Key(name)] && !d.like(Key(name)) {
			d.chorded[Key(name)] = true
			return name, true
		}
	}
	free := slices.DeleteFunc(
		append(keys.All(), keys.Buttons()...),
		func(k keys.Key) bool { return d.chorded[k] || k.IsModifier() || d.like(k) || k.String() == reserved },
	)
	if common := slices.DeleteFunc(slices.Clone(free), func(k keys.Key) bool {
		return k.Section() != keys.Writing &&
			k.Section() != keys.Function
	}); len(common) > 0 &&
		!d.rarely("an unusual key of a chord", 3) {
		free = common
	}
	if ruled := slices.DeleteFunc(slices.Clone(free), func(k keys.Key) bool { return !d.claimed[k] }); len(ruled) > 0 &&
		d.rarely("a key that another rule is of", 4) {
		free = ruled
	}
	if len(free) == 0 {
		return "", false
	}
	k := rapid.SampledFrom(free).Draw(d.t, "key of a chord")
	d.chorded[k] = true
	least := 1
	if bare {
		least = 0
	}
	mods := rapid.SliceOfNDistinct(
		rapid.SampledFrom(
			[]string{
				"Ctrl", "Alt", "Shift", "Meta", "AltGr", "Hyper", "Primary", "Desk", "CtrlRight", "ShiftLeft", "Fn",
			},
		),
		least,
		3,
		family,
	).Draw(d.t, "modifiers")
	spelled := k.String()
	if char, ok := d.plain(k); ok && d.rarely("by its character", 3) {
		spelled = char
	}
	return strings.Join(append(mods, spelled), "+"), true
}

// stock draws a chord on which a system does an action by itself, and the action.
func (d *draws) stock() (chord, does string, ok bool) {
	var list []desktop.Use
	for _, m := range d.machines {
		if m.System != machine.Linux {
			list = append(list, desktop.Stock(Machine(*m))...)
		}
	}
	list = slices.DeleteFunc(list, func(u desktop.Use) bool {
		_, known := action.Find(u.Name)
		return !known || u.Chord.Mods == 0 || u.Chord.Key == keys.None || d.chorded[u.Chord.Key] ||
			d.like(u.Chord.Key) ||
			u.Chord.Key.String() == reserved
	})
	if len(list) == 0 {
		return "", "", false
	}
	u := rapid.SampledFrom(list).Draw(d.t, "what a system does")
	d.chorded[u.Chord.Key] = true
	return u.Chord.String(), u.Name, true
}

// like says whether another key with a chord types the same on some machine, so that its
// desktop cannot tell the two apart.
func (d *draws) like(k keys.Key) bool {
	for _, m := range d.machines {
		for _, l := range Machine(*m).Layouts {
			mine, ok := l.Symbols(k)
			for other := range d.chorded {
				if o, has := l.Symbols(other); ok && has &&
					slices.ContainsFunc(o.Level, func(sym string) bool { return slices.Contains(mine.Level, sym) }) {
					return true
				}
			}
		}
	}
	return false
}

// plain is the character that names a key on all machines.
func (d *draws) plain(k keys.Key) (string, bool) {
	us, _ := keys.FindLayout("us")
	list := us.Characters(k)
	if len(list) == 0 || list[0] <= ' ' {
		return "", false
	}
	for _, m := range d.machines {
		latin := Machine(*m).Latin()
		p, ok := latin.Find(list[0])
		if digit := list[0] >= '0' && list[0] <= '9'; !digit && (!ok || p.Mods != 0 || p.Key != k) {
			return "", false
		}
	}
	return string(list[0]), true
}

// hotkeys draws rules of what the system sees.
func (d *draws) hotkeys() {
	for range rapid.IntRange(0, 7).Draw(d.t, "chords") {
		kind := d.one("does", "launch", "launch", "action", "action", "off", "chord", "text", "macro", "menu")
		c, ok := d.chord(kind != "off" && kind != "chord")
		if !ok {
			return
		}
		position := !strings.Contains(c, "+")
		if (kind == "chord" || kind == "off") && position {
			kind = "launch"
		}
		if kind != "off" && kind != "chord" && strings.Contains(c, "+") && d.rarely("strokes", 4) {
			c += ", " + d.one("second stroke", "KeyY", "Digit1", "F9", "Ctrl+KeyA", "Shift+Tab", "ArrowLeft")
		}
		var head, foot string
		if kind != "action" {
			head, foot = d.form(kind, c)
		}
		switch kind {
		case "launch":
			d.write(
				"%s  %s\n",
				head,
				d.one(
					"program",
					`run = "xterm"`,
					`app = "chart"`,
					`open = "https://tides.example"`,
					`run = ["tidegauge", "--station", "Süderhaff 3"]`,
					`open = "~/log/today.txt"`,
					"run = [\"~/bin/report\", \"~/log\"]\n  dir = \"~\"",
					"run = [\"poweroff\"]\n  confirm = true",
				),
			)
		case "action":
			does := d.one("action", action.Names()...)
			if chord, name, ok := d.stock(); ok && d.rarely("what the system does", 3) {
				c, does = chord, name
			}
			head, foot = d.form(kind, c)
			d.write("%s  does = %q\n", head, does)
		case "off":
			d.write("%s", head)
		case "chord":
			to := d.output("")
			for to == c {
				to = d.output("")
			}
			d.write("%s  to = %q\n", head, to)
		case "text":
			d.write("%s  text = %q\n", head, d.content())
		case "menu":
			d.write("%s  item = %s\n", head, d.one("item", `["File", "Export…"]`, `["Copy"]`, `["Tide \"now\""]`,
				`["View", "Tide & ebb", "Süderhaff: 3/4"]`, `["Kopieren"]`))
		case "macro":
			d.write(
				"%s  steps = [{ press = \"%s\" }, { wait = \"20ms\" }, { hold = \"ShiftLeft\" }, { press = \"ArrowLeft\" }, "+
					"{ release = \"ShiftLeft\" }, { text = \"NHN\" }]\n",
				head,
				d.given(),
			)
		}
		if kind != "off" && kind != "chord" && d.rarely("fallback", 4) {
			if f, ok := d.chord(true); ok {
				d.write("  fallback = [%q]\n", f)
			}
		}
		if d.rarely("in front", 12) {
			d.write("  in_front = [\"chart\"]\n")
		}
		d.common()
		d.write("%s", foot)
	}
}

// form draws how a rule is written, as a block or as a row of a table, and returns what stands before and
// after its attributes. An action is written once its chord is known.
func (d *draws) form(kind, press string) (head, foot string) {
	if !d.rarely("a row of a table", 3) {
		typ := kind
		if renamed, ok := blocksOf[kind]; ok {
			typ = renamed
		}
		return fmt.Sprintf("%s %q {\n", typ, press), "}\n"
	}
	head, foot = fmt.Sprintf("keys = {\n  %q = {\n", press), "  }\n}\n"
	if kind == "off" {
		head += "  to = \"off\"\n"
	}
	if d.tables++; d.topTable { // a file has one
		head, foot = fmt.Sprintf("group \"rows%d\" {\n%s", d.tables, head), foot+"}\n"
	}
	d.topTable = true
	return head, foot
}

// blocksOf are the blocks of what a chord does, where they are called otherwise.
var blocksOf = map[string]string{"off": "disable", "chord": "remap", "text": "snippet"}

func (d *draws) abbreviations() {
	for range max(0, rapid.IntRange(-2, 2).Draw(d.t, "abbreviations")) {
		w := d.one("abbreviation", ";nhn", "shf", "->", "Fr.", ";n")
		if d.words[strings.ToLower(w)] {
			continue
		}
		d.words[strings.ToLower(w)] = true
		d.write(
			"abbreviation %q {\n  text = %q\n  end = %q\n  case = %q\n", w, d.content(),
			d.one("end", "space", "any", "none"), d.one("case", "exact", "any", "follow"),
		)
		d.common()
		d.write("}\n")
	}
}

func (d *draws) repeats() {
	if !d.rarely("repeat", 3) {
		return
	}
	d.write("repeat {\n")
	d.write("  %s\n", d.one("how to repeat", `delay = "220ms"`, "rate = 40"))
	for _, line := range []string{"accents = false", `never = ["CapsLock"]`, `always = ["F5"]`} {
		if d.rarely(line, 2) {
			d.write("  %s\n", line)
		}
	}
	if d.rarely("repeat on", 2) {
		d.write("  on = [%q]\n", d.scope())
	}
	d.write("}\n")
}

func (d *draws) natives() {
	if !d.rarely("native", 5) {
		return
	}
	of := d.one(
		"for",
		slices.Concat(
			machine.Systems,
			slices.DeleteFunc(machine.DesktopNames(), func(d string) bool { return d == machine.None }),
		)...)
	name := map[string]string{
		"gnome": "/org/example/tide", "mate": "/org/example/tide", "cinnamon": "/org/example/tide",
		"xfce":   "tide:/gauge/on",
		"plasma": "tiderc [Gauge] On", "windows": `HKCU\\Software\\Tide:On`,
	}[of]
	if name == "" || d.rarely("another name", 4) {
		name = "org.example tide"
	}
	value := func() string { return d.one("value", "3", "true", `"x"`, `["x", "y"]`) }
	d.write(
		"native %q {\n  settings = {\n    \"%s\" = %s\n    \"%s2\" = %s\n  }\n}\n", of, name, value(), name, value(),
	)
}
