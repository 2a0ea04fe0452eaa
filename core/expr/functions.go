package expr

import (
	"errors"
	"slices"
	"strings"
	"time"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/model"
	"plainpath/core/value"
)

// function is an operator or function of expressions: what it takes, and what it computes in
// Go and in SQL. There is no function but those in the list.
type function struct {
	name string
	// member functions are called x.name(y), too.
	member     bool
	signatures []signature
	// lenient ones look at empty and failed arguments themselves; of the others the result
	// is empty, or failed, as soon as an argument is.
	lenient bool
	// compute takes as many values as the signature. An error that is a value.Failure is
	// what the result is.
	compute func(a []value.Value) (value.Value, error)
	// sql writes the same as SQL; nil has none.
	sql func(a []Column) (Column, error)
	// inHouse and inHouseSQL stand for those where it depends on the house.
	inHouse    func(a []value.Value, h house) (value.Value, error)
	inHouseSQL func(a []Column, h house) (Column, error)
	// ofList computes a function of one list, listSQL writes it.
	ofList  func(l traits.Lister) (value.Value, error)
	listSQL func(w sqlWriter, list ast.Expr) (Column, error)
}

// house is what functions depend on besides their arguments.
type house struct {
	zone *time.Location
	// mostText bounds the texts that are made, in bytes.
	mostText int
}

func houseOf(m *model.Model) house { return house{m.Location(), m.TextBound()} }

// zoneSQL is the zone as a constant.
func (h house) zoneSQL() string { return "'" + h.zone.String() + "'" }

type signature struct {
	result *types.Type
	takes  []*types.Type
}

func gives(result *types.Type, takes ...*types.Type) signature { return signature{result, takes} }

var functions = slices.Concat(operatorList, numberFunctions, textFunctions, dayFunctions, calendarFunctions, listFunctions)

var byName = map[string]*function{}

func init() { // not where it is declared, for functions of lists call others while they are written
	for i := range functions {
		byName[functions[i].name] = &functions[i]
	}
}

// FunctionNames are the functions an expression may call, for suggestions.
var FunctionNames = func() []string {
	var out []string
	for _, f := range functions {
		if f.named() {
			out = append(out, f.name)
		}
	}
	return out
}()

// named says whether the function is called by its name, as operators are not.
func (f *function) named() bool {
	return !strings.ContainsAny(f.name, "_@!-") || f.name == "add_minutes"
}

// computed says whether the function is ours to compute in Go.
func (f *function) computed() bool {
	return f != nil && (f.compute != nil || f.ofList != nil || f.inHouse != nil)
}

// declare tells CEL of the function.
func (f *function) declare() cel.EnvOption {
	var overloads []cel.FunctionOpt
	for _, s := range f.signatures {
		id := strings.Trim(f.name, "_@")
		for _, t := range s.takes {
			id += "_" + t.String()
		}
		overloads = append(overloads, cel.Overload(id, s.takes, s.result))
		if f.member {
			overloads = append(overloads, cel.MemberOverload("of_"+id, s.takes, s.result))
		}
	}
	return cel.Function(f.name, overloads...)
}

// apply computes the function of values that may be empty or failed.
func (f *function) apply(a []value.Value, h house) (value.Value, error) {
	if !f.lenient {
		for _, v := range a {
			if _, failed := v.(value.Failure); failed {
				return v, nil
			}
		}
		if slices.Contains(a, nil) {
			return nil, nil
		}
	}
	compute := f.compute
	if f.inHouse != nil {
		compute = func(a []value.Value) (value.Value, error) { return f.inHouse(a, h) }
	}
	v, err := compute(a)
	if text, ok := v.(value.Text); ok && len(text) > h.mostText {
		return value.Failure{Why: value.TooLong(h.mostText)}, nil
	}
	var why value.Failure
	if errors.As(err, &why) {
		return why, nil
	}
	return v, err
}

// write writes the function of columns.
func (f *function) write(a []Column, h house) (Column, error) {
	write := f.sql
	if f.inHouseSQL != nil {
		write = func(a []Column) (Column, error) { return f.inHouseSQL(a, h) }
	}
	if write == nil {
		return Column{}, errors.New(f.name + " has no SQL")
	}
	c, err := write(a)
	for _, x := range a {
		c.Stored += x.Stored
	}
	if !f.lenient {
		var whys []string
		for _, x := range a {
			whys = append(whys, x.Why)
		}
		c.Why = firstOf(append(whys, c.Why)...)
	}
	return c, err
}

// firstOf is the first of several SQL texts that says something, "" when none ever does.
func firstOf(texts ...string) string {
	said := slices.DeleteFunc(texts, func(t string) bool { return t == "" })
	switch len(said) {
	case 0:
		return ""
	case 1:
		return said[0]
	}
	return "coalesce(" + strings.Join(said, ", ") + ")"
}

var (
	whole, str, yes, instant = types.IntType, types.StringType, types.BoolType, types.TimestampType
	several                  = types.NewListType(types.StringType)
	anything                 = types.NewTypeParamType("T")
	list                     = types.NewListType(anything)
	// scalar are the types of single values. Several choices and records are the others.
	scalar = []*types.Type{str, whole, yes, instant, decimalType, moneyType, dateType, addressType}
	// pairs are the two numbers that work together though they are not of one type.
	pairs = [][]*types.Type{{decimalType, whole}, {whole, decimalType}}
)

// alike makes a signature for each type, of two values of it.
func alike(result *types.Type, of ...*types.Type) []signature {
	var out []signature
	for _, t := range of {
		out = append(out, gives(result, t, t))
	}
	return out
}

// numeric makes signatures for each pair of numbers that are not of one type.
func numeric(result *types.Type) []signature {
	var out []signature
	for _, p := range pairs {
		out = append(out, gives(result, p...))
	}
	return out
}

// equality declares "is" and "is not" for the records of an object; the others are in the list.
func equality(object string) []cel.EnvOption {
	t := types.NewObjectType(recordPrefix + object)
	var out []cel.EnvOption
	for _, name := range []string{operators.Equals, operators.NotEquals} {
		out = append(out, cel.Function(name, cel.Overload(strings.Trim(name, "_")+"_"+t.String(), []*types.Type{t, t}, yes)))
	}
	return out
}
