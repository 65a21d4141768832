package keys

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Mods is a set of modifiers. A modifier with a side is not the same as the bare
// one: Ctrl is either side, CtrlLeft only the left.
type Mods uint16

// The modifiers. Alt is Option on a Mac; Meta is Command there, Super on Linux
// and the Windows key on Windows.
const (
	Ctrl Mods = 1 << iota
	CtrlLeft
	CtrlRight
	Alt
	AltLeft
	AltRight
	Shift
	ShiftLeft
	ShiftRight
	Meta
	MetaLeft
	MetaRight
	AltGr
	Fn
	Hyper
)

// modNames is in the order in which a chord is spelled.
var modNames = []string{
	"Ctrl", "CtrlLeft", "CtrlRight", "Alt", "AltLeft", "AltRight",
	"Shift", "ShiftLeft", "ShiftRight", "Meta", "MetaLeft", "MetaRight",
	"AltGr", "Fn", "Hyper",
}

// Primary stands for the system's main shortcut modifier until a machine is
// known: Meta on macOS and iPadOS, Ctrl elsewhere.
const Primary = "Primary"

// ModNames lists the modifiers as chords spell them.
func ModNames() []string { return slices.Clone(modNames) }

// ModByName finds a modifier by its spelling, without regard to case.
func ModByName(name string) (Mods, bool) {
	for i, n := range modNames {
		if strings.EqualFold(n, name) {
			return 1 << i, true
		}
	}
	return 0, false
}

// ParseMods reads built-in modifiers joined by plus.
func ParseMods(text string) (Mods, error) {
	var mods Mods
	for part := range strings.SplitSeq(text, "+") {
		m, ok := ModByName(strings.TrimSpace(part))
		if !ok {
			return 0, fmt.Errorf("%q is no modifier; they are %s", part, strings.Join(modNames, ", "))
		}
		mods |= m
	}
	return mods, nil
}

// otherMods are names by which other systems, and the caps of a board, call a
// modifier.
var otherMods = map[string]string{
	"control": "Ctrl", "controlleft": "CtrlLeft", "controlright": "CtrlRight", "strg": "Ctrl",
	"option": "Alt", "opt": "Alt", "command": "Meta", "cmd": "Meta", "super": "Meta",
	"win": "Meta", "windows": "Meta", "gui": "Meta", "mod4": "Meta", "mod1": "Alt",
	"umschalt": "Shift", "altgraph": "AltGr", "globe": "Fn",
}

// Has says whether all of the modifiers are in the set.
func (m Mods) Has(o Mods) bool { return m&o == o }

// Names lists the modifiers of the set in the order of a chord's spelling.
func (m Mods) Names() []string {
	var names []string
	for i, n := range modNames {
		if m&(1<<i) != 0 {
			names = append(names, n)
		}
	}
	return names
}

// Chord is a set of modifiers and the one key pressed with them. A chord
// without a key is a modifier alone.
type Chord struct {
	Mods Mods
	Key  Key
}

// String spells the chord, modifiers first: Ctrl+Shift+KeyT.
func (c Chord) String() string {
	if c.Mods == 0 && c.Key != None {
		return c.Key.String()
	}
	return string(c.Append(make([]byte, 0, 32)))
}

// Append spells the chord behind a text.
func (c Chord) Append(text []byte) []byte {
	if c.Mods != 0 {
		for i, n := range modNames {
			if c.Mods&(1<<i) != 0 {
				text = append(append(text, n...), '+')
			}
		}
		if c.Key == None {
			return text[:len(text)-1]
		}
	}
	if c.Key == None {
		return text
	}
	return append(text, c.Key.String()...)
}

// sides groups the bare, left and right form of each modifier that has sides.
var sides = [...]Mods{
	Ctrl | CtrlLeft | CtrlRight,
	Alt | AltLeft | AltRight,
	Shift | ShiftLeft | ShiftRight,
	Meta | MetaLeft | MetaRight,
}

// Overlaps says whether one press can be both chords: the key is the same, and
// no modifier is asked for by one and not by the other, where a bare modifier is
// either side.
func (c Chord) Overlaps(o Chord) bool {
	const sideless = AltGr | Fn | Hyper
	if c.Key != o.Key || (c.Mods^o.Mods)&sideless != 0 {
		return false
	}
	for _, s := range sides {
		a, b := c.Mods&s, o.Mods&s
		if (a == 0) != (b == 0) {
			return false
		}
		bare := s & (Ctrl | Alt | Shift | Meta)
		if a != 0 && a&bare == 0 && b&bare == 0 && a != b {
			return false
		}
	}
	return true
}

// Covers says whether every press that is o is c, too: where c asks for a side, o asks
// for the same.
func (c Chord) Covers(o Chord) bool {
	const bare = Ctrl | Alt | Shift | Meta
	return c.Overlaps(o) &&
		!slices.ContainsFunc(sides[:], func(s Mods) bool { return c.Mods&s&^bare != 0 && c.Mods&s != o.Mods&s })
}

