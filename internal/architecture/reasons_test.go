package architecture

import (
	"go/ast"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every reason of the table is given somewhere, each time with as many arguments as it has
// blanks: what is given by one rare rule only must not break off there.
func TestReasonsAreGivenWhole(t *testing.T) {
	set, all := sources(t)
	blanks := map[string]int{}
	for _, file := range all["reason"] {
		for name, object := range file.Scope.Objects {
			spec, ok := object.Decl.(*ast.ValueSpec)
			if !ok || len(spec.Values) == 0 {
				continue
			}
			if row, ok := spec.Values[0].(*ast.CallExpr); ok && len(row.Args) >= 2 {
				words := row.Args[1].(*ast.BasicLit).Value
				for _, part := range strings.Split(words, "{")[1:] {
					if blank, _, ok := strings.Cut(part, "}"); ok && !strings.ContainsAny(blank, " =") {
						blanks[name]++
					}
				}
				blanks[name] += 0
			}
		}
	}
	require.Greater(t, len(blanks), 100)
	given := map[string]bool{}
	for _, files := range all {
		for _, file := range files {
			ast.Inspect(file, func(n ast.Node) bool {
				if name, call := reasonGiven(n); call != nil {
					given[name] = true
					assert.Equal(t, blanks[name], len(call.Args), "%s: %s", set.Position(call.Pos()), name)
				}
				return true
			})
		}
	}
	for name := range blanks {
		assert.True(t, given[name], "nothing gives the reason %s", name)
	}
}

// reasonGiven is the form of a call reason.NAME.Of(…).
func reasonGiven(n ast.Node) (string, *ast.CallExpr) {
	call, ok := n.(*ast.CallExpr)
	if !ok {
		return "", nil
	}
	of, ok := call.Fun.(*ast.SelectorExpr)
	if !ok || of.Sel.Name != "Of" {
		return "", nil
	}
	form, ok := of.X.(*ast.SelectorExpr)
	if !ok || nameOf(form.X) != "reason" {
		return "", nil
	}
	return form.Sel.Name, call
}
