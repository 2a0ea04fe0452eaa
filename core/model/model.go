// Package model describes the business an app is about: its objects, their
// fields and the references between them.
package model

import (
	"encoding/json"
	"slices"
	"strings"
	"sync"
	"time"

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
	Choices   FieldType = "several_choices"
	Email     FieldType = "email"
	Phone     FieldType = "phone"
	WebLink   FieldType = "web_link"
	Address   FieldType = "address"
	Picture   FieldType = "picture"
	File      FieldType = "file"
	Number    FieldType = "running_number"
	Person    FieldType = "person"
	Reference FieldType = "reference"
	WorkedOut FieldType = "worked_out"
)

// fieldTypes is every type of field with the kind of value it holds and what builders call it, in the order
// they are offered them. What is worked out holds what comes of its expression.
var fieldTypes = []struct {
	of    FieldType
	kind  value.Kind
	words string
}{
	{Text, value.KindText, "text"}, {LongText, value.KindText, "long text"}, {Whole, value.KindWhole, "whole number"},
	{Decimal, value.KindDecimal, "decimal"}, {Money, value.KindMoney, "money"}, {YesNo, value.KindYesNo, "yes/no"},
	{Date, value.KindDate, "date"}, {DateTime, value.KindInstant, "date and time"}, {Choice, value.KindText, "choice"},
	{Choices, value.KindSeveral, "several choices"}, {Email, value.KindText, "e-mail"},
	{Phone, value.KindText, "phone"}, {WebLink, value.KindText, "web link"}, {Address, value.KindAddress, "address"},
	{Picture, value.KindRecord, "picture"}, {File, value.KindRecord, "file"},
	{Number, value.KindWhole, "running number"}, {Person, value.KindRecord, "person"},
	{Reference, value.KindRecord, "reference"}, {WorkedOut, value.KindText, "worked out"},
}

// FieldTypes lists every field type in the order a builder is offered them.
var FieldTypes = func() []FieldType {
	out := make([]FieldType, len(fieldTypes))
	for i, t := range fieldTypes {
		out[i] = t.of
	}
	return out
}()

// The built-in objects: the people who sign in, whom fields of type person refer to, and
// the files that people gave, which fields of type picture and file refer to.
const (
	PersonObject = "person"
	FileObject   = "file"
)

// Object is one kind of record.
type Object struct {
	Key string `json:"key"`
	// Was is what the key was before, the latest last, so that what is stored follows.
	Was    []string `json:"was,omitempty"`
	Label  string   `json:"label"`
	Plural string   `json:"plural"`
	// LabelField is the field whose value stands for the record wherever it is shown.
	LabelField string  `json:"label_field"`
	Fields     []Field `json:"fields"`
	// Rules must hold of every record.
	Rules []Rule `json:"rules,omitempty"`
	Note  string `json:"note,omitempty"`

	// table is what its table is called where that is not its key.
	table string
}

// DocumentKey is the key that the document gives itself.
func (o *Object) DocumentKey() string { return o.Key }

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
	// Choices belong to fields of type choice and several choices.
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
	// NewTab opens a web link in a tab of its own.
	NewTab bool `json:"new_tab,omitempty"`
	// IgnoreAccents lets texts be found without their accents: "Zurich" finds Zürich.
	IgnoreAccents bool `json:"ignore_accents,omitempty"`

	// of is the address that this field is a part of, as it is in a path.
	of *Field
	// column is what its column is called where that is not its key.
	column string
}

