package keys

import (
	_ "embed"
	"strconv"
	"strings"
)

// What keys type on macOS and Windows, as measured there; NOTICE names the source. Dead keys of
// Windows are not recorded: where XKB's layout of the name has one of that accent on that key, it
// is taken for one.
//
//go:embed data/systems.txt
var systemData string

// The systems whose layouts are not XKB's.
const (
	LayoutsOfMac     = "macos"
	LayoutsOfWindows = "windows"
)

// FindLayoutOn returns a layout by its XKB name as a system has it: XKB's characters where
// the system is none of those with layouts of their own. Known is false where the system has its
// own, and what they type is not in our list.
func FindLayoutOn(system, name string) (l *Layout, known, ok bool) {
	layoutMu.Lock()
	defer layoutMu.Unlock()
	base, ok := findLayout(name)
	if !ok || system != LayoutsOfMac && system != LayoutsOfWindows {
		return base, ok, ok
	}
	id := system + " " + name
	_, after, known := strings.Cut(systemData, "\nlayout "+id+" ")
	if l, cached := layoutCache[id]; cached {
		return l, known, true
	}
	l = &Layout{
		Name:    name,
		ID:      id,
		keys:    base.keys,
		third:   AltGr,
		joins:   true,
		virtual: map[Key]string{},
		spacing: map[rune]rune{},
		keypad:  map[Key]string{},
	}
	if system == LayoutsOfMac {
		l.third = Alt
		for name, typed := range map[string]string{"NumpadSubtract": "----", "NumpadComma": ",,,,"} {
			k, _ := ByCode(name)
			l.keypad[k] = typed // under all of them
		}
	}
	text, _, _ := strings.Cut(after, "\n\n")
	if known {
		l.SystemName, text, _ = strings.Cut(text, "\n")
	}
	for line := range strings.Lines(text) {
		f := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		if k, ok := ByCode(boardKey(system, name, f[0])); ok && len(f) > 2 {
			if k.Section() == Numpad {
				l.keypad[k] = f[1]
			} else {
				l.set(k, base, f[1], f[2])
			}
			if len(f) > 3 {
				l.virtual[k] = f[3]
			}
		}
	}
	if system == LayoutsOfWindows {
		l.addWindowsFacts()
	}
	l.index()
	layoutCache[id] = l
	return l, known, true
}

// NamedByWindows is the XKB name of the layout that Windows knows by a number of eight hexadecimal digits.
func NamedByWindows(number string) (name string, ok bool) {
	of := "\nlayout " + LayoutsOfWindows + " "
	before, _, ok := strings.Cut(systemData, " "+strings.ToUpper(number)+"\n")
	if at := strings.LastIndex(before, of); ok && at >= 0 {
		name = before[at+len(of):]
	}
	return name, name != "" && !strings.ContainsAny(name, " \n")
}

// ansi are the layouts of macOS that are printed on boards of the ANSI shape. The others are for
// ISO boards, on which the system exchanges the keycodes of two keys.
var ansi = map[string]bool{"us": true, "us(dvorak)": true, "us(intl)": true, "jp": true, "br": true}

// boardKey is the key of the board for the key of a keycode.
func boardKey(system, layout, code string) string {
	switch {
	case system != LayoutsOfMac || ansi[layout]:
	case code == "Backquote":
		return "IntlBackslash"
	case code == "IntlBackslash":
		return "Backquote"
	}
	return code
}

// MacCode is the virtual keycode by which a Mac's layouts know a key: on the boards that a layout is printed
// on, of which those of the ISO shape exchange two.
func (l *Layout) MacCode(k Key) (code int, ok bool) {
	if other, swapped := ByCode(boardKey(LayoutsOfMac, l.Name, k.String())); swapped {
		k = other
	}
	return k.Mac()
}

