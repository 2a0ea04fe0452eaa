package expr

import (
	"slices"
	"strings"
	"testing"

	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

// The list that builders see has every function once, in a form that can be written, and says
// of each whether the database can compute all that it takes.
func TestTheListOfFunctionsIsComplete(t *testing.T) {
	var listed []string
	for _, f := range Reference {
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
	if want := len(FunctionNames) + len(macros); len(listed) != want {
		t.Errorf("%d functions are listed, there are %d", len(listed), want)
	}
	for _, name := range FunctionNames {
		i := slices.Index(listed, name)
		if i < 0 {
			t.Errorf("%s is not listed", name)
			continue
		}
		if lacking := withoutSQL(byName[name]); (lacking != "") != (Reference[i].Only != "") {
			t.Errorf("%s(%s) has no SQL, and the list says %q", name, lacking, Reference[i].Only)
		}
	}
}

// withoutSQL is something that a function takes and that it has no SQL for.
func withoutSQL(f *function) string {
	if f.sql == nil && f.listSQL == nil && f.inHouseSQL == nil {
		return "…"
	}
	if f.name == "first" {
		if _, err := f.listSQL(sqlWriter{}, nil); err != nil {
			return "list"
		}
	}
	kinds := []*types.Type{str, whole, yes, instant, decimalType, moneyType, dateType, addressType, several, types.NewObjectType(recordPrefix + "x")}
	for _, s := range f.signatures {
		if f.sql == nil && f.inHouseSQL == nil || slices.ContainsFunc(s.takes, func(t *types.Type) bool { return t.Kind() == types.ListKind }) {
			continue
		}
		for _, of := range kinds {
			columns := make([]Column, len(s.takes))
			for i, t := range s.takes {
				if t.Kind() == types.TypeParamKind {
					t = of
				}
				of, _ := typeOf(t)
				columns[i] = Column{Kind: of.Kind, SQL: "x", Currency: "c"}
				if of.Kind == "" {
					columns[i].Kind = value.KindText
				}
			}
			if _, err := f.write(columns, houseOf(nil)); err != nil {
				return of.String()
			}
		}
	}
	return ""
}
