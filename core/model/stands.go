package model

import "slices"

// An edition may be older than the tables it works on: what it calls one thing may stand there
// under a newer key.

// Column is what the column of the field is called.
func (f *Field) Column() string {
	if f.column != "" {
		return f.column
	}
	return f.Key
}

// Table is what the table of the object is called.
func (o *Object) Table() string {
	if o.table != "" {
		return o.table
	}
	return o.Key
}

// StandsAs says what the table of the object is called now.
func (o *Object) StandsAs(table string) { o.table = table }

// StandsAs says what the column of the field is called now.
func (f *Field) StandsAs(column string) { f.column = column }

// Now is the object that a former one has become, nil where it is gone.
func (m *Model) Now(former string) *Object {
	for _, o := range m.objects {
		if o.Key != former && slices.Contains(o.Was, former) {
			return o
		}
	}
	return m.objects[former]
}

// Now is the field that a former one of the object has become, nil where it is gone.
func (o *Object) Now(former string) *Field {
	for i := range o.Fields {
		if f := &o.Fields[i]; f.Key != former && slices.Contains(f.Was, former) {
			return f
		}
	}
	return o.Field(former)
}