// ChoiceValue is one of the values of a choice.
type ChoiceValue struct {
	Key string `json:"key"`
	// Was is what the key was before, the latest last, so that what is stored follows.
	Was   []string `json:"was,omitempty"`
	Label string   `json:"label"`
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

// Kind is the kind of value a field of this type holds, text for what is no type, which is refused when
// the object is checked.
func (t FieldType) Kind() value.Kind {
	if kind, ok := kindOfType[t]; ok {
		return kind
	}
	return value.KindText
}

var kindOfType = func() map[FieldType]value.Kind {
	out := map[FieldType]value.Kind{}
	for _, t := range fieldTypes {
		out[t.of] = t.kind
	}
	return out
}()

// Target is the key of the object a reference or person field points at, empty
// for every other field.
func (f *Field) Target() string {
	switch f.Type {
	case Person:
		return PersonObject
	case Picture, File:
		return FileObject
	case Reference:
		return f.Object
	}
	return ""
}

// HoldsFile says whether the field holds a picture or another file.
func (f *Field) HoldsFile() bool { return f.Target() == FileObject }

// Whole is the field that is stored: the address when this is a part of one.
func (f *Field) Whole() *Field {
	if f.of != nil {
		return f.of
	}
	return f
}

// Stored says whether people and imports give the field its value. Worked-out
// fields and running numbers get theirs from the database.
func (f *Field) Stored() bool { return f.Type != WorkedOut && f.Type != Number }

// Distinct says whether no two records have the same value in the field.
func (f *Field) Distinct() bool { return f.Unique || f.Type == Number }

// HasDefault says whether a new record gets a value for the field without being given one.
func (f *Field) HasDefault() bool { return len(f.Default) > 0 || f.DefaultExpression != "" }

// Chosen says whether values of the type are among the choices of the field.
func (t FieldType) Chosen() bool { return t == Choice || t == Choices }

// HasChoice says whether a key is that of one of the choices.
func (f *Field) HasChoice(key string) bool {
	return slices.ContainsFunc(f.Choices, func(c ChoiceValue) bool { return c.Key == key })
}

// ChoiceLabel is the label of a choice's value, the value itself when unknown.
func (f *Field) ChoiceLabel(key string) string {
	for _, c := range f.Choices {
		if c.Key == key {
			return c.Label
		}
	}
	return key
}

// Shown is a value of the field as it is read: choices by their labels.
func (f *Field) Shown(v value.Value) string {
	switch x := v.(type) {
	case value.Text:
		if f.Type == Choice {
			return f.ChoiceLabel(string(x))
		}
	case value.Several:
		labels := x.Keys()
		for i, key := range labels {
			labels[i] = f.ChoiceLabel(key)
		}
		return strings.Join(labels, ", ")
	}
	return f.Prefix + value.Display(v)
}

// Found is a text as it is searched: without regard to case, and where the field says so to
// accents.
func (f *Field) Found(text string) string {
	text = value.Fold(text)
	if f.IgnoreAccents {
		return value.Unaccented(text)
	}
	return text
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
func (o *Object) BuiltIn() bool { return BuiltInKey(o.Key) }

// BuiltInKey says whether a key is that of a built-in object.
func BuiltInKey(key string) bool { return key == PersonObject || key == FileObject }

// Model is all objects of an app, the built-in ones included.
type Model struct {
	// Currency is the house currency, an ISO 4217 code.
	Currency string
	// Rates is where amounts get converted by, nil when they are not.
	Rates *RateTable
	// Zone is where days begin and in which times are shown, nil for UTC.
	Zone *time.Location
	// MostText bounds the texts that expressions make, in bytes; nought means value.MostText.
	MostText int
	objects  map[string]*Object
	keys     []string
	derived  sync.Map
}

// TextBound is the most that a text which expressions make may take, in bytes.
func (m *Model) TextBound() int {
	if m == nil || m.MostText == 0 {
		return value.MostText
	}
	return min(m.MostText, value.MostTextEver)
}

// Location is the zone of the house.
func (m *Model) Location() *time.Location {
	if m == nil || m.Zone == nil {
		return time.UTC
	}
	return m.Zone
}

// Derived is what others work out from the objects of the model, made once and kept with it.
// The key is of a type of their own.
func (m *Model) Derived(key any, make func() any) any {
	if have, ok := m.derived.Load(key); ok {
		return have
	}
	have, _ := m.derived.LoadOrStore(key, make())
	return have
}

// RateTable says which records tell what a currency is worth in that of the house.
type RateTable struct {
	Object string `json:"object"`
	// Currency is a field with an ISO 4217 code, Day the date from which on Rate, how much
	// of the house currency one of it is worth, holds.
	Currency string `json:"currency"`
	Day      string `json:"day"`
	Rate     string `json:"rate"`
}

// New puts objects together to a model. Run Check on it before relying on it.
func New(currency string, objects ...*Object) *Model {
	m := &Model{Currency: currency, objects: map[string]*Object{PersonObject: personObject(), FileObject: fileObject()}}
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
		{Key: "picture", Label: "Picture", Type: Picture},
	}}
}

// A file's type is empty until all of it has arrived.
func fileObject() *Object {
	return &Object{Key: FileObject, Label: "File", Plural: "Files", LabelField: "name", Fields: []Field{
		{Key: "name", Label: "Name", Type: Text, Required: true},
		{Key: "media_type", Label: "Type", Type: Text},
		{Key: "size", Label: "Size", Type: Whole, Required: true},
		{Key: "added_by", Label: "Added by", Type: Person, Required: true},
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
