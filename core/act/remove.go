package act

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Remove removes a record or all records of a list. Those that others refer to stay, and are named.
type Remove struct {
	// Of is an expression that gives the record or the list; without it, the rows a button is about.
	Of string `json:"of,omitempty"`
}

type removePlan struct {
	basis
	*target
}

func checkRemove(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Remove, at) {
		return nil
	}
	t := c.target(a.Remove.Of, at+"/remove", "Nothing would be removed.")
	if t == nil {
		return nil
	}
	return &removePlan{basis{uses: c.uses, gives: &expr.Type{Kind: value.KindWhole}, writes: t.object.Key}, t}
}

// Do removes the records; how many is known afterwards.
func (p *removePlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	out := Done{Report: Report{Object: p.object.Key}}
	q, any, err := p.query(ctx, u, in)
	var n int64
	if err == nil && any {
		n, err = u.RemoveAll(ctx, in.Through, q)
		if err == nil && p.one() && n == 0 {
			err = goneError{p.object}
		}
	}
	if err != nil {
		return out, refused(in, p.not("removed"), err)
	}
	out.Kept.Removed, out.Value = n, value.Whole(n)
	out.Report.Written, out.Report.Note = n, p.many(n)+" removed"
	return out, nil
}

// Restore knows how many were removed.
func (p *removePlan) Restore(_ context.Context, _ records.Writer, _ In, kept Kept) (value.Value, error) {
	return value.Whole(kept.Removed), nil
}
