package mapping

import (
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
)

// plain gives back the braces that scan hid from HCL.
func plain(s string) string { return strings.ReplaceAll(s, string(rune(brace)), "{") }

// value evaluates a literal. Whatever else HCL could compute is refused.
func (l *loader) value(src *source, name string, expr hclsyntax.Expression, f form) (cty.Value, bool) {
	fail := func(advice string) (cty.Value, bool) {
		l.add(src.rng(expr.Range()), "wrong-type", fmt.Sprintf("%s must be %s", name, formWords[f]), advice)
		return cty.NilVal, false
	}
	if !l.written(src, expr) {
		return fail("nothing is computed" + bareAdvice(expr))
	}
	if v, ok := literal(expr); ok && (f == formText || f == formRow || f == formTexts || f == formCommand) {
		return v, true
	}
	v, diags := expr.Value(l.evaluation(expr))
	if diags.HasErrors() {
		return cty.NilVal, false // an unknown constant, which written has reported
	}
	if !v.IsWhollyKnown() || v.IsNull() {
		return fail("")
	}
	text := v.Type() == cty.String
	texts := v.Type().IsTupleType()
	if texts {
		for _, t := range v.Type().TupleElementTypes() {
			texts = texts && t == cty.String
		}
	}
	ok := false
	switch f {
	case formText, formRow:
		ok = text
	case formTexts:
		ok = text || texts
	case formNumber:
		ok = v.Type() == cty.Number && isWhole(v)
	case formBool:
		ok = v.Type() == cty.Bool
	case formCommand:
		ok = text || texts && v.LengthInt() > 0
	case formPairs:
		ok = v.Type().IsObjectType()
	case formBySystem:
		ok = text || v.Type().IsObjectType()
	case formSteps:
		ok = text || v.Type().IsTupleType()
	case formAny:
		ok = true
	}
	if !ok {
		advice := ""
		if f != formNumber && f != formBool && f != formPairs && f != formSteps && f != formBySystem && !texts {
			advice = "put it in quotes"
		}
		return fail(advice)
	}
	return v, true
}

// evaluation is what HCL looks constants up in, nil where an expression has none.
func (l *loader) evaluation(expr hclsyntax.Expression) *hcl.EvalContext {
	used := expr.Variables()
	if len(used) == 0 {
		return nil
	}
	lets := map[string]cty.Value{} // those that it names: all of them may be very many
	for _, v := range used {
		for _, step := range v {
			if name, ok := step.(hcl.TraverseAttr); ok {
				if value, ok := l.lets[name.Name]; ok {
					lets[name.Name] = value
				}
			}
		}
	}
	return &hcl.EvalContext{Variables: map[string]cty.Value{"let": cty.ObjectVal(lets)}}
}

// exact is a text as it is written, code point by code point: HCL makes one of two code
// points that look alike, and an escape must not mean a brace that scan has hidden.
func (l *loader) exact(src *source, expr hclsyntax.Expression, v cty.Value) string {
	switch e := expr.(type) {
	case *hclsyntax.TemplateExpr:
		r := e.Range()
		if r.End.Byte <= len(src.text) && r.End.Byte-r.Start.Byte >= 2 && src.text[r.Start.Byte] == '"' &&
			src.text[r.End.Byte-1] == '"' {
			if text, ok := unescape(string(src.text[r.Start.Byte+1 : r.End.Byte-1])); ok {
				return text
			}
		}
	case *hclsyntax.ScopeTraversalExpr:
		if name, ok := e.Traversal[len(e.Traversal)-1].(hcl.TraverseAttr); ok {
			if text, ok := l.exactLets[name.Name]; ok {
				return text
			}
		}
	}
	return plain(v.AsString())
}

// unescape undoes the escapes of a quoted text, by HCL's rules.
func unescape(s string) (string, bool) {
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] != '\\' {
			b.WriteByte(s[i])
			continue
		}
		if i++; i == len(s) {
			return "", false
		}
		digits := 0
		switch s[i] {
		case 'n':
			b.WriteByte('\n')
		case 'r':
			b.WriteByte('\r')
		case 't':
			b.WriteByte('\t')
		case '"', '\\':
			b.WriteByte(s[i])
		case 'u':
			digits = 4
		case 'U':
			digits = 8
		default:
			return "", false
		}
		if digits == 0 {
			continue
		}
		if i+digits >= len(s) {
			return "", false
		}
		n, err := strconv.ParseUint(s[i+1:i+1+digits], 16, 32)
		if err != nil || !utf8.ValidRune(rune(n)) {
			return "", false
		}
		b.WriteRune(rune(n))
		i += digits
	}
	return b.String(), true
}

