package expr

import (
	"fmt"
	"reflect"
	"time"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/value"
)

// box carries a value CEL has no type for through an evaluation: a decimal, money,
// a date, a record or a list.
type box struct{ v value.Value }

// emptyRecord stands for a reference that is empty: every field of it is empty too.
var emptyRecord = box{(*value.Record)(nil)}

func toCEL(v value.Value) ref.Val {
	switch x := v.(type) {
	case nil:
		return types.NullValue
	case value.Text:
		return types.String(x)
	case value.Whole:
		return types.Int(x)
	case value.YesNo:
		return types.Bool(x)
	case value.Instant:
		return types.Timestamp{Time: x.Time}
	case *value.List:
		return recordList{x}
	case value.Rows:
		return recordList{x.List()}
	case value.Several:
		return types.NewStringList(types.DefaultTypeAdapter, x.Keys())
	}
	return box{v}
}

func fromCEL(v ref.Val) (value.Value, error) {
	switch x := v.(type) {
	case types.Null:
		return nil, nil
	case types.String:
		return value.Text(x), nil
	case types.Int:
		return value.Whole(x), nil
	case types.Bool:
		return value.YesNo(x), nil
	case types.Timestamp:
		return value.NewInstant(x.Time), nil
	case recordList:
		return x.List, nil
	case box:
		if r, ok := x.v.(*value.Record); ok && r == nil {
			return nil, nil
		}
		return x.v, nil
	case *types.Err:
		return nil, x
	case traits.Lister:
		return collect(x)
	}
	return nil, fmt.Errorf("an expression may not give a %s", v.Type().TypeName())
}

// collect turns a list made inside an expression, by a filter for example, into one
// of records, or into several choices.
func collect(l traits.Lister) (value.Value, error) {
	var records value.Records
	var keys []string
	for it := l.Iterator(); it.HasNext() == types.True; {
		v, err := fromCEL(it.Next())
		if err != nil {
			return nil, err
		}
		switch x := v.(type) {
		case *value.Record:
			records = append(records, x)
		case value.Text:
			keys = append(keys, string(x))
		case value.Failure:
			return x, nil
		default:
			return nil, fmt.Errorf("only records and choices can be in a list")
		}
	}
	if len(keys) > 0 {
		return value.NewSeveral(keys...), nil
	}
	out := &value.List{Source: records}
	if len(records) > 0 {
		out.Object = records[0].Object
	}
	return out, nil
}

func (b box) ConvertToNative(reflect.Type) (any, error) { return b.v, nil }
func (b box) ConvertToType(t ref.Type) ref.Val {
	return types.NewErr("%s cannot become %s", b.Type().TypeName(), t.TypeName())
}
func (b box) Equal(other ref.Val) ref.Val {
	o, ok := other.(box)
	return types.Bool(ok && value.Equal(b.v, o.v))
}
func (b box) Type() ref.Type {
	if r, ok := b.v.(*value.Record); ok && r != nil {
		return types.NewObjectType(recordPrefix + r.Object)
	}
	return types.NewObjectType(string(b.v.Kind()))
}

// Value is the value itself; CEL asks for it by this name.
func (b box) Value() any { return b.v }

// Get is a field of a record.
func (b box) Get(index ref.Val) ref.Val {
	if c, ok := b.v.(value.Composite); ok {
		return partOf(c, index)
	}
	r, ok := b.v.(*value.Record)
	if !ok {
		return types.NewErr("a %s has no fields", b.v.Kind())
	}
	if r == nil {
		return emptyRecord
	}
	name, ok := index.(types.String)
	if !ok {
		return types.NewErr("a field is named by text")
	}
	v, err := r.Field(string(name))
	switch {
	case err != nil:
		return types.WrapErr(err)
	case v == nil:
		return emptyRecord
	}
	return toCEL(v)
}

func partOf(c value.Composite, index ref.Val) ref.Val {
	name, _ := index.(types.String)
	if v := c.Part(string(name)); v != nil {
		return toCEL(v)
	}
	return emptyRecord
}

type adapter struct{ types.Adapter }

func (a adapter) NativeToValue(v any) ref.Val {
	switch x := v.(type) {
	case nil:
		return types.NullValue
	case ref.Val:
		return x
	case time.Time:
		return types.Timestamp{Time: x}
	case value.Value:
		return toCEL(x)
	}
	return a.Adapter.NativeToValue(v)
}
