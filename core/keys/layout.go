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

// Layout is what the keys of a board type under one layout: XKB's, or a system's own of
// that name.
type Layout struct {
	Name  string
	ID    string            // the name, and those of the options it is with
	Extra Extra             // what options add that keysyms do not say
	third Mods              // leads to the third character; 0 for AltGr
	joins bool              // what no accent joins is typed behind it
	keys  [1 << 8]layoutKey // by Key
	// behind is what keys are otherwise where the layout is not the first of a keymap.
	behind map[Key]Symbols
	// characters is what the keys type and where, giving which keys give a keysym.
	characters func() *characters
	giving     func() [2]givers
	latin      func() bool
	virtual    map[Key]string // the virtual key of Windows
	// SystemName is the system's own name of the layout where it is one of a system's: its number on Windows.
	SystemName string
	spacing    map[rune]rune // how an accent stands by itself, where that is another character
	// Of a layout that was read of a library of Windows: what accents make of characters, nil for Unicode's
	// composition.
	results map[[2]rune]rune
	names   [2]map[byte]string // of keys, as KeyNames has them
	// Of a layout of Windows: what keys but letters type with Ctrl, and the decimal sign of the keypad, 0 where that is
	// not on record.
	control map[Key]rune
	decimal rune
	keypad  map[Key]string // what keys of the numeric keypad type under a layout of macOS or Windows
}

type layoutKey struct {
	Symbols
	has   bool   // the layout gives the key a meaning
	typed string // the character of each level, none for none; "" for keysyms to be asked
	// defines: the layout gives the key a group of its own where it is not the first
	// of a keymap.
	defines bool
}

// Defines says whether a keymap with another layout before this one has a group
// of the key for it. Where it has none, the key is as under the first.
func (l *Layout) Defines(k Key) bool { return l.keys[k].defines }

// Symbols returns what the key types, with ok false for a key the layout
// leaves without a meaning.
func (l *Layout) Symbols(k Key) (Symbols, bool) { return l.keys[k].Symbols, l.keys[k].has }

// SymbolsIn is Symbols in a group of a keymap, from 0.
func (l *Layout) SymbolsIn(group int, k Key) (Symbols, bool) {
	if s, ok := l.behind[k]; ok && group > 0 {
		return s, true
	}
	return l.Symbols(k)
}

// Giving lists the keys that give a keysym plain (level 0) or with Shift (level 1),
// in the order of the key table.
func (l *Layout) Giving(keysym string, level int) []Key {
	return slices.Clip(l.giving()[level][keysym])
}

// FifthLevel says whether a key of the layout, on any of its levels, leads to the fifth.
func (l *Layout) FifthLevel() bool {
	return slices.ContainsFunc(l.keys[:], func(k layoutKey) bool {
		return slices.Contains(k.Level, "ISO_Level5_Shift") || slices.Contains(k.Level, "ISO_Level5_Latch")
	})
}

// givers are keys by the keysyms that they give.
type givers map[string][]Key

func (l *Layout) indexKeysyms() [2]givers {
	var found [2]givers
	for level := range found {
		found[level] = givers{}
		for _, k := range All() {
			if s, ok := l.Symbols(k); ok && level < len(s.Level) {
				found[level][s.Level[level]] = append(found[level][s.Level[level]], k)
			}
		}
	}
	return found
}

// index makes what is looked up ready to be made when it first is.
func (l *Layout) index() {
	l.characters = sync.OnceValue(l.indexCharacters)
	l.giving = sync.OnceValue(l.indexKeysyms)
	l.latin = sync.OnceValue(l.typesLatin)
}

// layoutText finds a layout's lines; they are parsed when asked for, since a run
// needs one or two of about a hundred.
func layoutText(name string) (string, bool) {
	_, after, ok := strings.Cut(layoutData, "\nlayout "+name+"\n")
	text, _, _ := strings.Cut(after, "\n\n")
	return text, ok
}

