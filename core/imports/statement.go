package imports

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// statement is a rule of the mapping without its scope. Two machines share a rule if
// their statements are printed alike.
type statement struct {
	board string
	kind  mapping.Kind
	// keys are the labels: two of a swap, one of most others.
	keys  [2]string
	held  string         // the key that switches a layer on
	items []mapping.Item // attributes and blocks
	// machine keeps the rule apart from the same one of other machines: it is narrower than
	// one for any external board of this machine.
	machine string
}

// block is the rule as it is printed.
func (st statement) block() mapping.Block {
	b := mapping.Block{Type: string(st.kind), Items: st.items}
	for _, k := range st.keys {
		if k != "" {
			b.Labels = append(b.Labels, k)
		}
	}
	return b
}

// id tells statements apart.
func (st statement) id() string {
	return st.board + "\x00" + st.machine + "\x00" + mapping.Spell([]mapping.Item{st.block()})
}

// say adds an attribute.
func (st *statement) say(name string, v mapping.Value) {
	st.items = append(st.items, mapping.Attr{Name: name, Value: v})
}

// positions are the keys that the rule gives another meaning.
func (st statement) positions() []string {
	switch st.kind {
	case mapping.KindSwap, mapping.KindHyper, mapping.KindRemap, mapping.KindDisable:
		if st.keys[1] == "" {
			return st.keys[:1]
		}
		return st.keys[:]
	case mapping.KindLayer:
		return []string{st.held}
	}
	return nil
}

// kinds is the order in which rules are written.
var kinds = []mapping.Kind{
	mapping.KindSwap,
	mapping.KindHyper,
	mapping.KindRemap,
	mapping.KindDisable,
	mapping.KindLayer,
	mapping.KindLaunch,
	mapping.KindAction,
	mapping.KindMenu,
	mapping.KindSnippet,
	mapping.KindAbbreviation,
	mapping.KindRepeat,
	mapping.KindNative,
}

// speaker turns what a machine's files say into statements.
type speaker struct {
	m     *intent.Machine
	apps  *apps
	four  bool // a key holds what stands for Hyper
	taken desktop.Table
	list  []statement
	left  []mechanism.Left
}

// statements are the rules that make a machine do what its files say.
func (s Source) statements(names *apps) ([]statement, []mechanism.Left) {
	sp := &speaker{m: s.Machine, apps: names, taken: desktop.NewTable(s.Machine)}
	sp.four = s.Machine.Hyper == machine.SeveralModifiers &&
		slices.ContainsFunc(s.Bindings, func(b behaviour.Binding) bool {
			return b.Effect.Kind == behaviour.Modifier && b.Effect.Mods == intent.Four
		})
	rest := sp.layers(sp.swaps(withoutSpareKeys(s.Bindings)))
	rest = sp.settings(rest)
	for _, b := range rest {
		sp.binding(b)
	}
	sp.apart()
	return slices.DeleteFunc(sp.list, sp.refused), sp.left
}

// apart keeps rules of an external board from being shared with other machines, where this
// one has some for any external board, too: they must be narrower than those.
func (s *speaker) apart() {
	wide := slices.ContainsFunc(s.m.Boards, func(b *machine.Board) bool {
		return isWide(b) && slices.ContainsFunc(s.list, func(st statement) bool { return st.board == b.Name })
	})
	for i := range s.list {
		for _, b := range s.m.Boards {
			if wide && s.list[i].board == b.Name && b.External() {
				s.list[i].machine = s.m.Name
			}
		}
	}
}

// refused says whether the language refuses a statement, such as the start of a program
// without a name, and leaves it then.
func (s *speaker) refused(st statement) bool {
	one := []mapping.Item{st.block()}
	// In a scope, a key may stay what it is.
	tried := append(s.apps.blocks(), mapping.Block{Type: "on", Labels: []string{"linux"}, Items: one})
	file := mechanism.File{Path: "rule.hcl", Data: []byte(mapping.Spell(tried))}
	_, diags, err := mapping.Load(mechanism.Folder{file}, file.Path, "")
	if err != nil || !diags.HasErrors() {
		return err != nil
	}
	s.left = append(s.left, mechanism.Left{Text: strings.TrimSpace(mapping.Spell(one)), Why: diags[0].Summary})
	return true
}

