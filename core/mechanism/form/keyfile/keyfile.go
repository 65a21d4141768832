// Package keyfile reads files of groups and keys: dconf's dumps, KDE's settings, desktop entries,
// units of systemd and internet shortcuts are of that kind. A group is a line in brackets, a key a
// line with an equals sign; blanks around both mean nothing, and # begins a comment.
//
// Sources: GLib's documentation of GKeyFile; the Desktop Entry specification; KDE's documentation of
// KConfig.
package keyfile

import (
	"errors"
	"fmt"
	"iter"
	"strings"
)

// Line is a line that is no group, no comment and not empty.
type Line struct {
	Number int    // from 1
	Text   string // the whole line
	Group  string // without its outer brackets, "" before the first
	Name   string
	Value  string
	Key    bool // it has a name and a value
}

// Lines finds the lines of a file that say something.
func Lines(text string) iter.Seq[Line] {
	return func(yield func(Line) bool) {
		number, group := 0, ""
		for line := range strings.Lines(text) {
			number++
			line = strings.TrimSpace(line)
			switch {
			case line == "" || line[0] == '#':
				continue
			case line[0] == '[' && line[len(line)-1] == ']' && len(line) > 1:
				group = line[1 : len(line)-1]
				continue
			}
			l := Line{Number: number, Text: line, Group: group}
			l.Name, l.Value, l.Key = strings.Cut(line, "=")
			l.Name, l.Value = strings.TrimSpace(l.Name), strings.TrimSpace(l.Value)
			if !yield(l) {
				return
			}
		}
	}
}

var errNeither = errors.New("neither a group nor a key")

// Each hands every key to a function, and stops at the first line that is none or that the function
// refuses; the error begins with the number of the line.
func Each(text string, key func(Line) error) error {
	for l := range Lines(text) {
		err := errNeither
		if l.Key && l.Group != "" {
			err = key(l)
		}
		if err != nil {
			return fmt.Errorf("%d: %w", l.Number, err)
		}
	}
	return nil
}

// Keys are the values of a file by group and name.
func Keys(text string) map[[2]string]string {
	found := map[[2]string]string{}
	for l := range Lines(text) {
		if l.Key {
			found[[2]string{l.Group, l.Name}] = l.Value
		}
	}
	return found
}
