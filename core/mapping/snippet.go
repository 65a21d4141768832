package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/keys"
)

func (b *block) snippet(c Common) (Rule, bool) {
	if label := b.labels[0]; isTyped(label.Value) {
		b.add(label.Range, "unknown-key", fmt.Sprintf("%q is no key", label.Value),
			fmt.Sprintf("for what is typed, write: abbreviation %q { text = \"…\" }", label.Value))
		return nil, false
	}
	press, ok := b.trigger(b.labels[0])
	r := &Snippet{Common: c, Press: press}
	if ok {
		r.Fallback, ok = b.fallbacks(press)
	}
	okText := b.typed(&r.Text)
	return r, ok && okText
}

func (b *block) abbreviation(c Common) (Rule, bool) {
	r := &Snippet{Common: c, Abbreviation: b.labels[0]}
	ok := b.abbreviates(r.Abbreviation)
	r.End = b.word("end", "space", []string{"space", "any", "none"})
	r.Case = b.word("case", "exact", []string{"exact", "any", "follow"})
	okText := b.typed(&r.Text)
	return r, ok && okText
}

// typed reads the text that a rule types.
func (b *block) typed(into *Text) bool {
	t, ok := b.text("text")
	if !b.has("text") {
		b.add(b.head(), "missing-attribute", fmt.Sprintf("the %s has no text", b.schema.typ), "add text = \"…\"")
	}
	*into = t
	return ok && b.typable(t)
}

// abbreviates refuses what could not be told from ordinary typing.
func (b *block) abbreviates(t Text) bool {
	switch n := len([]rune(t.Value)); {
	case strings.ContainsFunc(t.Value, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }):
		b.add(
			t.Range, "bad-abbreviation", "an abbreviation cannot hold blanks",
			"use characters one types in a row, such as \";nhn\"",
		)
	case n < 2:
		b.add(
			t.Range, "bad-abbreviation", "an abbreviation needs two characters or more",
			"a single one would go off all the time",
		)
	case n > 40:
		b.add(t.Range, "bad-abbreviation", "an abbreviation has 40 characters at most", "shorten it")
	default:
		return true
	}
	return false
}

func (b *block) macro(c Common) (Rule, bool) {
	press, ok := b.trigger(b.labels[0])
	r := &Macro{Common: c, Press: press}
	if ok {
		r.Fallback, ok = b.fallbacks(press)
	}
	if !b.has("steps") {
		if !b.hasFormer() {
			b.add(c.Range, "missing-attribute", "the macro does nothing", stepsAdvice)
		}
		return nil, false
	}
	steps, okSteps := b.steps()
	r.Steps = steps
	return r, ok && okSteps
}

const stepsAdvice = "add steps = [\"press Ctrl+s\", \"wait 100ms\", \"type done\"]"

// steps reads what is played, in order.
func (b *block) steps() (list []Step, ok bool) {
	lines, ok := b.lines("steps")
	if !ok {
		return nil, false
	}
	whole := b.src.rng(b.syn.Body.Attributes["steps"].Expr.Range())
	if len(lines) == 0 {
		b.add(whole, "missing-attribute", "the macro does nothing", stepsAdvice)
		return nil, false
	}
	held := map[keys.Key]Text{}
	var total time.Duration
	for _, l := range lines {
		s, okStep := b.step(l)
		t := Text{Range: l.rest.Range}
		if ok = ok && okStep; !okStep {
			continue
		}
		switch s.Verb {
		case HoldKey:
			if _, twice := held[s.Key]; twice {
				b.add(t.Range, "held-twice", fmt.Sprintf("%s is held already", s.Key), "release it first")
				ok = false
			}
			held[s.Key] = t
		case Release:
			if _, down := held[s.Key]; !down {
				b.add(
					t.Range, "never-held", fmt.Sprintf("%s is released and was not held", s.Key),
					"hold it first, or take this out",
				)
				ok = false
			}
			delete(held, s.Key)
		case Wait:
			total += s.Pause
		}
		list = append(list, s)
	}
	for _, l := range lines {
		for k, at := range held {
			if t := l.rest; at.Range == t.Range {
				b.add(
					t.Range, "never-released", fmt.Sprintf("%s is held and never released", k),
					fmt.Sprintf("add \"release %s\"", k),
				)
				ok = false
			}
		}
	}
	if total > 30*time.Second {
		b.add(whole, "out-of-range", fmt.Sprintf("the macro waits %s in all", total), "it may wait 30s at most")
		ok = false
	}
	return list, ok
}

