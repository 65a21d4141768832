package machine

import (
	"slices"

	"leitstand/core/keys"
)

// Cap is where a key is on a board: in quarters of the width of a letter's key from the left, and in rows from the top.
// A key of two shapes (the tall Enter, a space bar in two) has a cap for each.
type Cap struct {
	Key              keys.Key
	Block            string // main, navigation or numpad
	Row, From, Width int
	Rows             int // that it is high, 1 or 2
	Half             int // of its row: 0 the whole of it, 1 the upper half, 2 the lower
}

// Unit is the width of a letter's key, in quarters.
const Unit = 4

// The blocks of a board.
const (
	Main       = "main"
	Navigation = "navigation"
	NumberPad  = "numpad"
)

// Shape says where the keys of a board are.
type Shape struct {
	Kind  string // ansi, iso or jis
	Form  string // full, tenkeyless, compact or laptop
	Split bool   // in two halves
	Mac   bool   // what is printed on it
}

// Kinds are the kinds of boards by where their keys are, and Forms those by the blocks that they have.
var (
	Kinds = []string{"ansi", "iso", "jis"}
	Forms = []string{"full", "tenkeyless", "compact", "laptop"}
)

// ShapeOf is the shape that a mapping says a board to have; what it does not say is "" there. A board that is built in is
// a laptop's.
func ShapeOf(b *Board) Shape {
	var s Shape
	for _, word := range b.Shape {
		switch {
		case slices.Contains(Kinds, word):
			s.Kind = word
		case slices.Contains(Forms, word):
			s.Form = word
		case word == "split":
			s.Split = true
		}
	}
	if s.Form == "" && slices.ContainsFunc(b.IDs, func(id BoardID) bool { return id.Bus == BuiltIn }) {
		s.Form = "laptop"
	}
	s.Mac = b.Legends == "mac"
	return s
}

// The rows of the main block and the function keys: what comes one behind the other, each with its width; a name of
// nothing is a gap. (ISO/IEC 9995-1, ANSI INCITS 154, JIS X 6002: the common boards of these kinds.)
type rowItem struct {
	code  string
	width int
}

// writing is a row of keys of a letter's width.
func writing(codes ...string) (row []rowItem) {
	for _, c := range codes {
		row = append(row, rowItem{c, Unit})
	}
	return row
}

// ofWidth is a key, or a gap, of a width of its own.
func ofWidth(code string, width int) []rowItem { return []rowItem{{code, width}} }

// functions is the row of function keys.
func (s Shape) functions() []rowItem {
	twelve := writing("F1", "F2", "F3", "F4", "F5", "F6", "F7", "F8", "F9", "F10", "F11", "F12")
	switch s.Form {
	case "laptop":
		last := "Delete"
		if s.Mac {
			last = "" // switches the computer on, and is no key
		}
		return slices.Concat(ofWidth("Escape", 6), twelve, ofWidth(last, 6))
	case "compact":
		return slices.Concat(writing("Escape"), twelve, writing("PrintScreen", "Insert", "Delete"))
	}
	return slices.Concat(
		writing("Escape", ""), twelve[:4], ofWidth("", 2), twelve[4:8], ofWidth("", 2), twelve[8:],
	)
}

