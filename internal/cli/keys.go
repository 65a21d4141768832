package cli

import (
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/keys"
	"leitstand/core/report"
)

func (a *app) keys() *cobra.Command {
	c := &cobra.Command{
		Use:   "keys [WORD…]",
		Short: "Look up keys and their codes on each system",
		Long: `Lists keys by their W3C codes, the names that a mapping uses, with the number or name that
each system has for them. WORD limits the list: part of a code or a section's name, what a
system or people call the key, a character that it types under your layouts, or a number, in
decimal or as 0x….`,
		Example: "  leitstand keys caps\n  leitstand keys windows\n  leitstand keys ü\n  leitstand keys numpad\n  " +
			"leitstand keys 0x70039",
		RunE: func(_ *cobra.Command, words []string) error {
			list := keys.Search(words, a.layouts()...)
			if len(list) == 0 && a.format == "text" {
				return fmt.Errorf("no key has %q in its code, section or numbers", strings.Join(words, " "))
			}
			said := report.KeysOf(list)
			return a.say(said, func() { a.text.Keys(said) })
		},
	}
	a.formatFlag(c)
	return c
}

// layouts are those of the mapping's machines if there is one, and this machine's.
func (a *app) layouts() []*keys.Layout {
	names := here().Layouts
	path, _ := a.found()
	if mp, _, err := a.load(path); err == nil {
		for _, m := range mp.Machines {
			names = append(names, m.Layouts...)
		}
	}
	var list []*keys.Layout
	for _, name := range append(names, "us", "de") {
		if l, ok := keys.FindLayout(name); ok && !slices.Contains(list, l) {
			list = append(list, l)
		}
	}
	return list
}
