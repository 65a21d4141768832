package mapping

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"

	"leitstand/core/diag"
)

// A table is the attribute keys, at the top of a file, in on, in a group or in a layer. It holds a
// rule a row: what is pressed, and what that does.
//
//	keys = {
//	  CapsLock  = "Escape"
//	  Insert    = "off"
//	  Space     = { tap = "Space", hold = "ShiftLeft" }
//	  "Hyper+t" = { app = "terminal", why = "beside the gauge" }
//	}
//
// A row is read as the block that it stands for, so it is a rule of its own for places,
// errors and verdicts.

// table reads the rules of a table.
func (l *loader) table(src *source, a *hclsyntax.Attribute, in setting) {
	b := &block{loader: l, src: src, schema: keysSchema, syn: &hclsyntax.Block{
		Type: keysSchema.typ, Body: &hclsyntax.Body{Attributes: hclsyntax.Attributes{a.Name: a}},
	}}
	for _, r := range b.rows(a) {
		if l.full() {
			return
		}
		before := len(l.diags)
		if s := b.row(in, r); len(l.diags) > before {
			l.unread(s)
		}
	}
}

// tableRow is what is pressed, and what that does.
type tableRow struct {
	press Text
	at    hcl.Range // of the press
	value hclsyntax.Expression
}

// rows are those of a table. A table of rules has one at least; in a layer, keys without a meaning may be all there are.
func (b *block) rows(a *hclsyntax.Attribute) []tableRow {
	object, ok := a.Expr.(*hclsyntax.ObjectConsExpr)
	switch {
	case !ok:
		b.add(b.src.rng(a.Expr.Range()), "wrong-type", fmt.Sprintf("%s must be %s", a.Name, formWords[formRows]), "")
		return nil
	case len(object.Items) == 0 && b.schema == keysSchema:
		b.add(
			b.src.rng(a.NameRange), "empty-block", "the table is empty",
			"write a row, such as CapsLock = \"Escape\", or take it out",
		)
		return nil
	}
	return b.inBraces(object)
}

// inBraces is what an object holds, each name once: HCL itself would keep the last without a word.
func (b *block) inBraces(object *hclsyntax.ObjectConsExpr) []tableRow {
	var rows []tableRow
	seen := map[string]diag.Range{}
	for _, item := range object.Items {
		t, ok := b.rowKey(item.KeyExpr)
		if !ok {
			continue
		}
		if first, twice := seen[t.Value]; twice {
			b.add(
				t.Range, "duplicate", fmt.Sprintf("%q stands twice in these braces", plain(t.Value)), "keep one of the two",
				diag.Related{Range: first, Words: "first here"},
			)
			continue
		}
		seen[t.Value] = t.Range
		rows = append(rows, tableRow{t, item.KeyExpr.Range(), item.ValueExpr})
	}
	return rows
}

// attributes are what an object holds, as those of a block.
func (b *block) attributes(object *hclsyntax.ObjectConsExpr) hclsyntax.Attributes {
	attrs := hclsyntax.Attributes{}
	for _, r := range b.inBraces(object) {
		attrs[r.press.Value] = &hclsyntax.Attribute{
			Name: r.press.Value, Expr: r.value, NameRange: r.at, SrcRange: hcl.RangeBetween(r.at, r.value.Range()),
		}
	}
	return attrs
}

// rowKey reads what a row is for: a name, a text in quotes, or a constant in parentheses.
func (b *block) rowKey(expr hclsyntax.Expression) (Text, bool) {
	at := b.src.rng(expr.Range())
	if key, ok := expr.(*hclsyntax.ObjectConsKeyExpr); ok {
		expr = key.Wrapped
		if t, ok := expr.(*hclsyntax.ScopeTraversalExpr); ok && !key.ForceNonLiteral {
			if len(t.Traversal) == 1 {
				return Text{t.Traversal.RootName(), at}, true
			}
			b.add(
				at, "wrong-type", "a name of several parts stands in quotes",
				"put it in quotes; the name of a constant goes into parentheses, as in (let.chord)",
			)
			return Text{}, false
		}
	}
	if p, ok := expr.(*hclsyntax.ParenthesesExpr); ok {
		expr = p.Expression
	}
	v, ok := b.value(b.src, "the name of a row", expr, formText)
	if !ok {
		return Text{}, false
	}
	return Text{b.exact(b.src, expr, v), at}, true
}