// Spelling is a chord as the user wrote it, before a machine is known: its
// modifiers may be Primary or a name of the user's own, its key a character.
type Spelling struct {
	Mods []string // as written
	Key  Key      // None where Char says the key, or there is none
	Char rune     // 0 where Key says it
}

// String is the chord in its canonical spelling.
func (s Spelling) String() string {
	parts := slices.Clone(s.Mods)
	if s.Char != 0 {
		parts = append(parts, string(s.Char))
	} else if s.Key != None {
		parts = append(parts, s.Key.String())
	}
	return strings.Join(parts, "+")
}

// SpellingError says what is wrong with a chord and what to write instead.
type SpellingError struct {
	Problem string // a sentence without its stop
	Remedy  string // what to do, "" if the problem says it
}

func (e *SpellingError) Error() string { return e.Problem }

// Alone says whether the chord is one modifier and no key.
func (s Spelling) Alone() bool { return s.Key == None && s.Char == 0 }

// sideOf are the modifiers that keys are, on one side.
var sideOf = map[string]string{
	"ControlLeft": "CtrlLeft", "ControlRight": "CtrlRight", "AltLeft": "AltLeft", "AltRight": "AltRight",
	"ShiftLeft": "ShiftLeft", "ShiftRight": "ShiftRight", "MetaLeft": "MetaLeft", "MetaRight": "MetaRight",
}

// ParseStrokes reads a chord, or several pressed one after the other: parted by a
// comma and a space, as in "Hyper+g, t".
func ParseStrokes(text string, own []string, nearest func(string, []string) string) ([]Spelling, error) {
	parts := strings.Split(text, ", ")
	list := make([]Spelling, 0, len(parts))
	for _, part := range parts {
		s, err := ParseChord(part, own, nearest)
		if err != nil {
			return nil, err
		}
		if s.Alone() && len(parts) > 1 {
			return nil, &SpellingError{
				fmt.Sprintf("%s alone cannot be one of several strokes", s),
				"add the key that is pressed with it",
			}
		}
		list = append(list, s)
	}
	return list, nil
}

// ParseChord reads a chord such as Ctrl+Shift+KeyT, Hyper+t or Ctrl++, or one
// modifier alone. What follows the last joining plus is the key. Names in own are accepted as
// modifiers beside the built-in ones and Primary; nearest proposes a known name
// for an unknown one. An error is always a *SpellingError.
func ParseChord(text string, own []string, nearest func(string, []string) string) (Spelling, error) {
	if strings.TrimSpace(text) == "" {
		return Spelling{}, &SpellingError{"the chord is empty", "write modifiers and one key, such as \"Ctrl+Shift+t\""}
	}
	parts, last := strokeParts(text)
	s := Spelling{}
	known := func() []string { return append(append(slices.Clone(modNames), Primary), own...) }
	for _, p := range parts {
		name, err := modifier(strings.TrimSpace(p), known(), nearest)
		if err != nil {
			return Spelling{}, err
		}
		if slices.Contains(s.Mods, name) {
			return Spelling{}, &SpellingError{
				fmt.Sprintf("%s stands twice in the chord", name),
				"name each modifier once",
			}
		}
		s.Mods = append(s.Mods, name)
	}
	last = strings.TrimSpace(last)
	if last == "" {
		return Spelling{}, &SpellingError{
			"no key follows the last plus",
			"add the key; for the plus key itself write a second plus",
		}
	}
	if utf8.RuneCountInString(last) == 1 {
		s.Char, _ = utf8.DecodeRuneInString(last)
		if !unicode.IsGraphic(s.Char) {
			return Spelling{}, &SpellingError{
				fmt.Sprintf("no key types the character %U", s.Char),
				"write the key's code, such as \"Escape\" or \"Backspace\"",
			}
		}
		return s, nil
	}
	if k, ok := ByCode(last); ok {
		if side, ok := sideOf[k.String()]; ok && len(s.Mods) == 0 { // pressed and let go alone
			s.Mods = []string{side}
			return s, nil
		}
		s.Key = k
		return s, nil
	}
	if name, err := modifier(last, known(), nil); err == nil {
		s.Mods = append(s.Mods, name)
		return s, onlyModifiers(s.Mods)
	}
	if fixed, ok := joinedByHyphens(text, known()); ok {
		return Spelling{}, &SpellingError{
			fmt.Sprintf("%q is joined by hyphens", text),
			fmt.Sprintf("join modifiers and key by plus: %q", fixed),
		}
	}
	return Spelling{}, &SpellingError{fmt.Sprintf("%q is no key", last), KeyAdvice(last, nearest)}
}

// strokeParts are the modifiers of a chord and what follows the last plus.
func strokeParts(text string) (mods []string, last string) {
	rest, last := "", text
	switch {
	case text == "+" || strings.HasSuffix(text, "++"):
		rest, last = strings.TrimSuffix(strings.TrimSuffix(text, "+"), "+"), "+"
	default:
		if i := strings.LastIndex(text, "+"); i >= 0 {
			rest, last = text[:i], text[i+1:]
		}
	}
	if rest != "" {
		mods = strings.Split(rest, "+")
	}
	return mods, last
}

