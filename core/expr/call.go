package expr

import (
	"errors"
	"fmt"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"
	"cel.dev/cel-go/interpreter"

	"plainpath/core/value"
)

// planning puts our functions in the place of CEL's dispatch, which gives empty and failed
// values their one meaning. Calls of constants are computed here, once.
type planning struct {
	logical map[int64]bool
	paths   map[int64][]string
	// loops says that the expression goes through a list.
	loops bool
	house house
	// failed is the first constant that cannot be computed, by the number of its call.
	failed   value.Failure
	failedAt int64
}

func (p *planning) decorate(in interpreter.InterpretableV2) (interpreter.InterpretableV2, error) {
	if c, ok := in.(interpreter.InterpretableCall); ok && byName[c.Function()].computed() {
		planned := newCall(in, c, p.paths)
		planned.counted, planned.house = p.loops, p.house
		v, constant, err := planned.constant()
		if err != nil {
			return nil, err
		}
		if why, ok := v.(value.Failure); ok && p.failedAt == 0 {
			p.failed, p.failedAt = why, in.ID()
		}
		in = planned
		if constant && v != nil {
			in = interpreter.NewConstValue(in.ID(), toCEL(v))
		}
	}
	if p.logical[in.ID()] {
		in = yesOrNo{in}
	}
	return in, nil
}

// call computes a function in place of CEL's own dispatch.
type call struct {
	interpreter.InterpretableV2
	function *function
	args     []interpreter.InterpretableV2
	// constants are the values of arguments that never change, nil for the others; paths
	// are those of arguments that only name a value, which is read without CEL's help.
	constants []value.Value
	paths     [][]string
	// counted says that the texts made by it count, for they may be made once for each record of a
	// list.
	counted bool
	house   house
}

func newCall(in interpreter.InterpretableV2, c interpreter.InterpretableCall, paths map[int64][]string) *call {
	n := len(c.Args())
	out := &call{InterpretableV2: in, function: byName[c.Function()], args: c.Args(), constants: make([]value.Value, n),
		paths: make([][]string, n)}
	for i, a := range out.args {
		out.paths[i] = paths[a.ID()]
		if k, ok := a.(interpreter.InterpretableConst); ok {
			if v, err := fromCEL(k.Value()); err == nil {
				out.constants[i] = v
			}
		}
	}
	return out
}

// constant computes a call whose arguments never change.
func (c *call) constant() (v value.Value, ok bool, err error) {
	for _, k := range c.constants {
		if k == nil {
			return nil, false, nil
		}
	}
	if c.function.compute == nil {
		return nil, false, nil
	}
	v, err = c.function.apply(c.constants, c.house)
	return v, err == nil, err
}

func (c *call) Exec(frame *interpreter.ExecutionFrame) ref.Val {
	var held [3]value.Value
	args := held[:0]
	for i, a := range c.args {
		if k := c.constants[i]; k != nil {
			args = append(args, k)
			continue
		}
		if path := c.paths[i]; path != nil {
			v, err := follow(frame, path)
			if err != nil {
				return types.WrapErr(err)
			}
			if l, ok := toCEL(v).(traits.Lister); ok {
				switch {
				case c.function.ofList != nil:
					return given(c.function.ofList(l))
				case i == 0 && c.function.name == operators.Add:
					return joined(l, c.args[1].Exec(frame))
				}
			}
			args = append(args, v)
			continue
		}
		if i == 1 && c.function.name == "either" && args[0] != nil { // what is not needed is not looked at
			return toCEL(args[0])
		}
		out := a.Exec(frame)
		if types.IsUnknownOrError(out) {
			return out
		}
		if l, ok := out.(traits.Lister); ok {
			switch {
			case c.function.ofList != nil:
				return given(c.function.ofList(l))
			case i == 1 && c.function.name == operators.In:
				if args[0] == nil {
					return types.False
				}
				return l.Contains(toCEL(args[0]))
			case i == 0 && c.function.name == operators.Add: // how CEL's own macros gather their results
				return joined(l, c.args[1].Exec(frame))
			}
		}
		v, err := fromCEL(out)
		if err != nil {
			return types.WrapErr(err)
		}
		args = append(args, v)
	}
	if c.function.compute == nil && c.function.inHouse == nil { // a list that is empty
		return given(nil, nil)
	}
	v, err := c.function.apply(args, c.house)
	if text, ok := v.(value.Text); ok && c.counted && !within(frame, len(text), c.house.mostText) {
		// which ends it, whatever list this is for
		return types.WrapErr(value.Failure{Why: value.TooLong(c.house.mostText)})
	}
	return given(v, err)
}

