package machine

import (
	"slices"

	"leitstand/core/keys"
)

// Cap is where a key is on a board, in quarters of the width of a letter's key, and in rows from the top.
type Cap struct {
	Key              keys.Key
	Row, From, Width int
}

// Unit is the width of a letter's key, in quarters.
const Unit = 4

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

var functionRow = slices.Concat(
	writing("Escape", ""), writing("F1", "F2", "F3", "F4"), []rowItem{{"", 2}}, writing("F5", "F6", "F7", "F8"),
	[]rowItem{{"", 2}}, writing("F9", "F10", "F11", "F12"),
)

var bottomRow = []rowItem{
	{"ControlLeft", 5}, {"MetaLeft", 5}, {"AltLeft", 5}, {"Space", 25}, {"AltRight", 5}, {"MetaRight", 5},
	{"ContextMenu", 5}, {"ControlRight", 5},
}

// rows are those of a board of a kind: ansi, iso or jis.
func rows(kind string) [][]rowItem {
	digits := writing("Backquote", "Digit1", "Digit2", "Digit3", "Digit4", "Digit5", "Digit6", "Digit7", "Digit8",
		"Digit9", "Digit0", "Minus", "Equal")
	upper := slices.Concat([]rowItem{{"Tab", 6}}, writing("KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY", "KeyU", "KeyI",
		"KeyO", "KeyP", "BracketLeft", "BracketRight"))
	home := slices.Concat([]rowItem{{"CapsLock", 7}}, writing("KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ",
		"KeyK", "KeyL", "Semicolon", "Quote"))
	lower := writing("KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM", "Comma", "Period", "Slash")
	switch kind {
	case "ansi":
		return [][]rowItem{
			functionRow, append(digits, rowItem{"Backspace", 8}), append(upper, rowItem{"Backslash", 6}),
			append(home, rowItem{"Enter", 9}),
			slices.Concat([]rowItem{{"ShiftLeft", 9}}, lower, []rowItem{{"ShiftRight", 11}}), bottomRow,
		}
	case "jis":
		return [][]rowItem{
			functionRow, append(digits, rowItem{"IntlYen", 4}, rowItem{"Backspace", 4}), append(upper, rowItem{"Enter", 6}),
			append(home, rowItem{"Backslash", 4}, rowItem{"Enter", 5}),
			slices.Concat([]rowItem{{"ShiftLeft", 9}}, lower, []rowItem{{"IntlRo", 4}, {"ShiftRight", 7}}),
			{
				{"ControlLeft", 5}, {"MetaLeft", 4}, {"AltLeft", 5}, {"NonConvert", 4}, {"Space", 14}, {"Convert", 4},
				{"KanaMode", 4}, {"AltRight", 5}, {"MetaRight", 4}, {"ContextMenu", 5}, {"ControlRight", 6},
			},
		}
	}
	return [][]rowItem{
		functionRow, append(digits, rowItem{"Backspace", 8}), append(upper, rowItem{"Enter", 6}),
		append(home, rowItem{"Backslash", 4}, rowItem{"Enter", 5}),
		slices.Concat([]rowItem{{"ShiftLeft", 5}}, writing("IntlBackslash"), lower, []rowItem{{"ShiftRight", 11}}), bottomRow,
	}
}

// Kinds are the kinds of boards by where their keys are.
var Kinds = []string{"ansi", "iso", "jis"}

// MainBlock is where the keys of the main block are, and those above it, of a board of a kind; of any other it is iso.
// A key in two rows stands twice.
func MainBlock(kind string) (caps []Cap) {
	for n, row := range rows(kind) {
		at := 0
		for _, item := range row {
			if k, ok := keys.ByCode(item.code); ok {
				caps = append(caps, Cap{Key: k, Row: n, From: at, Width: item.width})
			}
			at += item.width
		}
	}
	return caps
}