// onlyModifiers refuses a chord of several modifiers and no key.
func onlyModifiers(mods []string) error {
	if len(mods) == 1 {
		return nil
	}
	return &SpellingError{
		fmt.Sprintf("the chord has only modifiers (%s) and no key", strings.Join(mods, ", ")),
		fmt.Sprintf(
			"add the key that is pressed with them, such as \"%s+t\"; one modifier alone may stand by itself",
			strings.Join(mods, "+"),
		),
	}
}

// joinedByHyphens spells a chord by plus that is joined by hyphens.
func joinedByHyphens(text string, known []string) (string, bool) {
	parts := strings.Split(text, "-")
	for i, p := range parts[:len(parts)-1] {
		if other, ok := otherMods[strings.ToLower(p)]; ok {
			parts[i] = other
		} else if name, err := modifier(p, known, nil); err == nil {
			parts[i] = name
		} else {
			return "", false
		}
	}
	return strings.Join(parts, "+"), len(parts) > 1 && parts[len(parts)-1] != ""
}

func modifier(name string, known []string, nearest func(string, []string) string) (string, error) {
	for _, k := range known {
		if strings.EqualFold(k, name) {
			return k, nil
		}
	}
	if other, ok := otherMods[strings.ToLower(name)]; ok {
		return "", &SpellingError{fmt.Sprintf("%q is no modifier here", name), fmt.Sprintf("write %q", other)}
	}
	if _, ok := ByCode(name); ok || utf8.RuneCountInString(name) == 1 {
		return "", &SpellingError{
			fmt.Sprintf("%q is a key, and a chord has only one, at its end", name),
			"put modifiers before the plus: " + strings.Join(modNames, ", "),
		}
	}
	advice := "the modifiers are Ctrl, Alt, Shift, Meta, AltGr, Fn, Hyper, Primary, or one side as in CtrlLeft"
	if nearest != nil {
		if n := nearest(name, known); n != "" {
			advice = fmt.Sprintf("did you mean %q?", n)
		}
	}
	return "", &SpellingError{fmt.Sprintf("%q is no modifier", name), advice}
}

// otherKeys are names by which people call a key whose code is another.
var otherKeys = map[string]string{
	"esc": "Escape", "return": "Enter", "del": "Delete", "ins": "Insert", "caps": "CapsLock",
	"pgup": "PageUp", "pgdn": "PageDown", "left": "ArrowLeft", "right": "ArrowRight", "up": "ArrowUp",
	"down": "ArrowDown", "menu": "ContextMenu", "apps": "ContextMenu", "print": "PrintScreen",
	"lctrl": "ControlLeft", "rctrl": "ControlRight", "ctrlleft": "ControlLeft", "ctrlright": "ControlRight",
	"ctrl": "ControlLeft", "control": "ControlLeft", "alt": "AltLeft", "option": "AltLeft", "altgr": "AltRight",
	"shift": "ShiftLeft", "meta": "MetaLeft", "super": "MetaLeft", "win": "MetaLeft", "cmd": "MetaLeft",
	"command": "MetaLeft", "superleft": "MetaLeft", "superright": "MetaRight", "winleft": "MetaLeft",
	"winright": "MetaRight", "commandleft": "MetaLeft", "commandright": "MetaRight", "optionleft": "AltLeft",
	"optionright": "AltRight", "globe": "Fn", "spacebar": "Space", "volumeup": "AudioVolumeUp",
	"volumedown": "AudioVolumeDown", "mute": "AudioVolumeMute", "play": "MediaPlayPause", "grave": "Backquote",
	"altgraph": "AltRight", "iso": "IntlBackslash", "capslock": "CapsLock", "apostrophe": "Quote", "hyphen": "Minus",
	"dot": "Period", "kpenter": "NumpadEnter",
}

// KeyAdvice proposes what to write where name is no key.
func KeyAdvice(name string, nearest func(string, []string) string) string {
	low := strings.ToLower(name)
	if strings.TrimSpace(name) == "" {
		return "write the code of a key, such as \"Escape\"; `leitstand keys` lists them"
	}
	if k, ok := otherKeys[low]; ok {
		return fmt.Sprintf("write %q", k)
	}
	if r, n := utf8.DecodeRuneInString(name); n == len(name) {
		switch {
		case r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z':
			return fmt.Sprintf(
				"a position has a code: write %q for the key a US board calls %s", "Key"+strings.ToUpper(name),
				strings.ToUpper(name),
			)
		case r >= '0' && r <= '9':
			return fmt.Sprintf("a position has a code: write %q", "Digit"+name)
		}
		us, _ := FindLayout("us")
		if p, ok := us.FindExact(r); ok {
			return fmt.Sprintf("a position has a code: the key that types %c on a US board is %q", r, p.Key.String())
		}
		return fmt.Sprintf("a position has a code: `leitstand keys %c` finds it under your layouts", r)
	}
	if nearest != nil {
		if n := nearest(name, Codes()); n != "" {
			return fmt.Sprintf("did you mean %q?", n)
		}
	}
	return "`leitstand keys WORD` finds the code of a key"
}