// Warm indexes the layout, which otherwise waits until it is asked for. A program that
// will ask can have it done beside its other work.
func (l *Layout) Warm() {
	l.characters()
	l.giving()
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
	text, ok := layoutText(name)
	if !ok {
		return nil, false
	}
	l := &Layout{Name: name, ID: name}
	if name != "us" {
		us, _ := findLayout("us")
		l.keys = us.keys
		for k := range l.keys {
			l.keys[k].defines = false
		}
	}
	l.index()
	words := make([]string, 0, strings.Count(text, " ")+strings.Count(text, "\n")+1) // of all lines
	for line := range strings.Lines(text) {
		first := len(words)
		line, typed, _ := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
		for word := range strings.SplitSeq(line, " ") {
			words = append(words, word)
		}
		f := words[first:len(words):len(words)]
		if f[0] == "defines" {
			for _, name := range f[1:] {
				if k, ok := ByXKB(name); ok {
					l.keys[k].defines = true
				}
			}
			continue
		}
		if f[0] == "behind" {
			if k, ok := ByXKB(f[1]); ok {
				if l.behind == nil {
					l.behind = map[Key]Symbols{}
				}
				l.behind[k] = Symbols{Type: f[2], Level: f[3:]}
			}
			continue
		}
		if k, ok := ByXKB(f[0]); ok {
			l.keys[k].Symbols, l.keys[k].has, l.keys[k].typed = Symbols{Type: f[1], Level: f[2:]}, true, typed
			if f[1] == "-" {
				l.keys[k].Symbols, l.keys[k].has = Symbols{}, false
			}
		}
	}
	layoutCache[name] = l
	return l, true
}

// LayoutNames lists the layouts we carry, in alphabetical order.
func LayoutNames() []string {
	var names []string
	for line := range strings.Lines(layoutData) {
		if name, ok := strings.CutPrefix(line, "layout "); ok {
			names = append(names, strings.TrimSuffix(name, "\n"))
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

// JoinLayout is the name of a layout with a variant, "" for none.
func JoinLayout(layout, variant string) string {
	if variant == "" {
		return layout
	}
	return layout + "(" + variant + ")"
}

// Place is where a layout has a character: the key, and the modifiers that
// must be held for it.
type Place struct {
	Key  Key
	Mods Mods
}

// levelMods is what must be held for each level of the stock key types that
// layouts use for characters.
func (l *Layout) levelMods() [4]Mods {
	third := AltGr
	if l.third != 0 {
		third = l.third
	}
	return [...]Mods{0, Shift, third, Shift | third}
}

// characters is what the keys of a layout type, and where it has characters: as
// they are, and by a letter of either case or, for what is not there otherwise, the
// accent of a dead key.
type characters struct {
	typed        [1 << 8][]rune // by Key and level; 0 for a level that types none
	exact, loose map[rune]Place
}

// noCharacter stands in the data for a level that types nothing.
const noCharacter = '␀'

// characters is what the key types on each level, 0 for nothing.
func (k *layoutKey) characters() []rune {
	list := make([]rune, 0, len(k.Level))
	if k.typed == "" { // no key of the writing area, or changed by an option
		for _, sym := range k.Level {
			r, _ := KeysymRune(sym)
			list = append(list, r)
		}
		return list
	}
	for _, r := range k.typed {
		if r == noCharacter {
			r = 0
		}
		list = append(list, r)
	}
	return list
}

func (l *Layout) indexCharacters() *characters {
	c := &characters{exact: make(map[rune]Place, 256), loose: make(map[rune]Place, 256)}
	writing := slices.DeleteFunc(All(), func(k Key) bool { return k.Section() != Writing && k != space() })
	for _, k := range writing {
		c.typed[k] = l.keys[k].characters()
	}
	add := func(to map[rune]Place, r rune, at Place) {
		if _, have := to[r]; r != 0 && !have {
			to[r] = at
		}
	}
	for level, mods := range l.levelMods() {
		for _, k := range writing {
			if level < len(c.typed[k]) {
				add(c.exact, c.typed[k][level], Place{k, mods})
				add(c.loose, unicode.ToLower(c.typed[k][level]), Place{k, mods})
			}
		}
	}
	for level, mods := range l.levelMods() {
		for _, k := range writing {
			if s, _ := l.Symbols(k); level < len(s.Level) {
				r, _ := deadRune(s.Level[level])
				add(c.loose, unicode.ToLower(r), Place{k, mods})
			}
		}
	}
	return c
}

// Characters is what a key of the writing area or the space bar types on each
// level, 0 for one that types nothing; none for other keys.
func (l *Layout) Characters(k Key) []rune { return l.characters().typed[k] }

// Find returns the key that types the character, plain if it can be had plain,
// else by the fewest modifiers. A letter is found by either case; a dead key
// counts as the accent it bears.
func (l *Layout) Find(r rune) (Place, bool) {
	p, ok := l.characters().loose[unicode.ToLower(r)]
	return p, ok
}

// FindExact returns the key that types just this character, case and all, by the
// fewest modifiers; a dead key types none.
func (l *Layout) FindExact(r rune) (Place, bool) {
	p, ok := l.characters().exact[r]
	return p, ok
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
func (l *Layout) Latin() bool { return l.latin() }

func (l *Layout) typesLatin() bool {
	return slices.ContainsFunc(All(), func(k Key) bool {
		s, _ := l.Symbols(k)
		return len(s.Level) > 0 && s.Level[0] == "a"
	})
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
