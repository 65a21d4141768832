package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"leitstand/core/action"
	"leitstand/core/diag"
	"leitstand/core/keys"
)

// rule reads one rule block, which may hold several rules. A fault of the program in
// doing so becomes an error of the block.
func (b *block) rule(in setting) {
	defer func() {
		if why := recover(); why != nil {
			b.add(
				b.head(), "fault", fmt.Sprintf("a fault of the program kept it from reading this rule (%v)", why),
				"take the rule out until the fault is mended; the mapping is not to blame",
			)
		}
	}()
	c := b.common(in)
	c.Kind, c.Range = Kind(b.schema.typ), b.head()
	r, ok := b.parseRule(c)
	if ok && r != nil {
		b.m.Rules = append(b.m.Rules, r)
	}
}

// common reads what every rule takes. What the blocks around say holds where the block does
// not say it; scopes intersect, and allow adds up.
func (b *block) common(in setting) Common {
	c := in.common
	c.Enabled = c.Enabled && b.boolean("enabled", true)
	c.Override, c.Everyone = b.boolean("override", c.Override), b.boolean("everyone", c.Everyone)
	c.Scope = slices.Clone(c.Scope)
	for _, name := range []string{"on", "except"} {
		if names := b.texts(name); names != nil {
			c.Scope = append(c.Scope, b.clause(names, name == "except"))
		} else if _, v, ok := b.get(name); ok && v.Type().IsTupleType() {
			b.add(b.src.rng(b.syn.Body.Attributes[name].Expr.Range()), "empty-scope", name+" names nothing", "name systems, desktops, machines or boards, or take it out")
		}
	}
	if apps := b.texts("in_front"); b.has("in_front") { // none, where the block around has some
		c.Apps = apps
		b.usedApps = append(b.usedApps, apps...)
	}
	if t, ok := b.text("why"); ok {
		c.Why = t.Value
	}
	if t, ok := b.text("need"); ok {
		if c.Need = t.Value; !slices.Contains(needs, c.Need) {
			b.unknown(t, "unknown-value", fmt.Sprintf("need cannot be %q", t.Value), needs)
		}
	}
	c.Allow = b.allow(c.Allow)
	return c
}

// allow reads the findings that are meant, beside those that are so already.
func (b *block) allow(already []string) []string {
	list := slices.Clone(already)
	for _, t := range b.texts("allow") {
		switch now, former := formerFindings[t.Value]; {
		case former:
			b.add(t.Range, "unknown-finding", fmt.Sprintf("there is no finding %q", t.Value), "write "+now)
		case !slices.Contains(Findings, t.Value):
			b.unknown(t, "unknown-finding", fmt.Sprintf("there is no finding %q", t.Value), Findings)
		case !slices.Contains(list, t.Value):
			list = append(list, t.Value)
		}
	}
	return list
}

// Findings are the codes that a rule may allow: what is worth a warning and may
// be meant.
var Findings = []string{
	"unavailable", "needs-agent", "fallback", "lost-key", "lost-modifier", "lost-character", "option-lost", "system-keeps", "taken",
	"types-character", "ends-session", "unreachable", "no-machine", "no-program", "no-shell", "no-address",
	"no-such-character", "hidden-modifier", "convention",
}

// needs are the verdicts that a rule may need at least.
var needs = []string{"exact", "limited", "manual"}

// formerFindings are findings by codes that they had, with what allows them.
var formerFindings = map[string]string{"not-done": `"unavailable", which allows needs-agent as well`}

// parseRule reads the rule proper.
func (b *block) parseRule(c Common) (Rule, bool) {
	switch c.Kind {
	case KindHands:
		return b.hands(c)
	case KindSwap:
		return b.swap(c)
	case KindHyper:
		return b.hyper(c)
	case KindRemap:
		return b.remap(c)
	case KindDisable:
		return b.disable(c)
	case KindLaunch:
		return b.launch(c)
	case KindAction:
		return b.action(c)
	case KindMenu:
		return b.menu(c)
	case KindLayer:
		return b.layer(c)
	case KindSnippet:
		return b.snippet(c)
	case KindAbbreviation:
		return b.abbreviation(c)
	case KindMacro:
		return b.macro(c)
	case KindRepeat:
		return b.repeat(c)
	default:
		return b.native(c)
	}
}

