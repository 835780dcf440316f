// Package internal_test holds the house to its rules: imports run one way.
package internal_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floors orders the rooms: a room imports only rooms on lower floors.
var floors = map[string]int{
	"internal/core/money": 0, "internal/core/document": 0, "internal/core/usage": 1, "internal/core/notation": 2, "internal/core/feature": 3, "internal/core/pricelist": 4, "internal/core/quote": 5,
	"internal/core/cover": 0, "internal/core/work": 0, "internal/core/tariff": 6, "internal/core/projection": 7, "internal/core/coverage": 6, "internal/core/fit": 6, "internal/core/study": 8, "internal/core/reader": 5,
	"docs/formats": 0, "internal/doors": 0, "internal/mail": 0, "internal/keep": 0, "internal/formats": 9, "internal/localpg": 9, "internal/store": 10, "internal/standin": 12, "internal/outside": 10, "internal/demo": 11, "internal/web": 11, "cmd/ninecoins": 13,
}

// outside lists what the core may import beside the standard library's pure
// parts: the formula language, currency codes and statistics.
var outside = []string{"github.com/expr-lang/expr/ast", "github.com/expr-lang/expr/file", "github.com/expr-lang/expr/parser", "golang.org/x/text/currency", "golang.org/x/text/unicode/norm", "gonum.org/v1/gonum/stat"}

var barred = []string{"net/http", "database/sql", "os", "html/template", "text/template", "io/fs", "net", "log", "log/slog"}

func TestImportsRunOneWay(t *testing.T) {
	seen := map[string]bool{}
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == ".local" || d.Name() == "node_modules" || d.Name() == ".git") {
			if d != nil && d.IsDir() && err == nil {
				return fs.SkipDir
			}
			return err
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		room := filepath.ToSlash(strings.TrimPrefix(filepath.Dir(path), "../"))
		floor, known := floors[room]
		if !known {
			assert.True(t, room == "internal/testkit" || strings.HasPrefix(room, "e2e/"), "%s has no floor", room)
			return nil
		}
		seen[room] = true
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		require.NoError(t, err)
		for _, spec := range file.Imports {
			name, _ := strconv.Unquote(spec.Path.Value)
			if ours, ok := strings.CutPrefix(name, "ninecoins/"); ok {
				assert.Less(t, floors[ours], floor, "%s imports %s, which is not below it", path, name)
				continue
			}
			if strings.HasPrefix(room, "internal/core/") {
				assert.NotContains(t, barred, name, path)
				assert.True(t, !strings.Contains(name, ".") || slices.Contains(outside, name), "%s imports %s", path, name)
			}
		}
		if strings.HasPrefix(room, "internal/core/") {
			assertNoClock(t, path, file)
		}
		return nil
	})
	require.NoError(t, err)
	assert.Len(t, seen, len(floors), "every room was looked at")
}

func assertNoClock(t *testing.T, path string, file *ast.File) {
	t.Helper()
	ast.Inspect(file, func(n ast.Node) bool {
		if s, ok := n.(*ast.SelectorExpr); ok {
			if pkg, ok := s.X.(*ast.Ident); ok && pkg.Name == "time" {
				assert.NotContains(t, []string{"Now", "Since", "Until", "Sleep", "After"}, s.Sel.Name, path)
			}
		}
		return true
	})
}

func TestFilesHoldOneConcept(t *testing.T) {
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		fset := token.NewFileSet()
		file, err := parser.ParseFile(fset, path, nil, 0)
		require.NoError(t, err)
		assert.Less(t, fset.Position(file.End()).Line, 400, "%s holds more than one concept", path)
		return nil
	})
	require.NoError(t, err)
}
