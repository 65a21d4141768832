package mapping

import (
	"bytes"
	"errors"
	"strings"
	"unicode/utf8"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
)

// Format lays a mapping out anew: indentation, spaces, aligned equals signs. What
// is said, and every comment, stays as it is. A text that HCL cannot read is
// refused, since its layout cannot be known.
func Format(text []byte) ([]byte, error) {
	ready, _, bad := scan("", text)
	if bad != nil {
		return nil, errors.New(bad.Summary)
	}
	if _, diags := hclsyntax.ParseConfig(ready, "", hcl.InitialPos); diags.HasErrors() {
		return nil, errors.New("the mapping has syntax errors; validate shows them")
	}
	tokens, _ := hclsyntax.LexConfig(ready, "", hcl.InitialPos)
	out := layOut(linesOf(tokens))
	for i, c := range out {
		if c == brace {
			out[i] = '{'
		}
	}
	return out, nil
}

// formatted is a line, laid out but for what depends on its neighbours. A heredoc
// belongs to the line that it begins in.
type formatted struct {
	name    string // of an attribute that ends on the line
	text    string // what follows its equals sign, or all but the comment
	comment string // behind the text
	end     string // the line break
	closes  int    // brackets of earlier lines that it closes
	opens   int    // brackets that it leaves open
	closing bool   // it begins with a closing bracket
}

// linesOf parts the tokens of a text into lines.
func linesOf(tokens hclsyntax.Tokens) []formatted {
	var lines []formatted
	for start, i := 0, 0; i < len(tokens); i++ {
		ends := tokens[i].Type == hclsyntax.TokenNewline || tokens[i].Type == hclsyntax.TokenEOF ||
			tokens[i].Type == hclsyntax.TokenComment && bytes.HasSuffix(tokens[i].Bytes, []byte("\n"))
		if ends {
			lines = append(lines, lineOf(tokens[start:i+1]))
			start = i + 1
		}
	}
	return lines
}

func lineOf(tokens hclsyntax.Tokens) formatted {
	var l formatted
	last := tokens[len(tokens)-1]
	tokens = tokens[:len(tokens)-1]
	switch last.Type {
	case hclsyntax.TokenComment:
		text := strings.TrimRight(string(last.Bytes), "\r\n")
		l.end = string(last.Bytes[len(text):])
		if l.comment = strings.TrimRight(text, " \t"); len(tokens) == 0 {
			l.text, l.comment = l.comment, ""
		}
	default:
		l.end = string(last.Bytes) // none at the end of the file
	}
	for _, t := range tokens {
		switch t.Type {
		case hclsyntax.TokenOBrace, hclsyntax.TokenOBrack, hclsyntax.TokenOParen:
			l.opens++
		case hclsyntax.TokenCBrace, hclsyntax.TokenCBrack, hclsyntax.TokenCParen:
			if l.opens > 0 {
				l.opens--
			} else {
				l.closes++
			}
		}
	}
	if len(tokens) > 0 {
		switch tokens[0].Type {
		case hclsyntax.TokenCBrace, hclsyntax.TokenCBrack, hclsyntax.TokenCParen:
			l.closing = true
		}
	}
	if n := named(tokens); n > 0 && l.opens == 0 {
		l.name = spaced(tokens[:n])
		tokens = tokens[n+1:]
	}
	l.text += spaced(tokens)
	return l
}

// named is how many tokens before an equals sign name an attribute or a row of a table: a
// word, a text in quotes, or a constant in parentheses. 0 is for none.
func named(tokens hclsyntax.Tokens) int {
	for i, t := range tokens[:max(0, len(tokens)-1)] {
		if t.Type != hclsyntax.TokenEqual {
			continue
		}
		first, last := tokens[0].Type, tokens[max(0, i-1)].Type
		switch {
		case i == 1 && first == hclsyntax.TokenIdent,
			i > 1 && first == hclsyntax.TokenOQuote && last == hclsyntax.TokenCQuote,
			i > 1 && first == hclsyntax.TokenOParen && last == hclsyntax.TokenCParen:
			return i
		}
		return 0
	}
	return 0
}

