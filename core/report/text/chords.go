package text

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/report"
)

// board are the keys with which chords are made, where they lie: rows, each further to the right.
var board = [][]string{
	{"F1", "F2", "F3", "F4", "F5", "F6", "F7", "F8", "F9", "F10", "F11", "F12"},
	{"Digit1", "Digit2", "Digit3", "Digit4", "Digit5", "Digit6", "Digit7", "Digit8", "Digit9", "Digit0"},
	{"KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY", "KeyU", "KeyI", "KeyO", "KeyP"},
	{"KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ", "KeyK", "KeyL"},
	{"KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM"},
	{"ArrowLeft", "ArrowDown", "ArrowUp", "ArrowRight"},
}

// Free prints which keys are free, where they lie on a board; a dot is a key that is taken.
func (p *Printer) Free(said report.Free) {
	for _, r := range said.Free {
		free := map[string]bool{}
		for _, k := range r.Keys {
			free[k] = true
		}
		p.print("%s  %s\n", p.Bold(r.Modifiers), p.Faint(Plural(len(r.Keys), "key is", "keys are")+" free"))
		for n, row := range board {
			line := strings.Repeat("  ", min(n, 4)) + "  "
			for _, k := range row {
				short := strings.TrimPrefix(strings.TrimPrefix(k, "Key"), "Digit")
				if arrow, ok := arrows[k]; ok {
					short = arrow
				}
				if !free[k] {
					short = "·"
				}
				delete(free, k)
				line += pad(short, 4)
			}
			p.print("%s\n", strings.TrimRight(line, " "))
		}
		var beside []string
		for _, k := range r.Keys {
			if free[k] {
				beside = append(beside, k)
			}
		}
		if len(beside) > 0 {
			p.paragraph("  ", "  and %s", strings.Join(beside, ", "))
		}
	}
	fmt.Fprintln(p.w)
	p.paragraph("", "Free on %s, as their desktops come; what you have set there by hand, and what programs use, is not "+
		"counted. Letters are keys by their codes; a dot is taken, and leitstand draw --hold shows by what.",
		Plural(len(said.Machines), "machine", "machines"))
	p.unknown(said.Unknown)
}

var arrows = map[string]string{"ArrowLeft": "←", "ArrowDown": "↓", "ArrowUp": "↑", "ArrowRight": "→"}

// Chords prints which chords are taken, by what.
func (p *Printer) Chords(said report.Chords) {
	rows := [][]string{append([]string{"chord"}, said.Machines...)}
	for _, c := range said.Chords {
		row := []string{c.Chord}
		for _, m := range said.Machines {
			cell := p.Faint("·")
			if by := c.By[m]; by != "" {
				if cell = printable(by); slices.Contains(c.Mapping, m) {
					cell = p.good.Render("+ " + cell)
				}
			}
			row = append(row, cell)
		}
		rows = append(rows, row)
	}
	p.table("", rows)
	p.print("\n%s taken on some machine; a plus marks what the mapping says. See what is free with --free.\n",
		Plural(len(said.Chords), "chord is", "chords are"))
	p.unknown(said.Unknown)
}

// unknown says where a list cannot be whole.
func (p *Printer) unknown(gaps []string) {
	for _, gap := range gaps {
		p.paragraph("  ", "Of %s.", gap)
	}
}
