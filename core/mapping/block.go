package mapping

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
	"leitstand/core/keys"
)

// source is one file, and what is needed to say where things stand in it.
type source struct {
	name  string
	text  []byte
	start []int // byte offset of each line
}

func newSource(name string, text []byte) *source {
	s := &source{name: name, text: text, start: []int{0}}
	for i, c := range text {
		if c == '\n' {
			s.start = append(s.start, i+1)
		}
	}
	return s
}

// lines are all lines, parts of one copy of the text.
func (s *source) lines() []string {
	whole, list := string(s.text), make([]string, len(s.start))
	for i, from := range s.start {
		end := len(whole)
		if i+1 < len(s.start) {
			end = s.start[i+1] - 1
		}
		list[i] = strings.TrimSuffix(whole[from:end], "\r")
	}
	return list
}

// pos turns HCL's place, whose columns are grapheme clusters, into ours.
func (s *source) pos(p hcl.Pos) diag.Pos {
	if p.Line < 1 || p.Line > len(s.start) || p.Byte > len(s.text) || p.Byte < s.start[p.Line-1] {
		return diag.At(p.Line, p.Column, p.Byte)
	}
	return diag.At(p.Line, utf8.RuneCount(s.text[s.start[p.Line-1]:p.Byte])+1, p.Byte)
}

func (s *source) rng(r hcl.Range) diag.Range {
	return diag.Range{File: s.name, Start: s.pos(r.Start), End: s.pos(r.End)}
}

// block is one block while it is read against its schema.
type block struct {
	*loader
	src    *source
	schema *schema
	syn    *hclsyntax.Block
	labels []Text
	at     *diag.Range // of a row of a table, which has no header of its own
}

// open holds a block against its schema and reports what does not fit. It
// returns nil when the block cannot be read any further.
func (l *loader) open(src *source, syn *hclsyntax.Block, s *schema) *block {
	b := &block{loader: l, src: src, schema: s, syn: syn}
	for i, label := range syn.Labels {
		b.labels = append(b.labels, Text{plain(label), src.rng(syn.LabelRanges[i])})
	}
	if b.formerTable() {
		return nil
	}
	head := b.head()
	fits := b.attributesFit()
	if !s.holdsRules() {
		for _, inner := range syn.Body.Blocks {
			if slices.Contains(s.blocks, inner.Type) {
				continue
			}
			advice := "close it before this line"
			if _, table := s.attr(inner.Type); table {
				advice = tableAdvice
			}
			l.add(
				src.rng(inner.TypeRange), "unknown-block",
				fmt.Sprintf("a %s block cannot hold a block, here %q", s.typ, inner.Type), advice,
			)
		}
	}
	for _, t := range b.labels {
		if name, ok := strings.CutPrefix(t.Value, "let."); ok {
			l.add(
				t.Range, "constant-label",
				fmt.Sprintf("a label is written out, and %q is a constant's name", t.Value), labelAdvice(s, name),
			)
			return nil
		}
	}
	if n := len(b.labels); n < s.labels[0] || n > s.labels[1] {
		if n == 0 && !fits && s.row != "" {
			return nil // what is told already may be the label
		}
		summary := fmt.Sprintf("%s takes %s", s.typ, countWords(s))
		if s.labels[1] > 0 {
			summary += fmt.Sprintf(", not %d", n)
		}
		l.add(head, "wrong-labels", summary, "write "+s.example)
		return nil
	}
	return b
}

// attributesFit reports the attributes that the block's schema does not have.
func (b *block) attributesFit() bool {
	fit := true
	for _, name := range sortedAttrs(b.syn.Body) {
		if _, ok := b.schema.attr(name); ok || b.schema.open || b.full() {
			continue
		}
		fit = false
		if b.reservedAttr(b.syn.Body.Attributes[name]) {
			continue
		}
		b.add(
			b.src.rng(b.syn.Body.Attributes[name].NameRange), "unknown-attribute",
			fmt.Sprintf("%s has no attribute %q", b.schema.typ, name), b.attrAdvice(name),
		)
	}
	return fit
}

