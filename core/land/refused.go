package land

import (
	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
	"leitstand/core/reason"
)

// wish is a press with its effect, on whichever board, as fallbacks are chosen by it.
type wish struct {
	place behaviour.Place
	words string
}

func wishOf(b behaviour.Binding) wish {
	b.Board = ""
	return wish{b.Place(), b.Effect.String()}
}

// refusals are why presses cannot be had beside the other rules, though a mechanism has them.
type refusals map[wish]reason.List

// carrier asks a machine's mechanisms for the intent's choice of fallbacks.
type carrier struct {
	mechanisms []registry.Mechanism
	granted    map[wish]bool // what was said to be there
	refused    refusals      // what is not there after all
}

// Carries says whether a mechanism can have a press.
func (c *carrier) Carries(m *intent.Machine, b behaviour.Binding) bool {
	if c.mechanisms == nil {
		c.mechanisms = registry.Serving(m)
	}
	w := wishOf(b)
	if _, refused := c.refused[w]; refused {
		return false
	}
	ways, _ := offers(c.mechanisms, m, b)
	if len(ways) > 0 && ways[0].offer.Verdict >= mechanism.Manual {
		c.granted[w] = true
		return true
	}
	return false
}

// refuse notes what was granted and did not land; false if there is nothing.
func (c *carrier) refuse(list []Landing) (found bool) {
	if len(c.granted) == 0 {
		return false
	}
	for i := range list {
		l := &list[i]
		if l.Mechanism != nil {
			continue
		}
		w := wishOf(l.Binding)
		if _, known := c.refused[w]; c.granted[w] && !known {
			c.refused[w], found = l.Offer.Why, true
		}
	}
	return found
}
