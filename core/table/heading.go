package table

import (
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Headings are columns, checked.
type Headings []heading

type heading struct {
	path         model.Path
	label, above string
}

// CheckColumns checks columns that show records of an object. Those that cannot be shown are left out.
func CheckColumns(c *definition.Check, m *model.Model, object string, columns []Column, at string) Headings {
	var out Headings
	for i, d := range columns {
		path, ok := c.Path(m, object, d.Path, fmt.Sprintf("%s/%d/path", at, i), "The column would be missing.")
		if !ok {
			continue
		}
		label := d.Label
		if label == "" {
			label = Heading(path)
		}
		out = append(out, heading{path, label, d.Above})
	}
	return out
}

// Heading names a path for a person: the field's own label, and across references
// the label of the last one before it.
func Heading(p model.Path) string {
	if len(p.Fields) == 1 {
		return p.Last().Label
	}
	return p.Fields[len(p.Fields)-2].Label + " · " + strings.ToLower(p.Last().Label)
}

// Paths are what the columns show.
func (h Headings) Paths() []model.Path {
	out := make([]model.Path, len(h))
	for i, c := range h {
		out[i] = c.path
	}
	return out
}

// HeadingView describes one column of a table or one field of details.
type HeadingView struct {
	Path    string              `json:"path"`
	Label   string              `json:"label"`
	Type    model.FieldType     `json:"type"`
	Prefix  string              `json:"prefix,omitempty"`
	Choices []model.ChoiceValue `json:"choices,omitempty"`
	// Object is what a reference points at.
	Object string `json:"object,omitempty"`
	// Above is the common heading over it and its neighbours.
	Above string `json:"above,omitempty"`
	// NewTab opens a web link in a tab of its own.
	NewTab bool `json:"new_tab,omitempty"`
	// Editable says that the person may change it in the table, Required that it must not
	// be empty then.
	Editable bool `json:"editable,omitempty"`
	Required bool `json:"required,omitempty"`
	// Operators are those that the values can be compared with.
	Operators []predicate.Operator `json:"operators"`
}

// Views describe the columns as people see them.
func (h Headings) Views() []HeadingView {
	out := make([]HeadingView, len(h))
	for i, c := range h {
		out[i] = HeadingOf(c.path, c.label)
		out[i].Above = c.above
	}
	return out
}

// HeadingOf describes a column that shows a path.
func HeadingOf(path model.Path, label string) HeadingView {
	f := path.Last()
	return HeadingView{Path: path.String(), Label: label, Type: shownType(f), Prefix: f.Prefix, Choices: f.Choices,
		Object: f.Target(), NewTab: f.NewTab, Operators: predicate.Operators(f)}
}

// shownType is the type of a field's values as they are shown.
func shownType(f *model.Field) model.FieldType {
	if f.Type == model.WorkedOut {
		return f.Result
	}
	return f.Type
}
