package keys

import (
	_ "embed"
	"slices"
	"strings"
	"sync"
	"unicode"
)

//go:generate go run ./gen data

//go:embed data/layouts.txt
var layoutData string

// Symbols is what one key types: an XKB key type and a keysym for each of its
// levels.
type Symbols struct {
	Type  string
	Level []string
}

// Equal says whether both name the same type and keysyms.
func (s Symbols) Equal(o Symbols) bool { return s.Type == o.Type && slices.Equal(s.Level, o.Level) }

// Layout is what the keys of a board type under one XKB layout.
type Layout struct {
	Name string
	own  map[Key]Symbols // what differs from us
	us   *Layout
	// defines is the keys that the layout gives a group of its own where it is
	// not the first of a keymap.
	defines map[Key]bool
	giving  func() [2]map[string][]Key
}

// Defines says whether a keymap with another layout before this one has a group
// of the key for it. Where it has none, the key is as under the first.
func (l *Layout) Defines(k Key) bool { return l.defines[k] }

// Symbols returns what the key types, with ok false for a key the layout
// leaves without a meaning.
func (l *Layout) Symbols(k Key) (Symbols, bool) {
	if s, ok := l.own[k]; ok {
		return s, s.Type != ""
	}
	if l.us != nil {
		return l.us.Symbols(k)
	}
	return Symbols{}, false
}

// Giving lists the keys that give a keysym plain (level 0) or with Shift (level 1),
// in the order of the key table.
func (l *Layout) Giving(keysym string, level int) []Key { return l.giving()[level][keysym] }

func (l *Layout) indexKeysyms() [2]map[string][]Key {
	found := [2]map[string][]Key{{}, {}}
	for _, k := range All() {
		s, ok := l.Symbols(k)
		for level := 0; ok && level < min(2, len(s.Level)); level++ {
			name := s.Level[level]
			found[level][name] = append(found[level][name], k)
		}
	}
	return found
}

// layoutText finds each layout's lines; they are parsed when asked for, since a
// run needs one or two of about a hundred.
var layoutText = sync.OnceValue(func() map[string]string {
	found := map[string]string{}
	for part := range strings.SplitSeq(layoutData, "\nlayout ") {
		name, text, _ := strings.Cut(part, "\n")
		found[name] = text
	}
	return found
})

// Warm parses the embedded data, which otherwise waits until it is asked for. A
// program that will ask can have it done beside its other work.
func Warm() {
	indexed()
	keysyms()
	layoutText()
	for _, name := range []string{"us", "de"} {
		FindLayout(name)
	}
	runeKeysyms()
}

var (
	layoutMu    sync.Mutex
	layoutCache = map[string]*Layout{}
)

// FindLayout returns a layout by its XKB name, a variant in parentheses:
// "de" or "de(nodeadkeys)".
func FindLayout(name string) (*Layout, bool) {
	layoutMu.Lock()
	defer layoutMu.Unlock()
	return findLayout(name)
}

func findLayout(name string) (*Layout, bool) {
	if l, ok := layoutCache[name]; ok {
		return l, true
	}
	text, ok := layoutText()[name]
	if !ok || strings.HasPrefix(name, "#") {
		return nil, false
	}
	l := &Layout{Name: name, own: map[Key]Symbols{}, defines: map[Key]bool{}}
	l.giving = sync.OnceValue(l.indexKeysyms)
	if name != "us" {
		l.us, _ = findLayout("us")
	}
	for line := range strings.Lines(text) {
		f := strings.Fields(line)
		if len(f) < 2 {
			continue
		}
		if f[0] == "defines" {
			for _, name := range f[1:] {
				if k, ok := ByXKB(name); ok {
					l.defines[k] = true
				}
			}
			continue
		}
		k, ok := ByXKB(f[0])
		if ok && f[1] == "-" {
			l.own[k] = Symbols{}
		} else if ok {
			l.own[k] = Symbols{Type: f[1], Level: f[2:]}
		}
	}
	layoutCache[name] = l
	return l, true
}

