package expr

import (
	"fmt"
	"strings"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"
	"cel.dev/cel-go/interpreter"

	"plainpath/core/model"
	"plainpath/core/value"
)

// costLimit bounds one evaluation of an expression that goes through a list, in CEL's
// own units of cost: about one per operator and per record gone through. Without a list
// the length of the expression is bound enough.
const costLimit = 1_000_000

// Program is a checked expression, ready to be computed. It is safe for use by
// several goroutines.
type Program struct {
	Source string
	Type   Type
	// Uses lists the known values the expression depends on, each as the path taken
	// from it: ["visit", "engineer", "name"].
	Uses [][]string

	checked *cel.Ast
	program cel.Program
}

// Values gives known values by name; those missing are empty.
type Values map[string]value.Value

// ResolveName finds a value for CEL.
func (v Values) ResolveName(name string) (any, bool) {
	x := v[name]
	if x == nil {
		return emptyRecord, true
	}
	return toCEL(x), true
}

// Parent is nil: values stand alone.
func (v Values) Parent() interpreter.Activation { return nil }

// Error is what is wrong with an expression, and where.
type Error struct {
	// Offset counts characters from the start of the expression.
	Offset int `json:"offset"`
	// Text says what is wrong in words.
	Text string `json:"text"`
	// Expected is the kind of value wanted, when another was given.
	Expected value.Kind `json:"expected,omitempty"`
	// Name is an unknown name and Nearest the known one most like it.
	Name    string `json:"name,omitempty"`
	Nearest string `json:"nearest,omitempty"`
}

func (e *Error) Error() string { return e.Text }

// Compile checks an expression against what is known. The error is an *Error.
func Compile(s Scope, source string) (*Program, error) {
	env, err := environment(s)
	if err != nil {
		return nil, fmt.Errorf("preparing expressions: %w", err)
	}
	parsed, issues := env.Parse(source)
	if issues.Err() != nil {
		return nil, syntaxError(source, issues)
	}
	checked, issues := env.Check(parsed)
	if issues.Err() != nil {
		return nil, checkError(s, source, parsed.NativeRep(), issues)
	}
	p := &Program{Source: source, checked: checked, Type: typeOf(checked.OutputType())}
	p.Uses = uses(checked.NativeRep())
	p.Type.Empty = mayBeEmpty(s, checked.NativeRep())
	options := []cel.ProgramOption{cel.CustomDecoratorV2(emptyAware(logicalArguments(checked.NativeRep())))}
	if loops(checked.NativeRep()) {
		options = append(options, cel.CostLimit(costLimit))
	}
	p.program, err = env.Program(checked, options...)
	if err != nil {
		return nil, fmt.Errorf("preparing %q: %w", source, err)
	}
	return p, nil
}

// CompileAs is Compile for a place that wants one kind of value. A whole number
// does where a decimal is wanted.
func CompileAs(s Scope, source string, want Type) (*Program, error) {
	p, err := Compile(s, source)
	if err != nil {
		return nil, err
	}
	if !Fits(p.Type, want) {
		return nil, &Error{Expected: want.Kind,
			Text: fmt.Sprintf("this gives %s, but %s is wanted here", Describe(s.Model, p.Type), Describe(s.Model, want))}
	}
	return p, nil
}

// Fits says whether a value of one type can be used where another is wanted.
func Fits(got, want Type) bool {
	if got.Kind == value.KindWhole && want.Kind == value.KindDecimal {
		return true
	}
	return got.Kind == want.Kind && (want.Object == "" || got.Object == want.Object)
}

// Describe names a type in words, with its article.
func Describe(m *model.Model, t Type) string {
	label := t.Object
	if m != nil && m.Object(t.Object) != nil {
		label = strings.ToLower(m.Object(t.Object).Label)
	}
	switch t.Kind {
	case value.KindWhole:
		return "a whole number"
	case value.KindDecimal:
		return "a decimal"
	case value.KindMoney:
		return "an amount of money"
	case value.KindYesNo:
		return "yes or no"
	case value.KindDate:
		return "a date"
	case value.KindInstant:
		return "a date and time"
	case value.KindRecord:
		if label == "" {
			return "a record"
		}
		return "one " + label
	case value.KindList:
		return "a list of " + label + " records"
	case value.KindScreen:
		return "a whole screen"
	}
	return "text"
}

