package station

import (
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// Found is a press that does what was looked for.
type Found struct {
	Machine string
	Press   string
	Keys    []string
	Does    string
	Rule    mapping.Rule
	Verdict mechanism.Verdict
	Why     reason.List
	Instead string // what the press stands in for, "" for nothing
}

// Find looks for presses by what they do: every word must be part of the rule's title or of the
// effect, without regard to case.
func (s *Station) Find(words []string) []Found {
	var list []Found
	for _, l := range s.build.Landings {
		text := strings.ToLower(mapping.Title(l.Rule) + " " + l.Binding.Effect.String())
		if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(text, strings.ToLower(w)) }) {
			continue
		}
		f := Found{
			s.machine.Name,
			l.Binding.Press(),
			nil,
			l.Binding.Effect.String(),
			l.Rule,
			l.Offer.Verdict,
			l.Offer.Why,
			"",
		}
		if l.Wish != nil {
			f.Instead = l.Instead()
		}
		if l.Binding.Level == behaviour.Hotkey && l.Binding.Chord.Key != keys.None {
			f.Keys = s.player(Where{}).stroke(l.Binding.Chord).Keys
		}
		list = append(list, f)
	}
	return list
}
