package behaviour

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"leitstand/core/keys"
)

// typing follows what is typed for abbreviations.
func (e *Engine) typing(k keys.Key) {
	if e.types == nil || len(e.words) == 0 {
		return
	}
	mods := e.Mods()
	altgr := mods&keys.AltGr != 0
	if mods&^(keys.Shift|keys.ShiftLeft|keys.ShiftRight|keys.AltGr) != 0 {
		e.typed = nil
		return
	}
	r, ok := e.types(k, mods&(keys.Shift|keys.ShiftLeft|keys.ShiftRight) != 0, altgr)
	if !ok {
		e.typed = nil
		return
	}
	before := string(e.typed)
	e.typed = append(e.typed, r)
	if len(e.typed) > 64 {
		e.typed = e.typed[1:]
	}
	for _, b := range e.words {
		if b.End == AfterCompose {
			continue
		}
		text, n := before, utf8.RuneCountInString(b.Word)
		ended := map[Ending]bool{AtBlank: r == ' ', AtSign: !unicode.IsLetter(r) && !unicode.IsDigit(r)}[b.End]
		if b.End == AtOnce {
			text, ended = string(e.typed), true
		}
		found := lastRunes(text, n)
		if !ended || found == "" || found != b.Word && (b.Case == InThisCase || !strings.EqualFold(found, b.Word)) {
			continue
		}
		out := b.Effect.Text
		if b.Case == CarriedOver {
			out = follow(found, out)
		}
		if b.End != AtOnce { // what ended it stays behind the text
			n++
			out += string(r)
		}
		e.emit(Out{Erase: n})
		e.emit(Out{Text: out})
		e.typed = nil
		return
	}
}

// Ending is what ends an abbreviation.
type Ending uint8

// The endings.
const (
	NoEnding     Ending = iota // of what is no abbreviation
	AtBlank                    // a blank
	AtSign                     // any other character than a letter or a digit
	AtOnce                     // its last character
	AfterCompose               // its last character; the Compose key begins it
)

// endings are what ends abbreviations, as a mapping names it.
var endings = [...]string{"", "space", "any", "none", "compose"}

func (e Ending) String() string { return endings[e] }

// EndingNamed is an ending by its name.
func EndingNamed(name string) Ending { return Ending(max(0, slices.Index(endings[:], name))) }

// Letters is how the case of an abbreviation counts.
type Letters uint8

// The ways in which case counts.
const (
	NoLetters   Letters = iota // of what is no abbreviation
	InThisCase                 // as it is written
	InAnyCase                  // it does not count
	CarriedOver                // the text gets it
)

// letters are the ways in which case counts, as a mapping names them.
var letters = [...]string{"", "exact", "any", "follow"}

func (l Letters) String() string { return letters[l] }

// LettersNamed is a way in which case counts by its name.
func LettersNamed(name string) Letters { return Letters(max(0, slices.Index(letters[:], name))) }

// compose follows what is typed after the Compose key, and says whether the key is used up
// by it.
func (e *Engine) compose(k keys.Key) bool {
	if e.composing == nil || e.types == nil {
		return false
	}
	mods := e.Mods()
	r, ok := e.types(k, mods&(keys.Shift|keys.ShiftLeft|keys.ShiftRight) != 0, mods&keys.AltGr != 0)
	if !ok {
		e.composing = nil
		return false
	}
	e.composing = append(e.composing, r)
	for _, b := range e.words {
		switch typed := string(e.composing); {
		case b.End != AfterCompose || !strings.HasPrefix(b.Word, typed):
		case b.Word == typed:
			e.composing = nil
			e.emit(Out{Text: b.Effect.Text})
			return true
		default:
			return true
		}
	}
	e.composing = nil
	return false
}

func lastRunes(s string, n int) string {
	r := []rune(s)
	if len(r) < n {
		return ""
	}
	return string(r[len(r)-n:])
}

// follow carries the case of what was typed over to a text: all capitals, or a
// capital first.
func follow(typed, text string) string {
	letters := []rune(strings.Map(func(r rune) rune {
		if !unicode.IsLetter(r) {
			return -1
		}
		return r
	}, typed))
	switch {
	case len(letters) == 0 || !unicode.IsUpper(letters[0]):
		return text
	case len(letters) > 1 && strings.ToUpper(string(letters)) == string(letters):
		return strings.ToUpper(text)
	}
	first, n := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(first)) + text[n:]
}
