package sqlgen

import (
	"errors"
	"fmt"

	"cel.dev/cel-go/common/operators"

	"plainpath/core/expr"
	"plainpath/core/value"
)

// mostSQL bounds what is written for one expression, in bytes. Package expr refuses those that come
// near where they are written down.
const mostSQL = 1_000_000

// names says how a name of an expression is written, and how a constant is. The kind is that of the
// value, which an empty one cannot tell by itself.
type names interface {
	name(path []string, kind value.Kind) (scalar, error)
	constant(v value.Value, kind value.Kind) scalar
}

// relatedNames are names that also know lists of related records.
type relatedNames interface {
	names
	related(path []string) (related, error)
}

// expression writes an expression with the same meaning as Program.Eval gives it, empties included.
func (w *writer) expression(p *expr.Program, n names) (scalar, error) {
	t, err := p.Term()
	if err != nil {
		return scalar{}, err
	}
	m := w.space.Model
	out, err := terms{names: n, house: house{"'" + m.Location().String() + "'", m.TextBound()}}.write(t)
	if err != nil {
		return scalar{}, fmt.Errorf("%q cannot be carried out in the database: %w", p.Source, err)
	}
	if p.Type.Kind == value.KindDecimal && out.Kind == value.KindWhole {
		out.Kind, out.SQL = value.KindDecimal, out.SQL+"::numeric"
	}
	return out, nil
}

// terms writes the terms of one expression.
type terms struct {
	names names
	house house
	// vars are the records that lists are gone through with, by the name they have there.
	vars map[string]names
}

func (w terms) write(t expr.Term) (scalar, error) {
	switch x := t.(type) {
	case expr.Constant:
		return w.names.constant(x.Value, x.Of), nil
	case expr.Path:
		return w.path(x)
	case expr.Call:
		return w.call(x)
	case expr.Exists:
		l, err := w.list(x.Of)
		if err != nil {
			return scalar{}, err
		}
		return yesNo("EXISTS " + l.query("1"))
	case expr.Every:
		return w.every(x)
	case expr.Total:
		return w.total(x)
	}
	return scalar{}, fmt.Errorf("%T has no SQL", t)
}

func (w terms) path(p expr.Path) (scalar, error) {
	names, path := w.names, p.Names
	if v := w.vars[path[0]]; v != nil {
		names, path = v, path[1:]
	}
	c, err := names.name(path, p.Of)
	if c.Kind == value.KindText {
		c.Stored = max(c.Stored, 1)
	}
	return c, err
}

func (w terms) call(c expr.Call) (scalar, error) {
	args := flattened(c)
	written := make([]scalar, len(args))
	for i, a := range args {
		var err error
		if written[i], err = w.write(a); err != nil {
			return scalar{}, err
		}
		if len(written[i].SQL)+len(written[i].Why) > mostSQL {
			return scalar{}, errors.New("written as SQL it is too long; take it apart")
		}
	}
	return apply(c.Function, written, w.house)
}

// flattened is what a call takes; of texts joined one after another, all of their texts.
func flattened(c expr.Call) []expr.Term {
	if c.Function != operators.Add || c.Of != value.KindText {
		return c.Args
	}
	if first, ok := c.Args[0].(expr.Call); ok && first.Function == operators.Add {
		return append(flattened(first), c.Args[1])
	}
	return c.Args
}
