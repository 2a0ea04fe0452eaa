package expr

import (
	"slices"
	"strings"
	"testing"

	"cel.dev/cel-go/common/types"
)

// The list that builders see has every function once, in a form that can be written, and says
// of each whether the database can compute all that it takes.
func TestTheListOfFunctionsIsComplete(t *testing.T) {
	reference := Reference()
	var listed []string
	for _, f := range reference {
		listed = append(listed, f.Name)
		if f.Form == "" || !strings.HasSuffix(f.About, ".") || !strings.Contains(f.Form, f.Name) {
			t.Errorf("%s: %q, %q", f.Name, f.Form, f.About)
		}
	}
	for _, macro := range macros {
		if !slices.Contains(listed, macro) {
			t.Errorf("%s is not listed", macro)
		}
	}
	if !slices.Contains(listed, casesMacro) {
		t.Error("cases is not listed")
	}
	if want := len(FunctionNames) + len(macros) + 1; len(listed) != want {
		t.Errorf("%d functions are listed, there are %d", len(listed), want)
	}
	for _, name := range FunctionNames {
		i := slices.Index(listed, name)
		if i < 0 {
			t.Errorf("%s is not listed", name)
			continue
		}
		if lacking := onlyHere(byName[name]); (lacking != "") != (reference[i].Only != "") {
			t.Errorf("the database cannot compute %s(%s), and the list says %q", name, lacking, reference[i].Only)
		}
	}
}

// onlyHere is something that a function takes and of which the database cannot compute it.
func onlyHere(f *function) string {
	for _, s := range f.signatures {
		first := s.takes[0]
		if first.Kind() == types.ListKind && f.overRecords {
			continue
		}
		for _, of := range f.here {
			if kind, _ := typeOf(first); first.Kind() == types.TypeParamKind || first.Kind() == types.ListKind ||
				kind.Kind == of {
				return string(of)
			}
		}
	}
	return ""
}
