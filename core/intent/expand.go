package intent

import (
	"slices"
	"strings"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
)

// as is the effect of acting as a key.
func as(k keys.Key) behaviour.Effect { return behaviour.Effect{Kind: behaviour.Becomes, Key: k} }

// position is an entry for a place on the board.
func position(rule mapping.Rule, k keys.Key, at diag.Range, e behaviour.Effect) Entry {
	return Entry{Rule: rule, Range: at, Binding: behaviour.Binding{Chord: keys.Chord{Key: k}, Effect: e}}
}

// expand turns a rule into presses and effects, as if no other rule were there.
func (r *resolver) expand(rule mapping.Rule) []Entry {
	switch rule := rule.(type) {
	case *mapping.Hands:
		return r.hands(rule)
	case *mapping.Swap:
		return []Entry{position(rule, rule.A.Key, rule.A.Range, as(rule.B.Key)), position(rule, rule.B.Key, rule.B.Range, as(rule.A.Key))}
	case *mapping.Hyper:
		return r.hyper(rule)
	case *mapping.Remap:
		return r.remap(rule)
	case *mapping.Disable:
		var list []Entry
		for _, p := range rule.Presses {
			list = append(list, r.pressed(rule, p, nil, behaviour.Effect{Kind: behaviour.Nothing})...)
		}
		return list
	case *mapping.Launch:
		effect, missing := r.program(rule.Program)
		return r.one(rule, rule.Press, rule.Fallback, effect, missing)
	case *mapping.Action:
		r.confirm = rule.Confirm
		defer func() { r.confirm = false }()
		return r.one(rule, rule.Press, rule.Fallback, behaviour.Effect{Kind: behaviour.Acts, Action: rule.Does.Value}, nil)
	case *mapping.Layer:
		return r.layer(rule)
	case *mapping.Menu:
		item := make([]string, len(rule.Item))
		for i, t := range rule.Item {
			item[i] = t.Value
		}
		return r.one(rule, rule.Press, rule.Fallback, behaviour.Choosing(item), nil)
	case *mapping.Snippet:
		effect := behaviour.Effect{Kind: behaviour.Types, Text: rule.Text.Value}
		if rule.Abbreviation.Value == "" {
			return r.one(rule, rule.Press, rule.Fallback, effect, nil)
		}
		return []Entry{{Rule: rule, Range: rule.Abbreviation.Range, Binding: behaviour.Binding{
			Level: behaviour.Typing, Word: rule.Abbreviation.Value, End: behaviour.EndingNamed(rule.End),
			Case: behaviour.LettersNamed(rule.Case), Effect: effect}}}
	case *mapping.Macro:
		steps, ok := r.steps(rule.Steps)
		if !ok {
			return r.unspelled(rule, rule.Range, asWritten(rule.Press))
		}
		return r.one(rule, rule.Press, rule.Fallback, behaviour.Playing(steps), nil)
	case *mapping.Repeat:
		return repeat(rule)
	case *mapping.Native:
		var list []Entry
		for _, s := range rule.Settings {
			list = append(list, setting(rule, s.Name.Range, behaviour.Option{Kind: behaviour.Native, For: rule.For.Value, Name: s.Name.Value}, native(s.Value)))
		}
		return list
	}
	return nil
}

func setting(rule mapping.Rule, at diag.Range, o behaviour.Option, v behaviour.Value) Entry {
	return Entry{Rule: rule, Range: at, Binding: behaviour.Set(o, v)}
}