// literal is a plain text, the usual case by far, without HCL's evaluation.
func literal(expr hclsyntax.Expression) (cty.Value, bool) {
	t, ok := expr.(*hclsyntax.TemplateExpr)
	if !ok || len(t.Parts) != 1 {
		return cty.NilVal, false
	}
	v, ok := t.Parts[0].(*hclsyntax.LiteralValueExpr)
	if !ok || v.Val.Type() != cty.String {
		return cty.NilVal, false
	}
	return v.Val, true
}

// written says whether an expression is written out in full, constants included,
// and reports constants that are not defined.
func (l *loader) written(src *source, expr hclsyntax.Expression) bool {
	all := func(list []hclsyntax.Expression) bool {
		ok := true
		for _, e := range list {
			ok = l.written(src, e) && ok
		}
		return ok
	}
	switch e := expr.(type) {
	case *hclsyntax.LiteralValueExpr:
		return true
	case *hclsyntax.TemplateExpr:
		return all(e.Parts)
	case *hclsyntax.TupleConsExpr:
		return all(e.Exprs)
	case *hclsyntax.UnaryOpExpr: // HCL has no negative numbers but this
		n, ok := e.Val.(*hclsyntax.LiteralValueExpr)
		return ok && e.Op == hclsyntax.OpNegate && n.Val.Type() == cty.Number
	case *hclsyntax.ObjectConsKeyExpr:
		if p, ok := e.Wrapped.(*hclsyntax.ParenthesesExpr); ok {
			return l.written(src, p.Expression)
		}
		return !e.ForceNonLiteral
	case *hclsyntax.ObjectConsExpr:
		seen := map[string]diag.Range{}
		for _, item := range e.Items {
			if !all([]hclsyntax.Expression{item.KeyExpr, item.ValueExpr}) {
				return false
			}
			k, diags := item.KeyExpr.Value(l.evaluation(item.KeyExpr))
			if diags.HasErrors() || !k.IsKnown() || k.Type() != cty.String {
				return false
			}
			name, at := k.AsString(), src.rng(item.KeyExpr.Range())
			if first, twice := seen[name]; twice { // HCL keeps the last one without a word
				l.add(
					at, "duplicate", fmt.Sprintf("%q stands twice in these braces", plain(name)), "keep one of the two",
					diag.Related{Range: first, Words: "first here"},
				)
			} else {
				seen[name] = at
			}
		}
		return true
	case *hclsyntax.ScopeTraversalExpr:
		if e.Traversal.RootName() != "let" || len(e.Traversal) != 2 {
			return false
		}
		if name, ok := e.Traversal[1].(hcl.TraverseAttr); ok {
			l.constant(Text{"let." + name.Name, src.rng(expr.Range())})
			return true
		}
	}
	return false
}

// constant looks up a text of the form let.NAME, and leaves others as they are.
func (l *loader) constant(t Text) Text {
	name, ok := strings.CutPrefix(t.Value, "let.")
	if !ok {
		return t
	}
	v, ok := l.lets[name]
	if !ok {
		l.unknown(
			Text{name, t.Range}, "unknown-constant", fmt.Sprintf("there is no constant %q", name),
			slices.Sorted(maps.Keys(l.lets)),
		)
		return t
	}
	if v.Type() == cty.String {
		t.Value = plain(v.AsString())
	}
	return t
}

// bareAdvice proposes quotes for a bare word, the usual slip.
func bareAdvice(expr hclsyntax.Expression) string {
	if t, ok := expr.(*hclsyntax.ScopeTraversalExpr); ok && len(t.Traversal) == 1 {
		return fmt.Sprintf("; write %q with its quotes", t.Traversal.RootName())
	}
	return ""
}

// isWhole says whether a number is neither a fraction nor too large to count with.
func isWhole(v cty.Value) bool {
	_, accuracy := v.AsBigFloat().Int64()
	return accuracy == big.Exact
}
