package compile

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// findings tells what does not land, with the rule's line.
func findings(mp *mapping.Mapping, b *Build) diag.List {
	var list diag.List
	for i := range b.Landings {
		l := &b.Landings[i]
		if l.Verdict() == mechanism.Exact {
			continue
		}
		h := l.Rule.Head()
		need, needs := mechanism.VerdictNamed(h.Need)
		below := needs && l.Verdict() < need
		if l.Verdict() > mechanism.NeedsAgent && !below {
			continue
		}
		d := diag.Diagnostic{
			Severity: diag.Warning,
			Range:    l.Range,
			Line:     mp.SourceLine(l.Range),
			Machines: []string{b.Machine.Name},
		}
		press := l.Binding.Press()
		if l.Wish != nil {
			press = l.Wish.Press()
		}
		switch {
		case below:
			d.Severity, d.Code = diag.Error, "below-need"
			d.Summary = fmt.Sprintf("%s %s, and the rule needs %s: %s", press, l.Verdict().Phrase(), need, l.Why())
			d.Advice = fmt.Sprintf(`scope the rule to machines that can, or take need = "%s" out`, need)
		case len(l.Lack().Unspelled) > 0 && l.Wish == nil:
			continue
		case l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent && !l.Lost: // the rule itself says what is to be instead
			d.Severity, d.Code, d.Range, d.Line = diag.Note, "fallback", h.Range, mp.SourceLine(h.Range)
			d.Summary = fmt.Sprintf(
				"%s is %s: %s. Instead, %s (%s)", press, l.Verdict(), l.Why(), l.StandIn(), l.Offer.Verdict,
			)
		case l.Wish != nil && l.Offer.Verdict > mechanism.NeedsAgent:
			d.Code = l.Verdict().String()
			d.Summary = fmt.Sprintf("the tap of %s %s: %s", press, l.Verdict().Phrase(), l.Why())
		default:
			d.Code = l.Verdict().String()
			d.Summary = fmt.Sprintf("%s %s: %s", press, l.Verdict().Phrase(), l.Why())
			if l.Offer.Why.Has(reason.NoHyperKey) {
				d.Advice = hyperAdvice(mp)
			}
			if d.Advice == "" {
				d.Advice = withoutHyper(mp, l)
			}
			if l.Kept {
				d.Code, d.Advice = "system-keeps", "use another chord"
			}
		}
		if d.Code == l.Verdict().String() {
			d.Rule, d.Press, d.Why = h.Range, press, l.Why()
		}
		if !mapping.Allows(l.Rule, b.Machine.Machine, d.Code) {
			list = append(list, d)
		}
	}
	return list
}

// withoutHyper is what to write where a machine has no Hyper, and the mapping does not say what its chords take there; "" elsewhere.
func withoutHyper(mp *mapping.Mapping, l *land.Landing) string {
	of := slices.IndexFunc(mp.Rules, func(r mapping.Rule) bool { return r.Head().Kind == mapping.KindHyper && r.Head().Enabled })
	if of < 0 || mp.Rules[of].(*mapping.Hyper).Instead != 0 {
		return ""
	}
	switch {
	case l.Rule == mp.Rules[of]:
		return `add instead = "Ctrl+Alt": what chords with Hyper take where there is none`
	case l.Binding.Chord.Mods.Has(keys.Hyper):
		return `give the rule a fallback, or the hyper rule instead = "Ctrl+Alt"`
	}
	return ""
}

// OneEach tells what is not done once for each rule.
func OneEach(list diag.List) diag.List {
	return list.Gather(func(code string, presses []string, reasons string) string {
		shown := presses
		if len(shown) > 4 {
			shown = append(slices.Clone(shown[:3]), fmt.Sprintf("%d more", len(presses)-3))
		}
		verdict, _ := mechanism.VerdictNamed(code)
		verb := verdict.Phrases()
		if len(presses) == 1 {
			verb = verdict.Phrase()
		}
		return fmt.Sprintf("%s %s: %s", strings.Join(shown, ", "), verb, reasons)
	})
}

// hyperAdvice says how there could be a Hyper: by the rule for it that is switched off, or
// by a new one.
func hyperAdvice(mp *mapping.Mapping) string {
	for _, r := range mp.Rules {
		h := r.Head()
		switch {
		case h.Kind != mapping.KindHyper:
		case !h.Enabled && h.Group != "":
			return fmt.Sprintf(
				"%s (%s) is in the group %q, where it is switched off: switch it on again, or make another key Hyper",
				mapping.Title(r), mp.Place(h.Range), h.Group,
			)
		case !h.Enabled:
			return fmt.Sprintf(
				"%s (%s) is switched off: switch it on again, or make another key Hyper", mapping.Title(r),
				mp.Place(h.Range),
			)
		default:
			return ""
		}
	}
	return "make a key Hyper, with a rule such as: hyper \"CapsLock\" {}"
}

// setTwice tells which native settings another rule of the mapping sets as well.
func setTwice(mp *mapping.Mapping, b *Build) diag.List {
	if !slices.ContainsFunc(
		b.Landings, func(l land.Landing) bool { return l.Binding.Option.Kind == behaviour.Native },
	) {
		return nil
	}
	set := map[string]Change{} // by store and key
	var list diag.List
	for _, c := range b.Planned(nil) {
		store, key := "", ""
		switch c := c.Change.(type) {
		case change.Setting:
			store, key = c.Store, c.Key
		case change.Member:
			store, key = c.Store, c.Key
		default:
			continue
		}
		first, known := set[store+"\x00"+key]
		if set[store+"\x00"+key] = c; !known || first.By.Name == c.By.Name ||
			!strings.HasPrefix(c.By.Name, "native ") ||
			len(c.Rules) == 0 ||
			len(first.Rules) == 0 {
			continue
		}
		h := c.Rules[0].Head()
		list = append(
			list,
			diag.Diagnostic{
				Severity: diag.Error,
				Code:     "set-twice",
				Range:    h.Range,
				Line:     mp.SourceLine(h.Range),
				Machines: []string{b.Machine.Name},
				Summary:  fmt.Sprintf("%s is set by %s as well", key, mapping.Subject(first.Rules[0])),
				Advice:   "leave one of the two out",
				Related:  []diag.Related{{Range: first.Rules[0].Head().Range, Words: "which needs it"}},
			},
		)
	}
	return list
}
