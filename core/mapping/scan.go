package mapping

import (
	"bytes"
	"fmt"
	"unicode/utf8"

	"leitstand/core/diag"
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
	return scanParts(file, src, max(len(src)/maxParts, minPart))
}

// scanParts is scan for parts of a number of bytes.
func scanParts(file string, src []byte, enough int) (ready []byte, parts []int, refused *diag.Diagnostic) {
	bad := func(at int, summary, advice string) ([]byte, []int, *diag.Diagnostic) {
		r := rangeAt(file, src, at, at+1)
		return nil, nil, &diag.Diagnostic{Code: "unreadable-file", Summary: summary, Advice: advice, Range: r, Line: lineAt(src, at)}
	}
	if len(src) > MaxSize {
		return nil, nil, &diag.Diagnostic{
			Code: "unreadable-file", Range: diag.Range{File: file},
			Summary: tooLarge(int64(len(src))),
			Advice:  "check that it is a mapping; a very large one can be split into several files in a folder",
		}
	}
	for i := 0; i < len(src); {
		r, n := utf8.DecodeRune(src[i:])
		switch {
		case r == utf8.RuneError && n == 1:
			return bad(i, "the file is not UTF-8 text", "save it in the encoding UTF-8")
		case r < ' ' && r != '\n' && r != '\r' && r != '\t':
			return bad(i, fmt.Sprintf("the file holds the control character U+%04X", r), "take it out; in a string, write it as an escape such as \"\\u001b\"")
		}
		i += n
	}
	out := bytes.Clone(src)
	parts = []int{0}
	depth := 0
	for i := 0; i < len(src); {
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
			i = quoted(src, out, i+1)
		case c == '<' && at(src, i+1) == '<':
			i = heredoc(src, out, i)
		case c == '{' || c == '[' || c == '(':
			if depth++; depth > maxDepth {
				return bad(i, fmt.Sprintf("brackets are nested more than %d deep", maxDepth), "a mapping needs three or four levels; look for one that is never closed")
			}
			i++
		case c == '}' || c == ']' || c == ')':
			depth--
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
func quoted(src, out []byte, i int) int {
	for i < len(src) {
		switch c := src[i]; {
		case c == '\\':
			i += 2
		case c == '"':
			return i + 1
		case c == '\n':
			return i
		default:
			neutralize(src, out, i)
			i++
		}
	}
	return len(src)
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
	return diag.Pos{Line: bytes.Count(src[:i], []byte("\n")) + 1, Column: utf8.RuneCount(src[bol:i]) + 1, Byte: i}
}

func lineAt(src []byte, i int) string {
	i = min(i, len(src))
	bol := bytes.LastIndexByte(src[:i], '\n') + 1
	return string(bytes.ToValidUTF8(src[bol:lineEnd(src, i)], []byte("�")))
}
