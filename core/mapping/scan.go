package mapping

import (
	"bytes"
	"fmt"
	"unicode/utf8"

	"leitstand/core/diag"
	"leitstand/core/machine"
)

const (
	// MaxSize is far beyond any mapping: 10,000 rules are under 1 MB.
	MaxSize = 4 << 20
	// maxDepth bounds the parser's recursion.
	maxDepth = 40
	// brace stands for "{" after "$" or "%" in a string while HCL parses it, so
	// that no template begins there. Files cannot contain it themselves.
	brace = 0x01
)

// scan makes a source ready for HCL: every "${" and "%{" in a string loses its
// meaning without any byte moving, and what would harm the parser is refused. parts is
// where parts begin that can be parsed by themselves, the first at 0.
func scan(file string, src []byte) (ready []byte, parts []int, refused *diag.Diagnostic) {
	return scanParts(file, src, partSize)
}

// scanParts is scan for parts of a number of bytes.
func scanParts(file string, src []byte, enough int) (ready []byte, parts []int, refused *diag.Diagnostic) {
	bad := func(at int, summary, advice string) ([]byte, []int, *diag.Diagnostic) {
		return nil, nil, unreadable(file, src, at, summary, advice)
	}
	if refused := notText(file, src); refused != nil {
		return nil, nil, refused
	}
	out := bytes.Clone(src)
	parts = []int{0}
	depth := 0
	work := effort{blocks: map[string]int{}}
	for i := 0; i < len(src); {
		if what := work.next(src, i); what != "" {
			return bad(i, what, "a mapping computes nothing and has short lines; look for what does not belong there")
		}
		switch c := src[i]; {
		case c == '#' || c == '/' && at(src, i+1) == '/':
			i = lineEnd(src, i)
		case c == '/' && at(src, i+1) == '*':
			if end := bytes.Index(src[i:], []byte("*/")); end >= 0 {
				i += end + 2
			} else {
				i = len(src)
			}
		case c == '"':
			end, closed := quoted(src, out, i+1)
			if !closed {
				work.unclosed++
			}
			if work.templates += bytes.Count(out[i:end], []byte{brace}); work.templates > mostTemplates {
				return bad(
					i, fmt.Sprintf("the texts hold ${ or %%{ more than %d times", mostTemplates),
					"take some out; in a text they are characters like any others",
				)
			}
			i = end
		case c == '<' && at(src, i+1) == '<':
			end := heredoc(src, out, i)
			work.templates += bytes.Count(out[i:end], []byte{brace})
			i = end
		case c == '{' || c == '[' || c == '(':
			if depth == 0 { // refused before anything is read, which takes as long as there is text
				typ, words, from := blockAt(src, i)
				if work.blocks[typ]++; typ != "" && work.blocks[typ] > machine.Most {
					return bad(from, fmt.Sprintf("the mapping has more than %d %s", machine.Most, words),
						"part it into several mappings")
				}
			}
			work.braces++
			work.attrs[min(max(0, depth)+1, maxDepth)] = 0
			if depth++; depth > maxDepth {
				return bad(
					i, fmt.Sprintf("brackets are nested more than %d deep", maxDepth),
					"a mapping needs three or four levels; look for one that is never closed",
				)
			}
			i++
		case c == '}' || c == ']' || c == ')':
			depth--
			i++
		case c == '=':
			if d := max(0, depth); d == 0 {
				work.outside++
			} else if work.attrs[d]++; work.attrs[d] > mostAttributes {
				return bad(i, fmt.Sprintf("a block has more than %d attributes", mostAttributes), "part it into "+
					"several")
			}
			i++
		case c == '\n':
			i++
			if depth == 0 && i-parts[len(parts)-1] >= enough && len(src)-i >= enough/2 {
				parts = append(parts, i)
			}
		default:
			i++
		}
	}
	return out, parts, nil
}

// blockAt is the type of the block that a brace opens, of those of which a mapping has only so many, and where it begins.
func blockAt(src []byte, brace int) (typ, words string, from int) {
	from = bytes.LastIndexByte(src[:brace], '\n') + 1
	line := bytes.TrimLeft(src[from:brace], " \t")
	for _, of := range [][2]string{
		{"machine", "machines or boards"}, {"board", "machines or boards"}, {"modifier", "modifiers of its own"},
	} {
		if bytes.HasPrefix(line, []byte(of[0]+" ")) || bytes.HasPrefix(line, []byte(of[0]+"\t")) {
			return of[0], of[1], from
		}
	}
	return "", "", from
}

// unreadable says what at a place of a file harms the parser.
func unreadable(file string, src []byte, at int, summary, advice string) *diag.Diagnostic {
	return &diag.Diagnostic{
		Code: "unreadable-file", Summary: summary, Advice: advice,
		Range: rangeAt(file, src, at, at+1), Line: short(lineAt(src, at), 2000),
	}
}

// notText says why a file is no text that could be a mapping, nil for one that is.
func notText(file string, src []byte) *diag.Diagnostic {
	if len(src) > MaxSize {
		return &diag.Diagnostic{
			Code: "unreadable-file", Range: diag.Range{File: file},
			Summary: tooLarge(int64(len(src))),
			Advice:  "check that it is a mapping; a very large one can be split into several files in a folder",
		}
	}
	for i := 0; i < len(src); {
		r, n := utf8.DecodeRune(src[i:])
		switch {
		case r == utf8.RuneError && n == 1:
			return unreadable(file, src, i, "the file is not UTF-8 text", "save it in the encoding UTF-8")
		case r < ' ' && r != '\n' && r != '\r' && r != '\t':
			return unreadable(file, src, i, fmt.Sprintf("the file holds the control character U+%04X", r),
				"take it out; in a string, write it as an escape such as \"\\u001b\"")
		}
		i += n
	}
	return nil
}

