package records

import (
	"context"
	"slices"
	"strings"
	"unicode/utf8"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// CalledView is a record that was found by what it is called, with what records of its object are called.
type CalledView struct {
	value.Ref
	Object string `json:"object"`
	Kind   string `json:"kind"`
}

// leastSought is how many letters are looked for at least; fewer stand in nearly every label.
const leastSought = 2

// Anywhere finds records whose label holds a text, of the objects named in that order, or of any where none is named:
// some of each object, as many as are wanted in all.
func Anywhere(ctx context.Context, r Reader, text string, of []string, each, most int) ([]CalledView, error) {
	out := []CalledView{}
	if utf8.RuneCountInString(strings.TrimSpace(text)) < leastSought {
		return out, nil
	}
	if len(of) == 0 {
		of = r.Model().Keys()
	}
	for i, key := range of {
		o := r.Model().Object(key)
		if o == nil || o.BuiltIn() || len(out) == most || slices.Contains(of[:i], key) {
			continue
		}
		grant, err := r.Grant(key)
		if err != nil {
			return nil, err
		}
		if !grant.MaySee() {
			continue
		}
		if label := o.Field(o.LabelField); label.Kind() != value.KindText && label.Type != model.Number {
			continue // it is called by something that holds no letters
		}
		found, err := called(ctx, r, query.Query{Object: key}, text, predicate.Contains, min(each, most-len(out)))
		if err != nil {
			return nil, err
		}
		for _, ref := range found {
			out = append(out, CalledView{Ref: ref, Object: key, Kind: o.Label})
		}
	}
	return out, nil
}
