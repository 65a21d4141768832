package architecture

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sources are the files of the core without its tests, by folder.
func sources(t *testing.T) (*token.FileSet, map[string][]*ast.File) {
	t.Helper()
	set, all := token.NewFileSet(), map[string][]*ast.File{}
	require.NoError(t, filepath.WalkDir("../../core", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(set, path, nil, 0)
		dir := filepath.Base(filepath.Dir(path))
		all[dir] = append(all[dir], file)
		return err
	}))
	return set, all
}

// marked are the types of a folder that have a method.
func marked(files []*ast.File, method string) (names []string) {
	for _, file := range files {
		for _, d := range file.Decls {
			if f, ok := d.(*ast.FuncDecl); ok && f.Recv != nil && f.Name.Name == method {
				names = append(names, nameOf(f.Recv.List[0].Type))
			}
		}
	}
	return names
}

// constants are those of a folder that begin with one of a type.
func constants(files []*ast.File, typ string) (names []string) {
	for _, file := range files {
		for _, d := range file.Decls {
			g, ok := d.(*ast.GenDecl)
			if !ok || g.Tok != token.CONST || nameOf(g.Specs[0].(*ast.ValueSpec).Type) != typ {
				continue
			}
			for _, s := range g.Specs {
				names = append(names, s.(*ast.ValueSpec).Names[0].Name)
			}
		}
	}
	return names
}

// nameOf is a name without its package and without what points to it, "" for anything else.
func nameOf(e ast.Expr) string {
	switch e := e.(type) {
	case *ast.Ident:
		return e.Name
	case *ast.SelectorExpr:
		return e.Sel.Name
	case *ast.StarExpr:
		return nameOf(e.X)
	}
	return ""
}

// A switch over the kinds of effects, of settings, of changes or of values says what it does with
// every one of them: it lists all, or says by a default what the rest is.
func TestSwitchesForgetNothing(t *testing.T) {
	set, all := sources(t)
	sums := [][]string{
		constants(all["behaviour"], "Kind"), constants(all["behaviour"], "OptionKind"),
		marked(all["change"], "isChange"), marked(all["change"], "isValue"), marked(all["behaviour"], "isValue"),
	}
	for _, s := range sums {
		require.Greater(t, len(s), 4)
	}
	seen := 0
	check := func(at token.Pos, body *ast.BlockStmt) {
		var cases []string
		for _, c := range body.List {
			list := c.(*ast.CaseClause).List
			if list == nil { // a default
				return
			}
			for _, e := range list {
				if n := nameOf(e); n != "nil" {
					cases = append(cases, n)
				}
			}
		}
		for _, s := range sums {
			if len(cases) == 0 || slices.ContainsFunc(cases, func(c string) bool { return !slices.Contains(s, c) }) {
				continue
			}
			seen++
			missing := slices.DeleteFunc(slices.Clone(s), func(n string) bool { return slices.Contains(cases, n) })
			assert.Empty(t, missing, fmt.Sprint(set.Position(at)))
			return
		}
	}
	for _, files := range all {
		for _, file := range files {
			ast.Inspect(file, func(n ast.Node) bool {
				switch n := n.(type) {
				case *ast.SwitchStmt:
					if n.Tag != nil {
						check(n.Pos(), n.Body)
					}
				case *ast.TypeSwitchStmt:
					check(n.Pos(), n.Body)
				}
				return true
			})
		}
	}
	assert.Greater(t, seen, 3)
}

// One model says what a press does: only the station plays bindings, and only it and what comes
// before a machine's changes look up what a system does by itself.
func TestOneModelAnswers(t *testing.T) {
	set, all := sources(t)
	may := map[string][]string{
		"behaviour.NewEngine": {"station"},
		"desktop.Uses":        {"station"},
		"desktop.NewTable":    {"station", "land", "imports"},
	}
	called := map[string]bool{}
	for dir, files := range all {
		for _, file := range files {
			ast.Inspect(file, func(n ast.Node) bool {
				if f, ok := n.(*ast.SelectorExpr); ok {
					name := nameOf(f.X) + "." + f.Sel.Name
					if folders, ours := may[name]; ours {
						called[name] = true
						assert.Contains(t, folders, dir, "%s: %s", set.Position(f.Pos()), name)
					}
				}
				return true
			})
		}
	}
	assert.Len(t, called, len(may))
}
