package text

import (
	"fmt"

	"leitstand/core/report"
)

// Keys prints the table of keys.
func (p *Printer) Keys(said report.Keys) {
	number := func(format string, v *int) string {
		if v == nil {
			return "-"
		}
		return fmt.Sprintf(format, *v)
	}
	rows := [][]string{{"code", "hid", "evdev", "xkb", "scancode", "vk", "mac"}}
	section := ""
	for i, k := range said.Keys {
		if k.Section != section {
			section = k.Section
			if i > 0 {
				rows = append(rows, nil)
			}
			rows = append(rows, []string{p.Bold(section)})
		}
		x := "-"
		if k.XKB != nil {
			x = *k.XKB
		}
		rows = append(rows, []string{"  " + k.Code, number("%06X", k.HID), number("%d", k.Evdev), x,
			number("%02X", k.Scancode), number("%02X", k.VK), number("%02X", k.Mac)})
	}
	p.print(
		"%s. hid (page and usage), scancode (set 1), vk (Windows, US layout), mac (ANSI): hexadecimal;\nevdev: decimal; -: none.\n\n",
		Plural(len(said.Keys), "key", "keys"),
	)
	p.table("", rows)
}