func repeat(rule *mapping.Repeat) []Entry {
	var list []Entry
	if rule.Delay != 0 {
		list = append(
			list,
			setting(
				rule, rule.Range, behaviour.Option{Kind: behaviour.RepeatDelay},
				behaviour.Milliseconds(rule.Delay.Milliseconds()),
			),
		)
	}
	if rule.Rate != 0 {
		list = append(
			list,
			setting(rule, rule.Range, behaviour.Option{Kind: behaviour.RepeatRate}, behaviour.PerSecond(rule.Rate)),
		)
	}
	if rule.Accents != nil {
		list = append(
			list, setting(rule, rule.Range, behaviour.Option{Kind: behaviour.Accents}, behaviour.Truth(*rule.Accents)),
		)
	}
	for i, k := range slices.Concat(rule.Never, rule.Always) {
		list = append(
			list,
			setting(
				rule, k.Range, behaviour.Option{Kind: behaviour.RepeatOf, Key: k.Key},
				behaviour.Repeats(i >= len(rule.Never)),
			),
		)
	}
	return list
}

// native is the value of a native setting.
func native(v any) behaviour.Value {
	switch v := v.(type) {
	case bool:
		return behaviour.Truth(v)
	case int64:
		return behaviour.Whole(v)
	case []string:
		return behaviour.Words(v)
	}
	return behaviour.Word(v.(string))
}

func (r *resolver) carries(b behaviour.Binding) bool {
	return r.carrier == nil || r.carrier.Carries(r.Machine, b)
}

// hyper makes a Hyper of what the machine can have: with its tap if that can be
// told from a hold, else without, else the fallback.
func (r *resolver) hyper(rule *mapping.Hyper) []Entry {
	e := position(rule, rule.Key.Key, rule.Key.Range, behaviour.Effect{Kind: behaviour.Modifier, Mods: r.HyperMods})
	plain, wish := e.Binding, e.Binding
	if rule.Tap.Given() {
		tap, ok := r.output(rule.Tap)
		if !ok {
			return r.unspelled(rule, rule.Tap.Range, plain)
		}
		hold := e.Binding.Effect
		e.Binding.Effect = behaviour.Effect{Kind: behaviour.TapHold, Tap: &tap, Hold: &hold, Within: rule.Within}
		wish = e.Binding
		if !r.carries(e.Binding) && r.carries(plain) && !isItself(rule.Key.Key, &tap) {
			e.Binding, e.Wish, e.Lost = plain, &wish, true
		}
	}
	if rule.Fallback.Key != keys.None && !r.carries(e.Binding) {
		e.Binding.Effect, e.Wish, e.Lost = as(rule.Fallback.Key), &wish, false
	}
	return []Entry{e}
}

// isItself says whether a tap of a key gives the key: a space that layers are held by, say.
// Where a tap cannot be told from a hold, such a key is left alone rather than lost.
func isItself(k keys.Key, tap *behaviour.Effect) bool {
	return tap.Kind == behaviour.Becomes && tap.Key == k
}

func (r *resolver) remap(rule *mapping.Remap) []Entry {
	if !rule.Tap.Given() {
		effect, ok := r.output(rule.To)
		if !ok {
			return r.unspelled(rule, rule.To.Range, asWritten(rule.From))
		}
		if effect.Kind == behaviour.Types && rule.From.Key != keys.None {
			effect = r.plainKey(effect)
		}
		return r.pressed(rule, rule.From, nil, effect)
	}
	tap, ok1 := r.output(rule.Tap)
	hold, ok2 := r.output(rule.Hold)
	if !ok1 || !ok2 {
		return r.unspelled(rule, rule.From.Range, asWritten(rule.From))
	}
	e := position(
		rule, rule.From.Key, rule.From.Range,
		behaviour.Effect{Kind: behaviour.TapHold, Tap: &tap, Hold: &hold, Within: rule.Within},
	)
	if rule.Fallback.Key != keys.None && !r.carries(e.Binding) {
		wish := e.Binding
		e.Binding.Effect, e.Wish = as(rule.Fallback.Key), &wish
	}
	return []Entry{e}
}

// plainKey makes the key that types a character, where the machine's first layout
// has it plain, of a character.
func (r *resolver) plainKey(e behaviour.Effect) behaviour.Effect {
	char, n := utf8.DecodeRuneInString(e.Text)
	if n != len(e.Text) {
		return e
	}
	if p, ok := r.Machine.Layouts[0].FindExact(char); ok && p.Mods == 0 {
		return as(p.Key)
	}
	return e
}