// swaps takes out the pairs of keys that have changed places.
func (s *speaker) swaps(list []behaviour.Binding) []behaviour.Binding {
	var rest []behaviour.Binding
	type change struct {
		board    string
		from, to keys.Key
	}
	changes := map[change]bool{}
	for _, b := range list {
		if plainRemap(b) {
			changes[change{b.Board, b.Chord.Key, b.Effect.Key}] = true
		}
	}
	for _, b := range list {
		back := changes[change{b.Board, b.Effect.Key, b.Chord.Key}]
		switch {
		case !plainRemap(b) || !back || b.Chord.Key == b.Effect.Key:
			rest = append(rest, b)
		case b.Chord.Key < b.Effect.Key:
			s.list = append(
				s.list,
				statement{
					board: b.Board,
					kind:  mapping.KindSwap,
					keys:  [2]string{b.Chord.Key.String(), b.Effect.Key.String()},
				},
			)
		}
	}
	return rest
}

func plainRemap(b behaviour.Binding) bool {
	return b.Level == behaviour.Position && b.Layer == "" && b.Effect.Kind == behaviour.Becomes
}

// withoutSpareKeys has a key of a layer do by itself what it does by way of a key that hardly
// a board has: F13 to F24. An action goes this way for letters and signs only.
func withoutSpareKeys(list []behaviour.Binding) []behaviour.Binding {
	list = slices.Clone(list)
	for i := range list {
		b := &list[i]
		if b.Layer == "" || b.Effect.Kind != behaviour.Becomes || !spare(b.Effect.Key) {
			continue
		}
		for _, o := range list {
			if o.Level == behaviour.Hotkey && o.Chord == (keys.Chord{Key: b.Effect.Key}) &&
				(o.Effect.Kind == behaviour.Acts && b.Chord.Key.Section() == keys.Writing ||
					o.Effect.Kind == behaviour.Types) {
				b.Effect = o.Effect
				list = slices.DeleteFunc(list, func(d behaviour.Binding) bool { return d.Place() == o.Place() })
				return withoutSpareKeys(list)
			}
		}
	}
	return list
}

func spare(k keys.Key) bool {
	n, err := strconv.Atoi(strings.TrimPrefix(k.String(), "F"))
	return err == nil && n > 12
}

// layers takes out the keys that switch layers on and those that mean something in them.
func (s *speaker) layers(list []behaviour.Binding) []behaviour.Binding {
	own := func(b behaviour.Binding) bool {
		return b.Layer != "" || b.Effect.Kind == behaviour.Layers
	}
	for _, on := range list {
		if on.Effect.Kind != behaviour.Layers || on.Layer != "" {
			continue
		}
		st := statement{
			board: on.Board,
			kind:  mapping.KindLayer,
			keys:  [2]string{on.Effect.Layer},
			held:  on.Chord.Key.String(),
		}
		st.say(on.Effect.How.String(), mapping.Str(st.held))
		var inside mapping.Table
		in := func(b behaviour.Binding, v mapping.Value) {
			inside = append(inside, mapping.Attr{Name: b.Chord.Key.String(), Value: v})
		}
		for _, b := range list {
			switch {
			case b.Layer != on.Effect.Layer:
			case b.Effect.Kind == behaviour.Leaves && b.Chord == on.Chord:
			case b.Effect.Kind == behaviour.Leaves:
				st.say("leave", mapping.Str(b.Chord.Key.String()))
			case b.Effect.Kind == behaviour.Nothing:
				in(b, mapping.Str("off"))
			case b.Effect.Kind == behaviour.Launches:
				in(b, mapping.Short(s.launch(b.Effect.Launch())))
			case b.Effect.Kind == behaviour.Acts:
				in(b, mapping.Short{{Name: "does", Value: mapping.Str(b.Effect.Action)}})
			default:
				if out, ok := s.output(b.Effect); ok {
					in(b, out)
				} else {
					s.leave(b)
				}
			}
		}
		st.say("keys", inside)
		s.list = append(s.list, st)
	}
	for _, b := range list {
		if b.Layer != "" && !slices.ContainsFunc(s.list, func(st statement) bool {
			return st.kind == mapping.KindLayer && st.keys[0] == b.Layer
		}) {
			s.leave(b) // no key of the machine's switches the layer on
		}
	}
	return slices.DeleteFunc(slices.Clone(list), own)
}

