package web

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every code that the service gives is in the list, once, and every one of the list is given somewhere.
func TestCodes(t *testing.T) {
	given := map[string]bool{"internal": true} // what is nobody's mistake
	// where the code of an error is in what makes it
	place := map[string]int{"NewProblem": 1, "Refused": 0, "Unfit": 0}
	files := token.NewFileSet()
	note := func(e ast.Expr) {
		if lit, ok := e.(*ast.BasicLit); ok && lit.Kind == token.STRING {
			text, _ := strconv.Unquote(lit.Value)
			given[text] = true
		}
	}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(files, path, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.CallExpr:
				name := ""
				switch f := n.Fun.(type) {
				case *ast.Ident:
					name = f.Name
				case *ast.SelectorExpr:
					name = f.Sel.Name
				}
				if at, ok := place[name]; ok && len(n.Args) > at {
					note(n.Args[at])
				}
			case *ast.KeyValueExpr:
				if k, ok := n.Key.(*ast.Ident); ok && k.Name == "Code" {
					note(n.Value)
				}
			case *ast.CompositeLit: // in this package, without names of fields
				if id, ok := n.Type.(*ast.Ident); ok && (id.Name == "Problem" || id.Name == "Faulty") &&
					len(n.Elts) > 1 {
					note(n.Elts[0])
					note(n.Elts[1])
				}
			case *ast.AssignStmt: // p.Status, code, p.Detail = …, "name", …
				for i, l := range n.Lhs {
					if id, ok := l.(*ast.Ident); ok && id.Name == "code" && i < len(n.Rhs) && len(n.Lhs) > 1 {
						note(n.Rhs[i])
					}
				}
			}
			return true
		})
		return nil
	})
	require.NoError(t, err)
	listed := map[string]bool{}
	for _, c := range Codes {
		assert.False(t, listed[c.Name], "%s is listed twice", c.Name)
		listed[c.Name] = true
		assert.True(t, given[c.Name], "%s is listed and never given", c.Name)
		assert.Greater(t, c.Status, 399, c.Name)
	}
	for name := range given {
		assert.True(t, listed[name], "%s is given and not listed", name)
	}
	assert.True(t, slices.IsSortedFunc(Codes, func(a, b Code) int { return strings.Compare(a.Name, b.Name) }))
	document, err := os.ReadFile("../../docs/errors.md")
	require.NoError(t, err)
	assert.True(t, CodesDocument() == string(document), "docs/errors.md is not current: make docs")
}
