package land

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// wordsWithoutCompose are abbreviations behind a Compose key where no key is one after all.
func wordsWithoutCompose(b *Landed) (list []strike) {
	if slices.ContainsFunc(b.Machine.Options, func(name string) bool { return strings.HasPrefix(name, "compose:") }) ||
		slices.ContainsFunc(
			b.Landings,
			func(l Landing) bool { return l.Mechanism != nil && l.Binding.Effect.Kind == behaviour.Composes },
		) {
		return nil
	}
	for i := range b.Landings {
		if l := &b.Landings[i]; behindCompose(l) {
			list = append(list, strike{at: i, why: reason.NoComposeKey.Of(), by: -1})
		}
	}
	return list
}

// behindCompose says whether an abbreviation landed where it is typed behind a Compose key: a panel's
// text replacements know none.
func behindCompose(l *Landing) bool {
	return l.Mechanism != nil && !l.at(mechanism.Person) && l.Binding.Level == behaviour.Typing
}

// rooming is a mechanism that has room for so many beginnings of abbreviations only.
type rooming interface{ Beginnings() int }

// wordsBeyondRoom are the abbreviations for whose beginnings a mechanism has no room beside those before.
func wordsBeyondRoom(b *Landed) (list []strike) {
	begun := map[string]bool{}
	for i := range b.Landings {
		l := &b.Landings[i]
		of, limited := l.Mechanism.(rooming)
		if !limited || !behindCompose(l) {
			continue
		}
		var more []string
		for n := range l.Binding.Word {
			if !begun[l.Binding.Word[:n]] {
				more = append(more, l.Binding.Word[:n])
			}
		}
		if len(begun)+len(more) > of.Beginnings() {
			list = append(list, strike{at: i, why: reason.WordsRoom.Of(fmt.Sprint(of.Beginnings())), by: -1})
			continue
		}
		for _, w := range more {
			begun[w] = true
		}
	}
	return list
}

// wordsThatBeginAlike are abbreviations that begin with another one, where they are
// sequences of keys: the shorter one is done before the longer one is.
func wordsThatBeginAlike(b *Landed) (list []strike) {
	words := map[string]int{}
	for i := range b.Landings {
		if l := &b.Landings[i]; behindCompose(l) {
			words[l.Binding.Word] = i
		}
	}
	for i := range b.Landings {
		l := &b.Landings[i]
		if !behindCompose(l) {
			continue
		}
		for n := range l.Binding.Word {
			w := l.Binding.Word[:n]
			if by, shorter := words[w]; shorter {
				list = append(list, strike{at: i, why: reason.WordBegins.Of(l.Binding.Word, w), by: by})
				break
			}
		}
	}
	return list
}