// set gives a key the characters of its four levels, dead keys by their bits.
func (l *Layout) set(k Key, base *Layout, typed, bits string) {
	dead, recorded := strconv.Atoi(bits)
	var syms []string
	var chars strings.Builder
	for level, r := range []rune(typed) {
		sym, char := "NoSymbol", noCharacter
		if r != noCharacter {
			sym, char = numberKeysym(r), r
		}
		accent, _ := deadKeysym(r)
		is := dead&(1<<level) != 0
		if s, ok := base.Symbols(k); recorded != nil && ok && level < len(s.Level) {
			is = accent != "" && s.Level[level] == accent
		}
		if is && accent != "" {
			sym, char = accent, noCharacter
			l.spacing[deadKeys[accent]] = r
		}
		syms = append(syms, sym)
		chars.WriteRune(char)
	}
	for len(syms) > 1 && syms[len(syms)-1] == "NoSymbol" {
		syms = syms[:len(syms)-1]
	}
	l.keys[k].Symbols, l.keys[k].has = Symbols{AutomaticType(syms), syms}, true
	l.keys[k].typed = string([]rune(chars.String())[:len(syms)])
}

// numberKeysym is a keysym that types a character: a letter's or a digit's own, and else that of
// its number, so that no list of names need be searched.
func numberKeysym(r rune) string {
	if r >= '0' && r <= '9' || r|0x20 >= 'a' && r|0x20 <= 'z' {
		return string(r)
	}
	text := strings.ToUpper(strconv.FormatInt(int64(r), 16))
	return "U" + strings.Repeat("0", max(0, 4-len(text))) + text
}

// VirtualKey is the name of the key's virtual key under a layout of Windows, without its VK_; ""
// where that is not known.
func (l *Layout) VirtualKey(k Key) string { return l.virtual[k] }

// virtualCodes are the numbers of virtual keys that are no letter and no digit. (winuser.h)
var virtualCodes = map[string]byte{
	"SPACE": 0x20, "MULTIPLY": 0x6A, "ADD": 0x6B, "SUBTRACT": 0x6D, "DIVIDE": 0x6F, "OEM_1": 0xBA, "OEM_PLUS": 0xBB,
	"OEM_COMMA": 0xBC, "OEM_MINUS": 0xBD, "OEM_PERIOD": 0xBE, "OEM_2": 0xBF, "OEM_3": 0xC0, "ABNT_C1": 0xC1,
	"ABNT_C2": 0xC2, "OEM_4": 0xDB, "OEM_5": 0xDC, "OEM_6": 0xDD, "OEM_7": 0xDE, "OEM_8": 0xDF, "OEM_102": 0xE2,
}

// VirtualCode is the number of the key's virtual key under a layout of Windows. Of a layout whose virtual keys
// are not known, those of letters follow what they type, and the others are where they are under the US
// layout; the signs' are not known then.
func (l *Layout) VirtualCode(k Key) (code byte, ok bool) {
	name := l.virtual[k]
	if len(name) == 1 {
		return name[0], true
	} else if name != "" {
		code, ok = virtualCodes[name]
		return code, ok
	}
	us, ok := k.VK()
	if k.Section() != Writing || strings.HasPrefix(k.String(), "Digit") {
		return byte(us), ok
	}
	s, has := l.Symbols(k)
	if !has || len(s.Level[0]) != 1 || s.Level[0][0] < 'a' || s.Level[0][0] > 'z' {
		return 0, false
	}
	return s.Level[0][0] - 'a' + 'A', true
}

// deadKeysym is the dead key of an accent, which a system may write by another character of
// the same look.
func deadKeysym(r rune) (string, bool) {
	switch r {
	case 'ˆ':
		r = '^'
	case '˜':
		r = '~'
	case '˚':
		r = '°'
	case '\'':
		r = '´'
	case '"':
		r = '¨'
	}
	name, ok := accents[r]
	return name, ok
}

// accents are the dead keys by what they bear.
var accents = func() map[rune]string {
	found := make(map[rune]string, len(deadKeys))
	for name, accent := range deadKeys {
		found[accent] = name
	}
	return found
}()
