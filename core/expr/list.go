package expr

import (
	"reflect"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/value"
)

// list lets CEL count a list of records without reading it, and read it when an
// expression goes through it.
type list struct{ *value.List }

func (l list) ConvertToNative(reflect.Type) (any, error) { return l.List, nil }
func (l list) ConvertToType(t ref.Type) ref.Val {
	return types.NewErr("a list cannot become %s", t.TypeName())
}
func (l list) Equal(other ref.Val) ref.Val {
	o, ok := other.(list)
	return types.Bool(ok && o.List == l.List)
}
func (l list) Type() ref.Type { return types.ListType }
func (l list) Value() any     { return l.List }

// Size counts the records.
func (l list) Size() ref.Val {
	n, err := l.Source.Count()
	if err != nil {
		return types.WrapErr(err)
	}
	return types.Int(n)
}

// Get is the record at a place, counted from nought.
func (l list) Get(index ref.Val) ref.Val {
	records, err := l.Source.All()
	if err != nil {
		return types.WrapErr(err)
	}
	i, ok := index.(types.Int)
	if !ok || i < 0 || int(i) >= len(records) {
		return types.NewErr("the list has no record at place %v", index.Value())
	}
	return box{records[i]}
}

// Contains says whether a record is in the list.
func (l list) Contains(v ref.Val) ref.Val {
	records, err := l.Source.All()
	if err != nil {
		return types.WrapErr(err)
	}
	for _, r := range records {
		if (box{r}).Equal(v) == types.True {
			return types.True
		}
	}
	return types.False
}

// Add puts two lists one after the other.
func (l list) Add(other ref.Val) ref.Val {
	o, ok := other.(list)
	if !ok {
		return types.NewErr("only a list can be added to a list")
	}
	a, err := l.Source.All()
	if err != nil {
		return types.WrapErr(err)
	}
	b, err := o.Source.All()
	if err != nil {
		return types.WrapErr(err)
	}
	both := append(append(value.Records{}, a...), b...)
	return list{&value.List{Object: l.Object, Source: both}}
}

// Iterator goes through the records, all of which are read first.
func (l list) Iterator() traits.Iterator {
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
		return types.WrapErr(err)
	}
	it.next++
	return box{it.records[it.next-1]}
}