// Eval computes the expression. An error is one of the data, such as adding two
// currencies; the expression itself was checked.
func (p *Program) Eval(values Values) (value.Value, error) {
	out, _, err := p.program.Eval(values)
	if err != nil {
		return nil, fmt.Errorf("computing %q: %w", p.Source, err)
	}
	v, err := fromCEL(out)
	if err != nil {
		return nil, fmt.Errorf("computing %q: %w", p.Source, err)
	}
	if w, ok := v.(value.Whole); ok && p.Type.Kind == value.KindDecimal {
		return value.FromWhole(int64(w)), nil
	}
	return v, nil
}

// True computes a condition; empty counts as no.
func (p *Program) True(values Values) (bool, error) {
	v, err := p.Eval(values)
	if err != nil {
		return false, err
	}
	return v == value.YesNo(true), nil
}

// emptyAware gives operators and functions the one meaning of empty.
func emptyAware(logical map[int64]bool) interpreter.InterpretableDecoratorV2 {
	return func(in interpreter.InterpretableV2) (interpreter.InterpretableV2, error) {
		if c, ok := in.(interpreter.InterpretableCall); ok && defined(c.Function()) {
			in = newCall(in, c)
		}
		if logical[in.ID()] {
			in = yesOrNo{in}
		}
		return in, nil
	}
}

func defined(function string) bool {
	switch function {
	case "empty", "either", operators.Equals, operators.NotEquals, operators.Less, operators.LessEquals,
		operators.Greater, operators.GreaterEquals:
		return true
	}
	return known[function]
}

// call computes a function in place of CEL's own dispatch.
type call struct {
	interpreter.InterpretableV2
	function string
	args     []interpreter.InterpretableV2
	// constants are the values of arguments that never change, nil for the others.
	constants []value.Value
}

func newCall(in interpreter.InterpretableV2, c interpreter.InterpretableCall) *call {
	out := &call{InterpretableV2: in, function: c.Function(), args: c.Args(), constants: make([]value.Value, len(c.Args()))}
	for i, a := range out.args {
		if k, ok := a.(interpreter.InterpretableConst); ok {
			if v, err := fromCEL(k.Value()); err == nil {
				out.constants[i] = v
			}
		}
	}
	return out
}

func (c *call) Exec(frame *interpreter.ExecutionFrame) ref.Val {
	var held [3]value.Value
	args := held[:0]
	for i, a := range c.args {
		if k := c.constants[i]; k != nil {
			args = append(args, k)
			continue
		}
		out := a.Exec(frame)
		if types.IsUnknownOrError(out) {
			return out
		}
		if l, ok := out.(traits.Lister); ok && i == 0 && c.function == operators.Add {
			return l.Add(c.args[1].Exec(frame)) // how CEL's own macros gather their results
		}
		v, err := fromCEL(out)
		if err != nil {
			return types.WrapErr(err)
		}
		args = append(args, v)
	}
	v, ok, err := apply(c.function, args)
	switch {
	case err != nil:
		return types.WrapErr(err)
	case !ok:
		return types.NewErr("%s cannot be computed", c.function)
	case v == nil:
		return emptyRecord
	}
	return toCEL(v)
}

func (c *call) Eval(a interpreter.Activation) ref.Val {
	return interpreter.EvalActivation(a, c.Exec)
}

// yesOrNo turns an empty argument of a logical operator into no.
type yesOrNo struct{ interpreter.InterpretableV2 }

func (y yesOrNo) Exec(frame *interpreter.ExecutionFrame) ref.Val {
	v := y.InterpretableV2.Exec(frame)
	if b, ok := v.(box); ok && b == emptyRecord || v == types.NullValue {
		return types.False
	}
	return v
}

func (y yesOrNo) Eval(a interpreter.Activation) ref.Val {
	return interpreter.EvalActivation(a, y.Exec)
}

// loops says whether an expression goes through a list.
func loops(a *ast.AST) bool {
	found := false
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		found = found || e.Kind() == ast.ComprehensionKind
	}))
	return found
}

// logicalArguments finds the expressions that are arguments of a logical operator
// or the condition of a choice between two values.
func logicalArguments(a *ast.AST) map[int64]bool {
	ids := map[int64]bool{}
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		if e.Kind() != ast.CallKind {
			return
		}
		c := e.AsCall()
		switch c.FunctionName() {
		case operators.LogicalAnd, operators.LogicalOr, operators.LogicalNot:
			for _, arg := range c.Args() {
				ids[arg.ID()] = true
			}
		case operators.Conditional:
			ids[c.Args()[0].ID()] = true
		}
	}))
	return ids
}
