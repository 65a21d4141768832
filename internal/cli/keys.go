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
		Short: "The key table: every key's code on every system",
		Long: `Lists keys by their W3C codes, the names that a mapping uses, beside the number
or name each system knows them by. WORDs narrow the list: part of a code, of a
section's name, what other systems or people call it, a character that it types
under your layouts, or any of the numbers, in decimal or as 0x….`,
		Example: "  leitstand keys caps\n  leitstand keys windows\n  leitstand keys ü\n  leitstand keys numpad\n  " +
			"leitstand keys 0x70039",
		RunE: func(_ *cobra.Command, words []string) error {
			list := keys.Search(words, a.layouts()...)
			if a.format == "json" {
				return report.Write(a.stdout, report.KeysOf(list))
			}
			if len(list) == 0 {
				return fmt.Errorf("no key has %q in its code, section or numbers", strings.Join(words, " "))
			}
			a.printKeys(list)
			return nil
		},
	}
	a.formatFlag(c)
	return c
}

// layouts are those of the mapping's machines if there is one, and this machine's.
func (a *app) layouts() []*keys.Layout {
	names := here().Layouts
	if mp, _, err := a.load(a.file); err == nil {
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

func (a *app) printKeys(list []keys.Key) {
	hex := func(format string) func(int, bool) string {
		return func(v int, ok bool) string {
			if !ok {
				return "-"
			}
			return fmt.Sprintf(format, v)
		}
	}
	rows := [][]string{{"code", "hid", "evdev", "xkb", "scancode", "vk", "mac"}}
	var section keys.Section
	for i, k := range list {
		if s := k.Section(); i == 0 || s != section {
			section = s
			if i > 0 {
				rows = append(rows, nil)
			}
			rows = append(rows, []string{a.style.bold.Render(s.String())})
		}
		x, ok := k.XKB()
		if !ok {
			x = "-"
		}
		rows = append(rows, []string{"  " + k.String(), hex("%06X")(k.HID()), hex("%d")(k.Evdev()), x,
			hex("%02X")(k.Scancode()), hex("%02X")(k.VK()), hex("%02X")(k.Mac())})
	}
	a.table(a.stdout, "", rows)
	fmt.Fprintf(
		a.stdout,
		"\n%s. hid (page and usage), scancode (set 1), vk (Windows, US layout) and mac (ANSI board) "+
			"are\nhexadecimal; evdev is decimal; a dash means that the system has no code for the key.\n",
		plural(len(list), "key", "keys"),
	)
}
