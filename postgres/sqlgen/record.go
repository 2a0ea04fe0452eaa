package sqlgen

import (
	"plainpath/core/model"
	"plainpath/core/value"
)

// reach follows references already read from a record, nil when one is empty.
func reach(r *value.Record, path []*model.Field) *value.Record {
	for _, f := range path {
		next, ok := r.Get(f.Key).(*value.Record)
		if !ok {
			return nil
		}
		r = next
	}
	return r
}

// attach is reach that adds the last reference when it is not there yet.
func attach(r *value.Record, path []*model.Field, extent value.Extent) *value.Record {
	last := path[len(path)-1]
	r = reach(r, path[:len(path)-1])
	if r == nil {
		return nil
	}
	next := &value.Record{Object: last.Target(), Fields: map[string]value.Value{}, Extent: extent}
	r.Fields[last.Key] = next
	return next
}
