package mapping

import (
	"fmt"
	"strings"
	"unicode"
)

// mostTitles is how many titles lead to an item at most.
const mostTitles = 10

func (b *block) menu(c Common) (Rule, bool) {
	press, ok := b.trigger(b.labels[0])
	r := &Menu{Common: c, Press: press}
	if ok {
		r.Fallback, ok = b.fallbacks(press)
	}
	if _, _, formed := b.get("item"); b.has("item") && !formed {
		return nil, false // which has been said
	}
	if r.Item = b.texts("item"); len(r.Item) == 0 {
		b.add(
			c.Range, "missing-attribute", "the menu rule does not say which item is chosen",
			"add item = [\"File\", \"Export…\"], the titles as the menus show them",
		)
		return nil, false
	}
	if len(r.Item) > mostTitles {
		b.add(r.Item[mostTitles].Range, "too-long", fmt.Sprintf("an item has %d titles at most", mostTitles), "")
		return nil, false
	}
	for _, t := range r.Item {
		if strings.TrimSpace(t.Value) == "" || strings.ContainsFunc(t.Value, unicode.IsControl) {
			b.add(
				t.Range,
				"not-a-title",
				fmt.Sprintf("%q is no title of a menu", t.Value),
				"write it as the menu shows it",
			)
			ok = false
		}
	}
	return r, ok
}