// kindsOfRow are the rules that a row can be, by an attribute in its braces; without one it is a remap.
var kindsOfRow = []struct {
	attr string
	kind Kind
}{
	{"does", KindAction}, {"text", KindSnippet}, {"app", KindLaunch}, {"run", KindLaunch}, {"open", KindLaunch},
	{"item", KindMenu}, {"steps", KindMacro}, {"to", KindRemap}, {"tap", KindRemap}, {"hold", KindRemap},
}

// row reads one row: what it gives, or the attributes of its rule in braces. It returns what the
// row is read as.
func (b *block) row(in setting, r tableRow) *schema {
	press, value := r.press, r.value
	kind, attrs := KindRemap, hclsyntax.Attributes{}
	if object, braces := value.(*hclsyntax.ObjectConsExpr); braces {
		attrs = b.attributes(object)
		first := ""
		for _, k := range kindsOfRow {
			if _, has := attrs[k.attr]; !has {
				continue
			}
			if first != "" && k.kind != kind {
				b.add(
					press.Range, "contradiction", fmt.Sprintf("a row does one thing, and this has %s and %s", first, k.attr),
					"keep one of them",
				)
				return schemaOf(string(kind))
			}
			first, kind = cmp.Or(first, k.attr), k.kind
		}
		if first == "" {
			b.rowOfNothing(press, attrs)
			return schemaOf(string(kind))
		}
	} else if _, ok := b.rowText(r); !ok {
		return schemaOf(string(kind))
	} else {
		attrs["to"] = &hclsyntax.Attribute{Name: "to", Expr: value, SrcRange: value.Range(), NameRange: value.Range()}
	}
	if to, ok := attrs["to"]; ok && isOff(to.Expr) {
		delete(attrs, "to")
		kind = KindDisable
	}
	s := schemaOf(string(kind))
	at := press.Range
	row := &block{
		loader: b.loader,
		src:    b.src,
		schema: s,
		labels: []Text{press},
		at:     &at,
		syn:    &hclsyntax.Block{Type: s.typ, Body: &hclsyntax.Body{Attributes: attrs}},
	}
	row.attributesFit()
	row.rule(in)
	return s
}

// rowText is the text that stands behind a press without braces.
func (b *block) rowText(r tableRow) (Text, bool) {
	v, ok := b.value(b.src, r.press.Value, r.value, formRow)
	if !ok {
		return Text{}, false
	}
	return Text{b.exact(b.src, r.value, v), b.src.rng(r.value.Range())}, true
}

// rowOfNothing reports braces that do not say what the row does, and the words in them that nothing knows.
func (b *block) rowOfNothing(press Text, attrs hclsyntax.Attributes) {
	var does []string
	for _, k := range kindsOfRow {
		does = append(does, k.attr)
	}
	of := &schema{typ: "a row", rule: true}
	for _, name := range does {
		of.attrs = append(of.attrs, attribute{name: name})
	}
	row := &block{loader: b.loader, src: b.src, schema: of, labels: []Text{press},
		syn: &hclsyntax.Block{Body: &hclsyntax.Body{Attributes: attrs}}}
	if row.attributesFit() {
		b.add(
			press.Range, "missing-attribute", "the braces do not say what the row does",
			"write one of "+strings.Join(does, ", ")+" in them",
		)
	}
}

// isOff says whether a value is the word for a key that does nothing.
func isOff(value hclsyntax.Expression) bool {
	v, ok := literal(value)
	return ok && v.AsString() == "off"
}

// told says whether the same is said already.
func (l *loader) told(r diag.Range, code, summary string) bool {
	return slices.ContainsFunc(
		l.diags, func(d diag.Diagnostic) bool { return d.Range == r && d.Code == code && d.Summary == summary },
	)
}
