package expr

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/model"
	"plainpath/core/value"
)

// function is an operator or function of expressions: what it takes, what it computes, and what builders
// are told of it. There is no function but those in the list.
type function struct {
	told
	// member functions are called x.name(y), too.
	member     bool
	signatures []signature
	// lenient ones look at empty and failed arguments themselves; of the others the result
	// is empty, or failed, as soon as an argument is.
	lenient bool
	// compute takes as many values as the signature. An error that is a value.Failure is
	// what the result is.
	compute func(a []value.Value) (value.Value, error)
	// inHouse stands for it where that depends on the house.
	inHouse func(a []value.Value, h house) (value.Value, error)
	// ofList computes a function of one list. Over records says that the database can do so over
	// records.
	ofList      func(l traits.Lister) (value.Value, error)
	overRecords bool
	// here are the kinds of the first of what it takes of which the database cannot compute it.
	here []value.Kind
	// repeats is how often the database has to have what it takes written down; nought is once.
	// Of amounts it can be more.
	repeats, repeatsMoney int
}

// everyKind is here for what the database cannot compute at all.
var everyKind = slices.DeleteFunc(value.Kinds(), func(k value.Kind) bool { return k == value.KindFailure })

// plural says whether a kind is of more than one value.
func plural(k value.Kind) bool {
	return k == value.KindList || k == value.KindScreen || k == value.KindRows
}

// refused says why the database cannot compute the function, nil where it can.
func (f *function) refused(of value.Kind) error {
	if !slices.Contains(f.here, of) {
		return nil
	}
	return fmt.Errorf("it cannot compute %s of %s", strings.Trim(f.name, "_@"), Describe(nil, Type{Kind: of}))
}

// Signature is what a function takes, by kinds of values.
type Signature struct {
	Function string
	Takes    []value.Kind
}

// InDatabase is everything that a database computes of single values, so that whoever writes for one
// can be held to it. What it computes of lists of records are Terms of their own.
func InDatabase() []Signature {
	var out []Signature
	for i := range functions {
		for _, s := range functions[i].signatures {
			out = append(out, functions[i].inDatabase(s)...)
		}
	}
	for _, name := range []string{operators.LogicalAnd, operators.LogicalOr} {
		out = append(out, Signature{name, []value.Kind{value.KindYesNo, value.KindYesNo}})
	}
	for _, kind := range everyKind {
		if !plural(kind) {
			out = append(out, Signature{operators.Conditional, []value.Kind{value.KindYesNo, kind, kind}})
		}
	}
	return append(out, Signature{operators.LogicalNot, []value.Kind{value.KindYesNo}})
}

func (f *function) inDatabase(s signature) []Signature {
	if s.takes[0].Kind() == types.ListKind && f.ofList != nil && s.takes[0] != list {
		return nil
	}
	of := everyKind[:1] // what is of any type is tried with each, texts being enough for the others
	if s.takes[0] == anything && (len(s.takes) == 1 || s.result == anything) {
		of = slices.DeleteFunc(slices.Clone(everyKind), plural)
	}
	var out []Signature
	for _, any := range of {
		takes := make([]value.Kind, len(s.takes))
		for i, t := range s.takes {
			switch t {
			case anything:
				takes[i] = any
			case list:
				takes[i] = value.KindSeveral
			default:
				of, _ := typeOf(t)
				takes[i] = of.Kind
			}
		}
		if f.refused(takes[0]) == nil {
			out = append(out, Signature{f.name, takes})
		}
	}
	return out
}

// Repeats is how often a database has to have what a function takes written down at most.
func Repeats(function string, of value.Kind) int {
	f := byName[function]
	if of == value.KindMoney {
		return max(f.repeatsMoney, f.repeats, 1)
	}
	return max(f.repeats, 1)
}

// Lenient says whether a function looks at empty and failed values itself. Of the others the result
// is empty, or failed, as soon as something that they take is.
func Lenient(function string) bool { return byName[function].lenient }

// house is what functions depend on besides their arguments.
type house struct {
	zone *time.Location
	// mostText bounds the texts that are made, in bytes.
	mostText int
}

func houseOf(m *model.Model) house { return house{m.Location(), m.TextBound()} }

type signature struct {
	result *types.Type
	takes  []*types.Type
}

func gives(result *types.Type, takes ...*types.Type) signature { return signature{result, takes} }

var functions = slices.Concat(operatorList, numberFunctions, textFunctions, dayFunctions, calendarFunctions,
	listFunctions)

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

var (
	whole, str, yes, instant = types.IntType, types.StringType, types.BoolType, types.TimestampType
	several                  = types.NewListType(types.StringType)
	anything                 = types.NewTypeParamType("T")
	list                     = types.NewListType(anything)
	// scalar are the types of single values. Several choices and records are the others.
	scalar = append([]*types.Type{str, whole, yes, instant, decimalType, moneyType, dateType}, composites()...)
	// pairs are the two numbers that work together though they are not of one type.
	pairs = [][]*types.Type{{decimalType, whole}, {whole, decimalType}}
)

// composites are the types of values that are made of parts.
func composites() []*types.Type {
	var out []*types.Type
	for _, k := range value.Kinds() {
		if value.Parts(k) != nil {
			out = append(out, celType(Type{Kind: k}, ""))
		}
	}
	return out
}

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
		out = append(out, cel.Function(name, cel.Overload(strings.Trim(name, "_")+"_"+t.String(), []*types.Type{t, t},
			yes)))
	}
	return out
}
