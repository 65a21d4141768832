package mapping

import (
	"fmt"
	"slices"
	"time"

	"github.com/zclconf/go-cty/cty"

	"leitstand/core/machine"
)

func (b *block) repeat(c Common) (Rule, bool) {
	r := &Repeat{Common: c}
	ok := true
	if b.has("delay") {
		r.Delay, ok = b.duration("delay", 100*time.Millisecond, 5*time.Second)
	}
	if n, at, is := b.number("rate"); is {
		if n < 1 || n > 200 {
			b.add(
				at, "out-of-range", fmt.Sprintf("rate is %d", n),
				"it may be from 1 to 200 repetitions a second; to stop keys from repeating, name them with never",
			)
			ok = false
		}
		r.Rate = n
	} else {
		ok = ok && !b.has("rate")
	}
	if b.has("accents") {
		v := b.boolean("accents", false)
		r.Accents = &v
	}
	r.Never, r.Always = b.keyList(b.texts("never")), b.keyList(b.texts("always"))
	for _, k := range r.Always {
		for _, o := range r.Never {
			if k.Key == o.Key {
				b.add(k.Range, "contradiction", fmt.Sprintf("%s repeats never and always", k.Key), "keep one")
				ok = false
			}
		}
	}
	if r.Delay == 0 && r.Rate == 0 && r.Accents == nil && r.Never == nil && r.Always == nil {
		if ok {
			b.add(
				c.Range, "empty-block", "the repeat says nothing",
				"add delay = \"220ms\", rate = 40, accents = false, never = […] or always = […]",
			)
		}
		return nil, false
	}
	return r, ok
}

// textsOf are the texts of a list, if it has nothing else.
func textsOf(v cty.Value) ([]string, bool) {
	list := []string{}
	for it := v.ElementIterator(); it.Next(); {
		_, item := it.Element()
		if item.IsNull() || item.Type() != cty.String {
			return nil, false
		}
		list = append(list, plain(item.AsString()))
	}
	return list, true
}

// native reads settings that are passed through as they are.
func (b *block) native(c Common) (Rule, bool) {
	r := &Native{Common: c, For: b.labels[0]}
	known := slices.Concat(
		machine.Systems, slices.DeleteFunc(machine.DesktopNames(), func(d string) bool { return d == machine.None }),
	)
	ok := true
	if !slices.Contains(known, r.For.Value) {
		b.unknown(r.For, "unknown-system", fmt.Sprintf("%q is no system or desktop", r.For.Value), known)
		ok = false
	}
	if !b.has("settings") {
		b.add(c.Range, "missing-attribute", "native has no settings", "write "+b.schema.example)
	}
	for _, m := range b.members("settings") {
		s := Setting{Name: m.name}
		switch t := m.value.Type(); {
		case m.value.IsNull():
		case t == cty.String:
			s.Value = plain(m.value.AsString())
		case t == cty.Bool:
			s.Value = m.value.True()
		case t == cty.Number && isWhole(m.value):
			s.Value, _ = m.value.AsBigFloat().Int64()
		case t.IsTupleType():
			if list, ok := textsOf(m.value); ok {
				s.Value = list
			}
		}
		if s.Value == nil {
			b.add(
				m.at,
				"wrong-type",
				fmt.Sprintf(
					"the setting %q must be a string, a list of strings, a whole number, true or false", m.name.Value,
				),
				"",
			)
			ok = false
			continue
		}
		r.Settings = append(r.Settings, s)
	}
	return r, ok && len(r.Settings) > 0
}
