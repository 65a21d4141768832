package behaviour

import (
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
		ended := map[string]bool{"space": r == ' ', "any": !unicode.IsLetter(r) && !unicode.IsDigit(r)}[b.End]
		if b.End == "none" {
			text, ended = string(e.typed), true
		}
		found := lastRunes(text, n)
		if !ended || found == "" || found != b.Word && (b.Case == "exact" || !strings.EqualFold(found, b.Word)) {
			continue
		}
		out := b.Effect.Text
		if b.Case == "follow" {
			out = follow(found, out)
		}
		if b.End != "none" { // what ended it stays behind the text
			n++
			out += string(r)
		}
		e.emit(Out{Erase: n})
		e.emit(Out{Text: out})
		e.typed = nil
		return
	}
}

// AfterCompose is the End of an abbreviation that is typed after the Compose key.
const AfterCompose = "compose"

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
