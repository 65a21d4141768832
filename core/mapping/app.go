package mapping

import (
	"fmt"
	"strings"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
	"leitstand/core/machine"
)

func (b *block) app() {
	a := &App{Range: b.head(), Commands: map[System][]Text{}}
	for _, s := range machine.Systems {
		if list := b.command(s); len(list) > 0 {
			a.Commands[System(s)] = list
		}
	}
	if len(a.Commands) == 0 && len(b.syn.Body.Attributes) == 0 {
		b.add(
			b.head(), "missing-attribute", "the app names no program",
			"add one for each system it is on, such as linux = \"xterm\"",
		)
	}
	if a.File = b.inFile; b.sharedApps[private(b.labels[0].Value, b.inFile)] {
		a.File = ""
	}
	name, ok := b.name(func(name string) (diag.Range, bool) {
		if o, ok := b.m.apps[private(name, a.File)]; ok {
			return o.Range, true
		}
		return diag.Range{}, false
	})
	if !ok {
		return
	}
	a.Name = name
	b.m.Apps = append(b.m.Apps, a)
	b.m.apps[private(name, a.File)] = a
}

// command reads a program and its arguments. What no system can pass on is
// refused: an empty program name, and a NUL in any argument.
func (b *block) command(name string) []Text {
	list := b.texts(name)
	if a, ok := b.syn.Body.Attributes[name]; ok && len(list) == 1 && b.isText(a.Expr) && wholeLine(list[0].Value) {
		b.add(
			list[0].Range, "bad-command", fmt.Sprintf("%q is one program with a blank in its name", list[0].Value),
			"part it: "+name+" = "+asList(list[0].Value),
		)
		return nil
	}
	for i, t := range list {
		if i == 0 && strings.TrimSpace(t.Value) == "" {
			b.add(t.Range, "empty-command", "the name of the program is empty", "write the program to start")
			return nil
		}
		if strings.ContainsRune(t.Value, 0) {
			b.add(t.Range, "bad-command", "an argument cannot hold the character U+0000", "take it out")
			return nil
		}
	}
	return list
}

// isText says whether a value is written as one string, not as a list.
func (b *block) isText(e hclsyntax.Expression) bool {
	if t, ok := e.(*hclsyntax.ScopeTraversalExpr); ok && len(t.Traversal) == 2 {
		name, _ := t.Traversal[1].(hcl.TraverseAttr)
		v, ok := b.lets[name.Name]
		return ok && v.Type() == cty.String
	}
	_, ok := e.(*hclsyntax.TemplateExpr)
	return ok
}

// wholeLine says whether a program's name is a whole command line: it has a blank, and is
// no path with one, or an option follows.
func wholeLine(s string) bool {
	_, rest, blank := strings.Cut(strings.TrimSpace(s), " ")
	return blank && (!strings.ContainsAny(s, `/\\`) || strings.HasPrefix(rest, "-"))
}

// asList spells a command line as a list of words.
func asList(line string) string {
	words := strings.Fields(line)
	for i, w := range words {
		words[i] = fmt.Sprintf("%q", w)
	}
	return "[" + strings.Join(words, ", ") + "]"
}
