package main

import (
	"bytes"
	"fmt"
	"os"
	"slices"
	"strings"

	"leitstand/core/keys"
)

// systems makes the data of what keys type under the layouts of macOS and Windows, of a table
// with a line for each key: system, layout by its XKB name, the system's own name of it, key,
// what it types plain, with Shift, with AltGr (Option on macOS) and with both, "-" for none,
// which of the four are dead keys (bits; "?" where that is not recorded), virtual key.
func systems(path string) ([]byte, error) {
	table, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	lines := map[string][]string{} // by layout
	for line := range strings.Lines(string(table)) {
		f := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		if strings.HasPrefix(line, "#") || len(f) != 10 {
			continue
		}
		k, ok := keys.ByCode(f[3])
		keypad := k.Section() == keys.Numpad && (f[0] == keys.LayoutsOfMac || f[3] == "NumpadComma")
		if !ok || k.Section() != keys.Writing && f[3] != "Space" && !keypad {
			continue // the rest of the keypad is alike under all layouts of Windows
		}
		typed := ""
		for level, text := range f[4:8] {
			switch {
			case text == "space":
				typed += " "
			case text == "", text == "-" && level > 1:
				typed += "␀"
			default:
				typed += text
			}
		}
		head := "layout " + f[0] + " " + f[1] + " " + f[2]
		lines[head] = append(
			lines[head],
			strings.TrimSuffix(strings.Join([]string{f[3], typed, f[8], strings.TrimPrefix(f[9], "VK_")}, "\t"), "\t-"),
		)
	}
	heads := make([]string, 0, len(lines))
	for head := range lines {
		heads = append(heads, head)
	}
	slices.Sort(heads)
	var out bytes.Buffer
	out.WriteString(
		"# What keys type under the layouts of macOS and Windows, as measured on the systems themselves.\n" +
			"# KEY, the four characters (␀ for none), the bits of those that are dead keys (? not recorded), virtual key.\n",
	)
	for _, head := range heads {
		fmt.Fprintf(&out, "\n%s\n%s\n", head, strings.Join(lines[head], "\n"))
	}
	out.WriteByte('\n')
	return out.Bytes(), nil
}
