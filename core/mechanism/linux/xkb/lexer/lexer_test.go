package lexer_test

import (
	"fmt"
	"strings"
	"testing"
	"text/scanner"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mechanism/linux/xkb/lexer"
)

func words(text string) (list []string, complaint string) {
	l := lexer.New(text)
	l.Error = func(msg string) {
		line, column := l.Position()
		complaint = fmt.Sprintf("%d:%d: %s", line, column, msg)
	}
	for tok := l.Next(); tok != lexer.EOF; tok = l.Next() {
		kind := map[rune]string{lexer.Ident: "ident ", lexer.Int: "int ", lexer.String: "string "}[tok]
		list = append(list, kind+l.Text())
	}
	return list, complaint
}

func TestWords(t *testing.T) {
	got, complaint := words("key <AB03> { // the third\n\ttype= \"A \\\" b\", [ä_1, 0x1F, 12] /* and\nso on */ };")
	assert.Empty(t, complaint)
	assert.Equal(
		t,
		[]string{
			"ident key",
			"<",
			"ident AB03",
			">",
			"{",
			"ident type",
			"=",
			`string "A \" b"`,
			",",
			"[",
			"ident ä_1",
			",",
			"int 0x1F",
			",",
			"int 12",
			"]",
			"}",
			";",
		},
		got,
	)
	for text, want := range map[string]string{"\n \"a": "2:2: a string does not end", "a\n/* b": "2:1: a comment " +
		"does not end", "\"a\\": "1:1: a string does not end"} {
		_, complaint := words(text)
		assert.Equal(t, want, complaint)
	}
}

// The words are those of Go's own scanner, wherever that has no complaint.
func FuzzWords(f *testing.F) {
	for _, s := range []string{"key <AB03> { [ a, B ] };", "0x1G 12ab a.b /*/ */ // x", "\"\\\"\" +~!", "map[Shift+Lock]= Level2;"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, complaint := words(text)
		var s scanner.Scanner
		s.Init(strings.NewReader(text))
		s.Mode = scanner.ScanIdents | scanner.ScanStrings | scanner.ScanInts | scanner.ScanComments | scanner.SkipComments
		bad := complaint != "" || strings.ContainsAny(text, "\x00\ufeff") || strings.Contains(text, "0")
		s.Error = func(*scanner.Scanner, string) { bad = true }
		var want []string
		for tok := s.Scan(); tok != scanner.EOF; tok = s.Scan() {
			kind := map[rune]string{scanner.Ident: "ident ", scanner.Int: "int ", scanner.String: "string "}[tok]
			want = append(want, kind+s.TokenText())
		}
		if !bad {
			require.Equal(t, want, got)
		}
	})
}

func BenchmarkNext(b *testing.B) {
	text := strings.Repeat("    key <AB03> { type[Group1] = \"ONE_LEVEL\", symbols[Group1] = [ VoidSymbol ] };\n", 100)
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		l := lexer.New(text)
		for l.Next() != lexer.EOF {
		}
	}
}

func TestCursor(t *testing.T) {
	c := lexer.Open("a.xkb", "key <AB 03> [\n x }")
	assert.True(t, c.Maybe("key"))
	assert.False(t, c.Maybe("key"))
	assert.Equal(t, "AB03", c.Name())
	c.Expect("[")
	assert.True(t, c.Going(']'))
	assert.Equal(t, "x", c.Word())
	require.NoError(t, c.Err)
	c.Expect(";")
	c.Fail("something else")
	assert.EqualError(t, c.Err, `a.xkb:2:4: "}" where ";" should be`)
	assert.False(t, c.Going(']'), "nothing goes on after an error")
}
