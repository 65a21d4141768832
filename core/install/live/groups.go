package live

import (
	"strings"

	"leitstand/core/change"
)

// groups is a file of groups and keys, of which only the lines of some keys are changed: all others keep their bytes.
// A group's name is what stands between its outer brackets.
type groups []byte

// find is where the line of a key is, from its first byte to behind its last, and where a key of the group is put when
// there is none; that is -1 where there is no group of the name.
func (g groups) find(group, name string) (from, to, end int) {
	from, to, end = -1, -1, -1
	at, in := 0, ""
	for line := range strings.Lines(string(g)) {
		text := strings.TrimSpace(line)
		switch {
		case len(text) > 1 && text[0] == '[' && text[len(text)-1] == ']':
			if in = text[1 : len(text)-1]; in == group {
				end = at + len(line)
			}
		case in != group || text == "" || text[0] == '#':
		default:
			key, _, _ := strings.Cut(text, "=")
			if strings.TrimSpace(key) == name { // the last one counts
				from, to = at, at+len(line)
			}
			end = at + len(line)
		}
		at += len(line)
	}
	return from, to, end
}

// get is the value of a key as it is spelled.
func (g groups) get(group, name string) (value string, ok bool) {
	from, to, _ := g.find(group, name)
	if from < 0 {
		return "", false
	}
	_, value, _ = strings.Cut(string(g[from:to]), "=")
	return strings.TrimSpace(value), true
}

// with is the file with a key, at the end of its group.
func (g groups) with(group, name, value string) []byte {
	line := name + "=" + value + "\n"
	from, to, end := g.find(group, name)
	if from >= 0 {
		if g[to-1] != '\n' {
			line = strings.TrimSuffix(line, "\n")
		}
		return []byte(string(g[:from]) + line + string(g[to:]))
	}
	if end < 0 {
		head := "[" + group + "]\n"
		if len(g) > 0 {
			head = "\n" + head
		}
		end, line = len(g), head+line
	}
	if end > 0 && g[end-1] != '\n' { // the last line has no end, and has none when ours goes
		line = "\n" + strings.TrimSuffix(line, "\n")
	}
	return []byte(string(g[:end]) + line + string(g[end:]))
}

// without is the file without a key; a group that has nothing else, not even a comment, goes with it.
func (g groups) without(group, name string) []byte {
	from, to, _ := g.find(group, name)
	if from < 0 {
		return g
	}
	before, after := string(g[:from]), string(g[to:])
	if to > 0 && g[to-1] != '\n' { // it was the last line
		before = strings.TrimSuffix(before, "\n")
	}
	head := "[" + group + "]\n"
	bare := strings.TrimSuffix(head, "\n")
	next := strings.TrimLeft(after, "\n")
	if next != "" && next[0] != '[' {
		return []byte(before + after)
	}
	// One of ours has an empty line before it; any other was there without a key.
	const empty = "\n\n"
	if kept, ok := strings.CutSuffix(before, head); ok && (kept == "" || strings.HasSuffix(kept, empty)) {
		before = strings.TrimSuffix(kept, "\n")
	} else if kept, ok := strings.CutSuffix(before, bare); ok && after == "" && strings.HasSuffix(kept, empty) {
		before = strings.TrimSuffix(kept, empty)
	}
	return []byte(before + after)
}

// kdeEscape spells a text as KDE's files have it.
func kdeEscape(text string) string {
	text = change.EscapeKDE(text)
	if rest, ok := strings.CutPrefix(text, " "); ok {
		text = `\s` + rest
	}
	if rest, ok := strings.CutSuffix(text, " "); ok {
		text = rest + `\s`
	}
	return text
}

// kdeUnescape is the text that a line of KDE's files spells.
func kdeUnescape(line string) string {
	return strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\t`, "\t", `\r`, "\r", `\s`, " ").Replace(line)
}
