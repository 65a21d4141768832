// Command gen writes the key types and interpretations that xkeyboard-config gives
// to every keymap, as xkbcli compiles them. Run it with go generate ./...; it needs
// Debian's libxkbcommon-tools and xkb-data.
package main

import (
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
)

func main() {
	log.SetFlags(0)
	dir := "data"
	if len(os.Args) > 1 {
		dir = os.Args[1]
	}
	text, err := exec.Command(
		"xkbcli", "compile-keymap", "--rules", "evdev", "--model", "pc105", "--layout", "us",
	).Output()
	if err != nil {
		log.Fatal(err)
	}
	_, rest, _ := strings.Cut(string(text), "xkb_types")
	stock, _, _ := strings.Cut(rest, "xkb_symbols")
	// Names of levels and lamps say nothing about what keys do.
	stock = regexp.MustCompile(`(?m)^\s*level_name\[.*\n`).ReplaceAllString(stock, "")
	stock = regexp.MustCompile(`(?ms)^\s*indicator .*?^\s*\};\n`).ReplaceAllString(stock, "")
	out := "// Types and interpretations of xkeyboard-config, from xkbcli compile-keymap.\nxkb_keymap {\nxkb_types" + strings.TrimRight(
		stock,
		" \n",
	) + "\n};\n"
	if err := os.WriteFile(filepath.Join(dir, "stock.xkb"), []byte(out), 0o644); err != nil {
		log.Fatal(err)
	}
}
