package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/hashicorp/hcl/v2/hclsyntax"

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

const stepsAdvice = `add steps = [{ press = "Ctrl+s" }, { wait = "100ms" }, { text = "done" }]`

// steps reads what is played, in order.
func (b *block) steps() (list []Step, ok bool) {
	lines, ok := b.lines("steps")
	whole := b.src.rng(b.syn.Body.Attributes["steps"].Expr.Range())
	if len(lines) == 0 {
		if !ok {
			return nil, false
		}
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
					fmt.Sprintf("add { release = %q }", k),
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

// line is a step of a macro as it is written, such as { press = "Ctrl+s" }.
type line struct{ verb, rest Text }

// lines reads the steps of a macro. A constant can be what a step presses or types.
func (b *block) lines(name string) (list []line, ok bool) {
	whole := b.syn.Body.Attributes[name].Expr
	exprs := []hclsyntax.Expression{whole}
	if tuple, several := whole.(*hclsyntax.TupleConsExpr); several {
		exprs = tuple.Exprs
	}
	ok = true
	for _, expr := range exprs {
		at := b.src.rng(expr.Range())
		object, braces := expr.(*hclsyntax.ObjectConsExpr)
		if !braces {
			b.noStep(expr)
			ok = false
			continue
		}
		rows := b.inBraces(object)
		if len(rows) != 1 {
			b.add(at, "wrong-type", "a step has one thing in its braces", "write a step for each, such as { press = \"Ctrl+s\" }")
			ok = false
			continue
		}
		v, okText := b.value(b.src, rows[0].press.Value, rows[0].value, formText)
		if !okText {
			ok = false
			continue
		}
		list = append(list, line{rows[0].press, Text{b.exact(b.src, rows[0].value, v), at}})
	}
	return list, ok
}

// noStep reports what is no step, and shows a text that has its verb in it as one.
func (b *block) noStep(expr hclsyntax.Expression) {
	at := b.src.rng(expr.Range())
	if v, ok := literal(expr); ok {
		verb, rest, _ := strings.Cut(b.exact(b.src, expr, v), " ")
		if now, renamed := formerVerbs[verb]; renamed {
			verb = now
		}
		if slices.Contains(verbs, verb) {
			b.add(at, "wrong-type", "a step is written in braces", fmt.Sprintf("write { %s = %s }", verb, Quote(rest)))
			return
		}
	}
	b.add(at, "wrong-type", "a step must be one thing in braces, such as { press = \"Ctrl+s\" }", "a step has one of "+strings.Join(verbs, ", "))
}

// examplesOfSteps are a step of each verb.
var examplesOfSteps = map[Verb]string{
	PressKey: `press = "Ctrl+s"`, HoldKey: `hold = "ShiftLeft"`, Release: `release = "ShiftLeft"`, Wait: `wait = "100ms"`,
	Type: `text = "done"`,
}

// formerVerbs are verbs by names that they had.
var formerVerbs = map[string]string{"type": string(Type)}

// step reads what a step does.
func (b *block) step(l line) (Step, bool) {
	at := l.rest.Range
	s := Step{Verb: Verb(l.verb.Value), Range: at}
	if now, renamed := formerVerbs[l.verb.Value]; renamed {
		b.add(l.verb.Range, "unknown-step", fmt.Sprintf("a step has no %q", l.verb.Value), fmt.Sprintf("it is called %s now", now))
		return s, false
	}
	if !slices.Contains(verbs, l.verb.Value) {
		b.unknown(l.verb, "unknown-step", fmt.Sprintf("a step has no %q", l.verb.Value), verbs)
		return s, false
	}
	if strings.TrimSpace(l.rest.Value) == "" && (s.Verb != Type || l.rest.Value == "") {
		b.add(
			at,
			"incomplete-step",
			fmt.Sprintf("the step has an empty %s", l.verb.Value),
			"write { "+examplesOfSteps[s.Verb]+" }",
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
				"write a time with its unit, such as { wait = \"100ms\" }",
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
