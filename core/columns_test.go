package core_test

import (
	"go/scanner"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Lines have at most 120 columns, tabs counting for four, unless a literal is what makes them longer.
func TestLinesAreReadable(t *testing.T) {
	const most, longLiteral = 120, 30
	files := 0
	err := filepath.WalkDir("..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && d.Name() != "..") {
			return fs.SkipDir
		}
		if !strings.HasSuffix(path, ".go") {
			return nil
		}
		files++
		source, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		literal := map[int]bool{}
		set := token.NewFileSet()
		file := set.AddFile(path, -1, len(source))
		var s scanner.Scanner
		s.Init(file, source, nil, 0)
		for pos, tok, text := s.Scan(); tok != token.EOF; pos, tok, text = s.Scan() {
			if tok != token.STRING || len(text) < longLiteral {
				continue
			}
			for line := file.Line(pos); line <= file.Line(pos)+strings.Count(text, "\n"); line++ {
				literal[line] = true
			}
		}
		for i, line := range strings.Split(string(source), "\n") {
			if n := len([]rune(strings.ReplaceAll(line, "\t", "    "))); n > most && !literal[i+1] {
				t.Errorf("%s:%d has %d columns", path, i+1, n)
			}
		}
		return nil
	})
	if err != nil || files < 200 {
		t.Fatalf("%d files, %v", files, err)
	}
}