// labelAdvice says how a constant stands where a label would.
func labelAdvice(s *schema, name string) string {
	if s.row == "" {
		return "write what it stands for"
	}
	return fmt.Sprintf("in a table a constant can stand for a press: keys = { (let.%s) = … }", name)
}

// tableAdvice says how a table is written.
const tableAdvice = "keys is an attribute: write keys = { … }"

// formerTable reports rows in a block that has none any more.
func (b *block) formerTable() bool {
	if a, ok := b.syn.Body.Attributes["abbreviation"]; ok && b.schema.typ == string(KindSnippet) {
		b.add(
			b.src.rng(a.NameRange), "former-table", "an abbreviation is a block of its own",
			"write "+schemaOf(string(KindAbbreviation)).example,
		)
		return true
	}
	for _, name := range b.schema.formerTables {
		a, ok := b.syn.Body.Attributes[name]
		if !ok {
			continue
		}
		if _, object := a.Expr.(*hclsyntax.ObjectConsExpr); !object && name != "keys" {
			continue
		}
		b.add(
			b.src.rng(a.NameRange), "former-table", fmt.Sprintf("%s holds one rule, and no rows", b.schema.typ),
			fmt.Sprintf("write rows in the table of the file, of on or of a group: keys = { %s }", b.schema.row),
		)
		return true
	}
	return false
}

// hasFormer says whether the block has an attribute by a name of old, which may be what
// it seems to lack.
func (b *block) hasFormer() bool {
	for name := range b.syn.Body.Attributes {
		if _, ok := b.schema.renamed(name); ok {
			return true
		}
	}
	return false
}

func (b *block) attrAdvice(name string) string {
	if now, ok := b.schema.renamed(name); ok {
		return fmt.Sprintf("it is called %s now", now)
	}
	if _, key := keyNamed(name); key && b.schema.row != "" && len(b.labels) == 0 {
		return fmt.Sprintf("many presses are a table: keys = { %s }", b.schema.row)
	}
	names := b.schema.attrNames()
	if n := diag.Nearest(name, names); n != "" {
		return fmt.Sprintf("did you mean %q?", n)
	}
	if len(names) == 0 {
		return fmt.Sprintf("%s takes no attributes", b.schema.typ)
	}
	return "it takes " + strings.Join(names, ", ")
}

func countWords(s *schema) string {
	noun := s.labelWord
	switch {
	case s.labels[1] == 0:
		return "no label"
	case s.labels == [2]int{1, 1}:
		return "one " + noun
	case s.labels == [2]int{2, 2}:
		return "two " + noun + "s"
	case s.labels[0] == 0:
		return "at most one " + noun
	default:
		return "at least one " + noun
	}
}

// head is the range of the block's type and labels.
func (b *block) head() diag.Range {
	if b.at != nil {
		return *b.at
	}
	r := b.syn.TypeRange
	if n := len(b.syn.LabelRanges); n > 0 {
		r.End = b.syn.LabelRanges[n-1].End
	}
	return b.src.rng(r)
}

func sortedAttrs(body *hclsyntax.Body) []string {
	names := make([]string, 0, len(body.Attributes))
	for name := range body.Attributes {
		names = append(names, name)
	}
	slices.SortFunc(names, func(a, b string) int {
		return body.Attributes[a].NameRange.Start.Byte - body.Attributes[b].NameRange.Start.Byte
	})
	return names
}

// get reads an attribute of the block, with ok false if it is absent or wrong.
func (b *block) get(name string) (hclsyntax.Expression, cty.Value, bool) {
	a, ok := b.syn.Body.Attributes[name]
	if !ok {
		return nil, cty.NilVal, false
	}
	spec, _ := b.schema.attr(name)
	v, ok := b.value(b.src, name, a.Expr, spec.form)
	return a.Expr, v, ok
}