// What a mapping has at most outside of texts and comments, far beyond any; beyond that, the
// parser takes time or memory that grow faster than the text.
const (
	mostUnclosed   = 100
	mostTemplates  = 2000
	mostBraces     = 200_000
	mostOutside    = 100   // attributes outside of all blocks
	mostAttributes = 5000  // in one block
	mostSigns      = 1000  // of computing, in a file
	mostInARow     = 50    // minus signs
	mostDigits     = 100   // of a number
	mostTexts      = 2000  // on one line
	mostOnLine     = 20000 // bytes of a line that are no text
)

// effort counts what the parser has to do.
type effort struct {
	attrs                                                                   [maxDepth + 1]int // of the blocks that are open, by depth
	blocks                                                                  map[string]int    // by their types, of which there may be only so many
	signs, minus, digits, texts, line, unclosed, templates, braces, outside int
}

// next looks at what stands outside of texts and comments, and says what there is too much of.
func (e *effort) next(src []byte, i int) string {
	switch c := src[i]; {
	case c == '\n':
		e.texts, e.line, e.minus, e.digits = 0, 0, 0, 0
		return ""
	case c == '"':
		e.texts++
	case c == '-':
		e.minus++
	case c == ' ' || c == '\t':
	case bytes.IndexByte([]byte("?%*+&|!$<>^~;@`'\\"), c) >= 0 || c == '/' && at(src, i+1) != '/' && at(src, i+1) != '*':
		e.signs++
	}
	if c := src[i]; c != '-' && c != ' ' && c != '\t' {
		e.minus = 0
	}
	if c := src[i]; c >= '0' && c <= '9' {
		e.digits++
	} else {
		e.digits = 0
	}
	e.line++
	switch {
	case e.unclosed > mostUnclosed:
		return fmt.Sprintf("more than %d quotes are not closed on their lines", mostUnclosed)
	case e.braces > mostBraces:
		return fmt.Sprintf("the file has more than %d brackets", mostBraces)
	case e.outside > mostOutside:
		return fmt.Sprintf("more than %d attributes stand outside of all blocks", mostOutside)
	case e.signs > mostSigns:
		return fmt.Sprintf("the file has more than %d signs of computing", mostSigns)
	case e.minus > mostInARow:
		return fmt.Sprintf("more than %d minus signs stand in a row", mostInARow)
	case e.digits > mostDigits:
		return fmt.Sprintf("a number or a name has more than %d digits", mostDigits)
	case e.texts > mostTexts:
		return fmt.Sprintf("a line has more than %d texts", mostTexts)
	case e.line > mostOnLine:
		return fmt.Sprintf("a line has more than %d characters outside of texts", mostOnLine)
	}
	return ""
}

func tooLarge(size int64) string {
	return fmt.Sprintf("the file has %.1f MB, and a mapping has at most %d MB", float64(size)/(1<<20), MaxSize>>20)
}

func at(src []byte, i int) byte {
	if i < len(src) {
		return src[i]
	}
	return 0
}

func lineEnd(src []byte, i int) int {
	if n := bytes.IndexByte(src[i:], '\n'); n >= 0 {
		return i + n
	}
	return len(src)
}

// quoted walks a quoted string from behind its quote to behind its end, which
// is the closing quote or, if that is missing, the end of the line.
func quoted(src, out []byte, i int) (end int, closed bool) {
	for i < len(src) {
		switch c := src[i]; {
		case c == '\\':
			i += 2
		case c == '"':
			return i + 1, true
		case c == '\n':
			return i, false
		default:
			neutralize(src, out, i)
			i++
		}
	}
	return len(src), false
}

// heredoc walks a <<WORD text to the start of its last line.
func heredoc(src, out []byte, i int) int {
	start := i + 2
	if at(src, start) == '-' {
		start++
	}
	eol := lineEnd(src, start)
	word := bytes.TrimSpace(src[start:eol])
	if len(word) == 0 || bytes.ContainsAny(word, " \t\"'{}") {
		return i + 2
	}
	for i = eol + 1; i < len(src); {
		end := lineEnd(src, i)
		if bytes.Equal(bytes.TrimSpace(src[i:end]), word) {
			return end
		}
		for j := i; j < end; j++ {
			neutralize(src, out, j)
		}
		i = end + 1
	}
	return len(src)
}

func neutralize(src, out []byte, i int) {
	if src[i] == '{' && i > 0 && (src[i-1] == '$' || src[i-1] == '%') {
		out[i] = brace
	}
}

// rangeAt makes a range of byte offsets.
func rangeAt(file string, src []byte, start, end int) diag.Range {
	return diag.Range{File: file, Start: posAt(src, start), End: posAt(src, end)}
}

func posAt(src []byte, i int) diag.Pos {
	i = min(i, len(src))
	bol := bytes.LastIndexByte(src[:i], '\n') + 1
	return diag.At(bytes.Count(src[:i], []byte("\n"))+1, utf8.RuneCount(src[bol:i])+1, i)
}

func lineAt(src []byte, i int) string {
	i = min(i, len(src))
	bol := bytes.LastIndexByte(src[:i], '\n') + 1
	return string(bytes.ToValidUTF8(src[bol:lineEnd(src, i)], []byte("�")))
}
