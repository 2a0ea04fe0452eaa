package model

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/value"
)

// Path leads from a record across references to a field: "building.customer.name".
// Its last field may itself be a reference.
type Path struct {
	// Fields are the fields passed, each on the object the one before points at.
	Fields []*Field
	text   string
}

// String is the path as a builder writes it.
func (p Path) String() string { return p.text }

// Last is the field the path ends at.
func (p Path) Last() *Field { return p.Fields[len(p.Fields)-1] }

// Through is the path without its last field, "" for a field of the record itself.
func (p Path) Through() string {
	i := strings.LastIndexByte(strings.TrimSuffix(p.text, p.Last().Key), '.')
	if i < 0 {
		return ""
	}
	return p.text[:i]
}

// UnknownNameError is a name that leads nowhere, with the nearest one that does.
type UnknownNameError struct {
	Name, Object, Nearest string
	// Offset counts the bytes before the name in the path that has it.
	Offset int
	// Instead is the path with the nearest name in its place, "" when that leads nowhere either.
	Instead string
}

func (e *UnknownNameError) Error() string {
	s := fmt.Sprintf("%s has no field %q", e.Object, e.Name)
	if e.Nearest != "" {
		s += fmt.Sprintf("; did you mean %q?", e.Nearest)
	}
	return s
}

// Unknown is the error of a key that no field of the object has.
func (o *Object) Unknown(key string) *UnknownNameError {
	nearest := Nearest(key, fieldKeys(o))
	return &UnknownNameError{Name: key, Object: o.Label, Nearest: nearest, Instead: nearest}
}

// Path resolves a dotted path from an object.
func (m *Model) Path(object, path string) (Path, error) {
	p, err := m.path(object, path)
	var unknown *UnknownNameError
	if errors.As(err, &unknown) && unknown.Nearest != "" {
		unknown.Instead = ""
		instead := path[:unknown.Offset] + unknown.Nearest + path[unknown.Offset+len(unknown.Name):]
		if _, err := m.path(object, instead); err == nil {
			unknown.Instead = instead
		}
	}
	return p, err
}

func (m *Model) path(object, path string) (Path, error) {
	p := Path{text: path}
	o := m.Object(object)
	if o == nil {
		return p, fmt.Errorf("there is no object %q", object)
	}
	offset := 0
	for i, part := range strings.Split(path, ".") {
		if i > 0 {
			offset += len(p.Last().Key) + 1
			if f := p.Last(); f.Type == Address {
				part, err := f.part(part, offset)
				p.Fields[len(p.Fields)-1] = part
				if i < strings.Count(path, ".") {
					err = fmt.Errorf("%s is text, so nothing can follow it in %q", part.Label, path)
				}
				return p, err
			}
			target := p.Last().Target()
			if target == "" {
				return p, fmt.Errorf("%s of %s is not a reference, so nothing can follow it in %q", p.Last().Label,
					o.Label, path)
			}
			if o = m.Object(target); o == nil {
				return p, fmt.Errorf("there is no object %q, which %q points at", target, p.Last().Label)
			}
		}
		f := o.Field(part)
		if f == nil {
			unknown := o.Unknown(part)
			unknown.Offset = offset
			return p, unknown
		}
		p.Fields = append(p.Fields, f)
	}
	return p, nil
}

// part is a part of a composite value as a field of its own.
func (f *Field) part(name string, offset int) (*Field, error) {
	if parts := value.Parts(f.Kind()); !slices.Contains(parts, name) {
		return f, &UnknownNameError{Name: name, Object: f.Label, Nearest: Nearest(name, parts),
			Offset: offset}
	}
	return &Field{Key: f.Key + "." + name, Label: f.Label + " · " + name, Type: Text, of: f}, nil
}

func fieldKeys(o *Object) []string {
	keys := make([]string, len(o.Fields))
	for i := range o.Fields {
		keys[i] = o.Fields[i].Key
	}
	return keys
}

// Nearest is the known name most like the one given, "" when none is at all like it.
func Nearest(name string, known []string) string {
	best, least := "", len(name)/2+2
	for _, k := range known {
		if d := editDistance(strings.ToLower(name), strings.ToLower(k)); d < least {
			best, least = k, d
		}
	}
	return best
}

// editDistance is the Levenshtein distance (V. I. Levenshtein, 1966), by the
// two-row method of Wagner and Fischer.
func editDistance(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := 1; i <= len(a); i++ {
		diagonal := row[0]
		row[0] = i
		for j := 1; j <= len(b); j++ {
			cost := diagonal
			if a[i-1] != b[j-1] {
				cost++
			}
			diagonal = row[j]
			row[j] = min(cost, row[j]+1, row[j-1]+1)
		}
	}
	return row[len(b)]
}