// has says whether the attribute is there at all, right or wrong.
func (b *block) has(name string) bool { _, ok := b.syn.Body.Attributes[name]; return ok }

func (b *block) text(name string) (Text, bool) {
	expr, v, ok := b.get(name)
	if !ok {
		return Text{}, false
	}
	return Text{b.exact(b.src, expr, v), b.src.rng(expr.Range())}, true
}

func (b *block) texts(name string) []Text {
	expr, v, ok := b.get(name)
	if !ok {
		return nil
	}
	if v.Type() == cty.String {
		return []Text{{b.exact(b.src, expr, v), b.src.rng(expr.Range())}}
	}
	var list []Text
	tuple, _ := expr.(*hclsyntax.TupleConsExpr)
	for i := range v.LengthInt() {
		item := v.Index(cty.NumberIntVal(int64(i)))
		if tuple == nil { // a constant's place, unless the list stands here
			list = append(list, Text{plain(item.AsString()), b.src.rng(expr.Range())})
			continue
		}
		list = append(list, Text{b.exact(b.src, tuple.Exprs[i], item), b.src.rng(tuple.Exprs[i].Range())})
	}
	return list
}

func (b *block) boolean(name string, otherwise bool) bool {
	if _, v, ok := b.get(name); ok {
		return v.True()
	}
	return otherwise
}

// word reads an attribute that must be one of a few words.
func (b *block) word(name, otherwise string, words []string) string {
	t, ok := b.text(name)
	if !ok {
		return otherwise
	}
	if !slices.Contains(words, t.Value) {
		b.unknown(t, "unknown-value", fmt.Sprintf("%s cannot be %q", name, t.Value), words)
		return otherwise
	}
	return t.Value
}

// unknown reports a name that is none of the known ones.
func (l *loader) unknown(t Text, code, summary string, known []string) {
	if l.full() {
		return
	}
	advice := "it is one of " + strings.Join(known, ", ")
	if len(known) == 0 {
		advice = "none is defined yet"
	} else if n := diag.Nearest(t.Value, known); n != "" {
		advice = fmt.Sprintf("did you mean %q?", n)
	} else if len(known) > 24 {
		advice = ""
	}
	l.add(t.Range, code, summary, advice)
}

// key reads the W3C code of a key.
func (l *loader) key(t Text) (KeyAt, bool) {
	k, ok := keyNamed(t.Value)
	if !ok {
		l.add(t.Range, "unknown-key", fmt.Sprintf("%q is no key", t.Value), keys.KeyAdvice(t.Value, diag.Nearest))
		return KeyAt{}, false
	}
	return KeyAt{k, t.Range}, true
}

// keyNamed finds a key by its code; in the place of a position, a modifier's name with its
// side is the key.
func keyNamed(name string) (keys.Key, bool) {
	for mod, code := range map[string]string{"CtrlLeft": "ControlLeft", "CtrlRight": "ControlRight"} {
		if strings.EqualFold(name, mod) {
			name = code
		}
	}
	return keys.ByCode(name)
}

// keyList reads a list of keys and refuses the same key twice.
func (l *loader) keyList(list []Text) []KeyAt {
	var found []KeyAt
	for _, t := range list {
		k, ok := l.key(t)
		if !ok {
			continue
		}
		if slices.ContainsFunc(found, func(o KeyAt) bool { return o.Key == k.Key }) {
			l.add(t.Range, "duplicate", fmt.Sprintf("%s stands twice in this list", k.Key), "name it once")
			continue
		}
		found = append(found, k)
	}
	return found
}