// handModifiers are those that lie in a row beside the space bar.
var handModifiers = []string{"Ctrl", "Alt", "Meta"}

func (b *block) hands(c Common) (Rule, bool) {
	r := &Hands{Common: c, Order: b.texts("order")}
	r.Both = b.word("sides", "left", []string{"left", "both"}) == "both"
	if t, ok := b.text("primary"); ok {
		r.Primary = b.word("primary", "", []string{"corner", "thumb"})
		if b.has("order") {
			b.add(
				t.Range, "contradiction", "hands has both order and primary",
				"keep one: order says where each modifier lies, primary only where the main one does",
			)
			return nil, false
		}
		return r, r.Primary != ""
	}
	if !b.has("order") {
		b.add(
			c.Range,
			"missing-attribute",
			"hands does not say what the hands expect",
			"add order = [\"Ctrl\", \"Alt\", \"Meta\"], from the corner to the space bar, or primary = \"corner\" "+
				"or \"thumb\"",
		)
		return nil, false
	}
	var seen []string
	for _, t := range r.Order {
		if !slices.Contains(handModifiers, t.Value) {
			b.unknown(t, "unknown-modifier", fmt.Sprintf("order cannot hold %q", t.Value), handModifiers)
			return nil, false
		}
		if slices.Contains(seen, t.Value) {
			b.add(
				t.Range, "duplicate", fmt.Sprintf("%s stands twice in the order", t.Value),
				"name each of Ctrl, Alt and Meta once",
			)
			return nil, false
		}
		seen = append(seen, t.Value)
	}
	if len(seen) != len(handModifiers) {
		b.add(
			c.Range, "incomplete-order", fmt.Sprintf("the order names %d of three modifiers", len(seen)),
			"name Ctrl, Alt and Meta, from the corner to the space bar",
		)
		return nil, false
	}
	return r, true
}

func (b *block) swap(c Common) (Rule, bool) {
	x, ok1 := b.key(b.labels[0])
	y, ok2 := b.key(b.labels[1])
	if !ok1 || !ok2 {
		return nil, false
	}
	if x.Key == y.Key {
		b.add(y.Range, "swap-with-itself", fmt.Sprintf("%s is swapped with itself", x.Key), "name the other key")
		return nil, false
	}
	return &Swap{c, x, y}, true
}

// optionalKey reads an attribute that names a key, if it is there.
func (b *block) optionalKey(name string) (KeyAt, bool) {
	t, ok := b.text(name)
	if !ok {
		return KeyAt{}, !b.has(name)
	}
	return b.key(t)
}

// optionalOutput reads an attribute that says what a press gives, if it is there.
func (b *block) optionalOutput(name string) (Output, bool) {
	t, ok := b.text(name)
	if !ok {
		return Output{}, !b.has(name)
	}
	return b.output(t)
}

// within reads the time limit of a tap.
func (b *block) within() time.Duration {
	if d, ok := b.duration("within", 50*time.Millisecond, 2*time.Second); ok {
		return d
	}
	return DefaultWithin
}

func (b *block) hyper(c Common) (Rule, bool) {
	k, ok := b.key(b.labels[0])
	tap, okTap := b.optionalOutput("tap")
	fallback, okFallback := b.optionalKey("fallback")
	r := &Hyper{Common: c, Key: k, Tap: tap, Within: b.within(), Fallback: fallback}
	if b.has("as") {
		as, okAs := b.bySystem("as")
		r.As, ok = as, ok && okAs
	}
	if t, has := b.text("instead"); has {
		mods, okMods := b.mods(t)
		if r.Instead = mods; okMods && mods.Has(keys.Hyper) {
			b.add(
				t.Range, "contradiction", "what chords take instead of Hyper cannot be Hyper",
				"name other modifiers, such as \"Ctrl+Alt\"",
			)
			okMods = false
		}
		ok = ok && okMods
	}
	if !tap.Given() && b.has("within") {
		b.add(
			c.Range, "contradiction", "within limits a tap, and this hyper has none",
			"add tap = \"Escape\", or take within out",
		)
		return nil, false
	}
	return r, ok && okTap && okFallback
}

