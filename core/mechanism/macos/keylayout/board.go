package keylayout

import (
	"slices"
	"strings"
	"unicode/utf16"

	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// cell is what a key does in a state of the modifiers.
type cell struct {
	text string
	next string // the state that it leads to, "" for none
	has  bool   // it types, if only nothing
	mute bool   // it types nothing by itself, and what waits goes on waiting
	// in is what it types after a dead key, where that is not what the dead key types alone and then its own.
	in map[string]string
	// goes is the state that it leads to from another, and types nothing.
	goes map[string]string
}

// board is a layout with the mapping on top.
type board struct {
	base  *keys.Layout
	cells map[keys.Key]*[states]cell
	// alone is what a state types when a key follows that has no meaning after it.
	alone map[string]string
}

// typing are the keys that type, by what is held: those of the writing area and of the numeric keypad.
func typing() []keys.Key {
	return slices.DeleteFunc(keys.All(), func(k keys.Key) bool {
		_, has := k.Mac()
		return !has || k.Section() != keys.Writing && k.Section() != keys.Numpad && k.String() != "Space" ||
			keys.MacOutput(k) != 0
	})
}

// newBoard is a layout with what landed in it.
func newBoard(base *keys.Layout, list []mechanism.Taken) *board {
	b := &board{base: base, cells: map[keys.Key]*[states]cell{}, alone: map[string]string{}}
	for _, k := range typing() {
		row := new([states]cell)
		for s := range row {
			row[s] = b.bare(k, state(s))
		}
		b.cells[k] = row
	}
	for _, t := range list {
		if p := t.Plan.(plan); p.in == nil && p.word == "" { // the layer of CapsLock has no capitals
			for _, row := range b.cells {
				row[capitals] = row[plain]
			}
		}
	}
	bare := map[keys.Key][states]cell{}
	for k, row := range b.cells {
		bare[k] = *row
	}
	for _, t := range list {
		p := t.Plan.(plan)
		for _, s := range p.in {
			b.put(t.Chord.Key, s, p, bare)
		}
	}
	for _, t := range list {
		if p := t.Plan.(plan); p.word != "" {
			b.compose(p)
		}
	}
	b.join()
	b.wait()
	return b
}

// composing is the state behind the Compose key, and what has been typed since.
func composing(typed string) string {
	if typed == "" {
		return "compose"
	}
	return "compose " + typed
}

// compose has an abbreviation give its text behind the Compose key, by whatever keys type its characters.
func (b *board) compose(p plan) {
	typed := ""
	for rest := range strings.SplitSeq(p.word, "") {
		from := composing(typed)
		typed += rest
		b.alone[from] = ""
		for _, row := range b.cells {
			for s := range row {
				c := &row[s]
				switch {
				case !c.has || c.next != "" || c.text != rest:
				case typed == p.word:
					if c.in == nil {
						c.in = map[string]string{}
					}
					c.in[from] = p.text
				default:
					if c.goes == nil {
						c.goes = map[string]string{}
					}
					c.goes[from] = composing(typed)
				}
			}
		}
	}
}

// bare is what the layout by itself has for a key.
func (b *board) bare(k keys.Key, s state) cell {
	typed, after := b.base.Press(keys.TypeState{CapsLock: held[s].caps}, k, held[s].mods)
	if after.Accents != "" {
		return cell{next: b.dead(after.Accents), has: true}
	}
	return cell{text: typed.Text, has: typed.Text != ""}
}

// dead is the name of the state after a dead key.
func (b *board) dead(accent string) string {
	name := "dead " + accent
	b.alone[name], _ = b.base.Finish(keys.TypeState{Accents: accent}, "")
	return name
}

// put has a key do what landed, in a state.
func (b *board) put(k keys.Key, s state, p plan, bare map[keys.Key][states]cell) {
	row := b.cells[k]
	does := cell{text: p.text, has: true}
	switch {
	case p.next != "":
		does.next = "layer " + p.next
		b.alone[does.next] = ""
	case p.composes:
		does.next = composing("")
		b.alone[does.next] = ""
	case p.as != keys.None:
		of := s % option // as without Option
		if len(p.in) == 1 {
			of = plain // CapsLock is the layer there
		}
		does = bare[p.as][of]
	}
	if p.waits == "" {
		row[s] = does
		return
	}
	if row[s].in == nil {
		row[s].in = map[string]string{}
	}
	row[s].in["layer "+p.waits] = does.text
	row[s].mute = !row[s].has || row[s].mute
	row[s].has = true
}

// wait has what waits go on waiting where a key types nothing by itself.
func (b *board) wait() {
	for _, row := range b.cells {
		for s := range row {
			c := &row[s]
			if !c.mute {
				continue
			}
			c.goes = map[string]string{}
			for state := range b.alone {
				if _, types := c.in[state]; !types {
					c.goes[state] = state
				}
			}
		}
	}
}

// join puts the accents of the dead keys on all characters.
func (b *board) join() {
	for name, accent := range b.alone {
		waiting, dead := strings.CutPrefix(name, "dead ")
		if !dead {
			continue
		}
		for _, row := range b.cells {
			for s := range row {
				c := &row[s]
				if text, _ := b.base.Finish(keys.TypeState{Accents: waiting}, c.text); c.has && !c.mute && c.next == "" &&
					text != accent+c.text {
					if c.in == nil {
						c.in = map[string]string{}
					}
					c.in[name] = text
				}
			}
		}
	}
}

// longest is the length of the longest text, in units of UTF-16.
func (b *board) longest() int {
	most := 1
	note := func(text string) { most = max(most, len(utf16.Encode([]rune(text)))) }
	for _, row := range b.cells {
		for _, c := range row {
			note(c.text)
			for state, text := range c.in {
				note(text)
				note(b.alone[state] + c.text)
			}
		}
	}
	return most
}