// trigger reads a chord, several strokes, or one modifier alone.
func (l *loader) trigger(t Text) (Trigger, bool) {
	strokes, err := keys.ParseStrokes(t.Value, l.m.ModifierNames(l.inFile), diag.Nearest)
	if err != nil {
		wrong := err.(*keys.SpellingError)
		l.add(t.Range, "bad-chord", wrong.Problem, wrong.Remedy)
		return Trigger{}, false
	}
	p := Trigger{Range: t.Range, Strokes: make([]ChordAt, 0, len(strokes))}
	for _, s := range strokes {
		p.Strokes = append(p.Strokes, ChordAt{s, t.Range})
	}
	return p, true
}

// position reads a key as a position, and anything else as trigger does.
func (l *loader) position(t Text) (Trigger, bool) {
	if k, ok := keyNamed(t.Value); ok {
		return Trigger{Key: k, Range: t.Range}, true
	}
	if !strings.Contains(t.Value, "+") || t.Value == "+" {
		if _, ok := keys.ModByName(t.Value); !ok && t.Value != keys.Primary &&
			!slices.Contains(l.m.ModifierNames(l.inFile), t.Value) {
			_, ok := l.key(t)
			return Trigger{}, ok
		}
	}
	return l.trigger(t)
}

// output reads what a press gives: a key's code, a chord, or one character.
func (l *loader) output(t Text) (Output, bool) {
	o := Output{Range: t.Range}
	if strings.Trim(t.Value, " \t") == "" { // a hard blank is a character
		l.add(
			t.Range,
			"bad-output",
			"it gives nothing",
			"name a key, a chord or a character, such as \"Escape\"; to have a key do nothing, write: disable \"F12\" {}",
		)
		return o, false
	}
	if t.Value == "off" {
		l.add(
			t.Range, "bad-output", "\"off\" stands in tables only",
			"to have a key do nothing, write: disable \"F12\" {}",
		)
		return o, false
	}
	if k, ok := keyNamed(t.Value); ok {
		o.Key = k
		return o, true
	}
	if strings.EqualFold(t.Value, "Compose") {
		o.Compose = true
		return o, true
	}
	if r, n := utf8.DecodeRuneInString(t.Value); n == len(t.Value) && r > ' ' && unicode.IsGraphic(r) {
		o.Text = t.Value
		return o, true
	}
	if !strings.Contains(t.Value, "+") {
		if strings.Contains(t.Value, " ") {
			l.add(
				t.Range, "bad-output", fmt.Sprintf("%q is no key, chord or character", plain(t.Value)),
				"a text that is typed is written F7 = { text = \"…\" }, or snippet \"F7\" { text = \"…\" }",
			)
			return o, false
		}
		_, ok := l.key(t)
		return o, ok
	}
	p, ok := l.trigger(t)
	if !ok {
		return o, false
	}
	if len(p.Strokes) > 1 {
		l.add(t.Range, "bad-output", "a press gives one chord, not several", "use a macro for several")
		return o, false
	}
	o.Chord = &p.Strokes[0].Chord
	return o, true
}

// duration reads a time such as "220ms" between two bounds.
func (b *block) duration(name string, least, most time.Duration) (time.Duration, bool) {
	t, ok := b.text(name)
	if !ok {
		return 0, false
	}
	d, err := time.ParseDuration(t.Value)
	if err != nil {
		b.add(
			t.Range, "bad-time", fmt.Sprintf("%s cannot be %q", name, t.Value),
			"write a time with its unit, such as \"220ms\" or \"1.5s\"",
		)
		return 0, false
	}
	if d < least || d > most {
		b.add(
			t.Range, "out-of-range", fmt.Sprintf("%s is %s", name, d),
			fmt.Sprintf("it may be from %s to %s", least, most),
		)
		return 0, false
	}
	return d, true
}

// number reads a whole number, and says where it stands.
func (b *block) number(name string) (int, diag.Range, bool) {
	expr, v, ok := b.get(name)
	if !ok {
		return 0, diag.Range{}, false
	}
	n, _ := v.AsBigFloat().Int64()
	return int(n), b.src.rng(expr.Range()), true
}
