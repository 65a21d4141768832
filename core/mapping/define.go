package mapping

import (
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
	"leitstand/core/keys"
	"leitstand/core/machine"
)

// let reads constants: strings, numbers, truth values and lists of strings that
// are said once.
func (b *block) let() {
	for _, name := range sortedAttrs(b.syn.Body) {
		a := b.syn.Body.Attributes[name]
		if b.mine[name] {
			b.add(
				b.src.rng(a.NameRange), "duplicate", fmt.Sprintf("the constant %q is defined twice", name),
				"give one of them another name",
			)
			continue
		}
		if v, ok := b.value(b.src, name, a.Expr, formAny); ok {
			if !isConstant(v.Type()) { // a list of lists of lists grows without bound
				b.add(
					b.src.rng(a.Expr.Range()), "wrong-type",
					fmt.Sprintf("the constant %q is no text, number, true or false, or list of texts", name),
					"say it where it is used",
				)
				v = cty.StringVal("")
			}
			b.lets[name], b.mine[name] = v, true
			delete(b.exactLets, name)
			if v.Type() == cty.String {
				b.exactLets[name] = b.exact(b.src, a.Expr, v)
			}
		}
	}
}

// isConstant reports whether a constant can be of a type.
func isConstant(t cty.Type) bool {
	return t == cty.String || t == cty.Number || t == cty.Bool ||
		t.IsTupleType() && !slices.ContainsFunc(t.TupleElementTypes(), func(e cty.Type) bool { return e != cty.String })
}

// modifier reads a modifier name of the user's own.
func (b *block) modifier() {
	t := b.labels[0]
	if len(b.m.Modifiers) >= machine.Most { // each chord is looked up among them
		b.add(
			b.head(), "too-large", fmt.Sprintf("the mapping has more than %d modifiers of its own", machine.Most),
			"part it into several mappings",
		)
		return
	}
	m := &Modifier{Name: t.Value, File: b.inFile, Range: b.head(), Mods: map[System]keys.Mods{}}
	if _, ok := keys.ModByName(t.Value); ok || strings.EqualFold(t.Value, keys.Primary) {
		b.add(
			t.Range, "bad-name", fmt.Sprintf("%q is a modifier already", t.Value),
			"choose another name, such as \"Desk\"",
		)
		return
	}
	if _, ok := keys.ByCode(t.Value); ok || !plainName(t.Value) || len([]rune(t.Value)) < 2 {
		b.add(
			t.Range, "bad-name", fmt.Sprintf("%q cannot be the name of a modifier", t.Value),
			"use a word that is no key, such as \"Desk\"",
		)
		return
	}
	if o, ok := b.m.Modifier(t.Value, b.inFile); ok && o.File == b.inFile {
		b.add(
			t.Range, "duplicate", fmt.Sprintf("%q is defined twice", t.Value), "give one of them another name",
			diag.Related{Range: o.Range, Words: "first here"},
		)
		return
	}
	for _, s := range append(slices.Clone(machine.Systems), "other") {
		v, ok := b.text(s)
		if !ok {
			continue
		}
		mods, ok := b.mods(v)
		if s == "other" {
			m.Other = mods
		} else if ok {
			m.Mods[System(s)] = mods
		}
	}
	if len(b.syn.Body.Attributes) == 0 {
		b.add(
			b.head(), "missing-attribute", "the modifier stands for nothing",
			"add other = \"Meta\", and systems that differ, such as macos = \"Ctrl+Alt\"",
		)
	}
	b.m.Modifiers = append(b.m.Modifiers, m)
}

// bySystem reads modifiers that are the same everywhere, or differ by system.
func (b *block) bySystem(name string) (*Modifier, bool) {
	expr, v, ok := b.get(name)
	if !ok {
		return nil, false
	}
	m := &Modifier{Range: b.src.rng(expr.Range()), Mods: map[System]keys.Mods{}}
	if v.Type() == cty.String {
		m.Other, ok = b.mods(Text{b.exact(b.src, expr, v), m.Range})
		return m, ok
	}
	for _, p := range b.pairs(name) {
		mods, known := b.mods(p[1])
		switch {
		case p[0].Value == "other":
			m.Other = mods
		case slices.Contains(machine.Systems, p[0].Value):
			m.Mods[System(p[0].Value)] = mods
		default:
			b.unknown(
				p[0], "unknown-value", fmt.Sprintf("%q is no system", p[0].Value),
				append(slices.Clone(machine.Systems), "other"),
			)
			known = false
		}
		ok = ok && known
	}
	return m, ok
}

// mods reads built-in modifiers joined by plus.
func (l *loader) mods(t Text) (keys.Mods, bool) {
	var mods keys.Mods
	for part := range strings.SplitSeq(t.Value, "+") {
		m, ok := keys.ModByName(strings.TrimSpace(part))
		if !ok {
			l.unknown(Text{part, t.Range}, "unknown-modifier", fmt.Sprintf("%q is no modifier", part), keys.ModNames())
			return 0, false
		}
		mods |= m
	}
	return mods, true
}

// member is one NAME = VALUE in braces.
type member struct {
	name  Text
	value cty.Value
	at    diag.Range // of the value
}

// members reads what an attribute holds in braces, in its order.
func (b *block) members(name string) []member {
	expr, v, ok := b.get(name)
	if !ok {
		return nil
	}
	object, ok := expr.(*hclsyntax.ObjectConsExpr)
	if !ok || len(object.Items) == 0 { // a constant, or nothing in the braces
		b.add(b.src.rng(expr.Range()), "wrong-type", fmt.Sprintf("%s must be %s", name, formWords[formPairs]), "")
		return nil
	}
	list := make([]member, len(object.Items))
	for i, item := range object.Items {
		k, _ := item.KeyExpr.Value(nil) // a name, or get had refused the braces
		list[i] = member{
			Text{plain(k.AsString()), b.src.rng(item.KeyExpr.Range())},
			v.GetAttr(k.AsString()),
			b.src.rng(item.ValueExpr.Range()),
		}
	}
	return list
}

// pairs reads { A = "B" } as texts, in their order.
func (b *block) pairs(name string) [][2]Text {
	var list [][2]Text
	for _, m := range b.members(name) {
		if m.value.IsNull() || m.value.Type() != cty.String {
			b.add(
				m.at, "wrong-type", fmt.Sprintf("%s must be %s", m.name.Value, formWords[formText]), "put it in quotes",
			)
			continue
		}
		list = append(list, [2]Text{m.name, {plain(m.value.AsString()), m.at}})
	}
	return list
}

// throughLinks is where a path leads when its links are followed, "" for out of the file
// system.
func throughLinks(fsys fs.FS, name string) string {
	for range 40 { // links at most
		at, rest, found := "", name, false
		for rest != "" && !found {
			var first string
			first, rest, _ = strings.Cut(rest, "/")
			at = path.Join(at, first)
			info, err := fs.Lstat(fsys, at)
			if err != nil || info.Mode()&fs.ModeSymlink == 0 {
				continue
			}
			to, err := fs.ReadLink(fsys, at)
			if err != nil || path.IsAbs(to) {
				return ""
			}
			name, found = path.Join(path.Dir(at), to, rest), true
		}
		if !found {
			return name
		}
		if !fs.ValidPath(name) {
			return ""
		}
	}
	return ""
}