// mostMade bounds all texts that one evaluation makes while it goes through lists, as so many of the
// longest.
const mostMade = 16

// madeName is a name that no expression can say, under which an evaluation counts what it makes.
const madeName = "texts made"

// within counts a text that was made, and says whether there is room for it.
func within(frame *interpreter.ExecutionFrame, length, most int) bool {
	found, _ := frame.ResolveName(madeName)
	made, ok := found.(*int)
	if !ok {
		return true
	}
	*made += length
	return *made <= mostMade*most
}

func given(v value.Value, err error) ref.Val {
	var why value.Failure
	switch {
	case errors.As(err, &why):
		return box{why}
	case err != nil:
		return types.WrapErr(err)
	case v == nil:
		return emptyRecord
	}
	return toCEL(v)
}

// joined is two lists one after the other, as long as that is not out of all proportion.
func joined(a traits.Lister, other ref.Val) ref.Val {
	b, ok := other.(traits.Lister)
	if !ok {
		return other
	}
	x, okX := a.Size().(types.Int)
	y, okY := b.Size().(types.Int)
	if okX && okY && x+y > mostElements {
		return box{value.Failure{Why: value.TooLong(mostElements)}}
	}
	return a.Add(other)
}

// follow reads a known value by its path.
func follow(frame *interpreter.ExecutionFrame, path []string) (value.Value, error) {
	found, _ := frame.ResolveName(path[0])
	b, ok := found.(box)
	if !ok {
		v, isCEL := found.(ref.Val)
		if !isCEL || len(path) > 1 {
			return nil, fmt.Errorf("%q holds no fields", path[0])
		}
		return fromCEL(v)
	}
	if c, ok := b.v.(value.Composite); ok && len(path) > 1 {
		return c.Part(path[1]), nil
	}
	r, isRecord := b.v.(*value.Record)
	if !isRecord {
		return b.v, nil
	}
	for i, name := range path[1:] {
		if r == nil {
			return nil, nil
		}
		v, err := r.Field(name)
		if i == len(path)-2 || err != nil {
			return v, err
		}
		if c, ok := v.(value.Composite); ok {
			return c.Part(path[i+2]), nil
		}
		r, _ = v.(*value.Record)
	}
	if r == nil {
		return nil, nil
	}
	return r, nil
}

func (c *call) Eval(a interpreter.Activation) ref.Val {
	return interpreter.EvalActivation(a, c.Exec)
}

// yesOrNo turns an argument of a logical operator that is empty or failed into no.
type yesOrNo struct{ interpreter.InterpretableV2 }

func (y yesOrNo) Exec(frame *interpreter.ExecutionFrame) ref.Val {
	v := y.InterpretableV2.Exec(frame)
	if _, boxed := v.(box); boxed || v == types.NullValue {
		return types.False
	}
	return v
}

func (y yesOrNo) Eval(a interpreter.Activation) ref.Val {
	return interpreter.EvalActivation(a, y.Exec)
}

// namedArguments finds the arguments of calls that only name a value: a.b.c.
func namedArguments(a *ast.AST) map[int64][]string {
	out := map[int64][]string{}
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		if e.Kind() != ast.CallKind {
			return
		}
		for _, arg := range arguments(e) {
			if path, ok := chain(arg); ok {
				out[arg.ID()] = path
			}
		}
	}))
	return out
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
