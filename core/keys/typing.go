package keys

import (
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// Typist is a layout as a machine with a state: what is typed depends on what was pressed
// before.
type Typist interface {
	// Type presses a key with modifiers held. The text is what comes of it at once, and the
	// state what the next press finds.
	Type(s TypeState, k Key, held Mods) (text string, next TypeState)
}

// TypeState is what a layout remembers between two presses. The zero value is that after
// log-in.
type TypeState struct {
	CapsLock bool
	NumLock  bool
	Accents  string // of the dead keys that wait for a character, each as the character it bears
	Waits    string // a state of a layout file that waits for a key, by its name there
	Layer    bool   // a key is held that is a modifier of a layout's own
}

// combining are the accents of dead keys as marks that join the character before them.
// (Unicode Standard, Combining Diacritical Marks.)
var combining = map[rune]rune{
	'^': 0x302, '´': 0x301, '`': 0x300, '~': 0x303, '¨': 0x308, '¸': 0x327, '°': 0x30A, 'ˇ': 0x30C, '˘': 0x306, '˛': 0x328, '¯': 0x304, '˝': 0x30B,
}

// Type presses a key: Shift, AltGr and CapsLock choose one of its characters, dead keys wait for
// the next one and join it by Unicode's composition, or stand before it where the two do not
// join; before a blank, an accent stands by itself. Chords type nothing and leave the state.
func (l *Layout) Type(s TypeState, k Key, held Mods) (string, TypeState) {
	if k.String() == "CapsLock" && l.isCapsLock(k) {
		s.CapsLock = !s.CapsLock
		return "", s
	}
	third := l.thirdMods()
	if rest := held &^ (Shift | ShiftLeft | ShiftRight | third); rest != 0 {
		return "", s
	}
	level := 0
	if held&(Shift|ShiftLeft|ShiftRight) != 0 {
		level++
	}
	if held&third != 0 {
		level += 2
	}
	sym, ok := l.Symbols(k)
	locked := ok && s.CapsLock && strings.Contains(sym.Type, "ALPHABETIC") &&
		(level < 2 || !strings.Contains(sym.Type, "SEMI"))
	if locked && l.Own() { // dead keys as well
		level ^= 1
	}
	if !ok || level >= len(sym.Level) {
		return "", s
	}
	if accent, dead := deadRune(sym.Level[level]); dead {
		waiting := s.Accents
		switch {
		case l.third == Alt: // a Mac's layouts keep one only, and type the one before
			s.Accents = string(accent)
			return l.alone([]rune(waiting)), s
		case l.joins && waiting != "": // those of Windows type both
			s.Accents = ""
			if r, ok := l.Result(waiting, l.stands(accent)); ok {
				return string(r), s
			}
			return l.alone([]rune(waiting + string(accent))), s
		}
		s.Accents += string(accent)
		return "", s
	}
	types := l.Characters(k)
	if level >= len(types) || types[level] == 0 {
		return "", s
	}
	if locked && !l.Own() {
		if level ^= 1; l.third == Alt { // with Shift it is a capital as well
			level |= 1
		}
		if level >= len(types) || types[level] == 0 {
			return "", s
		}
	}
	return l.Finish(s, string(types[level]))
}

// Finish is what comes of a text in a state: accents that wait join one character, and stand before
// several.
func (l *Layout) Finish(s TypeState, text string) (string, TypeState) {
	if s.Accents == "" {
		return text, s
	}
	accents := []rune(s.Accents)
	s.Accents = ""
	if r := []rune(text); len(r) == 1 {
		return l.join(accents, r[0]), s
	}
	return l.alone(accents) + text, s
}

// isCapsLock says whether the key locks capitals under the layout.
func (l *Layout) isCapsLock(k Key) bool {
	s, ok := l.Symbols(k)
	return ok && s.Level[0] == "Caps_Lock"
}

// join puts accents on a character.
func (l *Layout) join(accents []rune, r rune) string {
	if l.Own() && len(accents) == 1 {
		if joined, ok := l.Result(string(accents), r); ok {
			return string(joined)
		}
		return l.alone(accents) + string(r)
	}
	if r == ' ' {
		return l.alone(accents)
	}
	if joined := composed(accents, r); joined != "" {
		return joined
	}
	if l.joins { // the system types what does not join, one behind the other
		return l.alone(accents) + string(r)
	}
	return "" // X11's sequences have no such one
}

// compositions are the results of single accents by letter, which are asked for again and again; "" for none.
var compositions sync.Map

// composed is the character that a letter makes with accents, "" where there is none.
func composed(accents []rune, r rune) string {
	if !unicode.IsLetter(r) {
		return ""
	}
	single := [2]rune{accents[0], r}
	if known, ok := compositions.Load(single); ok && len(accents) == 1 {
		return known.(string)
	}
	marks := string(r)
	for _, a := range accents {
		marks += string(combining[a])
	}
	joined := norm.NFC.String(marks)
	if utf8.RuneCountInString(joined) != 1 {
		joined = ""
	}
	if len(accents) == 1 {
		compositions.Store(single, joined)
	}
	return joined
}

// stands is the character that an accent is by itself.
func (l *Layout) stands(accent rune) rune {
	if own, ok := l.spacing[accent]; ok {
		return own
	}
	return accent
}

// alone is how accents stand by themselves.
func (l *Layout) alone(accents []rune) string {
	text := ""
	for _, a := range accents {
		text += string(l.stands(a))
	}
	return text
}

// thirdMods are the modifiers that lead to a key's third character: AltGr, or either Option key
// of a Mac.
func (l *Layout) thirdMods() Mods {
	if l.third == Alt {
		return Alt | AltLeft | AltRight | AltGr
	}
	return AltGr
}

// TypesWith says whether a key types something, or waits, with modifiers held.
func (l *Layout) TypesWith(held Mods) bool {
	for _, k := range All() {
		if text, next := l.Type(TypeState{}, k, held); text != "" || next.Accents != "" {
			return true
		}
	}
	return false
}
