// Package expr computes with expressions written in CEL, the Common Expression
// Language. Checking (Compile) is separate from computing (Program.Eval), and the
// same checked expression is data for a database to compute (Program.Term).
//
// Empty has one meaning: arithmetic and functions of an empty value are empty, a
// comparison with an empty value is false, "is not" holds for it, and in a logical
// operator an empty yes/no counts as no.
package expr

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/types"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Type is the type of an expression or of a known value.
type Type struct {
	Kind value.Kind `json:"kind"`
	// Object is the object of a record or list.
	Object string `json:"object,omitempty"`
	// Empty says that the value can be empty where it is used.
	Empty bool `json:"empty,omitempty"`
	// Answers are the values given on a screen, when Kind is KindScreen, and those of each row, when it is
	// KindRows.
	Answers []Name `json:"answers,omitempty"`

	// field is the field or input whose value it is, nil for what is worked out.
	field *model.Field
}

// Name is one known value: what it is called, what it means, what it holds.
type Name struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Type  Type   `json:"type"`
	// Of is what has the key, when something in a definition has; parts are what is within the key.
	Of    model.Referent `json:"-"`
	parts []model.Mention
}

// Scope is everything an expression may name at its place. The zero Scope knows
// nothing.
type Scope struct {
	Model *model.Model
	Names []Name
	// there are the paths that are not empty at its place.
	there [][]string
}

// With is the scope and one more name, which hides an earlier one of the same key.
func (s Scope) With(n Name) Scope {
	names := make([]Name, 0, len(s.Names)+1)
	for _, o := range s.Names {
		if o.Key != n.Key {
			names = append(names, o)
		}
	}
	return Scope{s.Model, append(names, n), without(s.there, n.Key)}
}

// Find is the name with a key.
func (s Scope) Find(key string) (Name, bool) {
	for _, n := range s.Names {
		if n.Key == key {
			return n, true
		}
	}
	return Name{}, false
}

// OfRecord is the scope in which the fields of a record are names of their own, as
// in worked-out fields.
func OfRecord(m *model.Model, object string) Scope {
	s := Scope{Model: m}
	o := m.Object(object)
	if o == nil {
		return s
	}
	for i := range o.Fields {
		f := &o.Fields[i]
		s.Names = append(s.Names, Name{Key: f.Key, Label: f.Label, Type: OfField(f),
			Of: model.Referent{Object: object, Field: f.Key}})
	}
	return s
}

// OfField is the type a field's value has in an expression.
func OfField(f *model.Field) Type {
	return Type{Kind: f.Kind(), Object: f.Target(), Empty: !f.Required && f.Type != model.Number, field: f}
}

// Field is the type of field that a value of the type is shown as, with its choices.
func (t Type) Field() (model.FieldType, []model.ChoiceValue) {
	if t.field != nil {
		return t.field.Type, t.field.Choices
	}
	for _, f := range model.FieldTypes {
		if f.Kind() == t.Kind && f != model.WorkedOut {
			return f, nil
		}
	}
	return model.Text, nil
}

// No name in an expression can have a colon, so that none is taken for one of these types:
// "record.building" is the field of a record.
const (
	recordPrefix = "record:"
	screenPrefix = "screen:"
)

var (
	decimalType = types.NewObjectType("decimal")
	moneyType   = types.NewObjectType("money")
	dateType    = types.NewObjectType("date")
)

// partsOf are the parts of a composite value as names.
func partsOf(k value.Kind) []Name {
	var out []Name
	for _, part := range value.Parts(k) {
		out = append(out, Name{Key: part, Label: part, Type: Type{Kind: value.KindText, Empty: true}})
	}
	return out
}

// celType is a type for CEL. Path is how expressions name the value, by which the values of a screen or of rows are
// found.
func celType(t Type, path string) *types.Type {
	if value.Parts(t.Kind) != nil {
		return types.NewObjectType(string(t.Kind))
	}
	switch t.Kind {
	case value.KindWhole:
		return types.IntType
	case value.KindDecimal:
		return decimalType
	case value.KindMoney:
		return moneyType
	case value.KindYesNo:
		return types.BoolType
	case value.KindDate:
		return dateType
	case value.KindInstant:
		return types.TimestampType
	case value.KindSeveral:
		return types.NewListType(types.StringType)
	case value.KindRecord:
		return types.NewObjectType(recordPrefix + t.Object)
	case value.KindList:
		return types.NewListType(types.NewObjectType(recordPrefix + t.Object))
	case value.KindScreen:
		return types.NewObjectType(screenPrefix + path)
	case value.KindRows:
		return types.NewListType(types.NewObjectType(screenPrefix + path))
	}
	return types.StringType
}

