package model

import (
	"testing"

	"plainpath/core/value"
)

// Every kind of value that is made of parts can be stored in a type of field that is called as it is, and paths
// lead to each of its parts.
func TestCompositeKindsAreTypesOfFields(t *testing.T) {
	for _, kind := range value.Kinds() {
		parts := value.Parts(kind)
		if parts == nil {
			continue
		}
		f := Field{Key: "f", Label: "F", Type: FieldType(kind)}
		if f.Kind() != kind {
			t.Errorf("no type of field is called %q", kind)
		}
		m := New("EUR", &Object{Key: "o", Label: "O", Plural: "Os", LabelField: "f", Fields: []Field{f}})
		for _, part := range parts {
			if p, err := m.Path("o", "f."+part); err != nil || p.Last().Kind() != value.KindText {
				t.Errorf("%s of %s: %v", part, kind, err)
			}
		}
		if _, err := m.Path("o", "f.nothing"); err == nil {
			t.Errorf("%s has a part that is called nothing", kind)
		}
	}
}
