package keylayout

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"leitstand/core/keys"
	"leitstand/core/mechanism"
)

// Layout is a layout file that was read, for the keys that a layout of the system knows by their keycodes.
type Layout struct {
	Base *keys.Layout // the system's own, which says which key has which keycode

	noCapitals bool // CapsLock is a layer

	selects  []selecting
	fallback int // the map where no set of modifiers fits
	sets     map[string]map[int]keyMap
	use      string // the set of maps that our boards have
	actions  map[string]map[string]outcome
	alone    map[string]string // what a state types when nothing else does
}

// selecting is a set of modifiers that chooses a map: those that must be on, and those that may be.
type selecting struct {
	must, may modifiers
	index     int
}

// modifiers is a set of modifiers and locks; the sides of one are alike.
type modifiers uint8

const (
	shift modifiers = 1 << iota
	optionKey
	controlKey
	command
	capsLock
)

// keyMap is what keys do under a set of modifiers.
type keyMap struct {
	set   string // that it is laid over, "" for none
	index int
	keys  map[int]element
}

// element is what one key does: an output, or an action.
type element struct {
	output, action string
	acts           bool
}

// outcome is what an action does in a state.
type outcome struct{ output, next string }

// mostBases is how many maps are laid over each other.
const mostBases = 16

// control is a reference to a control character, which XML 1.1 has and no parser of 1.0 reads.
var control = mechanism.Pattern(`&#(?:x0*(?:[0-9A-Fa-f]|1[0-9A-Fa-f])|0*(?:[0-9]|[12][0-9]|3[01]));`)

// standIns writes control characters as private ones that the text does not have, which restore takes back.
func standIns(text string) (written string, restore func(string) string) {
	first := rune(0x100000)
	for r := range 32 {
		for strings.ContainsRune(text, first+rune(r)) {
			first += 32
		}
	}
	written = control().ReplaceAllStringFunc(text, func(ref string) string {
		digits, base := ref[2:len(ref)-1], 10
		if digits[0] == 'x' {
			digits, base = digits[1:], 16
		}
		n, _ := strconv.ParseUint(digits, base, 8)
		return string(first + rune(n))
	})
	return strings.Replace(written, `version="1.1"`, `version="1.0"`, 1), func(s string) string {
		return strings.Map(func(r rune) rune {
			if r >= first && r < first+32 {
				return r - first
			}
			return r
		}, s)
	}
}

// Parse reads a layout file. The error says what cannot be read.
func Parse(base *keys.Layout, text []byte) (*Layout, error) {
	l := &Layout{
		Base: base, sets: map[string]map[int]keyMap{}, actions: map[string]map[string]outcome{}, alone: map[string]string{},
	}
	written, restore := standIns(string(text))
	d := xml.NewDecoder(strings.NewReader(written))
	at := place{}
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, err
		}
		start, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		attrs := map[string]string{}
		for _, a := range start.Attr {
			attrs[a.Name.Local] = restore(a.Value)
		}
		if err := l.element(&at, start.Name.Local, attrs); err != nil {
			line, _ := d.InputPos()
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
	}
	return l, l.sound()
}

// place is where in the file the reader is.
type place struct {
	set, action string
	index       int
	terminators bool
}

func (l *Layout) element(at *place, name string, attrs map[string]string) (err error) {
	number := func(of string) int {
		n, bad := strconv.Atoi(attrs[of])
		if bad != nil && err == nil {
			err = fmt.Errorf("%s of <%s> is no number: %q", of, name, attrs[of])
		}
		return n
	}
	switch name {
	case "layout":
		if l.use == "" { // the first is that of most boards
			l.use = attrs["mapSet"]
		}
	case "modifierMap":
		l.fallback = number("defaultIndex")
	case "keyMapSelect":
		at.index = number("mapIndex")
	case "modifier":
		l.selects = append(l.selects, parseSelecting(attrs["keys"], at.index))
	case "keyMapSet":
		at.set, l.sets[attrs["id"]] = attrs["id"], map[int]keyMap{}
	case "keyMap":
		at.index = number("index")
		m := keyMap{keys: map[int]element{}, set: attrs["baseMapSet"]}
		if m.set != "" {
			m.index = number("baseIndex")
		}
		if l.sets[at.set] == nil {
			return errors.New("<keyMap> outside of a <keyMapSet>")
		}
		l.sets[at.set][at.index] = m
	case "key":
		m, ok := l.sets[at.set][at.index]
		if !ok {
			return errors.New("<key> outside of a <keyMap>")
		}
		e := element{output: attrs["output"]}
		e.action, e.acts = attrs["action"]
		m.keys[number("code")] = e
	case "action":
		at.action = attrs["id"]
		if at.terminators = false; l.actions[at.action] == nil {
			l.actions[at.action] = map[string]outcome{}
		}
	case "terminators":
		at.terminators = true
	case "when":
		if at.terminators {
			l.alone[attrs["state"]] = attrs["output"]
		} else if of := l.actions[at.action]; of != nil {
			of[attrs["state"]] = outcome{attrs["output"], attrs["next"]}
		}
	}
	return err
}