// typeOf is false for what no value of ours can hold.
func typeOf(t *types.Type) (Type, bool) {
	switch t.Kind() {
	case types.IntKind:
		return Type{Kind: value.KindWhole}, true
	case types.BoolKind:
		return Type{Kind: value.KindYesNo}, true
	case types.TimestampKind:
		return Type{Kind: value.KindInstant}, true
	case types.StringKind, types.NullTypeKind:
		return Type{Kind: value.KindText}, true
	case types.ListKind:
		of := t.Parameters()[0]
		if of.Kind() == types.StringKind {
			return Type{Kind: value.KindSeveral}, true
		}
		if screenOf(of) != "" {
			return Type{Kind: value.KindRows}, true
		}
		return Type{Kind: value.KindList, Object: objectOf(of)}, objectOf(of) != ""
	case types.StructKind:
		switch name := t.TypeName(); {
		case name == "decimal":
			return Type{Kind: value.KindDecimal}, true
		case name == "money":
			return Type{Kind: value.KindMoney}, true
		case name == "date":
			return Type{Kind: value.KindDate}, true
		case value.Parts(value.Kind(name)) != nil:
			return Type{Kind: value.Kind(name)}, true
		case objectOf(t) != "":
			return Type{Kind: value.KindRecord, Object: objectOf(t)}, true
		case screenOf(t) != "":
			return Type{Kind: value.KindScreen}, true
		}
	}
	return Type{Kind: value.KindText}, false
}

func objectOf(t *types.Type) string {
	if name := t.TypeName(); len(name) > len(recordPrefix) && name[:len(recordPrefix)] == recordPrefix {
		return name[len(recordPrefix):]
	}
	return ""
}

func screenOf(t *types.Type) string {
	name, ok := strings.CutPrefix(t.TypeName(), screenPrefix)
	if !ok {
		return ""
	}
	return name
}

// answers are the values of the screen or the rows that a path of names leads to.
func (s Scope) answers(path string) ([]Name, bool) {
	names := s.Names
	for part := range strings.SplitSeq(path, ".") {
		i := slices.IndexFunc(names, func(n Name) bool { return n.Key == part })
		if i < 0 {
			return nil, false
		}
		names = names[i].Type.Answers
	}
	return names, true
}

// answersOf are the values of a screen, or of the rows of a list, of a type.
func (s Scope) answersOf(t *types.Type) []Name {
	if t.Kind() == types.ListKind {
		t = t.Parameters()[0]
	}
	if path := screenOf(t); path != "" {
		names, _ := s.answers(path)
		return names
	}
	return nil
}

// provider tells CEL about the types of the model and of the screens in scope.
type provider struct {
	*types.Registry
	scope Scope
}

func (p provider) FindStructType(name string) (*types.Type, bool) {
	if _, ok := p.FindStructFieldNames(name); ok {
		return types.NewTypeTypeWithParam(types.NewObjectType(name)), true
	}
	return p.Registry.FindStructType(name)
}

func (p provider) FindStructFieldNames(name string) ([]string, bool) {
	names, ok := p.fields(name)
	keys := make([]string, len(names))
	for i, n := range names {
		keys[i] = n.Key
	}
	return keys, ok
}

func (p provider) fields(name string) ([]Name, bool) {
	switch {
	case name == "decimal" || name == "money" || name == "date":
		return nil, true
	case value.Parts(value.Kind(name)) != nil:
		return partsOf(value.Kind(name)), true
	case len(name) > len(recordPrefix) && name[:len(recordPrefix)] == recordPrefix:
		key := name[len(recordPrefix):]
		if p.scope.Model == nil || p.scope.Model.Object(key) == nil {
			return nil, false
		}
		return OfRecord(p.scope.Model, key).Names, true
	case len(name) > len(screenPrefix) && name[:len(screenPrefix)] == screenPrefix:
		return p.scope.answers(name[len(screenPrefix):])
	}
	return nil, false
}

func (p provider) FindStructFieldType(structType, field string) (*types.FieldType, bool) {
	names, ok := p.fields(structType)
	if !ok {
		return p.Registry.FindStructFieldType(structType, field)
	}
	for _, n := range names {
		if n.Key == field {
			path, _ := strings.CutPrefix(structType, screenPrefix)
			return &types.FieldType{Type: celType(n.Type, path+"."+n.Key)}, true
		}
	}
	return nil, false
}
