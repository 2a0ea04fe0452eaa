package expr

import (
	"reflect"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/value"
)

// mostElements bounds the lists that expressions make.
const mostElements = 1 << 20

// readingError is a list that could not be read: no fault of the expression or the data.
type readingError struct{ err error }

func (e *readingError) Error() string { return e.err.Error() }
func (e *readingError) Unwrap() error { return e.err }

func reading(err error) error {
	if err == nil {
		return nil
	}
	return &readingError{err}
}

// recordList lets CEL count a list of records without reading it, and read it when an
// expression goes through it.
type recordList struct{ *value.List }

func (l recordList) ConvertToNative(reflect.Type) (any, error) { return l.List, nil }
func (l recordList) ConvertToType(t ref.Type) ref.Val {
	return types.NewErr("a list cannot become %s", t.TypeName())
}
func (l recordList) Equal(other ref.Val) ref.Val {
	o, ok := other.(recordList)
	return types.Bool(ok && o.List == l.List)
}
func (l recordList) Type() ref.Type { return types.ListType }
func (l recordList) Value() any     { return l.List }

// Size counts the records.
func (l recordList) Size() ref.Val {
	n, err := l.Source.Count()
	if err != nil {
		return types.WrapErr(reading(err))
	}
	return types.Int(n)
}

// Get is the record at a place, counted from nought, empty where there is none.
func (l recordList) Get(index ref.Val) ref.Val {
	records, err := l.Source.All()
	if err != nil {
		return types.WrapErr(reading(err))
	}
	i, ok := index.(types.Int)
	if !ok || i < 0 || int(i) >= len(records) {
		return emptyRecord
	}
	return box{records[i]}
}

// Contains says whether a record is in the list.
func (l recordList) Contains(v ref.Val) ref.Val {
	records, err := l.Source.All()
	if err != nil {
		return types.WrapErr(reading(err))
	}
	for _, r := range records {
		if (box{r}).Equal(v) == types.True {
			return types.True
		}
	}
	return types.False
}

// Add puts two lists one after the other.
func (l recordList) Add(other ref.Val) ref.Val {
	o, ok := other.(recordList)
	if !ok {
		return types.NewErr("only a list can be added to a list")
	}
	a, err := l.Source.All()
	if err != nil {
		return types.WrapErr(reading(err))
	}
	b, err := o.Source.All()
	if err != nil {
		return types.WrapErr(reading(err))
	}
	if len(a)+len(b) > mostElements {
		return box{value.Failure{Why: value.TooLong(mostElements)}}
	}
	both := append(append(value.Records{}, a...), b...)
	return recordList{&value.List{Object: l.Object, Source: both}}
}

// Iterator goes through the records, all of which are read first.
func (l recordList) Iterator() traits.Iterator {
	records, err := l.Source.All()
	return &iterator{records: records, err: err}
}

type iterator struct {
	types.Null
	records []*value.Record
	err     error
	next    int
}

func (it *iterator) HasNext() ref.Val {
	return types.Bool(it.err != nil || it.next < len(it.records))
}

func (it *iterator) Next() ref.Val {
	if it.err != nil {
		err := it.err
		it.err = nil
		return types.WrapErr(reading(err))
	}
	it.next++
	return box{it.records[it.next-1]}
}