var verbs = []string{string(PressKey), string(HoldKey), string(Release), string(Wait), string(Type)}

// line is a step of a macro as it is written: "press Ctrl+s" or { press = "Ctrl+s" }.
type line struct {
	verb string
	rest Text
}

// lines reads the steps of a macro. In braces, a constant can be a step's text.
func (b *block) lines(name string) ([]line, bool) {
	expr, v, ok := b.get(name)
	if !ok {
		return nil, !b.has(name)
	}
	exprs, values := []hclsyntax.Expression{expr}, []cty.Value{v}
	if tuple, written := expr.(*hclsyntax.TupleConsExpr); written {
		exprs, values = tuple.Exprs, v.AsValueSlice()
	} else if v.Type().IsTupleType() { // a constant
		values = v.AsValueSlice()
		exprs = slices.Repeat(exprs, len(values))
	}
	var list []line
	for i, v := range values {
		at := b.src.rng(exprs[i].Range())
		if v.Type() == cty.String {
			verb, rest, _ := strings.Cut(b.exact(b.src, exprs[i], v), " ")
			list = append(list, line{verb, Text{rest, at}})
			continue
		}
		if object, ok := exprs[i].(*hclsyntax.ObjectConsExpr); ok && len(object.Items) == 1 && v.Type().IsObjectType() {
			for verb, rest := range v.AsValueMap() {
				if rest.Type() == cty.String {
					list = append(list, line{verb, Text{b.exact(b.src, object.Items[0].ValueExpr, rest), at}})
				}
			}
		}
		if len(list) <= i {
			b.add(
				at, "wrong-type",
				"a step must be a text such as \"press Ctrl+s\", or one verb in braces such as { text = \"done\" }",
				"",
			)
			return nil, false
		}
	}
	return list, true
}

// step reads what a step does.
func (b *block) step(l line) (Step, bool) {
	at := l.rest.Range
	if l.verb == "text" { // of braces, where it reads as everywhere
		l.verb = string(Type)
	}
	s := Step{Verb: Verb(l.verb), Range: at}
	if !slices.Contains(verbs, l.verb) {
		b.unknown(Text{l.verb, at}, "unknown-step", fmt.Sprintf("a macro cannot %q", l.verb), verbs)
		return s, false
	}
	if strings.TrimSpace(l.rest.Value) == "" && (s.Verb != Type || l.rest.Value == "") {
		b.add(
			at,
			"incomplete-step",
			fmt.Sprintf("the step does not say what to %s", l.verb),
			map[Verb]string{PressKey: "write \"press Ctrl+s\"", HoldKey: "write \"hold ShiftLeft\"", Release: "write \"release ShiftLeft\"", Wait: "write \"wait 100ms\"", Type: "write \"type done\""}[s.Verb],
		)
		return s, false
	}
	switch s.Verb {
	case PressKey:
		p, ok := b.trigger(l.rest)
		if ok && len(p.Strokes) > 1 {
			b.add(at, "bad-step", "a step presses one chord", "write a step for each")
			return s, false
		}
		if ok {
			s.Chord = p.Strokes[0].Chord
		}
		return s, ok
	case HoldKey, Release:
		k, ok := b.key(l.rest)
		s.Key = k.Key
		return s, ok
	case Wait:
		d, err := time.ParseDuration(strings.TrimSpace(l.rest.Value))
		if err != nil || d <= 0 {
			b.add(
				at, "bad-time", fmt.Sprintf("%q is no time to wait", l.rest.Value),
				"write a time with its unit, such as \"wait 100ms\"",
			)
			return s, false
		}
		s.Pause = d
		return s, true
	default:
		s.Text = l.rest.Value
		return s, b.typable(l.rest)
	}
}

// isTyped reports whether a label can only be meant as what is typed: several characters with a sign among them, and neither a
// chord nor strokes in sequence.
func isTyped(label string) bool {
	return utf8.RuneCountInString(label) > 1 && !strings.Contains(label, "+") && !strings.Contains(label, ", ") &&
		strings.ContainsFunc(label, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != ' ' && r != '_' })
}
