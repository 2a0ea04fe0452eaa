package model

import (
	"slices"
	"strings"
)

// Today is a path written with the keys that fields have now: one that names a field by a
// key it had before leads to it all the same. What leads nowhere stays as it is. A field
// that has the key now comes before one that had it.
func (m *Model) Today(object, path string) string {
	parts := strings.Split(path, ".")
	o := m.Object(object)
	for i, part := range parts {
		if o == nil {
			break
		}
		f := o.Find(part)
		if f == nil {
			break
		}
		parts[i] = f.Key
		o = m.Object(f.Target())
	}
	return strings.Join(parts, ".")
}

func (o *Object) formerly(key string) *Field {
	i := slices.IndexFunc(o.Fields, func(f Field) bool { return slices.Contains(f.Was, key) })
	if i < 0 {
		return nil
	}
	return &o.Fields[i]
}

// TodaysChoice is the key that a choice has now which had this one, or has it still.
func (f *Field) TodaysChoice(key string) string {
	if f.HasChoice(key) {
		return key
	}
	for _, c := range f.Choices {
		if slices.Contains(c.Was, key) {
			return c.Key
		}
	}
	return key
}

// Find is the object with a key, or the one that had it before.
func (m *Model) Find(key string) *Object {
	if o := m.Object(key); o != nil {
		return o
	}
	for _, k := range m.keys {
		if o := m.objects[k]; slices.Contains(o.Was, key) {
			return o
		}
	}
	return nil
}

// Find is the field with a key, or the one that had it before.
func (o *Object) Find(key string) *Field {
	if f := o.Field(key); f != nil {
		return f
	}
	return o.formerly(key)
}