// bottom is the row of the space bar.
func (s Shape) bottom() []rowItem {
	jis, left, right := s.Kind == "jis", []string{
		"ControlLeft",
		"MetaLeft",
		"AltLeft",
	}, []string{
		"AltRight",
		"MetaRight",
	}
	if s.Mac {
		left, right = []string{"ControlLeft", "AltLeft", "MetaLeft"}, []string{"MetaRight", "AltRight"}
	}
	row := slices.Concat(ofWidth(left[0], 5), ofWidth(left[1], 5), ofWidth(left[2], 5))
	switch {
	case s.Form == "laptop":
		row = slices.Concat(ofWidth(left[0], 5), ofWidth("", 4), ofWidth(left[1], 4), ofWidth(left[2], 4))
		if s.Mac {
			row = append(writing("Fn", left[0], left[1]), rowItem{left[2], 5})
		} else {
			right[1] = "ControlRight"
		}
		if jis {
			return slices.Concat(
				row, writing("NonConvert"), ofWidth("Space", 11), writing("Convert", "KanaMode", right[0], right[1]),
				writing("ArrowLeft", "ArrowDown", "ArrowRight"),
			)
		}
		return slices.Concat(
			row, ofWidth("Space", 21), ofWidth(right[0], 5), ofWidth(right[1], 5),
			writing("ArrowLeft", "ArrowDown", "ArrowRight"),
		)
	case s.Form == "compact" && jis:
		return slices.Concat(
			row, writing("NonConvert"), ofWidth("Space", 16), writing("Convert", "KanaMode"), ofWidth(right[0], 5),
			writing("ControlRight", "ArrowLeft", "ArrowDown", "ArrowRight"),
		)
	case s.Form == "compact":
		second := "ContextMenu"
		if s.Mac {
			second = right[1]
		}
		return slices.Concat(
			row, ofWidth("Space", 22), ofWidth(right[0], 5), ofWidth(second, 5), ofWidth("ControlRight", 5),
			writing("ArrowLeft", "ArrowDown", "ArrowRight"),
		)
	case jis:
		return slices.Concat(
			ofWidth(left[0], 5), writing(left[1]), ofWidth(left[2], 5), writing("NonConvert"), ofWidth("Space", 14),
			writing("Convert", "KanaMode"), ofWidth(right[0], 5), writing(right[1]), ofWidth("ContextMenu", 5),
			ofWidth("ControlRight", 6),
		)
	}
	if s.Mac {
		return slices.Concat(
			row,
			ofWidth("Space", 25),
			ofWidth(right[0], 6),
			ofWidth(right[1], 6),
			ofWidth("ControlRight", 8),
		)
	}
	return slices.Concat(
		row, ofWidth("Space", 25), ofWidth(right[0], 5), ofWidth(right[1], 5), ofWidth("ContextMenu", 5),
		ofWidth("ControlRight", 5),
	)
}

// lower is the row of Shift.
func (s Shape) lower() []rowItem {
	letters := writing("KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM", "Comma", "Period", "Slash")
	row := append(ofWidth("ShiftLeft", 9), letters...)
	shift := 11
	switch s.Kind {
	case "iso":
		row = slices.Concat(ofWidth("ShiftLeft", 5), writing("IntlBackslash"), letters)
	case "jis":
		row, shift = append(row, writing("IntlRo")...), 7
	}
	if s.Form == "compact" {
		return slices.Concat(row, ofWidth("ShiftRight", shift-4), writing("ArrowUp", "End"))
	}
	return append(row, rowItem{"ShiftRight", shift})
}

// mainRows are those of the main block, from the function keys down.
func (s Shape) mainRows() [][]rowItem {
	digits := writing("Backquote", "Digit1", "Digit2", "Digit3", "Digit4", "Digit5", "Digit6", "Digit7", "Digit8",
		"Digit9", "Digit0", "Minus", "Equal")
	upper := append(ofWidth("Tab", 6), writing("KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY", "KeyU", "KeyI", "KeyO",
		"KeyP", "BracketLeft", "BracketRight")...)
	home := append(
		ofWidth("CapsLock", 7),
		writing("KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ", "KeyK", "KeyL",
			"Semicolon", "Quote")...)
	switch s.Kind {
	case "ansi":
		digits = append(digits, rowItem{"Backspace", 8})
		upper, home = append(upper, rowItem{"Backslash", 6}), append(home, rowItem{"Enter", 9})
	case "jis":
		digits = append(digits, writing("IntlYen", "Backspace")...)
		upper, home = append(upper, rowItem{"Enter", 6}), append(home, rowItem{"Backslash", 4}, rowItem{"Enter", 5})
	default:
		digits = append(digits, rowItem{"Backspace", 8})
		upper, home = append(upper, rowItem{"Enter", 6}), append(home, rowItem{"Backslash", 4}, rowItem{"Enter", 5})
	}
	if s.Form == "compact" {
		digits, upper = append(digits, writing("Home")...), append(upper, writing("PageUp")...)
		home = append(home, writing("PageDown")...)
	}
	return [][]rowItem{s.functions(), digits, upper, home, s.lower(), s.bottom()}
}

