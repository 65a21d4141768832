package lexer

import (
	"fmt"
	"strings"
)

// Cursor stands on a word of a file. It keeps the first thing that is wrong, and goes no
// further in loops that ask Going.
type Cursor struct {
	*Lexer
	File string
	Tok  rune  // the kind of the word
	Err  error // the first thing wrong, with its place
}

// Open stands on the first word of a file.
func Open(file, text string) *Cursor {
	c := &Cursor{Lexer: New(text), File: file}
	c.Error = c.Fail
	c.Step()
	return c
}

// Step goes on to the next word.
func (c *Cursor) Step() { c.Tok = c.Next() }

// Fail says what is wrong with the word, unless something was before.
func (c *Cursor) Fail(msg string) {
	if c.Err == nil {
		line, column := c.Position()
		c.Err = fmt.Errorf("%s:%d:%d: %s", c.File, line, column, msg)
	}
}

// Word returns the word and goes on.
func (c *Cursor) Word() string { t := c.Text(); c.Step(); return t }

// Going says whether there is more before a closing word.
func (c *Cursor) Going(end rune) bool { return c.Tok != end && c.Tok != EOF && c.Err == nil }

// Expect passes over a word that must be there.
func (c *Cursor) Expect(t string) {
	if !c.at(t) {
		c.Fail(fmt.Sprintf("%q where %q should be", c.Text(), t))
	}
	c.Step()
}

// Maybe passes over a word if it is there.
func (c *Cursor) Maybe(t string) bool {
	if !c.at(t) || c.Tok == EOF {
		return false
	}
	c.Step()
	return true
}

// at says whether the word is t. A sign is its own kind.
func (c *Cursor) at(t string) bool {
	if len(t) == 1 && classes[t[0]] == 0 {
		return c.Tok == rune(t[0])
	}
	return c.Text() == t
}

// Name reads <NAME>, the name of a key.
func (c *Cursor) Name() string {
	c.Expect("<")
	var b strings.Builder
	for c.Going('>') {
		b.WriteString(c.Word())
	}
	c.Expect(">")
	return b.String()
}
