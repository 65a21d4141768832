package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"leitstand/core/keys"
	"leitstand/core/machine"
)

// String spells the trigger as a mapping does.
func (t Trigger) String() string {
	if t.Key != keys.None {
		return t.Key.String()
	}
	parts := make([]string, len(t.Strokes))
	for i, s := range t.Strokes {
		parts[i] = s.Chord.String()
	}
	return strings.Join(parts, ", ")
}

// String spells the output as a mapping does; a text of more than one character
// is quoted.
func (o Output) String() string {
	switch {
	case o.Key != keys.None:
		return o.Key.String()
	case o.Chord != nil:
		return o.Chord.String()
	case o.Action != "":
		return o.Action
	case o.Compose:
		return "Compose"
	case o.Off:
		return "off"
	case o.Program != nil:
		return o.Program.String()
	case o.TapHold != nil:
		return o.TapHold.Tap.String() + " / " + o.TapHold.Hold.String()
	case o.Steps != nil:
		parts := make([]string, len(o.Steps))
		for i, s := range o.Steps {
			parts[i] = s.String()
		}
		return strings.Join(parts, ", ")
	case utf8.RuneCountInString(o.Text) == 1:
		return o.Text
	case o.Text != "":
		return fmt.Sprintf("%q", o.Text)
	}
	return ""
}

// String is what is started, as a mapping says it.
func (p *Program) String() string {
	switch {
	case p.App.Value != "":
		return "app " + p.App.Value
	case len(p.Run) > 0:
		return "run " + words(p.Run)
	}
	return "open " + p.Open.Value
}

// Subject is what a rule is about: its kind and its keys or chord. A changed
// rule has the same subject as before.
func Subject(r Rule) string {
	switch r := r.(type) {
	case *Swap:
		names := []string{r.A.Key.String(), r.B.Key.String()}
		slices.Sort(names)
		return "swap " + strings.Join(names, " ")
	case *Hyper:
		return "hyper " + r.Key.Key.String()
	case *Remap:
		return "remap " + r.From.String()
	case *Launch:
		return "launch " + r.Press.String()
	case *Action:
		return "action " + r.Press.String()
	case *Menu:
		return "menu " + r.Press.String()
	case *Snippet:
		if r.Abbreviation.Value != "" {
			return "abbreviation " + r.Abbreviation.Value
		}
		return "snippet " + r.Press.String()
	case *Macro:
		return "macro " + r.Press.String()
	case *Hands, *Repeat:
		return string(r.Head().Kind)
	default:
		return Title(r)
	}
}

// Title is the rule in a few words: how listings name it.
func Title(r Rule) string {
	switch r := r.(type) {
	case *Hands:
		if r.Primary != "" {
			return "hands primary " + r.Primary
		}
		return "hands " + plainWords(r.Order)
	case *Swap:
		return "swap " + r.A.Key.String() + " " + r.B.Key.String()
	case *Remap:
		if r.Tap.Given() {
			return fmt.Sprintf("remap %s = %s / %s", r.From, r.Tap, r.Hold)
		}
		return fmt.Sprintf("remap %s = %s", r.From, r.To)
	case *Disable:
		names := make([]string, len(r.Presses))
		for i, p := range r.Presses {
			names[i] = p.String()
		}
		return "disable " + strings.Join(names, " ")
	case *Launch:
		what := r.Open.Value
		if r.App.Value != "" {
			what = r.App.Value
		} else if len(r.Run) > 0 {
			what = r.Run[0].Value
		}
		return Subject(r) + " " + what
	case *Action:
		return Subject(r) + " " + r.Does.Value
	case *Menu:
		return Subject(r) + " " + r.Item[len(r.Item)-1].Value
	case *Layer:
		return "layer " + r.Name.Value
	case *Native:
		return "native " + r.For.Value
	case *Repeat:
		var parts []string
		if r.Delay != 0 {
			parts = append(parts, r.Delay.String())
		}
		if r.Rate != 0 {
			parts = append(parts, fmt.Sprintf("%d/s", r.Rate))
		}
		return strings.TrimSpace("repeat " + strings.Join(parts, " "))
	default:
		return Subject(r)
	}
}

