package server

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"path/filepath"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/gofiber/fiber/v3"
)

// constants are the words that constants of each type of ours have, by package and name of the type.
func constants(t *testing.T) map[string][]string {
	out := map[string][]string{}
	for _, root := range []string{"../core", "../postgres"} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
			if err != nil {
				return err
			}
			for _, decl := range file.Decls {
				g, ok := decl.(*ast.GenDecl)
				if !ok || g.Tok != token.CONST {
					continue
				}
				for _, spec := range g.Specs {
					v := spec.(*ast.ValueSpec)
					of, ok := v.Type.(*ast.Ident)
					if !ok || len(v.Values) == 0 {
						continue
					}
					if lit, ok := v.Values[0].(*ast.BasicLit); ok && lit.Kind == token.STRING {
						word, _ := strconv.Unquote(lit.Value)
						key := "plainpath/" + filepath.ToSlash(filepath.Dir(strings.TrimPrefix(path, "../"))) + "." +
							of.Name
						out[key] = append(out[key], word)
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	return out
}

// Every closed set of words that travels is published with all its words and no others.
func TestEnumsAreWhole(t *testing.T) {
	there := constants(t)
	checked := map[string]bool{}
	seen := map[reflect.Type]bool{}
	var look func(reflect.Type)
	look = func(of reflect.Type) {
		if seen[of] {
			return
		}
		seen[of] = true
		switch of.Kind() {
		case reflect.Pointer, reflect.Slice, reflect.Array:
			look(of.Elem())
		case reflect.Map:
			look(of.Key())
			look(of.Elem())
		case reflect.Struct:
			for i := range of.NumField() {
				if of.Field(i).Tag.Get("json") != "-" {
					look(of.Field(i).Type)
				}
			}
		case reflect.String:
			name := of.PkgPath() + "." + of.Name()
			words := there[name]
			if len(words) == 0 {
				return
			}
			checked[name] = true
			var got []string
			for _, w := range enums[of] {
				got = append(got, fmt.Sprint(w))
			}
			slices.Sort(got)
			slices.Sort(words)
			if strings.HasSuffix(name, "act.Kind") { // steps have kinds besides
				words = slices.DeleteFunc(words, func(w string) bool { return slices.Contains(got, w) })
				got = nil
			}
			if !slices.Equal(got, words) {
				t.Errorf("%s is published as %q, and there are %q", name, got, words)
			}
		}
	}
	for _, v := range besides {
		look(reflect.TypeOf(v))
	}
	routes := &server{}
	routes.routes(fiber.New())
	for _, o := range routes.operations {
		for _, t := range []reflect.Type{o.takes, o.gives} {
			if t != nil {
				look(t)
			}
		}
	}
	if len(checked) < 12 {
		t.Errorf("only %v were looked at", slices.Sorted(maps.Keys(checked)))
	}
}
