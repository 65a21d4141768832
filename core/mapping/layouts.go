package mapping

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/keys"
)

// layouts reads the layouts of a machine.
func (b *block) layouts(m *Machine) {
	for _, t := range b.texts("layouts") {
		if _, ok := keys.FindLayout(t.Value); !ok {
			if name, ok := languages[strings.ToLower(t.Value)]; ok {
				b.add(
					t.Range, "unknown-layout", fmt.Sprintf("there is no layout %q", t.Value),
					fmt.Sprintf("layouts go by their XKB names: write %q", name),
				)
			} else {
				b.unknown(t, "unknown-layout", fmt.Sprintf("there is no layout %q", t.Value), keys.LayoutNames())
			}
			continue
		}
		if slices.Contains(m.Layouts, t.Value) {
			b.add(t.Range, "duplicate", fmt.Sprintf("layout %q stands twice", t.Value), "name it once")
			continue
		}
		if m.Layouts = append(m.Layouts, t.Value); len(m.Layouts) == 5 {
			b.add(t.Range, "too-many-layouts", "XKB holds at most four layouts at once", "leave some out")
		}
	}
	if len(m.Layouts) == 0 {
		m.Layouts = []string{"us"}
	}
}

// options reads the options of XKB's rules.
func (b *block) options(m *Machine) {
	for _, t := range b.texts("options") {
		o, ok := keys.FindOption(t.Value)
		switch {
		case m.System != Linux || m.Session == "console":
			b.add(
				t.Range, "misplaced-attribute", "options are those of XKB, which linux has in its graphical sessions",
				"take it out",
			)
			return
		case !ok:
			b.unknown(
				t, "unknown-option", fmt.Sprintf("there is no option %q that we can tell the work of", t.Value),
				keys.OptionNames(),
			)
			continue
		case !fits(o, m.Layouts):
			b.add(
				t.Range,
				"option-unknown-here",
				fmt.Sprintf(
					"what option %s does under layouts %s is not known", t.Value, strings.Join(m.Layouts, ", "),
				),
				"say what you want of its keys with rules",
			)
			continue
		case slices.Contains(m.Options, t.Value):
			b.add(t.Range, "duplicate", fmt.Sprintf("option %q stands twice", t.Value), "name it once")
			continue
		}
		for _, name := range m.Options {
			other, _ := keys.FindOption(name)
			if key := o.Clash(other); key != "" {
				k, _ := keys.ByXKB(key)
				b.add(
					t.Range, "two-options",
					fmt.Sprintf("options %s and %s make different things of %s", name, t.Value, k),
					"keep one of them, and say the rest with rules",
				)
			}
		}
		m.Options = append(m.Options, t.Value)
	}
}

// Fits says whether a machine can have one more option of XKB's rules, by its name.
func Fits(m *Machine, name string) bool {
	o, ok := keys.FindOption(name)
	return ok && fits(o, m.Layouts) && !slices.ContainsFunc(m.Options, func(other string) bool {
		x, _ := keys.FindOption(other)
		return other == name || o.Clash(x) != ""
	})
}

func fits(o *keys.Option, names []string) bool {
	var layouts []*keys.Layout
	for _, name := range names {
		l, _ := keys.FindLayout(name) // unknown ones are not among them
		layouts = append(layouts, l)
	}
	return o.Fits(layouts)
}