// settings takes out how keys repeat, which is one rule.
func (s *speaker) settings(list []behaviour.Binding) []behaviour.Binding {
	repeat := statement{kind: mapping.KindRepeat}
	every := map[string]mapping.Strs{}
	everyone := false
	native, of := mapping.Table{}, ""
	for _, b := range list {
		if b.Level != behaviour.Setting {
			continue
		}
		everyone = everyone || b.Everyone && b.Option.Kind != behaviour.Native
		switch b.Option.Kind {
		case behaviour.Native:
			native = append(native, mapping.Attr{Name: b.Option.Name, Value: nativeValue(b.Effect.Value)})
			of = b.Option.For
		case behaviour.RepeatDelay:
			repeat.say("delay", mapping.Str(b.Effect.Value.String()))
		case behaviour.RepeatRate:
			repeat.say("rate", mapping.Int(b.Effect.Rate()))
		case behaviour.Accents:
			repeat.say("accents", nativeValue(b.Effect.Value))
		case behaviour.RepeatOf:
			when := b.Effect.Value.String()
			every[when] = append(every[when], b.Option.Key.String())
		default:
			s.leave(b)
		}
	}
	for _, name := range []string{"never", "always"} {
		if len(every[name]) > 0 {
			repeat.say(name, every[name])
		}
	}
	if everyone {
		repeat.say("everyone", mapping.Bool(true))
	}
	if len(repeat.items) > 0 {
		s.list = append(s.list, repeat)
	}
	if len(native) > 0 {
		st := statement{kind: mapping.KindNative, keys: [2]string{of}}
		st.say("settings", native)
		s.list = append(s.list, st)
	}
	return slices.DeleteFunc(slices.Clone(list), func(b behaviour.Binding) bool { return b.Level == behaviour.Setting })
}

// nativeValue is a value as the language spells it.
func nativeValue(v behaviour.Value) mapping.Value {
	switch v := v.(type) {
	case behaviour.Words:
		return mapping.Strs(v)
	case behaviour.Truth:
		return mapping.Bool(v)
	case behaviour.Whole:
		return mapping.Int(v)
	default: // the others are texts
	}
	return mapping.Str(v.String())
}

// inFront says of a statement which programs it is for, if not for all.
func (s *speaker) inFront(st *statement, programs []string) {
	names := make([]string, len(programs))
	for i, id := range programs {
		names[i] = s.apps.name(s.m.System, id)
	}
	if len(names) > 0 {
		st.say("in_front", mapping.Strs(names))
	}
}

// binding says a press by itself.
func (s *speaker) binding(b behaviour.Binding) {
	st := statement{board: b.Board, keys: [2]string{s.press(b)}}
	s.inFront(&st, b.Apps)
	e := b.Effect
	switch e.Kind {
	case behaviour.Nothing:
		st.kind = mapping.KindDisable
	case behaviour.Modifier:
		st.kind = mapping.KindHyper
		usual := keys.Hyper // what Hyper is here if nothing is said
		if s.m.Hyper == machine.SeveralModifiers {
			usual = intent.Four
		}
		if e.Mods != usual {
			st.say("as", mapping.Str(strings.Join(e.Mods.Names(), "+")))
		}
	case behaviour.Launches:
		st.kind = mapping.KindLaunch
		for _, a := range s.launch(e.Launch()) {
			st.items = append(st.items, a)
		}
	case behaviour.Acts:
		st.kind = mapping.KindAction
		st.say("does", mapping.Str(e.Action))
	case behaviour.Chooses:
		st.kind = mapping.KindMenu
		st.say("item", mapping.Strs(e.Item()))
	case behaviour.Types:
		if b.Level == behaviour.Position && isOne(e.Text) && !s.isKey(e.Text) {
			st.kind = mapping.KindRemap
			st.say("to", mapping.Str(e.Text))
			break
		}
		st.kind = mapping.KindSnippet
		st.say("text", mapping.Str(e.Text))
		if b.Level == behaviour.Typing {
			st.kind, st.keys[0] = mapping.KindAbbreviation, b.Word
			st.unless("end", b.End.String(), "space")
			st.unless("case", b.Case.String(), "exact")
		}
	default:
		if e.Kind == behaviour.Sends && e.Chord == b.Chord {
			return // what it is anyhow
		}
		out, ok := s.output(e)
		if plainRemap(b) && e.Key == b.Chord.Key && b.Board == "" {
			return // what it is anyhow
		}
		if !ok {
			s.leave(b)
			return
		}
		st.kind = mapping.KindRemap
		st.say("to", out)
	}
	if b.Level == behaviour.Hotkey {
		if u, ok := s.taken.Of(b.Chord); ok && !u.Fixed && len(b.Then) == 0 && e.Kind != behaviour.Nothing {
			st.say("override", mapping.Bool(true))
		}
		if b.Everyone {
			st.say("everyone", mapping.Bool(true))
		}
	}
	s.list = append(s.list, st)
}

