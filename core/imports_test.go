package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
)

// The rules of the job know nothing of the web or of a database driver.
func TestCoreImportsNoWebAndNoDatabase(t *testing.T) {
	forbidden := []string{"net/http", "database/sql", "github.com/gofiber", "github.com/jmoiron", "github.com/jackc", "plainpath/store", "plainpath/server", "plainpath/demo"}
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			for _, bad := range forbidden {
				if strings.HasPrefix(strings.Trim(i.Path.Value, `"`), bad) {
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
