package architecture

import (
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"go/types"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// nothing imports no package: what a folder has itself is known without the others.
type nothing struct{}

func (nothing) Import(string) (*types.Package, error) { return nil, errors.New("not needed") }

// calls are the functions and methods of a folder, without tests, and which of them the body of
// each names.
func calls(t *testing.T, dir string) map[*types.Func][]*types.Func {
	t.Helper()
	set := token.NewFileSet()
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	var files []*ast.File
	for _, e := range entries {
		if strings.HasSuffix(e.Name(), ".go") && !strings.HasSuffix(e.Name(), "_test.go") {
			file, err := parser.ParseFile(set, filepath.Join(dir, e.Name()), nil, 0)
			require.NoError(t, err)
			files = append(files, file)
		}
	}
	info := &types.Info{
		Defs:       map[*ast.Ident]types.Object{},
		Uses:       map[*ast.Ident]types.Object{},
		Selections: map[*ast.SelectorExpr]*types.Selection{},
	}
	config := types.Config{Importer: nothing{}, Error: func(error) {}}
	_, _ = config.Check(dir, set, files, info) // what it does not know is of other packages
	all := map[*types.Func][]*types.Func{}
	for _, file := range files {
		for _, d := range file.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok || f.Body == nil {
				continue
			}
			of, ok := info.Defs[f.Name].(*types.Func)
			if !ok {
				continue
			}
			all[of] = nil
			ast.Inspect(f.Body, func(n ast.Node) bool {
				if id, ok := n.(*ast.Ident); ok {
					if used, ok := info.Uses[id].(*types.Func); ok {
						all[of] = append(all[of], used)
					}
				}
				return true
			})
		}
	}
	return all
}

// reached are the functions that those of a name call, directly or not.
func reached(all map[*types.Func][]*types.Func, from ...string) map[*types.Func]bool {
	seen := map[*types.Func]bool{}
	var visit func(f *types.Func)
	visit = func(f *types.Func) {
		if _, ours := all[f]; !ours || seen[f] || f.Name() == "both" { // which has both halves by design
			return
		}
		seen[f] = true
		for _, o := range all[f] {
			visit(o)
		}
	}
	for f := range all {
		if slices.Contains(from, f.Name()) {
			visit(f)
		}
	}
	return seen
}

// The two halves of a mechanism share nothing but tables of facts: no function that works
// something out is called by what writes and by what reads, or a mistake in it would be made
// twice and prove nothing.
func TestHalvesShareTablesOnly(t *testing.T) {
	folders, err := filepath.Glob("../../core/mechanism/*")
	require.NoError(t, err)
	below, err := filepath.Glob("../../core/mechanism/*/*")
	require.NoError(t, err)
	folders = append(folders, below...)
	seen := 0
	for _, dir := range folders {
		if info, err := os.Stat(dir); err != nil || !info.IsDir() {
			continue
		}
		all := calls(t, dir)
		reads, writes := reached(all, "Read"), reached(all, "Take", "Write")
		if len(reads) == 0 || len(writes) == 0 {
			continue
		}
		seen++
		var shared []string
		for f := range writes {
			if reads[f] {
				shared = append(shared, f.Name())
			}
		}
		slices.Sort(shared)
		assert.Empty(t, shared, filepath.Base(dir))
	}
	assert.Greater(t, seen, 10)
}
