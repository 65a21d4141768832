package mapping

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Item is a piece of a mapping that is to be printed: a Block, an Attr, a Comment or a Blank.
type Item interface{ print(w *strings.Builder) }

// Block is a block with its labels and what is in it. One with a single plain attribute stands on a
// line.
type Block struct {
	Type   string
	Labels []string
	Items  []Item
}

// Attr is an attribute, or a row of a table.
type Attr struct {
	Name  string // in quotes where it is no word
	Value Value
}

// Comment is a line of comment, without what would act on a terminal.
type Comment string

// Blank is an empty line.
type Blank struct{}

// Value is what an attribute is given: a Str, Strs, an Int, a Bool or a Table.
type Value interface{ spell() string }

// The values.
type (
	Str  string
	Strs []string
	Int  int
	Bool bool
	// Table has a line for each row.
	Table []Attr
	// Short is a table on one line.
	Short []Attr
)

// Print spells items as a mapping, laid out evenly.
func Print(items []Item) ([]byte, error) { return Format([]byte(Spell(items))) }

// Spell spells items as a mapping, laid out anyhow.
func Spell(items []Item) string {
	var w strings.Builder
	for _, i := range items {
		i.print(&w)
	}
	return w.String()
}

func (b Block) print(w *strings.Builder) {
	w.WriteString(b.Type)
	for _, l := range b.Labels {
		w.WriteString(" " + Quote(l))
	}
	inside := Spell(b.Items)
	switch {
	case inside == "":
		w.WriteString(" {}\n")
	case len(b.Items) == 1 && isPlain(b.Items[0]):
		w.WriteString(" { " + strings.TrimSuffix(inside, "\n") + " }\n")
	default:
		w.WriteString(" {\n" + inside + "}\n")
	}
}

// isPlain says whether an item is an attribute without a table.
func isPlain(i Item) bool {
	a, ok := i.(Attr)
	if !ok {
		return false
	}
	switch a.Value.(type) {
	case Table, Short:
		return false
	}
	return true
}

func (a Attr) print(w *strings.Builder) {
	name := a.Name
	if !isWord(name) {
		name = Quote(name)
	}
	w.WriteString(name + " = " + a.Value.spell() + "\n")
}

func (c Comment) print(w *strings.Builder) {
	plain := strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7F {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(string(c), "?"))
	w.WriteString("# " + plain + "\n")
}

func (Blank) print(w *strings.Builder) { w.WriteByte('\n') }

func (v Str) spell() string { return Quote(string(v)) }

func (v Strs) spell() string {
	quoted := make([]string, len(v))
	for i, s := range v {
		quoted[i] = Quote(s)
	}
	return "[" + strings.Join(quoted, ", ") + "]"
}

func (v Int) spell() string { return strconv.Itoa(int(v)) }

func (v Bool) spell() string { return strconv.FormatBool(bool(v)) }

func (v Table) spell() string {
	var w strings.Builder
	for _, a := range v {
		a.print(&w)
	}
	return "{\n" + w.String() + "}"
}

func (v Short) spell() string {
	rows := make([]string, len(v))
	for i, a := range v {
		var w strings.Builder
		a.print(&w)
		rows[i] = strings.TrimSuffix(w.String(), "\n")
	}
	return "{ " + strings.Join(rows, ", ") + " }"
}

// isWord says whether a name needs no quotes: it is no keyword of HCL.
func isWord(name string) bool {
	if slices.Contains([]string{"for", "if", "in", "null", "true", "false"}, name) {
		return false
	}
	for i, r := range name {
		if !(r == '_' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || i > 0 && (r == '-' || r >= '0' && r <= '9')) {
			return false
		}
	}
	return name != ""
}

// Quote spells a string as the language does: what one would not see, or what acts on a terminal, by
// its number.
func Quote(s string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range s {
		hidden := unicode.Is(unicode.Cf, r) && r != 0x200D && r != 0xAD
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r == '\n':
			b.WriteString(`\n`)
		case r == '\t':
			b.WriteString(`\t`)
		case r == '\r':
			b.WriteString(`\r`)
		case hidden && r > 0xFFFF:
			fmt.Fprintf(&b, `\U%08x`, r)
		case r < ' ' || r >= 0x7F && r < 0xA0 || hidden || r == 0x2028 || r == 0x2029:
			fmt.Fprintf(&b, `\u%04x`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('"')
	return b.String()
}