func (b *block) remap(c Common) (Rule, bool) {
	from, ok := b.position(b.labels[0])
	var outs [3]Output
	for i, name := range []string{"to", "tap", "hold"} {
		o, okOut := b.optionalOutput(name)
		outs[i], ok = o, ok && okOut
	}
	fallback, okFallback := b.optionalKey("fallback")
	r := &Remap{Common: c, From: from, To: outs[0], Tap: outs[1], Hold: outs[2], Within: b.within(), Fallback: fallback}
	ok = ok && okFallback
	switch to, held := b.has("to"), b.has("tap") || b.has("hold"); {
	case !to && !held:
		b.add(
			c.Range, "missing-attribute", "the remap does not say to what", "add to = \"Escape\", or the key you mean",
		)
		return nil, false
	case to && held:
		b.add(
			c.Range, "contradiction", "the remap has to as well as tap or hold",
			"keep to for a plain remap, tap and hold for a key that does two things",
		)
		return nil, false
	case held && !(b.has("tap") && b.has("hold")):
		b.add(
			c.Range, "missing-attribute", "a key that does two things needs tap and hold",
			"add the other of the two; to keep its own meaning, name the key itself",
		)
		return nil, false
	case !ok:
		return nil, false
	case held && from.Key == keys.None:
		b.add(from.Range, "contradiction", "only a key can be tapped or held, not a chord", "name one key")
		return nil, false
	case held && r.Hold.Text != "":
		b.add(r.Hold.Range, "bad-output", "a character cannot be held", "hold is a key, such as \"ControlLeft\"")
		return nil, false
	case to && from.Key != keys.None && from.Key == r.To.Key &&
		len(c.Scope) == 0: // in a scope, a key may stay what it is
		b.add(
			r.To.Range, "remap-to-itself", fmt.Sprintf("%s is mapped to itself", from.Key),
			"name another key, or take the rule out; with on, it says where the key stays what it is",
		)
		return nil, false
	case to && len(from.Strokes) == 1 && r.To.Chord != nil && from.Strokes[0].Chord.String() == r.To.Chord.String():
		b.add(
			r.To.Range, "remap-to-itself", "the chord is mapped to itself", "name another chord, or take the rule out",
		)
		return nil, false
	case to && b.has("fallback"):
		b.add(
			r.Fallback.Range, "contradiction", "a plain remap needs no fallback",
			"take it out; fallback is for keys with tap and hold",
		)
		return nil, false
	}
	return r, true
}

func (b *block) disable(c Common) (Rule, bool) {
	r := &Disable{Common: c}
	seen := map[string]bool{}
	for _, t := range b.labels {
		p, ok := b.position(t)
		if !ok {
			continue
		}
		if seen[p.String()] {
			b.add(t.Range, "duplicate", fmt.Sprintf("%s stands twice in this list", p), "name it once")
			continue
		}
		seen[p.String()] = true
		r.Presses = append(r.Presses, p)
	}
	return r, len(r.Presses) > 0
}

// fallbacks reads the presses to try where the first cannot be had.
func (b *block) fallbacks(first Trigger) ([]Trigger, bool) {
	var list []Trigger
	all := true
	for _, t := range b.texts("fallback") {
		p, ok := b.trigger(t)
		if !ok {
			all = false
			continue
		}
		if p.String() == first.String() {
			b.add(
				t.Range, "fallback-same", "the fallback is the chord itself", "name another chord",
				diag.Related{Range: first.Range, Words: "the chord"},
			)
			all = false
			continue
		}
		if slices.ContainsFunc(list, func(o Trigger) bool { return o.String() == p.String() }) {
			b.add(t.Range, "duplicate", fmt.Sprintf("%s stands twice in the fallbacks", p), "name it once")
			all = false
			continue
		}
		list = append(list, p)
	}
	return list, all
}

