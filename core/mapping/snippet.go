package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"leitstand/core/keys"
)

func (b *block) snippet(c Common) (Rule, bool) {
	r := &Snippet{Common: c}
	abbreviation, abbreviated := b.text("abbreviation")
	ok := true
	switch {
	case len(b.labels) == 1 && b.has("abbreviation"):
		b.add(c.Range, "contradiction", "the snippet has a chord and an abbreviation", "keep one; a second snippet can have the other")
		return nil, false
	case len(b.labels) == 1:
		r.Press, ok = b.trigger(b.labels[0])
		if ok {
			r.Fallback, ok = b.fallbacks(r.Press)
		}
		for _, a := range []string{"end", "case"} {
			if t, has := b.text(a); has {
				b.add(t.Range, "contradiction", a+" is for abbreviations, and this snippet has a chord", "take it out")
				ok = false
			}
		}
	case !b.has("abbreviation"):
		b.add(c.Range, "missing-attribute", "the snippet has neither a chord nor an abbreviation", "write snippet \"F7\" { … }, or add abbreviation = \";nhn\"")
		return nil, false
	default:
		ok = abbreviated && b.abbreviation(abbreviation)
		r.Abbreviation = abbreviation
		if t, has := b.text("fallback"); has {
			b.add(t.Range, "contradiction", "an abbreviation has no chord to fall back from", "take fallback out")
			ok = false
		}
		r.End = b.word("end", "space", []string{"space", "any", "none"})
		r.Case = b.word("case", "exact", []string{"exact", "any", "follow"})
	}
	t, has := b.text("text")
	if !has {
		if !b.has("text") {
			b.add(c.Range, "missing-attribute", "the snippet has no text", "add text = \"…\"")
		}
		return nil, false
	}
	r.Text = t
	return r, b.typable(t) && ok
}

// abbreviation refuses what could not be told from ordinary typing.
func (b *block) abbreviation(t Text) bool {
	switch n := len([]rune(t.Value)); {
	case strings.ContainsFunc(t.Value, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }):
		b.add(t.Range, "bad-abbreviation", "an abbreviation cannot hold blanks", "use characters one types in a row, such as \";nhn\"")
	case n < 2:
		b.add(t.Range, "bad-abbreviation", "an abbreviation needs two characters or more", "a single one would go off all the time")
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
	lines := b.texts("do")
	if len(lines) == 0 {
		if !b.has("do") || ok {
			b.add(c.Range, "missing-attribute", "the macro does nothing", "add do = [\"press Ctrl+s\", \"wait 100ms\", \"type done\"]")
		}
		return nil, false
	}
	held := map[keys.Key]Text{}
	var total time.Duration
	for _, t := range lines {
		s, okStep := b.step(t)
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
				b.add(t.Range, "never-held", fmt.Sprintf("%s is released and was not held", s.Key), "hold it first, or take this out")
				ok = false
			}
			delete(held, s.Key)
		case Wait:
			total += s.Pause
		}
		r.Steps = append(r.Steps, s)
	}
	for _, t := range lines {
		for k, at := range held {
			if at == t {
				b.add(t.Range, "never-released", fmt.Sprintf("%s is held and never released", k), fmt.Sprintf("add \"release %s\"", k))
				ok = false
			}
		}
	}
	if total > 30*time.Second {
		b.add(c.Range, "out-of-range", fmt.Sprintf("the macro waits %s in all", total), "it may wait 30s at most")
		ok = false
	}
	return r, ok
}

var verbs = []string{string(PressKey), string(HoldKey), string(Release), string(Wait), string(Type)}

// step reads "press Ctrl+s", "hold ShiftLeft", "release ShiftLeft", "wait 100ms"
// or "type TEXT".
func (b *block) step(t Text) (Step, bool) {
	verb, rest, _ := strings.Cut(t.Value, " ")
	s := Step{Verb: Verb(verb), Range: t.Range}
	if !slices.Contains(verbs, verb) {
		b.unknown(Text{verb, t.Range}, "unknown-step", fmt.Sprintf("a macro cannot %q", verb), verbs)
		return s, false
	}
	if strings.TrimSpace(rest) == "" {
		b.add(t.Range, "incomplete-step", fmt.Sprintf("the step does not say what to %s", verb),
			map[Verb]string{PressKey: "write \"press Ctrl+s\"", HoldKey: "write \"hold ShiftLeft\"", Release: "write \"release ShiftLeft\"", Wait: "write \"wait 100ms\"", Type: "write \"type done\""}[s.Verb])
		return s, false
	}
	rest2 := Text{rest, t.Range}
	switch s.Verb {
	case PressKey:
		p, ok := b.trigger(rest2)
		if ok && len(p.Strokes) > 1 {
			b.add(t.Range, "bad-step", "a step presses one chord", "write a step for each")
			return s, false
		}
		if ok {
			s.Chord = p.Strokes[0].Chord
		}
		return s, ok
	case HoldKey, Release:
		k, ok := b.key(rest2)
		s.Key = k.Key
		return s, ok
	case Wait:
		d, err := time.ParseDuration(strings.TrimSpace(rest))
		if err != nil || d <= 0 {
			b.add(t.Range, "bad-time", fmt.Sprintf("%q is no time to wait", rest), "write a time with its unit, such as \"wait 100ms\"")
			return s, false
		}
		s.Pause = d
		return s, true
	default:
		s.Text = rest
		return s, b.typable(rest2)
	}
}