// output is the effect of what a rule gives.
func (r *resolver) output(o mapping.Output) (behaviour.Effect, bool) {
	switch {
	case o.Key != keys.None:
		return as(o.Key), true
	case o.Compose:
		return behaviour.Effect{Kind: behaviour.Composes}, true
	case o.Action != "":
		return behaviour.Effect{Kind: behaviour.Acts, Action: o.Action}, true
	case o.Text != "":
		return behaviour.Effect{Kind: behaviour.Types, Text: o.Text}, true
	case o.Off:
		return behaviour.Effect{Kind: behaviour.Nothing}, true
	case o.Steps != nil:
		steps, ok := r.steps(o.Steps)
		return behaviour.Playing(steps), ok
	case o.TapHold != nil:
		tap, ok1 := r.output(o.TapHold.Tap)
		hold, ok2 := r.output(o.TapHold.Hold)
		return behaviour.Effect{Kind: behaviour.TapHold, Tap: &tap, Hold: &hold, Within: o.TapHold.Within}, ok1 && ok2
	}
	c, ok := r.chord(*o.Chord, o.Range)
	return behaviour.Effect{Kind: behaviour.Sends, Chord: c}, ok
}

// layer makes the key that switches the layer on, and the keys in it.
func (r *resolver) layer(rule *mapping.Layer) []Entry {
	how := behaviour.SwitchNamed(string(rule.How))
	on := behaviour.Effect{Kind: behaviour.Layers, Layer: rule.Name.Value, How: how, Dead: rule.Dead}
	if rule.Tap.Given() {
		tap, ok := r.output(rule.Tap)
		if !ok {
			return r.unspelled(rule, rule.Tap.Range, position(rule, rule.Key.Key, rule.Key.Range, on).Binding)
		}
		hold := on
		on = behaviour.Effect{Kind: behaviour.TapHold, Tap: &tap, Hold: &hold, Within: rule.Within}
	}
	switched := position(rule, rule.Key.Key, rule.Key.Range, on)
	wish := switched.Binding
	if on.Kind == behaviour.TapHold && !r.carries(wish) && rule.Fallback.Key == keys.None &&
		!isItself(rule.Key.Key, on.Tap) {
		plain := position(rule, rule.Key.Key, rule.Key.Range, *on.Hold)
		if r.carries(plain.Binding) {
			switched = plain
			switched.Wish, switched.Lost = &wish, true
		}
	}
	if rule.Fallback.Key != keys.None && !r.carries(switched.Binding) {
		switched.Binding.Effect, switched.Wish = as(rule.Fallback.Key), &wish
	}
	list := append(make([]Entry, 0, len(rule.Keys)+3), switched)
	in := func(k mapping.KeyAt, e behaviour.Effect) *Entry {
		entry := position(rule, k.Key, k.Range, e)
		entry.Binding.Layer = rule.Name.Value
		list = append(list, entry)
		return &list[len(list)-1]
	}
	leaves := behaviour.Effect{Kind: behaviour.Leaves, Layer: rule.Name.Value}
	if rule.Leave.Key != keys.None && rule.Leave.Key != rule.Key.Key {
		in(rule.Leave, leaves)
	}
	if rule.How == mapping.Toggle &&
		!slices.ContainsFunc(rule.Keys, func(k mapping.LayerKey) bool { return k.Key.Key == rule.Key.Key }) {
		in(rule.Key, leaves)
	}
	for _, k := range rule.Keys {
		if k.Out.Program != nil {
			effect, missing := r.program(*k.Out.Program)
			in(k.Key, effect).miss(missing)
		} else if effect, ok := r.output(k.Out); ok {
			in(k.Key, effect)
		} else if why := r.lacking(); why != nil {
			e := in(k.Key, behaviour.Effect{Kind: behaviour.Other, Words: k.Out.String()})
			e.Change(func(l *Lack) { l.Missing, l.Unspelled = why, why })
		}
	}
	return list
}

