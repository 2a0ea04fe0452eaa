package records

import (
	"context"

	"plainpath/core/model"
	"plainpath/core/value"
)

// fresh is a list of records that were just added in the unit of work at hand: how many there are is known, all else
// is read when it is asked for.
type fresh struct {
	ctx     context.Context
	reader  Reader
	object  string
	keys    []int64
	columns []model.Path
	list    *value.List
}

// Fresh is a known list of records just added. It is of use as long as the unit they were added in.
func Fresh(ctx context.Context, r Reader, object string, keys []int64, columns []model.Path) *value.List {
	return &value.List{Object: object, Source: &fresh{ctx, r, object, keys, columns, nil}}
}

func (f *fresh) Count() (int64, error) { return int64(len(f.keys)), nil }

func (f *fresh) First() (*value.Record, error) {
	list, err := f.read()
	if err != nil {
		return nil, err
	}
	return list.Source.First()
}

func (f *fresh) All() ([]*value.Record, error) {
	list, err := f.read()
	if err != nil {
		return nil, err
	}
	return list.Source.All()
}

func (f *fresh) read() (*value.List, error) {
	if f.list != nil {
		return f.list, nil
	}
	var err error
	f.list, err = List(f.ctx, f.reader, f.object, f.keys, f.columns)
	return f.list, err
}
