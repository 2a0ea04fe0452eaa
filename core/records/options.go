package records

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Referred reads the record that a person gave for a reference, or the file that they
// gave for a picture or a file. The text says what is wrong with it; there is no record then.
func Referred(ctx context.Context, r Reader, f *model.Field, id int64,
	fields []model.Path) (*value.Record, string, error) {
	found, problem, err := ReferredAll(ctx, r, f, []int64{id}, fields)
	if len(found) == 0 {
		return nil, problem, err
	}
	return found[0], "", nil
}

// ReferredAll are several records that were given for a field, in the order of their keys; the text says what is wrong
// with one of them, for which there are none.
func ReferredAll(ctx context.Context, r Reader, f *model.Field, ids []int64,
	fields []model.Path) ([]*value.Record, string, error) {
	m := r.Model()
	if f.HoldsFile() {
		kind, err := m.Path(model.FileObject, "media_type")
		if err != nil {
			return nil, "", err
		}
		fields = append(slices.Clone(fields), kind)
	}
	found, err := ByKey(ctx, r, f.Target(), ids, fields)
	var denied *access.DeniedError
	switch {
	case err != nil && !errors.As(err, &denied):
		return nil, "", err
	case len(found) < len(ids) && f.HoldsFile():
		return nil, fmt.Sprintf("the file given as %s has not arrived; send it again", f.Label), nil
	case len(found) < len(ids):
		return nil, fmt.Sprintf("the %s chosen as %s cannot be found; choose another",
			strings.ToLower(m.Object(f.Target()).Label), f.Label), nil
	}
	for _, file := range found {
		if f.Type == model.Picture && !IsPicture(value.Display(file.Get("media_type"))) {
			return nil, fmt.Sprintf("%s is no picture; %s takes PNG, JPEG, GIF and WebP", file.Label, f.Label), nil
		}
	}
	return found, "", nil
}

// IsPicture says whether a media type is one a picture may have: one that browsers show
// and that runs nothing.
func IsPicture(mediaType string) bool {
	return slices.Contains([]string{"image/png", "image/jpeg", "image/gif", "image/webp"}, mediaType)
}

// mostOptions is how many records a reference input offers at once.
const mostOptions = 20

// Options finds records of an object whose label holds a text.
func Options(ctx context.Context, r Reader, object, text string) ([]value.Ref, error) {
	return OptionsAmong(ctx, r, query.Query{Object: object}, text)
}

// OptionsAmong finds those of the records of a query whose label holds a text.
func OptionsAmong(ctx context.Context, r Reader, q query.Query, text string) ([]value.Ref, error) {
	return called(ctx, r, q, text, predicate.Contains, mostOptions)
}

// Called finds those of the records of a query that are called just so: none, one, or two of more.
func Called(ctx context.Context, r Reader, q query.Query, label string) ([]value.Ref, error) {
	return called(ctx, r, q, label, predicate.Is, 2)
}

func called(ctx context.Context, r Reader, q query.Query, text string, op predicate.Operator,
	most int) ([]value.Ref, error) {
	m := r.Model()
	label, err := m.Path(q.Object, m.Object(q.Object).LabelField)
	if err != nil {
		return nil, err
	}
	q.Order, q.Limit = []query.Order{{Path: label}}, most
	switch f := label.Last(); {
	case text == "":
	case f.Kind() == value.KindText:
		q.Filter = also(q.Filter, predicate.Test{Path: label, Op: op, Value: value.Text(text)})
	case f.Type == model.Number: // by its digits, with the prefix or without
		digits := strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(text)), strings.ToUpper(f.Prefix))
		n, err := strconv.ParseInt(digits, 10, 64)
		if err != nil {
			return []value.Ref{}, nil //nolint:nilerr // no record has such a number
		}
		q.Filter = also(q.Filter, predicate.Test{Path: label, Op: predicate.Is, Value: value.Whole(n)})
	}
	found, err := Select(ctx, r, q)
	return value.Records(found).Refs(), err
}

func also(before, p predicate.Predicate) predicate.Predicate {
	if before == nil {
		return p
	}
	return predicate.All{before, p}
}