// sound says what a file lacks that its other parts speak of.
func (l *Layout) sound() error {
	if l.sets[l.use] == nil {
		return fmt.Errorf("there is no set of maps %q", l.use)
	}
	for _, s := range l.selects {
		if _, ok := l.sets[l.use][s.index]; !ok {
			return fmt.Errorf("there is no map %d in %q", s.index, l.use)
		}
	}
	for _, set := range l.sets {
		for _, m := range set {
			for _, e := range m.keys {
				if e.acts && l.actions[e.action] == nil {
					return fmt.Errorf("there is no action %q", e.action)
				}
			}
		}
	}
	return nil
}

// names are the modifiers as files name them.
var names = map[string]modifiers{
	"shift": shift, "rightShift": shift, "anyShift": shift, "option": optionKey, "rightOption": optionKey,
	"anyOption": optionKey, "control": controlKey, "rightControl": controlKey, "anyControl": controlKey,
	"command": command, "caps": capsLock,
}

// parseSelecting reads the names of modifiers, of which those with a question mark may be on. A set with a name that is
// none fits nothing.
func parseSelecting(text string, index int) selecting {
	s := selecting{index: index}
	for word := range strings.FieldsSeq(text) {
		word, either := strings.CutSuffix(word, "?")
		mod, known := names[word]
		switch {
		case !known && !either:
			s.must |= 1 << 7
		case either:
			s.may |= mod
		default:
			s.must |= mod
		}
	}
	return s
}

// fits says whether modifiers that are on are those of a set.
func (s selecting) fits(on modifiers) bool { return on&s.must == s.must && on&^(s.must|s.may) == 0 }

// find is what a key does under the modifiers that are on.
func (l *Layout) find(code int, on modifiers) (element, bool) {
	set, index := l.use, l.fallback
	for _, s := range l.selects {
		if s.fits(on) {
			index = s.index
			break
		}
	}
	for range mostBases {
		m, ok := l.sets[set][index]
		if !ok {
			break
		}
		if e, ok := m.keys[code]; ok {
			return e, true
		}
		set, index = m.set, m.index
	}
	return element{}, false
}

// Type presses a key. Chords type nothing here.
func (l *Layout) Type(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	if k.String() == "CapsLock" {
		s.CapsLock = !s.CapsLock
		return "", s
	}
	if held&^(sides|options) != 0 {
		return "", s
	}
	return l.press(s, k, held)
}

// Press presses a key, with Command and Control as well.
func (l *Layout) Press(s keys.TypeState, k keys.Key, held keys.Mods) (keys.Stroke, keys.TypeState) {
	text, s := l.press(s, k, held)
	return keys.Stroke{Text: text}, s
}

const (
	sides   = keys.Shift | keys.ShiftLeft | keys.ShiftRight
	options = keys.Alt | keys.AltLeft | keys.AltRight | keys.AltGr
)

// on are the modifiers of a press.
func on(held keys.Mods, caps bool) (set modifiers) {
	if held&sides != 0 {
		set |= shift
	}
	if held&options != 0 {
		set |= optionKey
	}
	if held.Has(keys.Ctrl) {
		set |= controlKey
	}
	if held.Has(keys.Meta) {
		set |= command
	}
	if caps {
		set |= capsLock
	}
	return set
}

func (l *Layout) press(s keys.TypeState, k keys.Key, held keys.Mods) (string, keys.TypeState) {
	code, ok := l.Base.MacCode(k)
	if !ok {
		return "", s
	}
	e, ok := l.find(code, on(held, s.CapsLock))
	if !ok {
		return "", s
	}
	waits := s.Waits
	s.Waits = ""
	if !e.acts {
		return l.alone[waits] + e.output, s
	}
	does := l.actions[e.action]
	if o, ok := does[waits]; ok && waits != "" {
		s.Waits = o.next
		return o.output, s
	}
	o := does["none"]
	s.Waits = o.next
	return l.alone[waits] + o.output, s
}

// Finish is what comes of a text in a state that has no meaning for it.
func (l *Layout) Finish(s keys.TypeState, text string) (string, keys.TypeState) {
	text = l.alone[s.Waits] + text
	s.Waits = ""
	return text, s
}