func (r *resolver) steps(steps []mapping.Step) ([]behaviour.Step, bool) {
	var list []behaviour.Step
	for _, s := range steps {
		switch s.Verb {
		case mapping.PressKey:
			c, ok := r.chord(s.Chord, s.Range)
			if !ok {
				return nil, false
			}
			list = append(list, behaviour.Step{Press: c})
		case mapping.HoldKey:
			list = append(list, behaviour.Step{Hold: s.Key})
		case mapping.Release:
			list = append(list, behaviour.Step{Release: s.Key})
		case mapping.Wait:
			list = append(list, behaviour.Step{Wait: s.Pause})
		case mapping.Type:
			list = append(list, behaviour.Step{Type: s.Text})
		}
	}
	return list, true
}

// one is the entry of a rule with one press, fallbacks considered.
func (r *resolver) one(
	rule mapping.Rule, press mapping.Trigger, fallback []mapping.Trigger, effect behaviour.Effect, missing reason.List,
) []Entry {
	list := r.pressed(rule, press, fallback, effect)
	for i := range list {
		list[i].miss(missing)
	}
	return list
}

// asWritten is the binding of a press that is not looked up: a key, or a chord in its words.
func asWritten(p mapping.Trigger) behaviour.Binding {
	if p.Key != keys.None {
		return behaviour.Binding{Chord: keys.Chord{Key: p.Key}}
	}
	return behaviour.Binding{Level: behaviour.Hotkey, Word: p.String()}
}

// pressed is the entry of a press: the first of the press and its fallbacks that
// the machine can have.
func (r *resolver) pressed(
	rule mapping.Rule, press mapping.Trigger, fallback []mapping.Trigger, effect behaviour.Effect,
) []Entry {
	if press.Key != keys.None {
		return []Entry{position(rule, press.Key, press.Range, effect)}
	}
	first, ok := r.hotkey(press, effect)
	e := Entry{Rule: rule, Range: press.Range, Binding: first}
	var unspelled reason.List
	if !ok {
		if unspelled = r.lacking(); unspelled == nil {
			return nil
		}
		e.Change(func(l *Lack) { l.Unspelled = unspelled })
		first = asWritten(press)
		first.Effect = effect
	}
	instead, hyper := r.withoutHyper(first)
	found := ok && (len(fallback) == 0 && !hyper || r.has(first)) // asked only where there is a choice
	for _, p := range fallback {
		b, okb := r.hotkey(p, effect)
		if !okb && r.lacking() == nil {
			return nil
		}
		if okb && !found && r.has(b) {
			wish := first
			e.Binding, e.Wish, e.Range, found = b, &wish, p.Range, true
		}
		if okb && !found && !startsNothing(effect) && b.Place() != first.Place() { // Hyper may stand for the same
			e.Change(func(l *Lack) { l.Tried = append(l.Tried, b) })
		}
	}
	if ok && !found && hyper && r.has(instead) {
		wish := first
		e.Binding, e.Wish = instead, &wish
	}
	if !ok && !found {
		e.Binding = first
		e.miss(unspelled)
	}
	return []Entry{e}
}

// miss notes why an entry cannot be realised, where there is a reason.
func (e *Entry) miss(why reason.List) {
	if why != nil {
		e.Change(func(l *Lack) { l.Missing = why })
	}
}

// withoutHyper is a hotkey with what the rule of Hyper says for machines that have none.
func (r *resolver) withoutHyper(b behaviour.Binding) (behaviour.Binding, bool) {
	hyper := false
	if r.instead == 0 {
		return b, false
	}
	replace := func(c keys.Chord) keys.Chord {
		if c.Mods.Has(r.HyperMods) {
			hyper = true
			c.Mods = c.Mods&^r.HyperMods | r.instead
		}
		return c
	}
	b.Chord, b.Then = replace(b.Chord), slices.Clone(b.Then)
	for i := range b.Then {
		b.Then[i] = replace(b.Then[i])
	}
	return b, hyper
}

