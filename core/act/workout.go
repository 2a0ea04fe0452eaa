package act

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// WorkOut makes a value known.
type WorkOut struct {
	Value string `json:"value"`
}

type workOutPlan struct {
	basis
	program *expr.Program
}

func checkWorkOut(c *check, a *Act, at string) Plan {
	if !given(c, a, a.WorkOut, at) {
		return nil
	}
	at += "/work_out/value"
	if a.WorkOut.Value == "" {
		c.Find(definition.Stop, at, "nothing says what is to be worked out", "There would be no value.", nil)
		return nil
	}
	p := c.Expression(c.Scope, a.WorkOut.Value, at, "There would be no value.")
	if p == nil {
		return nil
	}
	return &workOutPlan{basis{uses: p.Uses, gives: &p.Type}, p}
}

// reads says whether the value is records, which are read as they are when they are asked for.
func (p *workOutPlan) reads() bool {
	return p.gives.Kind == value.KindRecord || p.gives.Kind == value.KindList || p.gives.Kind == value.KindRows
}

// Do works the value out.
func (p *workOutPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	v, err := p.value(ctx, u, in)
	if err != nil {
		return Done{}, err
	}
	if why, failed := v.(value.Failure); failed {
		return Done{}, &RefusedError{Step: in.Through, Err: why,
			Text: fmt.Sprintf("“%s” cannot be worked out: it is %s. Nothing was written.", in.Title, why.Why)}
	}
	out := Done{Value: v}
	if in.Figures {
		out.Report = Report{Values: Shown(in.Values, p.uses), Note: "it is " + said(v)}
	}
	if !p.reads() {
		out.Kept.Value, err = json.Marshal(value.Wire(v))
	}
	return out, err
}

// value is what the expression gives; of records the fields are read that are used of them later.
func (p *workOutPlan) value(ctx context.Context, u records.Writer, in In) (value.Value, error) {
	v, err := p.program.Eval(in.Values)
	if err != nil {
		return nil, err
	}
	switch x := v.(type) {
	case *value.Record:
		if x == nil {
			return nil, nil
		}
		return records.One(ctx, u, p.gives.Object, x.ID, in.Columns)
	case *value.List:
		q, err := records.QueryOf(x)
		q.Columns = in.Columns
		return &value.List{Object: p.gives.Object, Source: &records.Listed{Context: ctx, Reader: u, Query: q}}, err
	}
	return v, nil
}

// said is a value in words.
func said(v value.Value) string {
	if v == nil {
		return "empty"
	}
	if rows, ok := v.(value.Rows); ok {
		return fmt.Sprintf("a list of %d", len(rows))
	}
	if l, ok := v.(*value.List); ok {
		n, err := l.Source.Count()
		if err != nil {
			return "a list"
		}
		return fmt.Sprintf("a list of %d", n)
	}
	return value.Display(v)
}

// Restore knows the value as it was worked out, and records as they are now.
func (p *workOutPlan) Restore(ctx context.Context, u records.Writer, in In, kept Kept) (value.Value, error) {
	if p.reads() {
		return p.value(ctx, u, in)
	}
	return value.Parse(p.gives.Kind, kept.Value)
}
