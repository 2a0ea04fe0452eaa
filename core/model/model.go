// Package model describes the business an app is about: its objects, their
// fields and the references between them.
package model

import (
	"encoding/json"
	"slices"

	"plainpath/core/value"
)

// FieldType is the type a builder gives a field.
type FieldType string

// The field types.
const (
	Text      FieldType = "text"
	LongText  FieldType = "long_text"
	Whole     FieldType = "whole_number"
	Decimal   FieldType = "decimal"
	Money     FieldType = "money"
	YesNo     FieldType = "yes_no"
	Date      FieldType = "date"
	DateTime  FieldType = "date_time"
	Choice    FieldType = "choice"
	Email     FieldType = "email"
	Phone     FieldType = "phone"
	WebLink   FieldType = "web_link"
	Number    FieldType = "running_number"
	Person    FieldType = "person"
	Reference FieldType = "reference"
	WorkedOut FieldType = "worked_out"
)

// FieldTypes lists every field type in the order a builder is offered them.
var FieldTypes = []FieldType{Text, LongText, Whole, Decimal, Money, YesNo, Date, DateTime,
	Choice, Email, Phone, WebLink, Number, Person, Reference, WorkedOut}

// PersonObject is the built-in object of the people who sign in. Fields of type
// person refer to it.
const PersonObject = "person"

// Object is one kind of record.
type Object struct {
	Key    string `json:"key"`
	Label  string `json:"label"`
	Plural string `json:"plural"`
	// LabelField is the field whose value stands for the record wherever it is shown.
	LabelField string  `json:"label_field"`
	Fields     []Field `json:"fields"`
	// Rules must hold of every record.
	Rules []Rule `json:"rules,omitempty"`
	Note  string `json:"note,omitempty"`
}

// Rule is a record rule: what must hold of every record, and what is said when it does not.
type Rule struct {
	// Expression is CEL over the fields of the record, its references, and today and now.
	Expression string `json:"expression"`
	Message    string `json:"message"`
}

// Field is one field of an object.
type Field struct {
	Key string `json:"key"`
	// Was is what the key was before, the latest last, so that what is stored follows.
	Was      []string  `json:"was,omitempty"`
	Label    string    `json:"label"`
	Type     FieldType `json:"type"`
	Required bool      `json:"required,omitempty"`
	Unique   bool      `json:"unique,omitempty"`
	// Default is the value a new record gets, as it travels in JSON.
	Default json.RawMessage `json:"default,omitempty"`
	// DefaultExpression computes the default instead, from the person, today and now.
	DefaultExpression string `json:"default_expression,omitempty"`
	Help              string `json:"help,omitempty"`
	// Choices belong to fields of type choice.
	Choices []ChoiceValue `json:"choices,omitempty"`
	// Object is the key of the object a reference points at.
	Object string `json:"object,omitempty"`
	// Candidates is the condition that records must satisfy for the reference to point at
	// them. It knows the record being edited as "edited".
	Candidates *Condition `json:"candidates,omitempty"`
	// Expression belongs to worked-out fields: CEL over the fields of the record.
	Expression string `json:"expression,omitempty"`
	// Result is the type of a worked-out field's value.
	Result FieldType `json:"result,omitempty"`
	// Prefix stands before a running number, as in SC-1042.
	Prefix string `json:"prefix,omitempty"`
	// Least and Most bound numbers; Most also bounds the length of text.
	Least *int64 `json:"least,omitempty"`
	Most  *int64 `json:"most,omitempty"`
}

// ChoiceValue is one of the values of a choice.
type ChoiceValue struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Colour is one of ChoiceColours, none when empty.
	Colour string `json:"colour,omitempty"`
	// Retired values stay with the records that hold them but can be given to no other.
	Retired bool `json:"retired,omitempty"`
}

// ChoiceColours are the colours a choice's values can have.
var ChoiceColours = []string{"plum", "pine", "ochre", "brick", "slate", "teal"}

// Kind is the kind of value the field holds.
func (f *Field) Kind() value.Kind {
	t := f.Type
	if t == WorkedOut {
		t = f.Result
	}
	return t.Kind()
}

// Kind is the kind of value a field of this type holds.
func (t FieldType) Kind() value.Kind {
	switch t {
	case Whole, Number:
		return value.KindWhole
	case Decimal:
		return value.KindDecimal
	case Money:
		return value.KindMoney
	case YesNo:
		return value.KindYesNo
	case Date:
		return value.KindDate
	case DateTime:
		return value.KindInstant
	case Person, Reference:
		return value.KindRecord
	}
	return value.KindText
}

// Target is the key of the object a reference or person field points at, empty
// for every other field.
func (f *Field) Target() string {
	switch f.Type {
	case Person:
		return PersonObject
	case Reference:
		return f.Object
	}
	return ""
}

// Stored says whether people and imports give the field its value. Worked-out
// fields and running numbers get theirs from the database.
func (f *Field) Stored() bool { return f.Type != WorkedOut && f.Type != Number }

// HasDefault says whether a new record gets a value for the field without being given one.
func (f *Field) HasDefault() bool { return len(f.Default) > 0 || f.DefaultExpression != "" }

// ChoiceLabel is the label of a choice's value, the value itself when unknown.
func (f *Field) ChoiceLabel(key string) string {
	for _, c := range f.Choices {
		if c.Key == key {
			return c.Label
		}
	}
	return key
}

// Field finds a field by key, nil when there is none.
func (o *Object) Field(key string) *Field {
	i := slices.IndexFunc(o.Fields, func(f Field) bool { return f.Key == key })
	if i < 0 {
		return nil
	}
	return &o.Fields[i]
}

// BuiltIn says whether the object is the program's own rather than the app's.
func (o *Object) BuiltIn() bool { return o.Key == PersonObject }

// Model is all objects of an app, the built-in ones included.
type Model struct {
	// Currency is the house currency, an ISO 4217 code.
	Currency string
	objects  map[string]*Object
	keys     []string
}

// New puts objects together to a model. Run Check on it before relying on it.
func New(currency string, objects ...*Object) *Model {
	m := &Model{Currency: currency, objects: map[string]*Object{PersonObject: personObject()}}
	for _, o := range objects {
		m.objects[o.Key] = o
		m.keys = append(m.keys, o.Key)
	}
	slices.Sort(m.keys)
	return m
}

func personObject() *Object {
	return &Object{Key: PersonObject, Label: "Person", Plural: "People", LabelField: "name", Fields: []Field{
		{Key: "name", Label: "Name", Type: Text, Required: true},
		{Key: "email", Label: "E-mail", Type: Email, Required: true},
	}}
}

// Object finds an object by key, nil when there is none.
func (m *Model) Object(key string) *Object { return m.objects[key] }

// Keys are the keys of the app's own objects in alphabetical order.
func (m *Model) Keys() []string { return m.keys }

// ReferrersTo lists the fields that point at an object, by object and field key.
func (m *Model) ReferrersTo(object string) []Referrer {
	var out []Referrer
	for _, k := range m.keys {
		o := m.objects[k]
		for i := range o.Fields {
			if o.Fields[i].Target() == object {
				out = append(out, Referrer{o, &o.Fields[i]})
			}
		}
	}
	return out
}

// Referrer is a field of an object that points at some other object.
type Referrer struct {
	Object *Object
	Field  *Field
}