// startsNothing says whether a launch has no program on this system.
func startsNothing(e behaviour.Effect) bool {
	return e.Kind == behaviour.Launches && e.Launch().App == "" && e.Launch().Open == "" && len(e.Launch().Command) == 0
}

// has says whether the machine can have a hotkey: a program that is not named for its system
// it cannot.
func (r *resolver) has(b behaviour.Binding) bool {
	return !startsNothing(b.Effect) && (r.HasHyper || !b.Chord.Mods.Has(keys.Hyper)) && r.carries(b)
}

// hotkey is the binding of a press as the system sees it.
func (r *resolver) hotkey(p mapping.Trigger, effect behaviour.Effect) (behaviour.Binding, bool) {
	b := behaviour.Binding{Level: behaviour.Hotkey, Effect: effect, Request: behaviour.Request{Confirm: r.confirm}}
	if len(p.Strokes) > 1 {
		b.Then = make([]keys.Chord, 0, len(p.Strokes)-1)
	}
	for i, s := range p.Strokes {
		c, ok := r.chord(s.Chord, s.Range)
		if !ok {
			return b, false
		}
		if i == 0 {
			b.Chord = c
		} else {
			b.Then = append(b.Then, c)
		}
	}
	return b, true
}

// program finds what a launch starts on this machine.
func (r *resolver) program(p mapping.Program) (behaviour.Effect, reason.List) {
	l := behaviour.Launch{Open: p.Open.Value, Dir: p.Dir.Value, Confirm: p.Confirm}
	for _, t := range p.Run {
		l.Command = append(l.Command, t.Value)
	}
	var missing reason.List
	if p.App.Value != "" {
		if app, ok := r.mp.App(p.App.Value, p.App.Range.File); ok {
			words := app.Commands[r.Machine.System]
			switch {
			case len(words) == 0:
				missing = reason.NoProgram.Of(app.Name, r.Machine.System)
			case len(words) == 1 && isAppID(r.Machine.System, words[0].Value):
				l.App = words[0].Value
			default:
				for _, w := range words {
					l.Command = append(l.Command, w.Value)
				}
			}
		}
	}
	if r.Machine.System == machine.Windows {
		l = forWindows(l)
	}
	return behaviour.Launching(l), missing
}

// forWindows is a launch as Windows knows it: a file is opened by running its path, and the
// home folder has a name of its own.
func forWindows(l behaviour.Launch) behaviour.Launch {
	if l.Open != "" && !isAddress(l.Open) {
		l.Open, l.Command = "", []string{l.Open}
	}
	home := func(word string) string {
		if word == "~" || strings.HasPrefix(word, "~/") || strings.HasPrefix(word, `~\`) {
			return "%USERPROFILE%" + strings.ReplaceAll(word[1:], "/", `\`)
		}
		return word
	}
	for i, w := range l.Command {
		l.Command[i] = home(w)
	}
	l.Dir = home(l.Dir)
	return l
}

// isAddress says whether what a launch opens begins with a scheme, as a web
// address does, rather than with a drive.
func isAddress(open string) bool {
	scheme, _, ok := strings.Cut(open, ":")
	return ok && len(scheme) > 1 && !strings.ContainsAny(scheme, `\/ `)
}

// isAppID says whether a program's name is the system's identifier of an
// installed program rather than a command: a desktop file's name on Linux, a
// bundle identifier on a Mac.
func isAppID(s machine.System, name string) bool {
	switch s {
	case machine.Linux:
		return strings.HasSuffix(name, ".desktop") && !strings.Contains(name, "/")
	case machine.MacOS, machine.IPadOS:
		return strings.Count(name, ".") >= 2 && !strings.ContainsAny(name, "/ ")
	}
	return false
}
