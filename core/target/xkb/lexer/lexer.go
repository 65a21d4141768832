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
	r, size := utf8.DecodeRuneInString(l.text[l.end:])
	l.end += size
	switch {
	case letter(r):
		l.while(func(r rune) bool { return letter(r) || digit(r) })
		return Ident
	case digit(r):
		l.while(func(r rune) bool {
			return digit(r) || letter(r) && r < utf8.RuneSelf && strings.HasPrefix(l.text[l.start:], "0x")
		})
		return Int
	case r == '"':
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
	}
	return r
}

// blanks passes over white space and comments.
func (l *Lexer) blanks() {
	for l.end < len(l.text) {
		rest := l.text[l.end:]
		switch {
		case rest[0] == ' ' || rest[0] == '\t' || rest[0] == '\n' || rest[0] == '\r':
			l.end++
		case strings.HasPrefix(rest, "//"):
			if l.end += strings.IndexByte(rest, '\n'); !strings.Contains(rest, "\n") {
				l.end = len(l.text)
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

func (l *Lexer) while(in func(rune) bool) {
	for l.end < len(l.text) {
		r, size := rune(l.text[l.end]), 1
		if r >= utf8.RuneSelf {
			r, size = utf8.DecodeRuneInString(l.text[l.end:])
		}
		if !in(r) {
			return
		}
		l.end += size
	}
}

func letter(r rune) bool {
	return r|0x20 >= 'a' && r|0x20 <= 'z' || r == '_' || r >= utf8.RuneSelf && unicode.IsLetter(r)
}

func digit(r rune) bool { return r >= '0' && r <= '9' }
