package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// sql is what every statement and piece of one has; words of ours are never in capitals.
var sql = regexp.MustCompile(`\b(SELECT|FROM|WHERE|UPDATE|INSERT|DELETE|JOIN|COLLATE|NULL|COALESCE|CASE WHEN|ORDER BY|GROUP BY)\b|::[a-z]|\bcoalesce\(`)

// The rules of the job know nothing of the web or of a database: they import neither and have no SQL.
func TestCoreHasNoWebAndNoDatabase(t *testing.T) {
	forbidden := []string{"net/http", "database/sql", "github.com/gofiber", "github.com/jmoiron", "github.com/jackc",
		"plainpath/store", "plainpath/postgres", "plainpath/server", "plainpath/demo"}
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasPrefix(path, "testdata") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING && sql.MatchString(lit.Value) &&
				f.Name.Name != "core_test" {
				t.Errorf("%s has SQL: %s", path, lit.Value)
			}
			return true
		})
		for _, i := range f.Imports {
			for _, bad := range forbidden {
				if strings.HasPrefix(strings.Trim(i.Path.Value, `"`), bad) &&
					!(bad == "plainpath/demo" && strings.HasSuffix(path, "_test.go")) {
					t.Errorf("%s imports %s", path, i.Path.Value)
				}
			}
		}
		return nil
	})
	if err != nil || files < 20 {
		t.Fatalf("%d files read, %v", files, err)
	}
}
