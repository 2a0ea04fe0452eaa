package expr

import (
	"errors"
	"fmt"
	"strings"
	"sync"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
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
	// Field is the field whose values the expression gives, nil when it gives others.
	Field *model.Field

	mentions []mention

	checked *cel.Ast
	program cel.Program
	loops   bool
	house   house
	term    func() (Term, error)
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

// counting are known values together with how much text an evaluation has made.
type counting struct {
	Values
	made *int
}

func (c counting) ResolveName(name string) (any, bool) {
	if name == madeName {
		return c.made, true
	}
	return c.Values.ResolveName(name)
}

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
	// Instead is the expression with the nearest name in its place, "" when that has another
	// mistake.
	Instead string `json:"instead,omitempty"`
}

func (e *Error) Error() string { return e.Text }

// Compile checks an expression against what is known. The error is an *Error.
func Compile(s Scope, source string) (*Program, error) {
	return offering(source, func(source string) (*Program, error) { return compile(s, source) })
}

// offering compiles, and mends an unknown name where what comes of it has no mistake.
func offering[T any](source string, compile func(source string) (T, error)) (T, error) {
	out, err := compile(source)
	var e *Error
	if errors.As(err, &e) && e.Nearest != "" {
		instead := e.mended(source)
		if _, err := compile(instead); err == nil {
			e.Instead = instead
		}
	}
	return out, err
}

// mended puts the nearest known name in the place of the unknown one.
func (e *Error) mended(source string) string {
	runes := []rune(source)
	before, rest := string(runes[:min(e.Offset, len(runes))]), string(runes[min(e.Offset, len(runes)):])
	return before + strings.Replace(rest, e.Name, e.Nearest, 1)
}

func compile(s Scope, source string) (*Program, error) {
	programs := kept(s.Model)
	if programs == nil {
		return compileAnew(s, source)
	}
	said := s.said(source)
	if have, ok := programs.Get(said); ok {
		return have.in(s), nil
	}
	p, err := compileAnew(s, source)
	if err == nil {
		programs.Add(said, keptProgram{p, s.Names})
	}
	return p, err
}

// in is a program that was kept as it is in a scope: what its rows hold may be called otherwise there, or stand
// elsewhere.
func (p *Program) in(s Scope) *Program {
	if p.Type.Answers == nil {
		return p
	}
	here := *p
	here.Type.Answers = s.answersOf(p.checked.OutputType())
	return &here
}

func compileAnew(s Scope, source string) (*Program, error) {
	env, err := environment(s)
	if err != nil {
		return nil, fmt.Errorf("preparing expressions: %w", err)
	}
	parsed, issues := env.Parse(source)
	if issues.Err() != nil {
		return nil, syntaxError(source, issues)
	}
	ours(source, parsed.NativeRep())
	checked, issues := env.Check(parsed)
	if issues.Err() != nil {
		return nil, checkError(s, source, parsed.NativeRep(), issues)
	}
	native := checked.NativeRep()
	choices, err := comparedChoices(s, source, native)
	if err != nil {
		return nil, err
	}
	if err := unstorable(source, native); err != nil {
		return nil, err
	}
	p := &Program{Source: source, checked: checked, house: houseOf(s.Model)}
	p.term = sync.OnceValues(p.translated)
	var ok bool
	if p.Type, ok = typeOf(checked.OutputType()); !ok {
		return nil,
			&Error{Text: "this gives something that cannot be used here: a list can be one of records or of choices"}
	}
	p.Type.Answers = s.answersOf(checked.OutputType())
	p.Uses, p.mentions = uses(native), mentions(s, source, native, choices)
	p.Field = fieldOf(s, native, native.Expr())
	p.Type.Empty = mayBeEmpty(s, native)
	plan := &planning{logical: logicalArguments(native), house: p.house}
	options := []cel.ProgramOption{cel.CustomDecoratorV2(plan.decorate)}
	if plan.loops = loops(native); plan.loops {
		options = append(options, cel.CostLimit(costLimit))
	} else {
		plan.paths = namedArguments(native)
	}
	if p.program, err = env.Program(checked, options...); err != nil {
		return nil, fmt.Errorf("preparing %q: %w", source, err)
	}
	p.loops = plan.loops
	if plan.failedAt != 0 {
		at := native.SourceInfo().GetStartLocation(plan.failedAt)
		return nil, &Error{Offset: offset(source, at.Line(), at.Column()), Text: "this is never possible: " +
			plan.failed.Why}
	}
	return p, nil
}

// CompileAs is Compile for a place that wants one kind of value. A whole number
// does where a decimal is wanted.
func CompileAs(s Scope, source string, want Type) (*Program, error) {
	return offering(source, func(source string) (*Program, error) { return compileAs(s, source, want) })
}

func compileAs(s Scope, source string, want Type) (*Program, error) {
	p, err := compile(s, source)
	if err != nil {
		return nil, err
	}
	if !Fits(p.Type, want) {
		return nil, &Error{Expected: want.Kind,
			Text: fmt.Sprintf("this gives %s, but %s is wanted here", Describe(s.Model, p.Type),
				Describe(s.Model, want))}
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

// CallsOn says whether the expression calls a function on a name.
func (p *Program) CallsOn(function, name string) bool {
	found := false
	ast.PreOrderVisit(p.checked.NativeRep().Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		if e.Kind() != ast.CallKind || e.AsCall().FunctionName() != function {
			return
		}
		for _, a := range arguments(e) {
			if path, ok := chain(a); ok && len(path) == 1 && path[0] == name {
				found = true
			}
		}
	}))
	return found
}

// Describe names a type in words, with its article.
func Describe(m *model.Model, t Type) string {
	label := t.Object
	if m != nil && m.Object(t.Object) != nil {
		label = strings.ToLower(m.Object(t.Object).Label)
	}
	switch {
	case t.Kind == value.KindRecord && label != "":
		return "one " + label
	case t.Kind == value.KindList && label != "":
		return "a list of " + label + " records"
	}
	return value.Words(t.Kind)
}

// Eval computes the expression. What cannot be computed from the data, such as two
// currencies added, is a value.Failure. An error is one of reading the data.
func (p *Program) Eval(values Values) (value.Value, error) {
	var given any = values
	if p.loops {
		given = counting{values, new(int)}
	}
	out, _, err := p.program.Eval(given)
	var v value.Value
	if err == nil {
		v, err = fromCEL(out)
	}
	if err != nil {
		var unread *readingError
		var missing *value.NotReadError
		if errors.As(err, &unread) || errors.As(err, &missing) {
			return nil, fmt.Errorf("computing %q: %w", p.Source, err)
		}
		return failure(err), nil
	}
	if _, isList := v.(*value.List); isList && p.Type.Kind == value.KindSeveral {
		return nil, nil
	}
	if l, isList := v.(*value.List); isList && p.Type.Kind == value.KindRows {
		rows, err := l.Source.All()
		return value.Rows(rows), err
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

// failure says in our words what CEL could not compute.
func failure(err error) value.Failure {
	if strings.Contains(err.Error(), "cost limit exceeded") {
		return value.Failure{Why: "too much to compute: it goes through too many records"}
	}
	var why value.Failure
	if errors.As(err, &why) {
		return why
	}
	return value.Failure{Why: "cannot be computed: " + err.Error()}
}
