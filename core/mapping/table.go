package mapping

import (
	"fmt"
	"slices"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
)

// A table is a rule's block without a label, in which the attribute that says what is given
// holds a row a rule:
//
//	remap {
//	  to = {
//	    CapsLock = "Escape"
//	    Space    = { tap = "Space", hold = "ShiftLeft" }
//	  }
//	}
//
// A row is read as the block that it stands for, so it is a rule of its own for places,
// errors and verdicts.

// isTable says whether the block is a table.
func (b *block) isTable() bool {
	return len(b.labels) == 0 && slices.ContainsFunc(b.schema.tables, func(name string) bool {
		a, ok := b.syn.Body.Attributes[name]
		if !ok {
			return false
		}
		_, object := a.Expr.(*hclsyntax.ObjectConsExpr)
		return object || b.schema.typ == string(KindDisable)
	})
}

// rows reads the rules of a table.
func (b *block) rows(in setting) {
	in = setting{inside: in.inside, common: b.common(in)}
	n := 0
	for _, name := range sortedAttrs(b.syn.Body) {
		if !slices.Contains(b.schema.tables, name) {
			continue
		}
		a := b.syn.Body.Attributes[name]
		object, ok := a.Expr.(*hclsyntax.ObjectConsExpr)
		switch {
		case ok && b.schema.typ != string(KindDisable):
			b.written(b.src, object) // which reports rows that stand twice
			for _, item := range object.Items {
				n++
				if press, ok := b.rowKey(item.KeyExpr); ok {
					b.row(in, name, press, item)
				}
			}
		case b.schema.typ == string(KindDisable):
			for _, press := range b.texts(name) {
				n++
				b.readRow(in, b.schema, press.Range, []Text{press}, hclsyntax.Attributes{})
			}
		default:
			b.get(name) // which says what is wrong with it
			n++
		}
	}
	if n == 0 {
		b.add(b.head(), "empty-block", fmt.Sprintf("the %s is empty", b.schema.typ), "write "+b.schema.example)
	}
}

// rowKey reads what a row is for: a name, a text in quotes, or a constant in parentheses.
func (b *block) rowKey(expr hclsyntax.Expression) (Text, bool) {
	at := b.src.rng(expr.Range())
	if key, ok := expr.(*hclsyntax.ObjectConsKeyExpr); ok {
		expr = key.Wrapped
		if t, ok := expr.(*hclsyntax.ScopeTraversalExpr); ok && !key.ForceNonLiteral && len(t.Traversal) == 1 {
			return Text{t.Traversal.RootName(), at}, true
		}
	}
	if p, ok := expr.(*hclsyntax.ParenthesesExpr); ok {
		expr = p.Expression
	}
	v, ok := b.value(b.src, "the press of a row", expr, formText)
	if !ok {
		return Text{}, false
	}
	return Text{b.exact(b.src, expr, v), at}, true
}

// kindsOfRow are the rules that a row of a remap can be, beside a remap, by an attribute in
// its braces.
var kindsOfRow = map[string]Kind{
	"does": KindAction, "item": KindMenu, "text": KindSnippet, "app": KindLaunch, "run": KindLaunch, "open": KindLaunch, "steps": KindMacro,
}

// row reads one row: what it gives, or the attributes of its rule in braces.
func (b *block) row(in setting, name string, press Text, item hclsyntax.ObjectConsItem) {
	value := item.ValueExpr
	s, attrs := b.schema, hclsyntax.Attributes{}
	object, braces := value.(*hclsyntax.ObjectConsExpr)
	if !braces {
		attrs[name] = &hclsyntax.Attribute{Name: name, Expr: value, SrcRange: value.Range(), NameRange: value.Range()}
		if name == "to" && isOff(value) {
			b.readRow(in, schemaOf(string(KindDisable)), press.Range, []Text{press}, hclsyntax.Attributes{})
			return
		}
	} else {
		inner, ok := b.inBraces(object)
		if !ok {
			return
		}
		attrs = inner
		if to, ok := attrs["to"]; ok && name == "to" && isOff(to.Expr) {
			delete(attrs, "to")
			b.readRow(in, schemaOf(string(KindDisable)), press.Range, []Text{press}, attrs)
			return
		}
		for what, kind := range kindsOfRow {
			if _, other := attrs[what]; other && name == "to" {
				s = schemaOf(string(kind))
			}
		}
	}
	if name == "abbreviation" { // whose rows are for no chord
		if !braces {
			attrs["text"] = attrs[name]
		}
		at := item.KeyExpr.Range()
		word := &hclsyntax.TemplateExpr{
			SrcRange: at,
			Parts: []hclsyntax.Expression{
				&hclsyntax.LiteralValueExpr{Val: cty.StringVal(press.Value), SrcRange: at},
			},
		}
		attrs[name] = &hclsyntax.Attribute{Name: name, Expr: word, SrcRange: at, NameRange: at}
		b.readRow(in, s, press.Range, nil, attrs)
		return
	}
	b.readRow(in, s, press.Range, []Text{press}, attrs)
}

// isOff says whether a value is the word for a key that does nothing.
func isOff(value hclsyntax.Expression) bool {
	v, ok := literal(value)
	return ok && v.AsString() == "off"
}

// inBraces is what an object holds, as the attributes of a block.
func (b *block) inBraces(object *hclsyntax.ObjectConsExpr) (hclsyntax.Attributes, bool) {
	attrs := hclsyntax.Attributes{}
	for _, item := range object.Items {
		t, ok := b.rowKey(item.KeyExpr)
		if !ok {
			return nil, false
		}
		attrs[t.Value] = &hclsyntax.Attribute{Name: t.Value, Expr: item.ValueExpr, NameRange: item.KeyExpr.Range(),
			SrcRange: hcl.RangeBetween(item.KeyExpr.Range(), item.ValueExpr.Range())}
	}
	return attrs, true
}

// readRow reads a row as the block that it stands for, with what the table's block says
// for all rows.
func (b *block) readRow(in setting, s *schema, at diag.Range, labels []Text, attrs hclsyntax.Attributes) {
	row := &block{
		loader: b.loader,
		src:    b.src,
		schema: s,
		labels: labels,
		at:     &at,
		syn:    &hclsyntax.Block{Type: s.typ, Body: &hclsyntax.Body{Attributes: attrs}},
	}
	row.attributesFit()
	for _, name := range sortedAttrs(b.syn.Body) {
		_, shared := attrs[name]
		_, known := s.attr(name)
		common := slices.ContainsFunc(ruleAttrs, func(a attribute) bool { return a.name == name })
		if !shared && known && !common && !slices.Contains(b.schema.tables, name) {
			attrs[name] = b.syn.Body.Attributes[name]
		}
	}
	row.rule(in)
}

// told says whether the same is said already: what a table says for all rows is read with
// each.
func (l *loader) told(r diag.Range, code, summary string) bool {
	return slices.ContainsFunc(
		l.diags, func(d diag.Diagnostic) bool { return d.Range == r && d.Code == code && d.Summary == summary },
	)
}
