package predicate

import (
	"plainpath/core/expr"
	"plainpath/core/value"
)

// EditedName is what a candidate rule calls the record being edited.
const EditedName = "edited"

// Edited stands for a record being edited whose values only the database knows. A
// condition bound with it leaves the operands that use it to the database.
type Edited struct{}

// Kind is that of a record.
func (Edited) Kind() value.Kind { return value.KindRecord }

// Deferred is an operand that depends on the record being edited.
type Deferred struct {
	Program *expr.Program
	Values  expr.Values
}

// Kind is the kind of value the operand will have.
func (d Deferred) Kind() value.Kind { return d.Program.Type.Kind }

func usesEdited(p *expr.Program) bool {
	for _, u := range p.Uses {
		if u[0] == EditedName {
			return true
		}
	}
	return false
}

// computed evaluates an operand now, or leaves it to the database.
func computed(p *expr.Program) operand {
	if !usesEdited(p) {
		return func(v expr.Values) (value.Value, error) { return needed(p.Eval(v)) }
	}
	return func(v expr.Values) (value.Value, error) {
		if _, ok := v[EditedName].(Edited); ok {
			return Deferred{p, v}, nil
		}
		return p.Eval(v)
	}
}

// needed lets what is needed and is empty be an error, where else a comparison with it would not hold.
func needed(v value.Value, err error) (value.Value, error) {
	if why, failed := v.(value.Failure); failed && why.Lacks() {
		return nil, why
	}
	return v, err
}