// spaced is tokens with the spaces between them. Strings stay as they are.
func spaced(tokens hclsyntax.Tokens) string {
	var b strings.Builder
	quoted := 0
	for i, t := range tokens {
		if i > 0 && quoted == 0 && space(tokens[i-1], t) {
			b.WriteByte(' ')
		}
		switch t.Type {
		case hclsyntax.TokenOQuote, hclsyntax.TokenOHeredoc:
			quoted++
		case hclsyntax.TokenCQuote, hclsyntax.TokenCHeredoc:
			quoted--
		}
		b.Write(t.Bytes)
	}
	return b.String()
}

// space says whether a space stands between two tokens of a line. Where the language
// has no opinion, it stands where there was one.
func space(before, after hclsyntax.Token) bool {
	switch before.Type {
	case hclsyntax.TokenOBrack, hclsyntax.TokenOParen:
		return false
	case hclsyntax.TokenOBrace:
		return after.Type != hclsyntax.TokenCBrace
	case hclsyntax.TokenComma, hclsyntax.TokenEqual:
		return after.Type != hclsyntax.TokenCBrack && after.Type != hclsyntax.TokenCParen
	}
	switch after.Type {
	case hclsyntax.TokenCBrack, hclsyntax.TokenCParen, hclsyntax.TokenComma:
		return false
	case hclsyntax.TokenCBrace, hclsyntax.TokenOBrace, hclsyntax.TokenEqual, hclsyntax.TokenComment:
		return true
	case hclsyntax.TokenOQuote:
		return before.Type == hclsyntax.TokenIdent || before.Type == hclsyntax.TokenCQuote || before.Range.End.Byte < after.Range.Start.Byte
	}
	return before.Range.End.Byte < after.Range.Start.Byte
}

// layOut indents lines, and lines up the equals signs of attributes and the comments
// that follow each other.
func layOut(lines []formatted) []byte {
	names := columns(lines, func(l formatted) (int, bool) { return utf8.RuneCountInString(l.name), l.name != "" })
	var open []int // how many brackets each line left open that indents what follows
	bodies := make([]string, len(lines))
	for i, l := range lines {
		depth := len(open)
		if l.closing {
			depth--
		}
		again := min(l.closes, l.opens) // as in "}, {"
		for n := l.closes - again; n > 0 && len(open) > 0; {
			last := &open[len(open)-1]
			taken := min(n, *last)
			n -= taken
			if *last -= taken; *last == 0 {
				open = open[:len(open)-1]
			}
		}
		if l.opens > again {
			open = append(open, l.opens-again)
		}
		body := l.text
		if l.name != "" {
			body = l.name + strings.Repeat(" ", names[i]-utf8.RuneCountInString(l.name)) + " = " + l.text
		}
		if body != "" || l.comment != "" {
			bodies[i] = strings.Repeat("  ", max(0, depth)) + body
		}
	}
	i := -1
	widths := columns(lines, func(l formatted) (int, bool) {
		i++
		return utf8.RuneCountInString(bodies[i]), l.comment != ""
	})
	var out bytes.Buffer
	for i, l := range lines {
		out.WriteString(bodies[i])
		if l.comment != "" {
			out.WriteString(strings.Repeat(" ", widths[i]-utf8.RuneCountInString(bodies[i])) + " " + l.comment)
		}
		out.WriteString(l.end)
	}
	return out.Bytes()
}

// columns is, for each of the lines that have something, the greatest width in the run
// of such lines that it is in.
func columns(lines []formatted, width func(formatted) (int, bool)) []int {
	widths := make([]int, len(lines))
	for start, i := 0, 0; i < len(lines); i++ {
		w, has := width(lines[i])
		if !has {
			start = i + 1
			continue
		}
		widths[i] = max(w, widths[start])
		for j := i - 1; j >= start && widths[j] < w; j-- {
			widths[j] = w
		}
	}
	return widths
}
