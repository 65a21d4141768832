package mapping

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/diag"
)

// UnknownRuleError says that a mapping has no rule of a name.
type UnknownRuleError struct {
	Name    string
	Nearest string // "" if none is near
}

func (e *UnknownRuleError) Error() string {
	if e.Nearest != "" {
		return fmt.Sprintf("the mapping has no rule %q; did you mean %q?", e.Name, e.Nearest)
	}
	return fmt.Sprintf(
		"the mapping has no rule %q: a rule is named by its kind and its press, as in \"launch Ctrl+Alt+g\", or by its group",
		e.Name,
	)
}

// RuleNames are the names of the rules, in their order, each behind that of its group.
func (mp *Mapping) RuleNames() []string {
	var names []string
	add := func(name string) {
		if !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	for _, r := range mp.Rules {
		if group := r.Head().Group; group != "" {
			add("group " + group)
		}
		add(Subject(r))
	}
	return names
}

// Named finds the rules of a name: the kind and the press, as Subject has them and in any case
// of letters, or a group. A rule that was changed has its name still.
func (mp *Mapping) Named(name string) ([]Rule, error) {
	var list []Rule
	for _, r := range mp.Rules {
		group := r.Head().Group
		if strings.EqualFold(Subject(r), name) || group != "" && group == strings.TrimPrefix(name, "group ") {
			list = append(list, r)
		}
	}
	if list == nil {
		return nil, &UnknownRuleError{name, diag.Nearest(name, mp.RuleNames())}
	}
	return list, nil
}

// SwitchOff leaves rules out of a mapping. They may be those of another reading of the same text: a rule is known by its
// place in the text and its title.
func (mp *Mapping) SwitchOff(rules []Rule) {
	type place struct {
		at    diag.Range
		title string
	}
	off := map[place]bool{}
	for _, r := range rules {
		off[place{r.Head().Range, Title(r)}] = true
	}
	for _, r := range mp.Rules {
		if off[place{r.Head().Range, Title(r)}] {
			r.Head().Enabled = false
		}
	}
}
