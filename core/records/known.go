package records

import (
	"context"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// mostHeld is of how many records a known list holds the fields; of more it reads them when asked.
const mostHeld = 1000

// List is a known list of records by their keys.
func List(ctx context.Context, r Reader, object string, keys []int64, columns []model.Path) (*value.List, error) {
	if len(keys) > mostHeld {
		return &value.List{Object: object, Source: &Listed{Context: ctx, Reader: r,
			Query: query.Query{Object: object, Where: predicate.Keys(keys), Columns: columns}}}, nil
	}
	found, err := ByKey(ctx, r, object, keys, columns)
	return &value.List{Object: object, Source: value.Records(found)}, err
}

// One is a known record by its key, nil where the person may not see it.
func One(ctx context.Context, r Reader, object string, key int64, columns []model.Path) (value.Value, error) {
	found, err := ByKey(ctx, r, object, []int64{key}, columns)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	return found[0], nil
}

// RecordsOf are the records that a value is, or is a list of.
func RecordsOf(v value.Value) ([]*value.Record, error) {
	switch x := v.(type) {
	case *value.Record:
		if x != nil {
			return []*value.Record{x}, nil
		}
	case *value.List:
		return x.Source.All()
	}
	return nil, nil
}

// Wire is a value as it travels in JSON, a list as its records one by one.
func Wire(v value.Value) (any, error) {
	list, ok := v.(*value.List)
	if !ok {
		return value.Wire(v), nil
	}
	found, err := list.Source.All()
	return value.Records(found).Refs(), err
}