// leave notes that the language has no rule for a binding.
func (s *speaker) leave(b behaviour.Binding) {
	s.left = append(s.left, mechanism.Left{Text: b.Press(), Why: b.Effect.String()})
}

// unless adds an attribute that does not say the usual.
func (st *statement) unless(name, value, usual string) {
	if value != usual && value != "" {
		st.say(name, mapping.Str(value))
	}
}

// launch is the attributes of what is started.
func (s *speaker) launch(l behaviour.Launch) []mapping.Attr {
	var attrs []mapping.Attr
	say := func(name string, v mapping.Value) { attrs = append(attrs, mapping.Attr{Name: name, Value: v}) }
	switch {
	case l.App != "":
		say("app", mapping.Str(s.apps.name(s.m.System, l.App)))
	case l.Open != "":
		say("open", mapping.Str(l.Open))
	case len(l.Command) == 1 && !strings.Contains(l.Command[0], " "):
		say("run", mapping.Str(l.Command[0]))
	default:
		say("run", mapping.Strs(l.Command))
	}
	if l.Dir != "" {
		say("dir", mapping.Str(l.Dir))
	}
	if l.Confirm {
		say("confirm", mapping.Bool(true))
	}
	return attrs
}

// output is what a press gives.
func (s *speaker) output(e behaviour.Effect) (mapping.Value, bool) {
	switch e.Kind {
	case behaviour.Becomes:
		return mapping.Str(e.Key.String()), true
	case behaviour.Sends:
		return mapping.Str(s.chord(e.Chord)), true
	case behaviour.Composes:
		return mapping.Str("Compose"), true
	case behaviour.Types:
		if !isOne(e.Text) {
			return mapping.Short{{Name: "text", Value: mapping.Str(e.Text)}}, true
		}
		return mapping.Str(e.Text), true
	default: // the others are rules of their own
	}
	return nil, false
}

// isKey says whether a character is what a key types plain, so that alone it would mean that key, where a text by a key
// is another thing: in a system's layouts of ours.
func (s *speaker) isKey(text string) bool {
	if s.m.System != machine.MacOS && s.m.System != machine.Windows {
		return false
	}
	r, _ := utf8.DecodeRuneInString(text)
	at, ok := s.m.Layouts[0].FindExact(r) // as the language takes it
	return ok && at.Mods == 0
}

// isOne says whether a text is one character that a mapping can show.
func isOne(text string) bool {
	r, n := utf8.DecodeRuneInString(text)
	return n == len(text) && r > ' ' && unicode.IsGraphic(r)
}

// press is a binding's press as a label.
func (s *speaker) press(b behaviour.Binding) string {
	if b.Level == behaviour.Position {
		return b.Chord.Key.String()
	}
	strokes := []string{s.chord(b.Chord)}
	for _, c := range b.Then {
		strokes = append(strokes, s.chord(c))
	}
	return strings.Join(strokes, ", ")
}
