package expr

import (
	"fmt"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/traits"
	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/value"
)

// totals are the functions that make one value of many. They skip empty values, and are
// empty when there is none.
var totals = map[string]bool{"sum": true, "least": true, "greatest": true, "average": true}

func totalDeclarations() []cel.EnvOption {
	var opts []cel.EnvOption
	op := func(name string, result, of *types.Type) {
		opts = append(opts, cel.Function(name, cel.Overload(name+"_"+of.String(), []*types.Type{types.NewListType(of)}, result)))
	}
	for _, t := range []*types.Type{types.IntType, decimalType, moneyType} {
		op("sum", t, t)
		op("least", t, t)
		op("greatest", t, t)
	}
	op("average", decimalType, types.IntType)
	op("average", decimalType, decimalType)
	op("average", moneyType, moneyType)
	for _, t := range []*types.Type{dateType, types.TimestampType} {
		op("least", t, t)
		op("greatest", t, t)
	}
	return opts
}

// total computes a total over a list made inside an expression.
func total(function string, l traits.Lister) (value.Value, error) {
	var out value.Value
	n := int64(0)
	for it := l.Iterator(); it.HasNext() == types.True; {
		v, err := fromCEL(it.Next())
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		n++
		switch {
		case out == nil:
			out = v
		case function == "sum" || function == "average":
			if out, err = value.Arith("+", out, v); err != nil {
				return nil, err
			}
		default:
			order, ok := value.Compare(v, out)
			if !ok {
				return nil, fmt.Errorf("%s and %s cannot be put in order", value.Display(v), value.Display(out))
			}
			if function == "least" && order < 0 || function == "greatest" && order > 0 {
				out = v
			}
		}
	}
	if function != "average" || out == nil {
		return out, nil
	}
	if w, ok := out.(value.Whole); ok {
		out = value.FromWhole(int64(w))
	}
	return value.Arith("/", out, value.Decimal{Decimal: decimal.NewFromInt(n)})
}

// RelatedList is a list of the records that point at a record.
type RelatedList struct {
	Name  Name
	Refer model.Referrer
}

// RelatedLists are the lists of records that point at those of an object: "all_visit", or
// "all_visit_by_engineer" where an object points here by several fields.
func RelatedLists(m *model.Model, object string) []RelatedList {
	referrers := m.ReferrersTo(object)
	times := map[string]int{}
	for _, r := range referrers {
		times[r.Object.Key]++
	}
	var out []RelatedList
	for _, r := range referrers {
		key := "all_" + r.Object.Key
		if times[r.Object.Key] > 1 {
			key += "_by_" + r.Field.Key
		}
		out = append(out, RelatedList{Name{key, r.Object.Plural, Type{Kind: value.KindList, Object: r.Object.Key}}, r})
	}
	return out
}