func (b *block) launch(c Common) (Rule, bool) {
	press, ok := b.trigger(b.labels[0])
	r := &Launch{Common: c, Press: press}
	if ok {
		r.Fallback, ok = b.fallbacks(press)
	}
	said := slices.DeleteFunc([]string{"app", "run", "open"}, func(a string) bool { return !b.has(a) })
	switch len(said) {
	case 0:
		b.add(
			c.Range, "missing-attribute", "the launch does not say what to start",
			"add app = \"…\", run = [\"program\", \"argument\"] or open = \"https://…\"",
		)
		return nil, false
	case 1:
	default:
		b.add(
			b.src.rng(b.syn.Body.Attributes[said[1]].NameRange), "two-programs",
			fmt.Sprintf("the launch has both %s and %s", said[0], said[1]),
			"keep one; a second chord needs a second launch",
		)
		return nil, false
	}
	p, okProgram := b.program()
	r.Program = p
	return r, ok && okProgram
}

// program reads what is started, of which one attribute is there.
func (b *block) program() (Program, bool) {
	p := Program{Confirm: b.boolean("confirm", false)}
	if t, has := b.text("app"); has {
		p.App = t
		b.usedApps = append(b.usedApps, t)
	}
	p.Run = b.command("run")
	if t, has := b.text("open"); has {
		if p.Open = t; strings.TrimSpace(t.Value) == "" {
			b.add(t.Range, "empty-command", "open names nothing", "write a web address or a file")
			return p, false
		}
		if i := strings.IndexFunc(t.Value, unicode.IsControl); i >= 0 {
			r, _ := utf8.DecodeRuneInString(t.Value[i:])
			b.add(
				t.Range, "control-character", fmt.Sprintf("the address has the control character U+%04X", r),
				"write it without; a web address spells a character as % and two digits",
			)
			return p, false
		}
	}
	if t, has := b.text("dir"); has {
		p.Dir = t
	}
	return p, p.App.Value != "" || len(p.Run) > 0 || p.Open.Value != ""
}

// does reads the name of an action.
func (l *loader) does(t Text) bool {
	if _, ok := action.Find(t.Value); ok {
		return true
	}
	if base, n, ok := action.Number(t.Value); ok && n != 0 {
		if _, numbered := action.Find(base + "-1"); numbered {
			l.add(
				t.Range, "unknown-action",
				fmt.Sprintf("there is no %s: workspaces go from 1 to %d", t.Value, action.MaxWorkspace), "",
			)
			return false
		}
	}
	advice := "docs/mapping.md lists what desktops do"
	if n := diag.Nearest(t.Value, action.Names()); n != "" {
		advice = fmt.Sprintf("did you mean %q?", n)
	}
	l.add(t.Range, "unknown-action", fmt.Sprintf("no desktop does %q", t.Value), advice)
	return false
}

func (b *block) action(c Common) (Rule, bool) {
	press, ok := b.trigger(b.labels[0])
	r := &Action{Common: c, Press: press}
	if ok {
		r.Fallback, ok = b.fallbacks(press)
	}
	t, has := b.text("does")
	if !has {
		if !b.has("does") {
			b.add(
				c.Range, "missing-attribute", "the action does not say what the desktop does",
				"add does = \"tile-left\"; the reference lists all",
			)
		}
		return nil, false
	}
	r.Does, r.Confirm = t, b.boolean("confirm", false)
	if r.Confirm && !slices.Contains(action.Confirmable, t.Value) && b.does(t) {
		b.add(
			t.Range, "contradiction", fmt.Sprintf("nobody asks before %s", t.Value),
			"confirm is for "+strings.Join(action.Confirmable, ", "),
		)
		return nil, false
	}
	return r, b.does(t) && ok
}
