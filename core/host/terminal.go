package host

import (
	"bufio"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"leitstand/core/keys"
)

// The words by which a terminal is asked to report keys, each press and release as a sequence with the character of the
// place on the board, and to stop; what it does not know it leaves alone. (ECMA-48, the sequences CSI … u as terminals
// have agreed on them: disambiguate, event types, alternate keys, all keys.)
const (
	// AskTerminal asks which of this it does, then what it is, which every terminal answers.
	AskTerminal   = "\x1b[>15u\x1b[?u\x1b[c"
	LeaveTerminal = "\x1b[<u"
)

// Reported is a key that a terminal reports, as programs get it: what a driver or a desktop makes of it has been done.
type Reported struct {
	Key  keys.Key // keys.None where it cannot be told
	Text string   // the character that the key bears, "" for none
	// Place says that the terminal tells the place on the board, and not just the character.
	Place bool
}

// ReadTerminal reads what a terminal sends after AskTerminal, and hands on each key that goes down until it ends or nobody
// wants more. Reports is false for a terminal that reports no keys. Ctrl+C ends it. Name finds the key that types a
// character, where the terminal tells no place.
func ReadTerminal(r io.Reader, name func(rune) (keys.Key, bool), key func(Reported) bool) (reports bool, err error) {
	in := bufio.NewReader(r)
	for {
		b, err := in.ReadByte()
		if err != nil {
			return reports, err
		}
		if b == 3 { // a terminal that reports no keys sends this for Ctrl+C
			return reports, nil
		}
		if b != 0x1b {
			continue
		}
		if b, err = in.ReadByte(); err != nil || b != '[' {
			continue
		}
		parameters, final, err := sequence(in)
		if err != nil {
			return reports, err
		}
		switch {
		case final == 'u' && strings.HasPrefix(parameters, "?"):
			reports = true
			continue
		case final == 'c':
			if !reports {
				return false, nil
			}
			continue
		}
		report, mods, down := reported(parameters, final, name)
		if report.Text == "c" && mods&4 != 0 {
			return reports, nil
		}
		if down && !key(report) {
			return reports, nil
		}
	}
}

// longest is how long a sequence may be.
const longest = 64

// sequence reads the rest of a control sequence.
func sequence(in *bufio.Reader) (parameters string, final byte, err error) {
	var w strings.Builder
	for w.Len() < longest {
		b, err := in.ReadByte()
		if err != nil {
			return "", 0, err
		}
		if b >= 0x40 && b <= 0x7e {
			return w.String(), b, nil
		}
		w.WriteByte(b)
	}
	return "", 0, nil
}

// reported reads a report: the key with its alternates, the modifiers and what happened, the text.
func reported(parameters string, final byte, name func(rune) (keys.Key, bool)) (r Reported, mods int, down bool) {
	fields := strings.Split(parameters, ";")
	part := func(field, at int) int {
		if field >= len(fields) {
			return 0
		}
		parts := strings.Split(fields[field], ":")
		if at >= len(parts) {
			return 0
		}
		n, err := strconv.Atoi(parts[at])
		if err != nil || n < 0 {
			return 0
		}
		return n
	}
	const pressed, released = 1, 3
	if mods = part(1, 0) - 1; mods < 0 {
		mods = 0
	}
	happened := part(1, 1)
	down = happened == 0 || happened == pressed
	code, place := part(0, 0), part(0, 2)
	switch final {
	case 'u':
		if code >= ' ' && code <= utf8.MaxRune && (code < 57344 || code > 63743) {
			r.Text = string(rune(code))
		}
		if place == 0 {
			place = code
		} else {
			r.Place = true
		}
		switch k, ok := functional[place]; {
		case ok:
			r.Key, _ = keys.ByCode(k)
			r.Place, r.Text = true, ""
		case r.Place:
			r.Key = onPlain(rune(place))
		default:
			if k, ok := name(rune(code)); ok {
				r.Key = k
			}
		}
	case '~':
		r.Key, r.Place = numbered(tilde, code), true
	default:
		k, _ := keys.ByCode(lettered[final])
		r.Key, r.Place = k, true
	}
	return r, mods, down && (r.Key != keys.None || r.Text != "")
}

// onPlain is the key on which a character lies on the plain board by which terminals tell places.
func onPlain(r rune) keys.Key {
	if layout, ok := keys.FindLayout("us"); ok {
		if p, ok := layout.Find(r); ok {
			return p.Key
		}
	}
	return keys.None
}

func numbered(list map[int]string, code int) keys.Key {
	k, _ := keys.ByCode(list[code])
	return k
}

// The keys without a character, by the numbers and letters of their sequences.
var (
	lettered = map[byte]string{
		'A': "ArrowUp", 'B': "ArrowDown", 'C': "ArrowRight", 'D': "ArrowLeft", 'E': "Numpad5", 'F': "End", 'H': "Home",
		'P': "F1", 'Q': "F2", 'R': "F3", 'S': "F4",
	}
	tilde = map[int]string{
		2: "Insert", 3: "Delete", 5: "PageUp", 6: "PageDown", 7: "Home", 8: "End", 11: "F1", 12: "F2", 13: "F3", 14: "F4",
		15: "F5", 17: "F6", 18: "F7", 19: "F8", 20: "F9", 21: "F10", 23: "F11", 24: "F12",
	}
	functional = terminalKeys()
)

// terminalKeys are the numbers that terminals give to keys, those of a row one after the other.
func terminalKeys() map[int]string {
	list := map[int]string{9: "Tab", 13: "Enter", 27: "Escape", 32: "Space", 127: "Backspace"}
	row := func(from int, codes ...string) {
		for i, code := range codes {
			list[from+i] = code
		}
	}
	row(57358, "CapsLock", "ScrollLock", "NumLock", "PrintScreen", "Pause", "ContextMenu")
	for i := range 12 {
		list[57376+i] = "F" + strconv.Itoa(13+i)
	}
	for i := range 10 {
		list[57399+i] = "Numpad" + strconv.Itoa(i)
	}
	row(57409, "NumpadDecimal", "NumpadDivide", "NumpadMultiply", "NumpadSubtract", "NumpadAdd", "NumpadEnter",
		"NumpadEqual", "NumpadComma", "Numpad4", "Numpad6", "Numpad8", "Numpad2", "Numpad9", "Numpad3", "Numpad7", "Numpad1",
		"Numpad0", "NumpadDecimal", "Numpad5")
	row(57428, "MediaPlay", "MediaPause", "MediaPlayPause")
	row(57432, "MediaStop", "MediaFastForward", "MediaRewind", "MediaTrackNext", "MediaTrackPrevious", "MediaRecord",
		"AudioVolumeDown", "AudioVolumeUp", "AudioVolumeMute", "ShiftLeft", "ControlLeft", "AltLeft", "MetaLeft")
	row(57447, "ShiftRight", "ControlRight", "AltRight", "MetaRight")
	list[57453] = "AltRight"
	return list
}
