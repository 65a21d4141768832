// Package lexer parts the text of XKB files into words. A whole keymap has tens of
// thousands, and each run reads several.
//
// Source: libxkbcommon's "XKB keymap text format, V1".
package lexer

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// The kinds of words; any other character is a word by itself and its own kind.
const (
	EOF rune = -(iota + 1)
	Ident
	Int
	String
)

// Lexer reads the words of a text.
type Lexer struct {
	// Error is told of a string or comment that does not end.
	Error func(msg string)

	text       string
	start, end int // of the word last read
}

// New begins at the head of a text.
func New(text string) *Lexer { return &Lexer{text: text} }

// Text is the word last read, strings with their quotation marks.
func (l *Lexer) Text() string { return l.text[l.start:l.end] }

// Offset is where the word last read begins, in bytes.
func (l *Lexer) Offset() int { return l.start }

// Position is the line and the column, both from 1 and the column in bytes, at which
// the word last read begins.
func (l *Lexer) Position() (line, column int) {
	before := l.text[:l.start]
	return strings.Count(before, "\n") + 1, l.start - strings.LastIndexByte(before, '\n')
}

// Next reads a word and returns its kind.
func (l *Lexer) Next() rune {
	l.blanks()
	l.start = l.end
	if l.end == len(l.text) {
		return EOF
	}
	switch c := l.text[l.end]; {
	case classes[c]&letter != 0 || c >= utf8.RuneSelf && l.name(l.end) > l.end:
		l.end = l.name(l.end)
		return Ident
	case classes[c]&digit != 0:
		in := digit
		if strings.HasPrefix(l.text[l.end:], "0x") {
			in |= letter
		}
		for l.end < len(l.text) && classes[l.text[l.end]]&in != 0 {
			l.end++
		}
		return Int
	case c == '"':
		l.end++
		for l.end < len(l.text) && l.text[l.end] != '\n' {
			c := l.text[l.end]
			l.end++
			if c == '"' {
				return String
			}
			if c == '\\' && l.end < len(l.text) && l.text[l.end] != '\n' {
				l.end++
			}
		}
		l.Error("a string does not end")
		return String
	case c < utf8.RuneSelf:
		l.end++
		return rune(c)
	}
	r, size := utf8.DecodeRuneInString(l.text[l.end:])
	l.end += size
	return r
}

// name is where letters and digits that begin at a place end.
func (l *Lexer) name(at int) int {
	for at < len(l.text) {
		if classes[l.text[at]] != 0 {
			at++
			continue
		}
		r, size := utf8.DecodeRuneInString(l.text[at:])
		if r < utf8.RuneSelf || !unicode.IsLetter(r) {
			break
		}
		at += size
	}
	return at
}

// blanks passes over white space and comments.
func (l *Lexer) blanks() {
	for l.end < len(l.text) {
		switch l.text[l.end] {
		case ' ', '\t', '\n', '\r':
			l.end++
			continue
		case '/':
		default:
			return
		}
		switch rest := l.text[l.end:]; {
		case strings.HasPrefix(rest, "//"):
			if n := strings.IndexByte(rest, '\n'); n < 0 {
				l.end = len(l.text)
			} else {
				l.end += n
			}
		case strings.HasPrefix(rest, "/*"):
			n := strings.Index(rest[2:], "*/")
			if n < 0 {
				l.start, l.end = l.end, len(l.text)
				l.Error("a comment does not end")
				return
			}
			l.end += n + 4
		default:
			return
		}
	}
}

// What an ASCII character can be part of.
const (
	letter uint8 = 1 << iota
	digit
)

var classes = func() (table [256]uint8) {
	for c := range table[:utf8.RuneSelf] {
		switch c := byte(c); {
		case c|0x20 >= 'a' && c|0x20 <= 'z' || c == '_':
			table[c] = letter
		case c >= '0' && c <= '9':
			table[c] = digit
		}
	}
	return table
}()
