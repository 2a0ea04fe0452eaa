package expr

import (
	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/parser"
)

// casesMacro is cases(condition, value, condition, value, …, otherwise), which stands for conditions within
// conditions.
const casesMacro = "cases"

var cases = cel.Macros(parser.NewGlobalVarArgMacro(casesMacro,
	func(f parser.ExprHelper, _ ast.Expr, args []ast.Expr) (ast.Expr, *common.Error) {
		if len(args) < 3 || len(args)%2 == 0 {
			return nil, f.NewError(0, "cases(…) takes conditions, a value behind each, and one for when none holds")
		}
		out := args[len(args)-1]
		for i := len(args) - 3; i >= 0; i -= 2 {
			out = f.NewCall(operators.Conditional, args[i], args[i+1], out)
		}
		return out, nil
	}))