// The keys beside the main block, from the function keys down, three and four to a row.
var (
	navigation = [][]rowItem{
		writing("PrintScreen", "ScrollLock", "Pause"),
		writing("Insert", "Home", "PageUp"),
		writing("Delete", "End", "PageDown"),
		nil,
		writing("", "ArrowUp"),
		writing("ArrowLeft", "ArrowDown", "ArrowRight"),
	}
	numpad = [][]rowItem{
		nil,
		writing("NumLock", "NumpadDivide", "NumpadMultiply", "NumpadSubtract"),
		writing("Numpad7", "Numpad8", "Numpad9", "NumpadAdd"),
		writing("Numpad4", "Numpad5", "Numpad6"),
		writing("Numpad1", "Numpad2", "Numpad3", "NumpadEnter"),
		append(ofWidth("Numpad0", 8), rowItem{"NumpadDecimal", 4}),
	}
	macNavigation = slices.Concat(
		[][]rowItem{writing("F13", "F14", "F15"), writing("Fn", "Home", "PageUp")}, navigation[2:],
	)
	macNumpad = [][]rowItem{
		writing("F16", "F17", "F18", "F19"),
		writing("NumLock", "NumpadEqual", "NumpadDivide", "NumpadMultiply"),
		writing("Numpad7", "Numpad8", "Numpad9", "NumpadSubtract"),
		writing("Numpad4", "Numpad5", "Numpad6", "NumpadAdd"),
		numpad[4],
		numpad[5],
	}
)

// gap is what lies between two blocks, and between two halves of a board, in quarters.
const gap = 2

// Caps are the keys of a board of a shape, row by row, block by block. What a shape does not say is iso and full.
func (s Shape) Caps() []Cap {
	caps, wide := placed(Main, s.mainRows(), 0)
	if s.Form == "laptop" {
		for i, c := range caps {
			if c.Key.String() == "ArrowDown" {
				caps[i].Half = 2
				above := Cap{Block: Main, Row: c.Row, From: c.From, Width: c.Width, Rows: 1, Half: 1}
				above.Key, _ = keys.ByCode("ArrowUp")
				caps = append(caps, above)
			}
		}
	}
	if s.Split {
		caps, wide = parted(caps), wide+2*gap
	}
	if s.Form == "compact" || s.Form == "laptop" {
		return caps
	}
	beside, pad := navigation, numpad
	if s.Mac {
		beside, pad = macNavigation, macNumpad
	}
	more, wide := placed(Navigation, beside, wide+gap)
	if caps = append(caps, more...); s.Form == "tenkeyless" {
		return caps
	}
	more, _ = placed(NumberPad, pad, wide+gap)
	return append(caps, more...)
}

// placed puts rows where they are, from so many quarters on; wide is where the widest ends.
func placed(block string, rows [][]rowItem, from int) (caps []Cap, wide int) {
	for n, row := range rows {
		at := from
		for _, item := range row {
			if k, ok := keys.ByCode(item.code); ok {
				c := Cap{Key: k, Block: block, Row: n, From: at, Width: item.width, Rows: 1}
				if block == NumberPad &&
					(item.code == "NumpadEnter" || item.code == "NumpadAdd" && len(rows[n+1]) < 4) {
					c.Rows = 2
				}
				caps = append(caps, c)
			}
			at += item.width
		}
		wide = max(wide, at)
	}
	return caps, wide
}

// halves are where the right half of a board begins in each row: at the key of the right index finger.
var halves = []int{26, 24, 26, 27, 29, 0}

// parted is a main block in two halves, each with a part of the space bar.
func parted(caps []Cap) (list []Cap) {
	for _, c := range caps {
		switch end := c.From + c.Width; {
		case c.Key.String() == "Space":
			left := c
			left.Width = c.Width / 2
			c.From, c.Width = c.From+left.Width+2*gap, c.Width-left.Width
			list = append(list, left)
		case c.Row == len(halves)-1 && end > 30, c.Row < len(halves)-1 && c.From >= halves[c.Row]:
			c.From += 2 * gap
		}
		list = append(list, c)
	}
	return list
}