// Details is everything a rule says beside its subject and its scope, one
// "name value" each, in a fixed order.
func Details(r Rule) []string {
	d := &details{}
	switch r := r.(type) {
	case *Hands:
		d.add("order", plainWords(r.Order))
		d.add("primary", r.Primary)
		d.flag("sides both", r.Both)
	case *Hyper:
		d.output("tap", r.Tap)
		d.within(r.Tap.Given(), r.Within)
		if r.As != nil {
			d.add("as", r.As.String())
		}
		d.key("fallback", r.Fallback)
		d.add("instead", strings.Join(r.Instead.Names(), "+"))
	case *Remap:
		d.output("to", r.To)
		d.output("tap", r.Tap)
		d.output("hold", r.Hold)
		d.within(r.Tap.Given(), r.Within)
		d.key("fallback", r.Fallback)
	case *Launch:
		d.add("app", r.App.Value)
		d.add("run", words(r.Run))
		d.add("open", r.Open.Value)
		d.add("dir", r.Dir.Value)
		d.triggers("fallback", r.Fallback)
		d.flag("confirm true", r.Confirm)
	case *Menu:
		d.add("item", words(r.Item))
		d.triggers("fallback", r.Fallback)
	case *Action:
		d.add("does", r.Does.Value)
		d.flag("confirm true", r.Confirm)
		d.triggers("fallback", r.Fallback)
	case *Layer:
		d.key(string(r.How), r.Key)
		d.output("tap", r.Tap)
		d.within(r.Tap.Given(), r.Within)
		d.key("leave", r.Leave)
		d.key("fallback", r.Fallback)
		d.flag("others off", r.Dead)
		for _, k := range r.Keys {
			d.output(k.Key.Key.String(), k.Out)
		}
	case *Snippet:
		if r.Abbreviation.Value != "" {
			d.add("end", r.End)
			d.add("case", r.Case)
		}
		d.add("text", fmt.Sprintf("%q", r.Text.Value))
		d.triggers("fallback", r.Fallback)
	case *Macro:
		for _, s := range r.Steps {
			d.add("steps", s.String())
		}
		d.triggers("fallback", r.Fallback)
	case *Repeat:
		if r.Delay != 0 {
			d.add("delay", r.Delay.String())
		}
		if r.Rate != 0 {
			d.add("rate", fmt.Sprint(r.Rate))
		}
		if r.Accents != nil {
			d.add("accents", fmt.Sprint(*r.Accents))
		}
		for _, k := range r.Never {
			d.key("never", k)
		}
		for _, k := range r.Always {
			d.key("always", k)
		}
	case *Native:
		for _, s := range r.Settings {
			d.add(s.Name.Value, fmt.Sprintf("%#v", s.Value))
		}
	}
	d.common(r.Head())
	return d.list
}

// details gathers "name value" lines, leaving out what says nothing.
type details struct{ list []string }

func (d *details) add(name, value string) {
	if value != "" && value != `""` {
		d.list = append(d.list, name+" "+value)
	}
}

func (d *details) flag(line string, set bool) {
	if set {
		d.list = append(d.list, line)
	}
}

func (d *details) key(name string, k KeyAt) {
	if k.Key != keys.None {
		d.add(name, k.Key.String())
	}
}

func (d *details) output(name string, o Output) { d.add(name, o.String()) }

func (d *details) within(tap bool, t time.Duration) {
	if tap && t != DefaultWithin {
		d.add("within", t.String())
	}
}

func (d *details) triggers(name string, list []Trigger) {
	parts := make([]string, len(list))
	for i, t := range list {
		parts[i] = t.String()
	}
	d.add(name, strings.Join(parts, "; "))
}

func (d *details) common(c *Common) {
	d.flag("enabled false", !c.Enabled)
	if c.Need != "" {
		d.add("need", c.Need)
	}
	d.flag("override true", c.Override)
	d.flag("everyone true", c.Everyone)
	d.add("in_front", plainWords(c.Apps))
	d.add("allow", strings.Join(c.Allow, ", "))
	d.add("group", c.Group)
	if c.Why != "" {
		d.add("why", fmt.Sprintf("%q", c.Why))
	}
}

// String is the step as a mapping spells it.
func (s Step) String() string {
	switch s.Verb {
	case PressKey:
		return "press " + s.Chord.String()
	case Wait:
		return "wait " + s.Pause.String()
	case Type:
		return "type " + s.Text
	default:
		return string(s.Verb) + " " + s.Key.String()
	}
}

func plainWords(list []Text) string {
	parts := make([]string, len(list))
	for i, t := range list {
		parts[i] = t.Value
	}
	return strings.Join(parts, ", ")
}

func words(list []Text) string {
	quoted := make([]string, len(list))
	for i, t := range list {
		quoted[i] = fmt.Sprintf("%q", t.Value)
	}
	return strings.Join(quoted, " ")
}

// Details of a modifier is what it stands for, one "system modifiers" each.
func (m *Modifier) Details() []string {
	var list []string
	for _, s := range machine.Systems {
		if mods, ok := m.Mods[System(s)]; ok {
			list = append(list, s+" "+strings.Join(mods.Names(), "+"))
		}
	}
	if m.Other != 0 {
		list = append(list, "other "+strings.Join(m.Other.Names(), "+"))
	}
	return list
}

// String is what the modifier stands for, in one line.
func (m *Modifier) String() string {
	if len(m.Mods) == 0 {
		return strings.Join(m.Other.Names(), "+")
	}
	return strings.Join(m.Details(), ", ")
}

// Details of an app is its command on each system, one "system command" each.
func (a *App) Details() []string {
	var list []string
	for _, s := range machine.Systems {
		if c := a.Commands[System(s)]; len(c) > 0 {
			list = append(list, s+" "+words(c))
		}
	}
	return list
}