// LayoutNames lists the layouts we carry, in alphabetical order.
func LayoutNames() []string {
	var names []string
	for name := range layoutText() {
		if !strings.HasPrefix(name, "#") {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// SplitLayout parts "de(nodeadkeys)" into layout and variant.
func SplitLayout(name string) (layout, variant string) {
	layout, variant, _ = strings.Cut(name, "(")
	return layout, strings.TrimSuffix(variant, ")")
}

// Place is where a layout has a character: the key, and the modifiers that
// must be held for it.
type Place struct {
	Key  Key
	Mods Mods
}

// levelMods is what must be held for each level of the stock key types that
// layouts use for characters.
var levelMods = [...]Mods{0, Shift, AltGr, Shift | AltGr}

// Find returns the key that types the character, plain if it can be had plain,
// else by the fewest modifiers. A letter is found by either case; a dead key
// counts as the accent it bears.
func (l *Layout) Find(r rune) (Place, bool) {
	want := unicode.ToLower(r)
	for _, dead := range []bool{false, true} {
		for level, mods := range levelMods {
			for _, k := range All() {
				if k.Section() != Writing && k.String() != "Space" {
					continue
				}
				s, ok := l.Symbols(k)
				if !ok || level >= len(s.Level) {
					continue
				}
				c, ok := KeysymRune(s.Level[level])
				if dead {
					c, ok = deadRune(s.Level[level])
				}
				if ok && unicode.ToLower(c) == want {
					return Place{k, mods}, true
				}
			}
		}
	}
	return Place{}, false
}

// FindExact returns the key that types just this character, case and all, by the
// fewest modifiers; a dead key types none.
func (l *Layout) FindExact(r rune) (Place, bool) {
	for level, mods := range levelMods {
		for _, k := range All() {
			if k.Section() != Writing && k.String() != "Space" {
				continue
			}
			s, ok := l.Symbols(k)
			if !ok || level >= len(s.Level) {
				continue
			}
			if c, ok := KeysymRune(s.Level[level]); ok && c == r {
				return Place{k, mods}, true
			}
		}
	}
	return Place{}, false
}

// Cap is what the cap of a key is likely to say under the layout: the capital of
// its letter or its plain character, otherwise the key's code.
func (l *Layout) Cap(k Key) string {
	s, ok := l.Symbols(k)
	if !ok || k.Section() != Writing {
		return k.String()
	}
	r, ok := KeysymRune(s.Level[0])
	if !ok {
		if r, ok = deadRune(s.Level[0]); !ok {
			return k.String()
		}
	}
	if unicode.ToLower(unicode.ToUpper(r)) == r {
		r = unicode.ToUpper(r)
	}
	return string(r)
}

// Latin says whether the layout types the letters a to z plain, so that chords
// can be spelled with them.
func (l *Layout) Latin() bool {
	p, ok := l.Find('a')
	return ok && p.Mods == 0
}

// AutomaticType is the key type XKB gives to a key that names none, by the rule
// of the X Keyboard Extension's "automatic types".
func AutomaticType(syms []string) string {
	pair := func(i int) bool {
		if i+1 >= len(syms) {
			return false
		}
		up, ok := KeysymRune(syms[i+1])
		return Capital(syms[i]) != syms[i] && ok && unicode.ToLower(up) != up
	}
	keypad := slices.ContainsFunc(syms[:min(2, len(syms))], func(s string) bool { return strings.HasPrefix(s, "KP_") })
	switch {
	case len(syms) < 2:
		return "ONE_LEVEL"
	case len(syms) == 2 && pair(0):
		return "ALPHABETIC"
	case len(syms) == 2 && keypad:
		return "KEYPAD"
	case len(syms) == 2:
		return "TWO_LEVEL"
	case pair(0) && pair(2):
		return "FOUR_LEVEL_ALPHABETIC"
	case pair(0):
		return "FOUR_LEVEL_SEMIALPHABETIC"
	case keypad:
		return "FOUR_LEVEL_KEYPAD"
	default:
		return "FOUR_LEVEL"
	}
}
